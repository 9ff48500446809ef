<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Property;

use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Tests\Support\ExactPairs;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class TrianglePairsTest extends TestCase
{
    /** @return iterable<string, array{int, int, bool}> corners in common, largest coordinate, all in one plane */
    public static function kinds(): iterable
    {
        yield 'nothing in common, often touching' => [0, 3, false];
        yield 'nothing in common, far and wide' => [0, 300, false];
        yield 'nothing in common, in one plane' => [0, 5, true];
        yield 'a corner in common, often touching' => [1, 3, false];
        yield 'a corner in common, far and wide' => [1, 300, false];
        yield 'a corner in common, in one plane' => [1, 5, true];
        yield 'an edge in common' => [2, 3, false];
        yield 'an edge in common, in one plane' => [2, 5, true];
        yield 'all three corners in common' => [3, 4, false];
    }

    #[Test]
    #[DataProvider('kinds')]
    public function every_pair_that_shares_more_than_its_corner_or_edge_is_told_and_no_other(int $common, int $size, bool $isFlat): void
    {
        $gen = new Gen(700 + 10 * $common + $size);
        $told = 0;
        for ($try = 0; $try < 1500; $try++) {
            $corner = fn (): array => [$gen->int(-$size, $size), $gen->int(-$size, $size), $gen->int(-$size, $size)];
            if ($isFlat) {
                // A plane that no axis is square to, through whole numbers.
                $corner = function () use ($gen, $size): array {
                    [$s, $t] = [$gen->int(-$size, $size), $gen->int(-$size, $size)];

                    return [2 * $s + $t, $s - 3 * $t, $s + 2 * $t];
                };
            }
            $one = [$corner(), $corner(), $corner()];
            $other = [...array_slice($gen->shuffled($one), 0, $common)];
            while (count($other) < 3) {
                $other[] = $corner();
            }
            $other = $gen->shuffled($other);
            $wanted = ExactPairs::overlap($one, $other);
            $told += $wanted ? 1 : 0;
            // As they are; with a common corner as one vertex; and where whole numbers become rounded ones: halves and thirds apart from the origin keep all signs.
            foreach ([[1.0, 0.0], [0.03125, 4096.0]] as [$factor, $away]) {
                $p = array_map(fn (int $v) => $factor * $v + $away, array_merge(...$one, ...$other));
                self::assertSame($wanted ? [0, 1] : [], self::sorted(Intersections::pairs($p, [0, 1, 2, 3, 4, 5])), "seed $gen->seed, try $try: ".json_encode([$one, $other]));
                $f = [0, 1, 2];
                foreach ($other as $k => $at) {
                    $same = array_search($at, $one, true);
                    $f[] = $same === false ? 3 + $k : $same;
                }
                self::assertSame($wanted ? [0, 1] : [], self::sorted(Intersections::pairs($p, $f)), "seed $gen->seed, try $try, welded: ".json_encode([$one, $other]));
            }
        }
        self::assertGreaterThan($common === 3 ? -1 : 20, $told, 'some must');
        self::assertLessThan(1500, $told, 'and some must not');
    }

    #[Test]
    public function of_soups_exactly_the_pairs_are_told_that_whole_numbers_tell(): void
    {
        foreach ([[40, 4], [60, 12], [120, 40]] as $k => [$many, $size]) {
            $gen = new Gen(810 + $k);
            $corners = array_map(fn () => [$gen->int(-$size, $size), $gen->int(-$size, $size), $gen->int(-$size, $size)], range(1, $many));
            $f = [];
            while (count($f) < 3 * $many) {
                array_push($f, ...array_slice($gen->shuffled(range(0, $many - 1)), 0, 3));
            }
            $wanted = [];
            foreach (array_chunk($f, 3) as $i => $one) {
                foreach (array_slice(array_chunk($f, 3), 0, $i) as $j => $other) {
                    if (ExactPairs::overlap(array_map(fn (int $v) => $corners[$v], $one), array_map(fn (int $v) => $corners[$v], $other))) {
                        $wanted[] = "$j-$i";
                    }
                }
            }
            $found = array_map(fn (array $pair) => min($pair).'-'.max($pair), array_chunk(Intersections::pairs(array_map(floatval(...), array_merge(...$corners)), $f), 2));
            sort($wanted);
            sort($found);
            self::assertSame($wanted, $found);
        }
    }

    #[Test]
    public function a_fan_of_many_faces_about_one_corner_has_no_crossing(): void
    {
        // A shallow cone of 1,000 faces, closed by a flat one below: every face has the tip in common with every other.
        $n = 1000;
        $p = [0.0, 0.0, 1.0, 0.0, 0.0, 0.0];
        $f = [];
        for ($k = 0; $k < $n; $k++) {
            array_push($p, 10.0 * cos(2.0 * M_PI * $k / $n), 10.0 * sin(2.0 * M_PI * $k / $n), 0.0);
            array_push($f, 0, 2 + $k, 2 + ($k + 1) % $n, 1, 2 + ($k + 1) % $n, 2 + $k);
        }
        self::assertSame([], Intersections::pairs($p, $f));
        // One rim corner bent far up and over the tip crosses faces on the other side.
        $p[3 * 2] = -5.0;
        $p[3 * 2 + 2] = 0.6;
        self::assertGreaterThan(2, count(Intersections::pairs($p, $f)));
    }

    /**
     * @param  list<int>  $pairs
     * @return list<int>
     */
    private static function sorted(array $pairs): array
    {
        sort($pairs);

        return $pairs;
    }
}
