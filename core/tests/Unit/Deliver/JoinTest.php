<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Deliver\Join;
use Emberstone\Core\Deliver\JoinParameters;
use Emberstone\Core\Deliver\Split;
use Emberstone\Core\Deliver\SplitParameters;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class JoinTest extends TestCase
{
    use Refuses;

    /** @param  list<TriangleMesh>  $meshes */
    private static function joined(array $meshes, ?float $stitch = null): Result
    {
        return (new Join)((new Workpiece)->withBodies(array_map(fn (TriangleMesh $mesh, int $k) => Body::of("part $k", $mesh), $meshes, array_keys($meshes))), new JoinParameters($stitch), new NoProgress);
    }

    private static function mesh(Result $result, int $k = 0): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[$k]->placed();
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    /** @return array{TriangleMesh, TriangleMesh} */
    private static function halves(TriangleMesh $mesh): array
    {
        $parts = (new Split)((new Workpiece)->withBodies([Body::of('whole', $mesh)]), new SplitParameters(plane: ['point' => [0.1, 0.2, 0.3], 'normal' => [0.2, 0.1, 1.0]]), new NoProgress);

        return [self::mesh($parts), self::mesh($parts, 1)];
    }

    #[Test]
    #[DataProvider('shapes')]
    public function what_was_split_is_sewn_to_the_closed_body_that_it_was(TriangleMesh $whole): void
    {
        $result = self::joined(self::halves($whole), 1e-6);
        $inspection = Inspection::of(self::mesh($result));
        self::assertTrue($inspection->closed);
        self::assertSame([], array_filter($inspection->faults));
        self::assertEqualsWithDelta(Measure::volume($whole->positions, $whole->faces), $inspection->volume, 1e-5);
        self::assertSame([], $result->notes);
        self::assertSame('part 0 and part 1', $result->workpiece->bodies[0]->name);
    }

    /** @return array<string, array{TriangleMesh}> */
    public static function shapes(): array
    {
        return ['ball' => [MeshBuilder::icosphere(3, 10.0)], 'ring' => [MeshBuilder::ring(14.0, 5.0, 24, 12)], 'brick with tunnels' => [MeshBuilder::drilled([20.0, 14.0, 6.0], 7, [[1, 1], [4, 2]])]];
    }

    #[Test]
    public function rims_with_other_vertices_and_some_play_are_sewn_within_the_tolerance(): void
    {
        // Boxes without the side between them, of 4 and of 7 cells: their rims have corners in other places, and there is 0.02 mm between.
        $open = fn (int $cells, float $missing): TriangleMesh => self::withoutSide(MeshBuilder::brick([10.0, 10.0, 10.0], $cells), $missing);
        $right = $open(7, 0.0)->transformed(RigidTransform::shift(10.02, 0.0, 0.0));
        $result = self::joined([$open(4, 10.0), $right], 0.05);
        $inspection = Inspection::of(self::mesh($result));
        self::assertTrue($inspection->closed);
        self::assertSame([], array_filter($inspection->faults));
        self::assertEqualsWithDelta(2002.0, $inspection->volume, 1.5);
        self::assertGreaterThan(30, $result->after['sewn']);
    }

    /** Without the faces that lie at an x. */
    private static function withoutSide(TriangleMesh $mesh, float $x): TriangleMesh
    {
        $keep = [];
        foreach (array_chunk($mesh->faces, 3) as $t => $corners) {
            if (array_filter($corners, fn (int $v) => $mesh->positions[3 * $v] !== $x) !== []) {
                $keep[] = $t;
            }
        }

        return $mesh->withFaces($keep);
    }

    #[Test]
    public function without_sewing_they_are_one_body_to_the_bit_and_datums_and_wishes_go_along(): void
    {
        $bodies = [Body::of('Cap', MeshBuilder::icosphere(1, 5.0))->leavingOpen([[1.0, 2.0, 3.0]]), Body::of('Bush', MeshBuilder::icosphere(1, 3.0)->transformed(RigidTransform::shift(20.0, 0.0, 0.0))), Body::of('Pedestal', MeshBuilder::icosphere(1, 2.0))];
        $workpiece = (new Workpiece)->withBodies($bodies)->withDatums([new Datum('d', 'End', 'plane', [0.0, 0.0, 5.0], [0.0, 0.0, 1.0], bodyId: 'Bush')]);
        $after = (new Join)($workpiece, new JoinParameters(bodies: ['Bush', 'Cap']), new NoProgress)->workpiece;
        self::assertSame(['Pedestal', 'Bush and Cap'], array_map(fn (Body $body) => $body->name, $after->bodies));
        self::assertSame([...$bodies[1]->geometry->positions, ...$bodies[0]->geometry->positions], $after->bodies[1]->geometry->positions);
        self::assertSame('Bush and Cap', $after->datums[0]->bodyId);
        self::assertSame([[1.0, 2.0, 3.0]], $after->bodies[1]->openPlaces());
    }

    #[Test]
    public function evidence_and_marks_stay_with_their_faces(): void
    {
        $gen = new Gen(2);
        [$low, $high] = self::halves(MeshBuilder::icosphere(2, 10.0));
        $mark = fn (TriangleMesh $mesh): TriangleMesh => TriangleMesh::fromFlat($mesh->positions, $mesh->faces, [], array_map(fn () => $gen->int(0, 1), range(1, $mesh->faceCount())));
        [$low, $high] = [$mark($low), $mark($high)];
        $mesh = self::mesh(self::joined([$low, $high], 1e-6));
        self::assertSame([...$low->origin, ...$high->origin], $mesh->origin);
    }

    #[Test]
    public function what_cannot_be_is_refused_in_words(): void
    {
        $ball = MeshBuilder::icosphere(2, 10.0);
        [$low, $high] = self::halves($ball);
        $turned = TriangleMesh::fromFlat($high->positions, array_merge(...array_map(array_reverse(...), array_chunk($high->faces, 3))));
        self::assertRefused([
            [fn () => self::joined([$ball]), 'Two bodies at least'],
            [fn () => self::joined([$ball, MeshBuilder::icosphere(1, 2.0)], 1.0), 'No rims come within'],
            [fn () => self::joined([$low, $turned], 1e-6), 'cannot be sewn near'],
            [fn () => new JoinParameters(bodies: ['Cap']), 'two names or more'],
            [fn () => (new Join)((new Workpiece)->withBodies([Body::of('Cap', $ball), Body::of('Bush', $ball)]), new JoinParameters(bodies: ['Cap', 'Pin']), new NoProgress), 'names "Pin"'],
        ]);
    }
}
