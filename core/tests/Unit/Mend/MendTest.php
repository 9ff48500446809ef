<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\FillHoles;
use Emberstone\Core\Mend\FillHolesParameters;
use Emberstone\Core\Mend\KeepPieces;
use Emberstone\Core\Mend\KeepPiecesParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class MendTest extends TestCase
{
    private function fill(TriangleMesh $mesh, string $shape, ?float $most = null): TriangleMesh
    {
        $result = (new FillHoles)((new Workpiece)->withBodies([Body::of('b', $mesh)]), new FillHolesParameters($shape, $most), new NoProgress);
        $filled = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $filled);

        return $filled;
    }

    #[Test]
    #[TestWith(['flat', 0.16])]
    #[TestWith(['tangent', 0.05])]
    #[TestWith(['curved', 0.05])]
    public function a_cap_cut_off_a_ball_is_closed_and_rounder_shapes_come_nearer_the_ball(string $shape, float $bound): void
    {
        $open = MeshBuilder::without(MeshBuilder::icosphere(4), 0.85);
        $closed = $this->fill($open, $shape);
        $inspection = Inspection::of($closed);
        self::assertTrue($inspection->closed);
        self::assertSame(0, $inspection->faults['selfIntersections']);
        $farthest = 0.0;
        for ($v = $open->vertexCount(); $v < $closed->vertexCount(); $v++) {
            $farthest = max($farthest, abs(1.0 - sqrt($closed->positions[3 * $v] ** 2 + $closed->positions[3 * $v + 1] ** 2 + $closed->positions[3 * $v + 2] ** 2)));
        }
        self::assertLessThan($bound, $farthest);
        self::assertSame($open->positions, array_slice($closed->positions, 0, count($open->positions)), 'measured vertices stay');
        self::assertSame(array_fill(0, $open->faceCount(), 0), array_slice($closed->origin, 0, $open->faceCount()));
        self::assertSame([TriangleMesh::FILLED], array_values(array_unique(array_slice($closed->origin, $open->faceCount()))));
        self::assertLessThan(1.0, $inspection->measured);
    }

    #[Test]
    public function a_rim_wider_than_the_limit_stays_open(): void
    {
        $open = MeshBuilder::without(MeshBuilder::icosphere(3), 0.5);
        self::assertSame($open->faceCount(), $this->fill($open, 'flat', 0.5)->faceCount());
    }

    #[Test]
    public function inspection_counts_each_fault_of_a_mesh_made_for_it(): void
    {
        // Two tetrahedra that share one vertex, one face doubled, and one turned over.
        $p = [0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, -1.0, 0.0, 0.0, 0.0, -1.0, 0.0, 0.0, 0.0, -1.0];
        $sound = [0, 2, 1, 0, 1, 3, 1, 2, 3, 0, 3, 2];
        $second = [0, 4, 5, 0, 5, 6, 5, 4, 6, 0, 6, 4];
        $touching = Inspection::of(TriangleMesh::fromFlat($p, [...$sound, ...$second]));
        self::assertSame(1, $touching->faults['nonManifoldVertices']);
        self::assertFalse($touching->closed);
        self::assertSame(2, $touching->pieces);
        $turned = Inspection::of(TriangleMesh::fromFlat($p, [0, 1, 2, ...array_slice($sound, 3)]));
        self::assertSame(3, $turned->faults['inconsistentEdges']);
        $doubled = Inspection::of(TriangleMesh::fromFlat($p, [...$sound, 1, 2, 3]));
        self::assertSame([1, 3], [$doubled->faults['duplicateFaces'], $doubled->faults['nonManifoldEdges']]);
        self::assertEqualsWithDelta(1 / 6, Inspection::of(TriangleMesh::fromFlat($p, $sound))->volume, 1e-15);
    }

    #[Test]
    public function two_balls_pushed_into_each_other_intersect(): void
    {
        $a = MeshBuilder::icosphere(2);
        $b = MeshBuilder::icosphere(2);
        $positions = $a->positions;
        foreach ($b->positions as $k => $v) {
            $positions[] = $v + ($k % 3 === 0 ? 1.0 : 0.013);
        }
        $both = TriangleMesh::fromFlat($positions, [...$a->faces, ...array_map(fn (int $v) => $v + 162, $b->faces)]);
        self::assertGreaterThan(20, Inspection::of($both)->faults['selfIntersections']);
        self::assertSame(0, Inspection::of($a)->faults['selfIntersections']);
    }

    #[Test]
    public function keeps_the_larger_of_two_pieces(): void
    {
        $a = MeshBuilder::icosphere(2);
        $positions = $a->positions;
        foreach (MeshBuilder::icosphere(0, 0.1)->positions as $v) {
            $positions[] = $v + 5.0;
        }
        $both = TriangleMesh::fromFlat($positions, [...$a->faces, ...array_map(fn (int $v) => $v + 162, MeshBuilder::icosphere(0)->faces)]);
        $kept = (new KeepPieces)((new Workpiece)->withBodies([Body::of('b', $both)]), new KeepPiecesParameters(largest: 1), new NoProgress)->workpiece;
        self::assertSame(320, $kept->faceCount());
    }

    #[Test]
    public function a_body_without_faces_has_no_pieces_to_drop_and_the_others_lose_theirs(): void
    {
        $two = MeshBuilder::together(MeshBuilder::icosphere(2), MeshBuilder::icosphere(0, 0.1));
        foreach ([new KeepPiecesParameters(largest: 1), new KeepPiecesParameters(minArea: 1.0), new KeepPiecesParameters(at: [[0.0, 0.0, 1.0]])] as $parameters) {
            $kept = (new KeepPieces)(new Workpiece(bodies: [Body::of('nothing', TriangleMesh::empty()), Body::of('two', $two)]), $parameters, new NoProgress)->workpiece->bodies;
            self::assertSame([0, 320], array_map(fn (Body $body) => $body->geometry instanceof TriangleMesh ? $body->geometry->faceCount() : -1, $kept));
        }
    }
}
