<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Linear;

use Brick\Math\BigRational;
use Emberstone\Core\Algorithms\Predicates\Expansion;
use Emberstone\Core\Algorithms\Predicates\ImplicitPoints;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Crossings of edges and planes of whole numbers, against arithmetic with fractions. */
final class ImplicitPointsTest extends TestCase
{
    /**
     * @param  list<float>  $p
     * @return list<BigRational>
     */
    private static function exact(array $p, int $v): array
    {
        return array_map(fn (int $k) => BigRational::of((int) $p[3 * $v + $k]), [0, 1, 2]);
    }

    /**
     * @param  list<BigRational>  $a
     * @param  list<BigRational>  $b
     * @param  list<BigRational>  $c
     * @param  list<BigRational>  $d
     */
    private static function side(array $a, array $b, array $c, array $d): BigRational
    {
        [$u, $v, $w] = array_map(fn (array $q) => array_map(fn (int $k) => $q[$k]->minus($a[$k]), [0, 1, 2]), [$b, $c, $d]);
        $sum = BigRational::zero();
        foreach ([[0, 1, 2], [1, 2, 0], [2, 0, 1]] as [$i, $j, $k]) {
            $sum = $sum->plus($u[$i]->multipliedBy($v[$j]->multipliedBy($w[$k])->minus($v[$k]->multipliedBy($w[$j]))));
        }

        return $sum;
    }

    #[Test]
    public function turns_and_orders_of_crossings_are_those_of_fractions_also_where_they_lie_on_one_line(): void
    {
        $gen = new Gen(11);
        $zeros = 0;
        for ($round = 0; $round < 60; $round++) {
            // All edges cross one plane, so that crossings lie in it: of three parallel edges whose ends are on a line, on a line.
            $p = [0.0, 0.0, 0.0, 5.0, 1.0, 0.0, 1.0, 6.0, 2.0];
            [$x, $y, $dx, $dy] = [$gen->int(-3, 3), $gen->int(-3, 3), $gen->int(-2, 2), $gen->int(-2, 2)];
            for ($k = 0; $k < 3; $k++) {
                array_push($p, ...($round % 2 === 0 ? [$x + 1.0 * $k * $dx, $y + 1.0 * $k * $dy, 9.0, $x + $k * $dx + 4.0, $y + $k * $dy - 3.0, -9.0] : [(float) $gen->int(-3, 3), (float) $gen->int(-3, 3), 9.0, (float) $gen->int(-3, 3), (float) $gen->int(-3, 3), -9.0]));
            }
            $points = new ImplicitPoints($p);
            $made = $exact = [];
            for ($k = 0; $k < 3; $k++) {
                [$a, $b] = [3 + 2 * $k, 4 + 2 * $k];
                $made[] = $points->onPlane($a, $b, 0, 1, 2);
                [$x, $y] = [self::exact($p, $a), self::exact($p, $b)];
                [$s, $t] = array_map(fn (array $q) => self::side(self::exact($p, 0), self::exact($p, 1), self::exact($p, 2), $q), [$x, $y]);
                $exact[] = array_map(fn (int $i) => $s->multipliedBy($y[$i])->minus($t->multipliedBy($x[$i]))->dividedBy($s->minus($t)), [0, 1, 2]);
            }
            foreach ([[0, 1], [1, 2], [2, 0]] as [$i, $j]) {
                [$a, $b, $c] = $exact;
                $turn = $a[$i]->minus($c[$i])->multipliedBy($b[$j]->minus($c[$j]))->minus($a[$j]->minus($c[$j])->multipliedBy($b[$i]->minus($c[$i])))->getSign();
                self::assertSame($turn, $points->turn($made[0], $made[1], $made[2], $i, $j), "round $round");
                self::assertSame($a[$i]->compareTo($b[$i]), $points->compare($made[0], $made[1], $i), "round $round");
                $zeros += $turn === 0 ? 1 : 0;
            }
            foreach ($made as $k => $v) {
                foreach ($points->place($v) as $i => $x) {
                    self::assertEqualsWithDelta($exact[$k][$i]->toFloat(), $x, $points->error($v), 'rounded within its error');
                }
                self::assertLessThan(1e-12, $points->error($v));
            }
        }
        self::assertGreaterThan(5, $zeros, 'some lie on one line');
    }

    #[Test]
    public function a_crossing_of_two_edges_lies_on_both(): void
    {
        $p = [0.0, 0.0, 0.1, 7.0, 3.0, 0.1, 1.0, 5.0, 0.1, 6.0, -2.0, 0.1];
        $points = new ImplicitPoints($p);
        $v = $points->onLine(0, 1, 2, 3, 0, 1);
        self::assertSame(0, $points->turn(0, 1, $v, 0, 1));
        self::assertSame(0, $points->turn(2, 3, $v, 0, 1));
        self::assertSame([0, 1], $points->edge($v));
    }

    #[Test]
    public function compressed_sums_and_products_keep_every_digit(): void
    {
        $gen = new Gen(5);
        $sum = $other = [];
        for ($k = 0; $k < 40; $k++) {
            $sum = Expansion::plus($sum, Expansion::difference($gen->float(-1.0, 1.0) * 2.0 ** $gen->int(-60, 60), $gen->float(-1.0, 1.0)));
            $other = Expansion::plus($other, [$gen->float(-1.0, 1.0) * 2.0 ** $gen->int(-30, 30)]);
        }
        $short = Expansion::compressed($sum);
        self::assertLessThan(count($sum), count($short));
        self::assertSame([], Expansion::plus($sum, Expansion::minus($short)));
        // (a + b)(a - b) - a a + b b
        $product = Expansion::times(Expansion::plus($sum, $other), Expansion::plus($sum, Expansion::minus($other)));
        $squares = Expansion::plus(Expansion::times($sum, $sum), Expansion::minus(Expansion::times($other, $other)));
        self::assertSame(0, Expansion::sign(Expansion::plus($product, Expansion::minus($squares))));
    }
}
