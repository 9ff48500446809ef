<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Algorithms\Remeshing\Untangle;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\FillHoles;
use Emberstone\Core\Mend\FillHolesParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class CrossingsTest extends TestCase
{
    /** @return iterable<string, array{list<float>, int}> a second triangle to (0,0,0) (4,0,0) (0,4,0), and how often they cross */
    public static function triangles(): iterable
    {
        yield 'through the middle' => [[1.0, 1.0, -1.0, 1.0, 1.0, 1.0, 5.0, 5.0, 1.0], 1];
        yield 'beside it' => [[3.0, 3.0, -1.0, 3.0, 3.0, 1.0, 5.0, 5.0, 0.0], 0];
        yield 'above it' => [[1.0, 1.0, 0.1, 2.0, 1.0, 0.1, 1.0, 2.0, 0.3], 0];
        yield 'in the same plane, overlapping' => [[1.0, 1.0, 0.0, 2.0, 1.0, 0.0, 1.0, 2.0, 0.0], 1];
        yield 'in the same plane, apart' => [[3.0, 3.0, 0.0, 5.0, 3.0, 0.0, 3.0, 5.0, 0.0], 0];
        yield 'touched by a corner' => [[1.0, 1.0, 0.0, 2.0, 1.0, 3.0, 1.0, 2.0, 3.0], 1];
        yield 'a corner in common, going through' => [[0.0, 0.0, 0.0, 2.0, 2.0, 1.0, 2.0, 2.0, -1.0], 1];
        yield 'folded over its neighbour' => [[0.0, 0.0, 0.0, 4.0, 0.0, 0.0, 1.0, 1.0, 0.0], 1];
        yield 'unfolded beside its neighbour' => [[0.0, 0.0, 0.0, 4.0, 0.0, 0.0, 1.0, -1.0, 0.0], 0];
        yield 'an edge in its plane, disjoint' => [[5.0, 0.0, 0.0, 8.0, 0.0, 0.0, 6.0, 0.0, 3.0], 0];
        yield 'pierced by its edge only' => [[-1.0, -1.0, 1.0, 9.0, -1.0, 1.0, 1.0, 1.0, -1.0], 1];
    }

    /** @param  list<float>  $second */
    #[Test]
    #[DataProvider('triangles')]
    public function two_triangles_cross_or_not(array $second, int $times): void
    {
        $p = [0.0, 0.0, 0.0, 4.0, 0.0, 0.0, 0.0, 4.0, 0.0, ...$second];
        self::assertSame(2 * $times, count(Intersections::pairs($p, [0, 1, 2, 3, 4, 5])));
        self::assertSame(2 * $times, count(Intersections::pairs($p, [3, 4, 5, 0, 1, 2])), 'whichever comes first');
    }

    #[Test]
    public function the_last_digit_of_a_corner_decides_whether_it_reaches_through(): void
    {
        $gen = new Gen(12);
        $half = (float) (1 << 29);
        $side = 6.0 * $half;
        $wrong = 0;
        for ($round = 0; $round < 200; $round++) {
            // The plane z = (x + y) / 3 - half in whole numbers; a corner the least step of a double above or below it, where z is small.
            $k = $gen->int(1 << 10, (1 << 11) - 1);
            $y = (float) $gen->int(1000, 3 << 29);
            $x = 3.0 * ($k + $half) - $y;
            foreach ([1, -1] as $up) {
                $times = $up > 0 ? 0 : 1;
                $p = [0.0, 0.0, -$half, $side, 0.0, $half, 0.0, $side, $half, $x, $y, $k + $up * 2 ** -42, $x + 500.0, $y, $k + 90_000.0, $x, $y + 700.0, $k + 80_000.0];
                self::assertCount(2 * $times, Intersections::pairs($p, [0, 1, 2, 3, 4, 5]));
                self::assertCount(2 * $times, Intersections::pairs($p, [5, 3, 4, 1, 2, 0]));
                $wrong += (self::inDoubles($p) <=> 0.0) === $up ? 0 : 1;
            }
        }
        self::assertGreaterThan(20, $wrong, 'doubles alone would not tell');
    }

    /**
     * Six times the volume under the fourth of these points over the first three, without regard to rounding.
     *
     * @param  list<float>  $p
     */
    private static function inDoubles(array $p): float
    {
        [$ux, $uy, $uz] = [$p[3] - $p[9], $p[4] - $p[10], $p[5] - $p[11]];
        [$vx, $vy, $vz] = [$p[6] - $p[9], $p[7] - $p[10], $p[8] - $p[11]];
        [$wx, $wy, $wz] = [$p[0] - $p[9], $p[1] - $p[10], $p[2] - $p[11]];

        return -($ux * ($vy * $wz - $vz * $wy) + $uy * ($vz * $wx - $vx * $wz) + $uz * ($vx * $wy - $vy * $wx));
    }

    #[Test]
    public function turning_and_moving_both_changes_nothing(): void
    {
        $gen = new Gen(11);
        $ball = MeshBuilder::icosphere(2);
        $other = $ball->transformed(RigidTransform::shift(1.2, 0.3, 0.1));
        $n = $ball->vertexCount();
        $both = TriangleMesh::fromFlat([...$ball->positions, ...$other->positions], [...$ball->faces, ...array_map(fn (int $v) => $v + $n, $other->faces)]);
        $count = count(Intersections::pairs($both->positions, $both->faces));
        self::assertGreaterThan(40, $count);
        for ($k = 0; $k < 5; $k++) {
            $moved = $both->transformed(RigidTransform::turn([$gen->float(-1, 1), $gen->float(-1, 1), 1.0], $gen->float(0, 3))->then(RigidTransform::shift($gen->float(-50, 50), 0.0, 3.0)));
            self::assertSame($count, count(Intersections::pairs($moved->positions, $moved->faces)));
        }
    }

    #[Test]
    public function a_fold_is_taken_apart_and_nothing_far_from_it_moves(): void
    {
        $ball = MeshBuilder::icosphere(4);
        $p = $ball->positions;
        // A small cap slides sideways into the surface beside it.
        for ($v = 0; $v < $ball->vertexCount(); $v++) {
            if ($p[3 * $v + 2] > 0.985) {
                $p[3 * $v] += 0.3;
                $p[3 * $v + 2] -= 0.06;
            }
        }
        $folded = $p;
        self::assertNotSame([], Intersections::pairs($p, $ball->faces));
        $result = Untangle::run($p, $ball->faces);
        self::assertGreaterThan(0, $result['found']);
        self::assertSame(0, $result['left']);
        self::assertSame([], Intersections::pairs($p, $ball->faces));
        $moved = 0;
        foreach ($p as $i => $x) {
            $moved += $x === $folded[$i] ? 0 : 1;
        }
        self::assertLessThan(0.05 * count($p), $moved);
    }

    #[Test]
    public function vertices_that_may_not_move_stay(): void
    {
        $ball = MeshBuilder::icosphere(3);
        $p = $ball->positions;
        $p[3 * 100] += 0.7;
        $before = $p;
        Untangle::run($p, $ball->faces, $ball->vertexCount());
        self::assertSame($before, $p);
    }

    #[Test]
    public function work_spread_over_the_cores_counts_the_same(): void
    {
        $ball = MeshBuilder::icosphere(6);
        $both = MeshBuilder::together($ball, $ball->transformed(RigidTransform::shift(1.2, 0.3, 0.1)));
        self::assertGreaterThan(Inspection::WORTH_SPREADING, $both->faceCount());
        $inspection = Inspection::of($both);
        $pairs = intdiv(count(Intersections::pairs($both->positions, $both->faces)), 2);
        self::assertGreaterThan(500, $pairs);
        self::assertSame(['selfIntersections' => $pairs], array_filter($inspection->faults));
        self::assertSame([true, 2, 0], [$inspection->closed, $inspection->pieces, $inspection->genus]);
        self::assertEqualsWithDelta(8.0 * M_PI, $inspection->area, 0.01);
    }

    #[Test]
    public function only_pairs_with_a_face_that_was_asked_for_are_found(): void
    {
        $ball = MeshBuilder::icosphere(2);
        $both = MeshBuilder::together($ball, $ball->transformed(RigidTransform::shift(1.2, 0.3, 0.1)));
        $all = self::asPairs(Intersections::pairs($both->positions, $both->faces));
        $gen = new Gen(3);
        $asked = array_values(array_filter(range(0, $both->faceCount() - 1), fn () => $gen->int(0, 9) === 0));
        $wanted = array_values(array_filter($all, fn (array $pair) => array_intersect($pair, $asked) !== []));
        self::assertNotSame([], $wanted);
        self::assertSame($wanted, self::asPairs(Intersections::pairs($both->positions, $both->faces, $asked)));
        self::assertSame([], Intersections::pairs($both->positions, $both->faces, []));
    }

    /**
     * @param  list<int>  $flat
     * @return list<array{int, int}> sorted
     */
    private static function asPairs(array $flat): array
    {
        $pairs = array_map(function (array $pair): array {
            sort($pair);

            return $pair;
        }, array_chunk($flat, 2));
        sort($pairs);

        return $pairs;
    }

    #[Test]
    public function a_patch_that_meets_a_crumb_is_cut_free_and_the_crumb_goes(): void
    {
        // The patch over the missing cap of the ball must pass where a small loose ball sits.
        $open = MeshBuilder::without(MeshBuilder::icosphere(4, 10.0), 9.0);
        $mesh = MeshBuilder::together($open, MeshBuilder::icosphere(2, 0.8)->transformed(RigidTransform::shift(0.0, 0.0, 10.0)));
        // Another loose ball far from it, as small, is not touched.
        $mesh = MeshBuilder::together($mesh, MeshBuilder::icosphere(2, 0.8)->transformed(RigidTransform::shift(0.0, 0.0, 30.0)));
        $result = (new FillHoles)(new Workpiece([], [Body::of('ball', $mesh)]), new FillHolesParameters, new NoProgress);
        $closed = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $closed);
        $inspection = Inspection::of($closed);
        self::assertTrue($inspection->closed);
        self::assertSame([2, 0], [$inspection->pieces, $inspection->faults['selfIntersections']]);
        self::assertEqualsWithDelta(30.8, max($closed->positions), 1e-9);
        self::assertEqualsWithDelta(4.0 / 3.0 * M_PI * 1000.0, $inspection->volume, 60.0);
        self::assertStringContainsString('measured faces at the rims were replaced', $result->notes[0]);
    }

    #[Test]
    public function crossings_that_were_there_before_stay_when_a_hole_far_from_them_is_filled(): void
    {
        $mesh = MeshBuilder::together(MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 9.0), MeshBuilder::icosphere(3, 10.0)->transformed(RigidTransform::shift(0.0, 0.0, -15.0)));
        $before = count(Intersections::pairs($mesh->positions, $mesh->faces));
        self::assertGreaterThan(0, $before);
        $result = (new FillHoles)(new Workpiece([], [Body::of('balls', $mesh)]), new FillHolesParameters, new NoProgress);
        $after = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $after);
        self::assertCount($before, Intersections::pairs($after->positions, $after->faces));
        self::assertSame([], $result->notes);
        self::assertSame($mesh->faces, array_slice($after->faces, 0, count($mesh->faces)));
    }
}
