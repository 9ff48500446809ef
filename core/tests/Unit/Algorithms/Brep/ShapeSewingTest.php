<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Brep;

use Emberstone\Core\Algorithms\Brep\BoundaryRepresentation;
use Emberstone\Core\Algorithms\Brep\EdgeCurve;
use Emberstone\Core\Algorithms\Brep\ShapeSewing;
use Emberstone\Core\Algorithms\Shapes\TurnedShape;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class ShapeSewingTest extends TestCase
{
    #[Test]
    public function a_box_of_many_triangles_is_six_faces_with_twelve_straight_edges_and_eight_corners(): void
    {
        $box = MeshBuilder::brick([40.0, 30.0, 10.0], 4);
        $part = ShapeSewing::flats($box->positions, $box->faces);
        self::assertSame([6, 12, 1], [count($part->faces), count($part->edges), count($part->shells)]);
        self::assertSame(['line'], array_values(array_unique(array_map(fn (array $edge) => $edge['curve']->kind, $part->edges))));
        self::assertClosed($part);
        self::assertCount(8, self::cornersInUse($part));
    }

    #[Test]
    #[DataProvider('places')]
    public function a_post_is_two_flats_and_a_cylinder_between_two_whole_circles(RigidTransform $at): void
    {
        $post = SimpleSolid::cone([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], 14.0, 14.0, 30.0)->transformed($at);
        $shapes = [
            TurnedShape::plane($at->point([0.0, 0.0, 0.0]), $at->direction([0.0, 0.0, -1.0])), TurnedShape::plane($at->point([0.0, 0.0, 30.0]), $at->direction([0.0, 0.0, 1.0])),
            new TurnedShape('cylinder', $at->point([0.0, 0.0, 3.0]), $at->direction([0.0, 0.0, 1.0]), 7.0),
        ];
        $labels = self::nearest($post, $shapes);
        $part = ShapeSewing::of($post->positions, $post->faces, $labels, $shapes, 100, 1e-3);
        self::assertCount(3, $part->faces);
        self::assertClosed($part);
        self::assertCount(2, $part->edges);
        foreach ($part->edges as $edge) {
            self::assertSame('circle', $edge['curve']->kind);
            self::assertEqualsWithDelta(7.0, $edge['curve']->radius, 1e-6);
            self::assertSame($edge['from'], $edge['to']);
        }
        self::assertLessThan(1e-8, $part->farthest);
    }

    /** @return iterable<string, array{RigidTransform}> */
    public static function places(): iterable
    {
        yield 'where it was made' => [RigidTransform::identity()];
        $gen = new Gen(5);
        yield 'turned, a kilometre away' => [RigidTransform::turn(Vector3::unit([$gen->float(-1, 1), $gen->float(-1, 1), 0.4]), 2.1)->then(RigidTransform::shift(1e6, -2e5, 3e4))];
    }

    #[Test]
    public function borders_of_teeth_come_to_lie_on_the_line_in_which_flats_meet(): void
    {
        // A roof of two slopes, whose triangles change sides in teeth along the ridge.
        $positions = $faces = $labels = [];
        $gen = new Gen(3);
        for ($x = 0; $x <= 40; $x++) {
            for ($y = -10; $y <= 10; $y++) {
                array_push($positions, 1.0 * $x, $y + ($y === 0 ? $gen->float(-0.4, 0.4) : 0.0), 8.0 - abs($y) + $gen->float(-0.03, 0.03));
            }
        }
        for ($x = 0; $x < 40; $x++) {
            for ($y = 0; $y < 20; $y++) {
                $a = 21 * $x + $y;
                array_push($faces, $a, $a + 21, $a + 22, $a, $a + 22, $a + 1);
                $label = $y < 9 || $y === 9 && ($x === 0 || $x === 39 || $gen->float(0, 1) < 0.7) ? 0 : 1;
                array_push($labels, $label, $label);
            }
        }
        $h = sqrt(0.5);
        $part = ShapeSewing::of($positions, $faces, $labels, [TurnedShape::plane([0.0, 0.0, 8.0], [0.0, -$h, $h]), TurnedShape::plane([0.0, 0.0, 8.0], [0.0, $h, $h])], 0, 1e-3);
        $ridge = array_values(array_filter($part->edges, fn (array $edge) => abs($edge['curve']->points[0][1]) < 1.0 && abs($edge['curve']->points[0][0] - $edge['curve']->points[count($edge['curve']->points) - 1][0]) > 1.0 && abs($edge['curve']->points[count($edge['curve']->points) - 1][1]) < 1.0));
        self::assertNotEmpty($ridge);
        $long = 0.0;
        foreach ($ridge as $edge) {
            self::assertSame('line', $edge['curve']->kind);
            [$a, $b] = $edge['curve']->points;
            self::assertEqualsWithDelta([0.0, 8.0, 0.0, 8.0], [$a[1], $a[2], $b[1], $b[2]], 1e-9);
            $long += Vector3::length(Vector3::minus($b, $a));
        }
        self::assertEqualsWithDelta(40.0, $long, 1e-6);
        // Around the rim two sides of a slope's end and its foot, square to each other.
        self::assertCount(6 + 1, $part->edges);
        self::assertFalse($part->shells[0]['isClosed']);
    }

    #[Test]
    public function free_form_between_shapes_stays_triangles_that_close_the_part_or_is_left_out_when_there_is_too_much(): void
    {
        $post = SimpleSolid::cone([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], 14.0, 14.0, 30.0);
        $shapes = [TurnedShape::plane([0.0, 0.0, 0.0], [0.0, 0.0, -1.0]), TurnedShape::plane([0.0, 0.0, 30.0], [0.0, 0.0, 1.0]), null];
        $labels = array_map(fn (int $label) => $label, self::nearest($post, [$shapes[0], $shapes[1], new TurnedShape('cylinder', [0.0, 0.0, 0.0], [0.0, 0.0, 1.0], 7.0)]));
        $part = ShapeSewing::of($post->positions, $post->faces, $labels, $shapes, 10_000, 1e-3);
        self::assertClosed($part);
        self::assertGreaterThan(20, count($part->faces));
        $open = ShapeSewing::of($post->positions, $post->faces, $labels, $shapes, 10, 1e-3);
        self::assertCount(2, $open->faces);
        self::assertSame([false, false], array_column($open->shells, 'isClosed'));
    }

    #[Test]
    public function a_curve_is_the_plainest_that_keeps_to_its_points(): void
    {
        $arc = array_map(fn (int $k) => [5.0 * cos(0.1 * $k), 5.0 * sin(0.1 * $k), 2.0], range(0, 12));
        $curve = EdgeCurve::through($arc, false, 1e-6);
        self::assertSame('circle', $curve->kind);
        self::assertEqualsWithDelta([5.0, 0.0, 0.0, 2.0, 1.0], [$curve->radius, ...$curve->centre, $curve->axis[2]], 1e-9);
        self::assertSame('line', EdgeCurve::through([[0.0, 0.0, 0.0], [1.0, 1e-7, 0.0], [3.0, 0.0, 0.0]], false, 1e-6)->kind);
        $wave = array_map(fn (int $k) => [0.5 * $k, sin(0.5 * $k), 0.0], range(0, 20));
        $curve = EdgeCurve::through($wave, false, 1e-3);
        self::assertSame('spline', $curve->kind);
        // On its way it stays with the wave: of fourth order in the distance of its points, 0.5.
        $spline = $curve->bSpline();
        self::assertSame(count($spline['control']) + 4, array_sum($spline['multiplicities']));
        for ($k = 0; $k < 20; $k++) {
            [$b, $c] = [$spline['control'][2 * $k + 1], $spline['control'][2 * $k + 2]];
            [$x, $y] = [0.125 * ($wave[$k][0] + 3.0 * $b[0] + 3.0 * $c[0] + $wave[$k + 1][0]), 0.125 * ($wave[$k][1] + 3.0 * $b[1] + 3.0 * $c[1] + $wave[$k + 1][1])];
            self::assertEqualsWithDelta(sin($x), $y, 0.03);
        }
    }

    /**
     * @param  list<TurnedShape>  $shapes
     * @return list<int> the shape that each face's corners lie on
     */
    private static function nearest(TriangleMesh $mesh, array $shapes): array
    {
        $labels = [];
        foreach (array_chunk($mesh->faces, 3) as $face) {
            $corners = array_merge(...array_map(fn (int $v) => array_slice($mesh->positions, 3 * $v, 3), $face));
            $off = array_map(fn (TurnedShape $shape) => max(array_map(abs(...), $shape->distances($corners))), $shapes);
            $labels[] = (int) array_search(min($off), $off, true);
        }

        return $labels;
    }

    /** Every edge is run once each way, and every loop goes on where it came to. */
    private static function assertClosed(BoundaryRepresentation $part): void
    {
        $uses = [];
        foreach ($part->faces as $face) {
            foreach ($face['loops'] as $loop) {
                $at = null;
                $first = null;
                foreach ($loop as $edge) {
                    ['from' => $from, 'to' => $to] = $part->edges[abs($edge) - 1];
                    [$from, $to] = $edge > 0 ? [$from, $to] : [$to, $from];
                    $first ??= $from;
                    self::assertSame($at ?? $from, $from);
                    $at = $to;
                    $uses[$edge] = ($uses[$edge] ?? 0) + 1;
                }
                self::assertSame($first, $at);
            }
        }
        foreach (array_keys($part->edges) as $k) {
            self::assertSame([1, 1], [$uses[$k + 1] ?? 0, $uses[-$k - 1] ?? 0]);
        }
        self::assertTrue($part->shells[0]['isClosed']);
    }

    /** @return array<int, true> */
    private static function cornersInUse(BoundaryRepresentation $part): array
    {
        $used = [];
        foreach ($part->edges as $edge) {
            $used[$edge['from']] = $used[$edge['to']] = true;
        }

        return $used;
    }
}
