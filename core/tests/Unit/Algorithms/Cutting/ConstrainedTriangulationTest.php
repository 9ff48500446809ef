<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Cutting;

use Emberstone\Core\Algorithms\Cutting\ConstrainedTriangulation;
use Emberstone\Core\Algorithms\Predicates\Orient3d;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class ConstrainedTriangulationTest extends TestCase
{
    /**
     * @param  list<list<array{float, float}>>  $loops  against the clock what bounds from outside, with the clock what bounds a hole
     * @return array{list<float>, list<array{int, int}>} places in the plane z = 3, and edges
     */
    private static function edges(array $loops): array
    {
        $p = $edges = [];
        foreach ($loops as $loop) {
            $first = intdiv(count($p), 3);
            foreach ($loop as $k => [$x, $y]) {
                array_push($p, $x, $y, 3.0);
                $edges[] = [$first + $k, $first + ($k + 1) % count($loop)];
            }
        }

        return [$p, $edges];
    }

    /** @return list<array{float, float}> a star with points at random radii: it never crosses itself */
    private static function star(Gen $gen, float $x, float $y, float $least, float $most, int $points, bool $isHole): array
    {
        $loop = [];
        for ($k = 0; $k < $points; $k++) {
            $r = $gen->float($least, $most);
            $loop[] = [$x + $r * cos(2.0 * M_PI * $k / $points), $y + $r * sin(2.0 * M_PI * $k / $points)];
        }

        return $isHole ? array_reverse($loop) : $loop;
    }

    /** @param  list<list<array{float, float}>>  $loops */
    private static function area(array $loops): float
    {
        $area = 0.0;
        foreach ($loops as $loop) {
            foreach ($loop as $k => [$x, $y]) {
                [$u, $v] = $loop[($k + 1) % count($loop)];
                $area += 0.5 * ($x * $v - $u * $y);
            }
        }

        return $area;
    }

    #[Test]
    public function an_area_with_holes_and_islands_is_covered_once_and_by_its_own_edges(): void
    {
        $gen = new Gen(11);
        for ($round = 0; $round < 12; $round++) {
            $loops = [
                self::star($gen, 0.0, 0.0, 40.0, 60.0, $gen->int(12, 90), false),
                self::star($gen, -15.0, 0.0, 4.0, 12.0, $gen->int(3, 40), true),
                self::star($gen, 18.0, 5.0, 10.0, 16.0, $gen->int(8, 40), true),
                self::star($gen, 18.0, 5.0, 2.0, 8.0, $gen->int(3, 20), false),
            ];
            [$p, $edges] = self::edges($loops);
            ['faces' => $faces, 'trouble' => $trouble] = ConstrainedTriangulation::within($p, $edges, [0.0, 0.0, 1.0]);
            self::assertNull($trouble);
            $sum = 0.0;
            $ways = [];
            foreach (array_chunk($faces, 3) as [$a, $b, $c]) {
                self::assertSame(1, Orient3d::turn($p, 3 * $a, 3 * $b, 3 * $c, 0, 1));
                $sum += 0.5 * (($p[3 * $b] - $p[3 * $a]) * ($p[3 * $c + 1] - $p[3 * $a + 1]) - ($p[3 * $b + 1] - $p[3 * $a + 1]) * ($p[3 * $c] - $p[3 * $a]));
                foreach ([[$a, $b], [$b, $c], [$c, $a]] as [$u, $v]) {
                    self::assertArrayNotHasKey("$u $v", $ways);
                    $ways["$u $v"] = true;
                }
            }
            self::assertEqualsWithDelta(self::area($loops), $sum, 1e-9 * $sum);
            // What has no triangle on its other side is an edge of the area, and all of these are there.
            $open = array_filter(array_keys($ways), fn (string $way) => ! isset($ways[implode(' ', array_reverse(explode(' ', $way)))]));
            self::assertEqualsCanonicalizing(array_map(fn (array $edge) => "$edge[0] $edge[1]", $edges), array_values($open));
        }
    }

    #[Test]
    public function many_corners_on_a_few_straight_sides_make_no_triangle_without_area(): void
    {
        $side = fn (float $x, float $y, float $u, float $v): array => array_map(fn (int $k) => [$x + ($u - $x) * $k / 16, $y + ($v - $y) * $k / 16], range(0, 15));
        $square = [...$side(0.0, 0.0, 16.0, 0.0), ...$side(16.0, 0.0, 16.0, 16.0), ...$side(16.0, 16.0, 0.0, 16.0), ...$side(0.0, 16.0, 0.0, 0.0)];
        [$p, $edges] = self::edges([$square]);
        ['faces' => $faces, 'trouble' => $trouble] = ConstrainedTriangulation::within($p, $edges, [0.0, 0.0, 2.0]);
        self::assertNull($trouble);
        // A polygon of n corners has n - 2 triangles.
        self::assertCount(3 * (count($edges) - 2), $faces);
        foreach (array_chunk($faces, 3) as [$a, $b, $c]) {
            self::assertSame(1, Orient3d::turn($p, 3 * $a, 3 * $b, 3 * $c, 0, 1));
        }
    }

    #[Test]
    public function seen_from_the_other_side_the_triangles_look_the_other_way(): void
    {
        [$p, $edges] = self::edges([[[0.0, 0.0], [0.0, 5.0], [7.0, 5.0], [7.0, 0.0]]]);
        ['faces' => $faces, 'trouble' => $trouble] = ConstrainedTriangulation::within($p, $edges, [0.0, 0.0, -1.0]);
        self::assertNull($trouble);
        self::assertCount(6, $faces);
        self::assertSame(-1, Orient3d::turn($p, 3 * $faces[0], 3 * $faces[1], 3 * $faces[2], 0, 1));
    }

    /** @param  list<array{float, float}>  $loop */
    #[Test]
    #[TestWith([[[0.0, 0.0], [10.0, 10.0], [10.0, 0.0], [0.0, 10.0]]], 'crossing itself')]
    #[TestWith([[[0.0, 0.0], [10.0, 0.0], [10.0, 10.0], [5.0, 0.0], [0.0, 10.0]]], 'meeting the middle of an edge')]
    #[TestWith([[[0.0, 0.0], [10.0, 0.0], [5.0, 5.0], [10.0, 0.0]]], 'twice in one place')]
    #[TestWith([[[0.0, 0.0], [4.0, 0.0], [9.0, 0.0]]], 'all on one line')]
    #[TestWith([[[0.0, 10.0], [10.0, 10.0], [10.0, 0.0], [0.0, 0.0]]], 'the area on the outside')]
    public function edges_that_bound_no_area_are_told_with_a_place(array $loop): void
    {
        [$p, $edges] = self::edges([$loop]);
        ['faces' => $faces, 'trouble' => $trouble] = ConstrainedTriangulation::within($p, $edges, [0.0, 0.0, 1.0]);
        self::assertSame([], $faces);
        self::assertNotNull($trouble);
        self::assertSame(3.0, $trouble[2]);
    }
}
