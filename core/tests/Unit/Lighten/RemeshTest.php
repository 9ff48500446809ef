<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Lighten;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Lighten\Remesh;
use Emberstone\Core\Lighten\RemeshParameters;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class RemeshTest extends TestCase
{
    private function remesh(TriangleMesh $mesh, RemeshParameters $parameters): Result
    {
        return (new Remesh)((new Workpiece)->withBodies([Body::of('b', $mesh)]), $parameters, new NoProgress);
    }

    private static function meshOf(Result $result): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    /**
     * @return array{mean: float, inBand: float, angles: float} the mean length of the edges; shares of edges within 0.7 to 1.4 of a length, and of angles within 30 to 110 degrees
     */
    private static function quality(TriangleMesh $mesh, float $edge): array
    {
        $lengths = $angles = [];
        for ($o = 0, $n = count($mesh->faces); $o < $n; $o += 3) {
            $p = array_map(fn (int $c) => array_slice($mesh->positions, 3 * $mesh->faces[$o + $c], 3), [0, 1, 2]);
            $l = array_map(fn (int $c) => sqrt(array_sum(array_map(fn (int $k) => ($p[$c][$k] - $p[($c + 1) % 3][$k]) ** 2, [0, 1, 2]))), [0, 1, 2]);
            foreach ([0, 1, 2] as $c) {
                $lengths[] = $l[$c];
                // By the law of cosines, the angle opposite the side c.
                $angles[] = rad2deg(acos(max(-1.0, min(1.0, ($l[($c + 1) % 3] ** 2 + $l[($c + 2) % 3] ** 2 - $l[$c] ** 2) / (2.0 * $l[($c + 1) % 3] * $l[($c + 2) % 3])))));
            }
        }

        return [
            'mean' => array_sum($lengths) / count($lengths),
            'inBand' => count(array_filter($lengths, fn (float $l) => $l >= 0.7 * $edge && $l <= 1.4 * $edge)) / count($lengths),
            'angles' => count(array_filter($angles, fn (float $a) => $a >= 30.0 && $a <= 110.0)) / count($angles),
        ];
    }

    #[Test]
    public function a_ball_gets_even_triangles_of_the_length_asked_for_and_stays_a_ball(): void
    {
        $ball = MeshBuilder::icosphere(5, 20.0);
        $result = $this->remesh($ball, new RemeshParameters(edge: 1.5));
        $mesh = self::meshOf($result);
        $quality = self::quality($mesh, 1.5);
        self::assertEqualsWithDelta(1.5, $quality['mean'], 0.05);
        self::assertGreaterThan(0.97, $quality['inBand']);
        self::assertGreaterThan(0.995, $quality['angles']);
        $inspection = Inspection::of($mesh);
        self::assertSame([true, 0, 0], [$inspection->closed, $inspection->genus, $inspection->faultCount()]);
        self::assertSame(Outcome::Reached, $result->outcome);
        // Vertices lie on the ball; the middles of faces as far within it as their size says, a quarter of the square of the edge over three radii.
        foreach (array_chunk($mesh->positions, 3) as $p) {
            self::assertEqualsWithDelta(20.0, sqrt($p[0] ** 2 + $p[1] ** 2 + $p[2] ** 2), 0.02);
        }
        self::assertLessThanOrEqual(0.15, $result->after['deviation']);
    }

    #[Test]
    public function a_brick_keeps_its_edges_corners_and_volume_to_rounding(): void
    {
        $brick = MeshBuilder::brick([20.0, 12.0, 8.0], 9)->transformed(RigidTransform::turn([0.3, 0.5, -0.8], 1.1));
        $mesh = self::meshOf($this->remesh($brick, new RemeshParameters(edge: 1.2)));
        self::assertEqualsWithDelta(1920.0, Measure::volume($mesh->positions, $mesh->faces), 1e-6);
        self::assertSame(0, Inspection::of($mesh)->faultCount());
        self::assertGreaterThan(0.985, self::quality($mesh, 1.2)['angles']);
        self::assertLessThan(1e-9, SurfaceDistance::compare($brick, $mesh)['max']);
    }

    #[Test]
    public function faces_far_larger_than_the_edge_are_parted_to_it_and_not_finer(): void
    {
        $brick = MeshBuilder::brick([120.0, 70.0, 14.0], 1);
        self::assertLessThan(50, $brick->faceCount());
        $mesh = self::meshOf($this->remesh($brick, new RemeshParameters(edge: 5.0)));
        self::assertEqualsWithDelta(5.0, self::quality($mesh, 5.0)['mean'], 0.25);
        self::assertGreaterThan(0.95, self::quality($mesh, 5.0)['inBand']);
    }

    #[Test]
    public function a_closed_mesh_stays_closed_even_where_all_its_faces_lie_over_each_other(): void
    {
        $thread = MeshBuilder::icosphere(1, 10.0);
        $thread = $thread->withPositions(array_map(fn (float $v, int $k) => $v * [1.0, 1e-3, 1e-7][$k % 3], $thread->positions, array_keys($thread->positions)));
        $result = $this->remesh($thread, new RemeshParameters(faces: 60, deviation: 5.0));
        self::assertTrue(Inspection::of(self::meshOf($result))->closed);
        self::assertSame(Outcome::NotConverged, $result->outcome);
    }

    #[Test]
    public function a_rim_keeps_its_shape_and_a_thin_open_bowl_stays_open(): void
    {
        $bowl = MeshBuilder::without(MeshBuilder::icosphere(4, 20.0), 8.0);
        $mesh = self::meshOf($this->remesh($bowl, new RemeshParameters(edge: 2.0)));
        $holes = Inspection::of($mesh)->holes;
        self::assertCount(1, $holes);
        self::assertEqualsWithDelta(Inspection::of($bowl)->holes[0]['perimeter'], $holes[0]['perimeter'], 0.05 * $holes[0]['perimeter']);
    }

    #[Test]
    #[TestWith([0.0])]
    #[TestWith([1.0])]
    public function a_number_of_faces_is_reached(float $adapt): void
    {
        $ring = MeshBuilder::ring(20.0, 6.0, 90, 50);
        $mesh = self::meshOf($this->remesh($ring, new RemeshParameters(faces: 3000, adapt: $adapt, deviation: 1.0)));
        self::assertEqualsWithDelta(3000, $mesh->faceCount(), 300);
        self::assertSame(1, Inspection::of($mesh)->genus);
    }

    #[Test]
    public function triangles_as_fine_as_the_surface_is_curved_lie_nearer_to_it_than_as_many_even_ones(): void
    {
        // A ball with a much smaller one: nearly flat, and strongly curved.
        $balls = MeshBuilder::together(MeshBuilder::icosphere(5, 40.0), MeshBuilder::icosphere(5, 4.0)->transformed(RigidTransform::shift(60.0, 0.0, 0.0)));
        $even = $this->remesh($balls, new RemeshParameters(faces: 6000, adapt: 0.0, deviation: 2.0));
        $fine = $this->remesh($balls, new RemeshParameters(faces: 6000, adapt: 1.0, deviation: 2.0));
        self::assertLessThan(0.6 * $even->after['deviation'], $fine->after['deviation']);
    }

    /** @return array<string, array{TriangleMesh}> */
    public static function shapes(): array
    {
        return [
            'ring' => [MeshBuilder::ring(10.0, 2.0, 40, 24)],
            'drilled' => [MeshBuilder::drilled([20.0, 20.0, 6.0], 10, [[3, 3], [6, 6]])],
            'finer than the edge' => [MeshBuilder::icosphere(4, 3.0)],
        ];
    }

    #[Test]
    #[DataProvider('shapes')]
    public function no_place_of_either_surface_is_farther_from_the_other_than_asked(TriangleMesh $mesh): void
    {
        $result = $this->remesh($mesh, new RemeshParameters(edge: 1.5, deviation: 0.1));
        $after = self::meshOf($result);
        self::assertSame(Outcome::Reached, $result->outcome);
        self::assertLessThanOrEqual(0.1, $result->after['deviation']);
        self::assertLessThan(0.105, SurfaceDistance::compare($mesh, $after)['max']);
        self::assertLessThan(0.105, SurfaceDistance::compare($after, $mesh)['max']);
        self::assertSame(Inspection::of($mesh)->genus, Inspection::of($after)->genus);
        self::assertSame(0, Inspection::of($after)->faultCount());
    }

    #[Test]
    public function evidence_and_marks_of_the_nearest_place_go_along(): void
    {
        $ball = MeshBuilder::icosphere(4, 10.0);
        $support = $origin = [];
        foreach (array_chunk($ball->positions, 3) as $p) {
            $support[] = $p[2] > 0.0 ? 3 : 1;
        }
        foreach (array_chunk(Measure::centres($ball->positions, $ball->faces), 3) as $p) {
            $origin[] = $p[0] > 0.0 ? TriangleMesh::FILLED : TriangleMesh::MEASURED;
        }
        $mesh = self::meshOf($this->remesh(TriangleMesh::fromFlat($ball->positions, $ball->faces, $support, $origin), new RemeshParameters(edge: 1.0)));
        foreach (array_chunk($mesh->positions, 3) as $v => $p) {
            if (abs($p[2]) > 1.0) {
                self::assertSame($p[2] > 0.0 ? 3 : 1, $mesh->support[$v]);
            }
        }
        foreach (array_chunk(Measure::centres($mesh->positions, $mesh->faces), 3) as $t => $p) {
            if (abs($p[0]) > 1.0) {
                self::assertSame($p[0] > 0.0 ? TriangleMesh::FILLED : TriangleMesh::MEASURED, $mesh->origin[$t]);
            }
        }
    }

    #[Test]
    public function what_cannot_be_is_refused_in_words(): void
    {
        $bad = TriangleMesh::fromFlat([0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, -1.0, 0.0, 0.0, 0.0, 1.0], [0, 1, 2, 1, 0, 3, 0, 1, 4]);
        self::assertContains(-2, Topology::twins($bad->faces));
        try {
            $this->remesh($bad, new RemeshParameters(edge: 0.5));
            self::fail('an edge of three faces was taken');
        } catch (UnsuitableInput $problem) {
            self::assertStringContainsString('Repair it first', $problem->getMessage());
        }
        foreach ([fn () => new RemeshParameters, fn () => new RemeshParameters(edge: 1.0, faces: 100), fn () => $this->remesh(MeshBuilder::icosphere(2, 1000.0), new RemeshParameters(edge: 0.01))] as $wrong) {
            try {
                $wrong();
                self::fail('was taken');
            } catch (InvalidParameter $problem) {
                self::assertSame('edge', $problem->parameter);
            }
        }
    }
}
