<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Algorithms\Remeshing\RimTriangulation;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class RimTriangulationTest extends TestCase
{
    /**
     * Every way to span the corners $i to $j of a ring.
     *
     * @return list<list<array{int, int, int}>>
     */
    private static function ways(int $i, int $j): array
    {
        if ($j - $i < 2) {
            return [[]];
        }
        $ways = [];
        for ($k = $i + 1; $k < $j; $k++) {
            foreach (self::ways($i, $k) as $left) {
                foreach (self::ways($k, $j) as $right) {
                    $ways[] = [...$left, ...$right, [$j, $k, $i]];
                }
            }
        }

        return $ways;
    }

    /**
     * @param  list<float>  $p
     * @param  list<array{int, int, int}>  $faces
     * @param  array<int, array{float, float, float}>  $beside
     * @return float cosine of the sharpest bend
     */
    private static function bend(array $p, array $faces, array $beside): float
    {
        $at = fn (int $v): array => array_slice($p, 3 * $v, 3);
        $normals = $beside;
        foreach ($faces as [$a, $b, $c]) {
            $normal = Vector3::unit(Vector3::cross(Vector3::minus($at($b), $at($a)), Vector3::minus($at($c), $at($a))));
            foreach ([[$a, $b], [$b, $c], [$c, $a]] as [$v, $w]) {
                $normals[$v << 32 | $w] = $normal;
            }
        }
        $least = 1.0;
        foreach ($normals as $edge => $normal) {
            $other = $normals[($edge & 0xFFFFFFFF) << 32 | $edge >> 32] ?? null;
            $least = $other === null ? $least : min($least, Vector3::dot($normal, $other));
        }

        return $least;
    }

    #[Test]
    public function the_sharpest_bend_is_the_least_possible_one_in_most_rims_and_never_far_from_it(): void
    {
        $gen = new Gen(3);
        $best = 0;
        for ($round = 0; $round < 200; $round++) {
            $n = $gen->int(4, 7);
            $p = $beside = [];
            for ($i = 0; $i < $n; $i++) {
                array_push($p, cos(2.0 * M_PI * $i / $n), sin(2.0 * M_PI * $i / $n), $gen->float(-0.6, 0.6));
                // Faces along the rim look up or out.
                $beside[$i << 32 | ($i + 1) % $n] = Vector3::unit([0.7 * cos(2.0 * M_PI * ($i + 0.5) / $n), 0.7 * sin(2.0 * M_PI * ($i + 0.5) / $n), -$gen->float(0.3, 1.0)]);
            }
            $faces = RimTriangulation::span(range(0, $n - 1), $p, [], $beside) ?? [];
            self::assertCount(3 * ($n - 2), $faces);
            $got = self::bend($p, array_map(fn (array $face) => [$face[0], $face[1], $face[2]], array_chunk($faces, 3)), $beside);
            $possible = max(array_map(fn (array $way) => self::bend($p, $way, $beside), self::ways(0, $n - 1)));
            self::assertGreaterThan($possible - 0.5, $got);
            $best += $got > $possible - 0.005 ? 1 : 0;
        }
        // The search keeps one way for each stretch of the rim, so now and then a way that suits what comes later is lost (Liepa 2003).
        self::assertGreaterThan(170, $best);
    }

    #[Test]
    public function where_bends_are_alike_the_least_area_decides(): void
    {
        // A flat pentagon with a dent: all ways are flat, and those through the dent's outside cover more.
        $p = [0.0, 0.0, 0.0, 4.0, 0.0, 0.0, 4.0, 4.0, 0.0, 2.0, 1.0, 0.0, 0.0, 4.0, 0.0];
        $faces = array_chunk(RimTriangulation::span([0, 1, 2, 3, 4], $p, []) ?? [], 3);
        $area = array_sum(array_map(fn (array $f) => 0.5 * Vector3::length(Vector3::cross(
            Vector3::minus(array_slice($p, 3 * $f[1], 3), array_slice($p, 3 * $f[0], 3)), Vector3::minus(array_slice($p, 3 * $f[2], 3), array_slice($p, 3 * $f[0], 3)),
        )), $faces));
        self::assertEqualsWithDelta(10.0, $area, 1e-12);
    }

    #[Test]
    public function an_edge_that_is_there_already_is_not_used_again(): void
    {
        $square = [0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 1.0, 1.0, 0.0, 0.0, 1.0, 0.0];
        foreach ([[0, 2], [1, 3]] as [$v, $w]) {
            $faces = array_chunk(RimTriangulation::span([0, 1, 2, 3], $square, [$v << 32 | $w => true]) ?? [], 3);
            self::assertCount(2, $faces);
            self::assertSame([], array_filter($faces, fn (array $face) => in_array($v, $face, true) && in_array($w, $face, true)));
        }
        self::assertNull(RimTriangulation::span([0, 1, 2, 3], $square, [0 << 32 | 2 => true, 1 << 32 | 3 => true]));
    }
}
