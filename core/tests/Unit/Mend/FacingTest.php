<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Algorithms\Surface\Winding;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\Facing;
use Emberstone\Core\Mend\Repair;
use Emberstone\Core\Mend\RepairParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class FacingTest extends TestCase
{
    private function turned(TriangleMesh $mesh): TriangleMesh
    {
        $f = $mesh->faces;
        for ($o = 0; $o < count($f); $o += 3) {
            [$f[$o + 1], $f[$o + 2]] = [$f[$o + 2], $f[$o + 1]];
        }

        return TriangleMesh::fromFlat($mesh->positions, $f);
    }

    private function moved(TriangleMesh $mesh, float $x, float $times = 1.0): TriangleMesh
    {
        return $mesh->withPositions(array_map(fn (float $v) => $times * $v, $mesh->positions))->transformed(RigidTransform::shift($x, 0.0, 0.0));
    }

    /** Signed volume of a mesh after repair. */
    private function repaired(TriangleMesh $mesh): float
    {
        $result = (new Repair)((new Workpiece)->withBodies([Body::of('b', $mesh)]), new RepairParameters(['inconsistentEdges']), new NoProgress);
        $after = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $after);
        self::assertSame(0, $result->after['inconsistentEdges'] ?? 0);

        return Measure::volume($after->positions, $after->faces);
    }

    #[Test]
    public function a_place_is_gone_around_once_inside_and_not_at_all_outside(): void
    {
        $ball = MeshBuilder::icosphere(3);
        foreach (array_chunk((new Gen(5))->points(20), 3) as $at) {
            $way = Vector3::scaled($at, 1.0 / Vector3::length($at));
            foreach ([[0.3, 1.0], [0.97, 1.0], [1.01, 0.0], [4.0, 0.0]] as [$r, $times]) {
                self::assertEqualsWithDelta($times, Winding::at($ball->positions, $ball->faces, [$r * $way[0], $r * $way[1], $r * $way[2]]), 1e-9);
                self::assertEqualsWithDelta(-$times, Winding::at($ball->positions, $this->turned($ball)->faces, [$r * $way[0], $r * $way[1], $r * $way[2]]), 1e-9);
            }
        }
        // Half of a ball fills half of what is seen from its middle; on a face of a cube the other five fill half.
        $half = MeshBuilder::without($ball, 0.0);
        self::assertEqualsWithDelta(0.5, Winding::at($half->positions, $half->faces, [0.0, 0.0, 0.0]), 0.04);
        $brick = MeshBuilder::brick([2.0, 3.0, 4.0], 1);
        self::assertEqualsWithDelta(0.5, Winding::facing($brick->positions, $brick->faces), 1e-9);
    }

    #[Test]
    public function a_body_turned_inside_out_faces_outwards_again_closed_or_with_holes(): void
    {
        $ball = MeshBuilder::icosphere(4);
        foreach ([1.1, 0.95, 0.9] as $height) {
            $open = MeshBuilder::without($ball, $height);
            self::assertEqualsWithDelta(Measure::volume($open->positions, $open->faces), $this->repaired($this->turned($open)), 1e-9, "cut off at $height");
        }
    }

    #[Test]
    public function what_may_be_the_inside_of_something_keeps_its_side(): void
    {
        // A bowl seen from inside, a bore: they face inwards, and rightly so.
        $bowl = $this->turned(MeshBuilder::without(MeshBuilder::icosphere(4), 0.5));
        self::assertLessThan(-0.3, Winding::facing($bowl->positions, $bowl->faces));
        self::assertSame([], Facing::inwards($bowl->positions, $bowl->faces));
        self::assertLessThan(0.0, $this->repaired($bowl));
    }

    #[Test]
    public function each_piece_is_turned_by_itself_and_a_hollow_stays_hollow(): void
    {
        $ball = MeshBuilder::icosphere(3);
        $volume = Inspection::of($ball)->volume;
        $hollow = $this->turned($this->moved($ball, 0.0, 0.5));
        self::assertEqualsWithDelta((1 - 0.125) * $volume, $this->repaired(MeshBuilder::together($ball, $hollow)), 1e-9);
        self::assertEqualsWithDelta(2 * $volume, $this->repaired(MeshBuilder::together($ball, $this->turned($this->moved($ball, 5.0)))), 1e-9);
        // What stands in a bowl is not in its wall, and is a body of its own.
        $bowl = MeshBuilder::without($ball, 0.5);
        $wall = MeshBuilder::together($bowl, $this->turned($this->moved($bowl, 0.0, 0.8)));
        $inside = $this->moved($ball, 0.0, 0.1);
        $asMeant = MeshBuilder::together($wall, $inside);
        self::assertSame([], Facing::inwards($asMeant->positions, $asMeant->faces));
        self::assertSame($asMeant->faces, Facing::outwards(MeshBuilder::together($wall, $this->turned($inside)))->faces);
    }
}
