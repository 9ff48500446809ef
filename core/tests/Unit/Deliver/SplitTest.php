<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Deliver\Split;
use Emberstone\Core\Deliver\SplitParameters;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use Emberstone\Core\Tests\Support\SlowCheck;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class SplitTest extends TestCase
{
    use Refuses;

    private static function split(TriangleMesh $mesh, SplitParameters $parameters): Result
    {
        return (new Split)((new Workpiece)->withBodies([Body::of('Cap', $mesh)]), $parameters, new NoProgress);
    }

    /** @return list<TriangleMesh> */
    private static function meshes(Result $result): array
    {
        return array_map(function (Body $body): TriangleMesh {
            $mesh = $body->placed();
            assert($mesh instanceof TriangleMesh);

            return $mesh;
        }, $result->workpiece->bodies);
    }

    private static function volume(TriangleMesh $mesh): float
    {
        return Measure::volume($mesh->positions, $mesh->faces);
    }

    #[Test]
    public function a_brick_is_cut_to_two_closed_ones_of_the_right_volume_with_the_cut_marked_as_made(): void
    {
        $result = self::split(MeshBuilder::brick([20.0, 12.0, 8.0], 3), new SplitParameters(plane: ['point' => [7.0, 0.0, 0.0], 'normal' => [2.0, 0.0, 0.0]], cap: true));
        self::assertSame(['Cap, back part', 'Cap, front part'], array_map(fn (Body $body) => $body->name, $result->workpiece->bodies));
        foreach ([7.0, 13.0] as $k => $long) {
            $part = self::meshes($result)[$k];
            $inspection = Inspection::of($part);
            self::assertTrue($inspection->closed);
            self::assertSame(0, $inspection->faultCount());
            self::assertEqualsWithDelta($long * 96.0, $inspection->volume, 1e-9);
            self::assertEqualsWithDelta(96.0 / (192.0 + 40.0 * $long), $inspection->madeUp['made'] ?? 0.0, 1e-9);
        }
        self::assertSame([], $result->notes);
    }

    #[Test]
    public function a_plane_with_a_slope_gives_the_volume_that_a_prism_has(): void
    {
        // Through the long edges at the bottom left and the top right: two prisms.
        $result = self::split(MeshBuilder::brick([20.0, 12.0, 8.0], 1), new SplitParameters(plane: ['point' => [0.0, 0.0, 0.0], 'normal' => [8.0, 0.0, -20.0]], cap: true));
        foreach (self::meshes($result) as $part) {
            self::assertEqualsWithDelta(960.0, self::volume($part), 1e-9);
            self::assertSame([], SlowCheck::faults($part));
        }
    }

    /** @return array<string, array{TriangleMesh}> */
    public static function shapes(): array
    {
        $drilled = MeshBuilder::drilled([20.0, 14.0, 6.0], 7, [[1, 1], [1, 4], [4, 2]]);

        return [
            'ball' => [MeshBuilder::icosphere(2, 10.0)],
            'ring' => [MeshBuilder::ring(14.0, 5.0, 24, 12)],
            'brick' => [MeshBuilder::brick([20.0, 14.0, 6.0], 4)],
            'brick with tunnels' => [$drilled],
            'the same, turned' => [$drilled->transformed(RigidTransform::turn([0.3, 0.5, -0.8], 1.1))],
            'hollow ball' => [MeshBuilder::together(MeshBuilder::icosphere(2, 10.0), self::inwards(MeshBuilder::icosphere(1, 6.0)))],
            'two balls' => [MeshBuilder::together(MeshBuilder::icosphere(2, 10.0), MeshBuilder::icosphere(2, 4.0)->transformed(RigidTransform::shift(20.0, 1.0, 0.0)))],
        ];
    }

    private static function inwards(TriangleMesh $mesh): TriangleMesh
    {
        return TriangleMesh::fromFlat($mesh->positions, array_merge(...array_map(array_reverse(...), array_chunk($mesh->faces, 3))));
    }

    #[Test]
    #[DataProvider('shapes')]
    public function planes_through_vertices_edges_faces_and_anywhere_leave_closed_sound_parts_that_make_up_the_whole(TriangleMesh $mesh): void
    {
        $gen = new Gen(5);
        $whole = self::volume($mesh);
        $met = 0;
        $vertices = array_chunk($mesh->positions, 3);
        for ($k = 0; $k < 12; $k++) {
            $any = fn (): array => $vertices[$gen->int(0, count($vertices) - 1)];
            $normal = $k % 3 === 0 ? [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0], [1.0, 1.0, 0.0]][$gen->int(0, 3)] : [$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0)];
            $point = $any();
            if ($k % 3 === 1) {
                // Through three vertices.
                [$q, $r] = [$any(), $any()];
                [$u, $v] = [[$q[0] - $point[0], $q[1] - $point[1], $q[2] - $point[2]], [$r[0] - $point[0], $r[1] - $point[1], $r[2] - $point[2]]];
                $normal = [$u[1] * $v[2] - $u[2] * $v[1], $u[2] * $v[0] - $u[0] * $v[2], $u[0] * $v[1] - $u[1] * $v[0]];
                if (Vector3::length($normal) < 1e-6) {
                    continue;
                }
            }
            try {
                $result = self::split($mesh, new SplitParameters(plane: ['point' => $point, 'normal' => $normal], cap: true));
            } catch (UnsuitableInput $missed) {
                self::assertStringContainsString('does not meet Cap', $missed->getMessage());

                continue;
            }
            $met++;
            $sum = 0.0;
            foreach (self::meshes($result) as $part) {
                $inspection = Inspection::of($part);
                self::assertTrue($inspection->closed, "plane $k leaves a part open");
                // A sharp tip is right where a plane cuts a corner off.
                self::assertSame([], array_filter(array_diff_key($inspection->faults, ['spikes' => 0])), "plane $k");
                $sum += (float) $inspection->volume;
            }
            self::assertEqualsWithDelta($whole, $sum, ($result->notes === [] ? 1e-6 : 1e-4) * $whole);
        }
        self::assertGreaterThan(6, $met);
    }

    #[Test]
    public function what_is_not_cut_stays_to_the_bit_and_evidence_goes_along(): void
    {
        $ball = MeshBuilder::icosphere(3, 10.0);
        $support = array_map(fn (int $v) => Evidence::of(1 + $v % 7), range(0, $ball->vertexCount() - 1));
        $origin = array_map(fn (int $t) => $t % 5 === 0 ? TriangleMesh::FILLED : TriangleMesh::MEASURED, range(0, $ball->faceCount() - 1));
        $marked = TriangleMesh::fromFlat($ball->positions, $ball->faces, $support, $origin);
        $places = [];
        foreach (array_chunk($ball->positions, 3) as $v => $place) {
            $places[serialize($place)] = $v;
        }
        $kept = 0;
        foreach (self::meshes(self::split($marked, new SplitParameters(plane: ['point' => [0.0, 0.0, 1.234], 'normal' => [0.2, 0.1, 1.0]], cap: true))) as $part) {
            foreach (array_chunk($part->positions, 3) as $v => $place) {
                if (isset($places[serialize($place)])) {
                    self::assertSame($support[$places[serialize($place)]], $part->support[$v]);
                    $kept++;
                }
            }
            self::assertContains(TriangleMesh::FILLED, $part->origin);
            self::assertContains(TriangleMesh::MADE, $part->origin);
        }
        self::assertSame($ball->vertexCount(), $kept);
    }

    #[Test]
    public function without_closing_the_cut_the_parts_are_open_along_it_alone(): void
    {
        $result = self::split(MeshBuilder::brick([20.0, 12.0, 8.0], 4), new SplitParameters(plane: ['point' => [0.0, 0.0, 3.0], 'normal' => [0.0, 0.0, 1.0]]));
        foreach (self::meshes($result) as $part) {
            $holes = Inspection::of($part)->holes;
            self::assertCount(1, $holes);
            self::assertEqualsWithDelta(64.0, $holes[0]['perimeter'], 1e-9);
            self::assertSame([], $part->origin);
        }
    }

    #[Test]
    public function one_side_alone_is_still_the_body_and_takes_its_wishes_and_datums_along(): void
    {
        $body = Body::of('Cap', MeshBuilder::brick([20.0, 12.0, 8.0], 2))->leavingOpen([[1.0, 6.0, 4.0], [19.0, 6.0, 4.0]]);
        $datums = [new Datum('d', 'End', 'plane', [20.0, 6.0, 4.0], [1.0, 0.0, 0.0], bodyId: 'Cap'), new Datum('e', 'Start', 'plane', [0.0, 6.0, 4.0], [1.0, 0.0, 0.0], bodyId: 'Cap'), new Datum('f', 'Free', 'point', [0.0, 0.0, 0.0])];
        $workpiece = (new Workpiece)->withBodies([$body])->withDatums($datums);
        $plane = ['point' => [7.0, 0.0, 0.0], 'normal' => [1.0, 0.0, 0.0]];
        $front = (new Split)($workpiece, new SplitParameters(plane: $plane, keep: 'positive'), new NoProgress)->workpiece;
        self::assertSame(['Cap'], array_map(fn (Body $body) => $body->id, $front->bodies));
        self::assertEqualsWithDelta([[19.0, 6.0, 4.0]], $front->bodies[0]->openPlaces(), 1e-12);
        $both = (new Split)($workpiece, new SplitParameters(plane: $plane), new NoProgress)->workpiece;
        self::assertSame(['Cap, front part', 'Cap, back part', null], array_map(fn (Datum $datum) => $datum->bodyId, $both->datums));
    }

    #[Test]
    public function pieces_become_bodies_the_largest_first(): void
    {
        $balls = MeshBuilder::together(MeshBuilder::icosphere(2, 4.0), MeshBuilder::icosphere(2, 10.0)->transformed(RigidTransform::shift(20.0, 1.0, 0.0)));
        $parts = self::meshes(self::split($balls, new SplitParameters(by: 'pieces')));
        self::assertCount(2, $parts);
        self::assertGreaterThan(self::volume($parts[1]), self::volume($parts[0]));
        self::assertEqualsWithDelta(self::volume($balls), self::volume($parts[0]) + self::volume($parts[1]), 1e-9);
    }

    #[Test]
    public function what_cannot_be_is_refused_in_words(): void
    {
        $ball = MeshBuilder::icosphere(3, 10.0);
        self::assertRefused([
            [fn () => self::split($ball, new SplitParameters(by: 'pieces')), 'Cap is one piece'],
            [fn () => self::split($ball, new SplitParameters(plane: ['point' => [0.0, 0.0, 10.5], 'normal' => [0.0, 0.0, 1.0]])), 'does not meet Cap'],
            [fn () => self::split(MeshBuilder::without($ball, 7.0), new SplitParameters(plane: 'YZ', cap: true)), 'cannot be closed near'],
            [fn () => (new Split)(new Workpiece, new SplitParameters(plane: 'XY'), new NoProgress), 'no mesh'],
            [fn () => new SplitParameters, 'plane is required'],
            [fn () => new SplitParameters('pieces', 'XY'), 'plane has no use'],
            [fn () => self::split($ball, new SplitParameters(plane: 'Base')), 'cannot find "Base"'],
        ]);
    }
}
