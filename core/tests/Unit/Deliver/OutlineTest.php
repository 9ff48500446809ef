<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Algorithms\Cutting\MeshBoolean;
use Emberstone\Core\Deliver\SectionDrawing;
use Emberstone\Core\Exchange\Dxf;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class OutlineTest extends TestCase
{
    use Refuses;

    /** @param  array<string, mixed>  $parameters */
    private static function outline(Workpiece $workpiece, array $parameters): Result
    {
        return Catalogue::operation('outline')($workpiece, Catalogue::parameters('outline', $parameters), new NoProgress);
    }

    /** A plate of 40 x 30, 10 thick, standing on z = 0, with a square hole of 8 from its top down to z = 4. */
    private static function plate(): TriangleMesh
    {
        $plate = SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [40.0, 30.0, 10.0]);
        $pin = SimpleSolid::box([10.0, 5.0, 4.0], [0.0, 0.0, 1.0], [8.0, 8.0, 20.0]);
        $made = MeshBoolean::of([$plate->positions, $plate->faces], [$pin->positions, $pin->faces], MeshBoolean::DIFFERENCE, fn () => null);

        return TriangleMesh::fromFlat($made->positions, $made->faces);
    }

    #[Test]
    public function a_blind_hole_is_an_opening_of_the_upper_part_alone(): void
    {
        $workpiece = new Workpiece(bodies: [Body::of('plate', self::plate())]);
        $all = self::outline($workpiece, ['along' => [0, 0, -1]]);
        self::assertSame(['curves' => 1, 'openings' => 0], array_intersect_key($all->after, ['curves' => 0, 'openings' => 0]));
        self::assertEqualsWithDelta(1200.0, $all->after['area'], 1e-9);
        // Looked at from above, depths run from z = -10, which is the top, to 0.
        $upper = self::outline($workpiece, ['along' => [0, 0, -1], 'from' => -9.0, 'to' => -5.0]);
        self::assertSame(['curves' => 2, 'openings' => 1], array_intersect_key($upper->after, ['curves' => 0, 'openings' => 0]));
        self::assertEqualsWithDelta(1200.0 - 64.0, $upper->after['area'], 1e-6);
        self::assertEqualsWithDelta(2 * 70.0 + 4 * 8.0, $upper->after['length'], 1e-6);
        $lower = self::outline($workpiece, ['along' => [0, 0, -1], 'from' => -3.5]);
        self::assertEqualsWithDelta(1200.0, $lower->after['area'], 1e-6, 'where the part is cut there is no opening');
        foreach (SectionDrawing::figures($upper->workpiece->artefacts[0]) as $curve) {
            self::assertTrue($curve['closed']);
            self::assertEqualsWithDelta(9.0, $curve['plane']['point'][2], 1e-9);
            self::assertEqualsWithDelta(1.0, $curve['plane']['normal'][2], 1e-12);
        }
    }

    #[Test]
    public function a_ball_becomes_a_few_arcs_of_its_radius(): void
    {
        $result = self::outline(new Workpiece(bodies: [Body::of('ball', MeshBuilder::icosphere(4, 10.0))]), ['along' => 'X', 'fit' => 0.05]);
        $drawing = SectionDrawing::of($result->workpiece->artefacts[0], Unit::Millimetre);
        self::assertLessThan(8, count($drawing->layers[0]['paths'][0]['vertices']));
        self::assertStringContainsString('LWPOLYLINE', Dxf::of($drawing));
        self::assertEqualsWithDelta(M_PI * 100.0, $result->after['area'], 1.0);
    }

    #[Test]
    public function a_plane_is_looked_at_from_outside(): void
    {
        $workpiece = new Workpiece(bodies: [Body::of('plate', self::plate())], datums: [new Datum('top', 'Top', 'plane', [0.0, 0.0, 10.0], [0.0, 0.0, 1.0])]);
        $result = self::outline($workpiece, ['along' => 'Top', 'from' => 1.0, 'to' => 5.0]);
        self::assertSame(1, $result->after['openings']);
    }

    #[Test]
    public function what_cannot_be_outlined_is_told(): void
    {
        $workpiece = new Workpiece(bodies: [Body::of('plate', self::plate())]);
        self::assertRefused([
            [fn () => self::outline($workpiece, ['along' => 'Z', 'from' => 20.0]), 'does not lie between these depths'],
            [fn () => self::outline($workpiece, ['from' => 5.0, 'to' => 5.0]), 'must lie behind "from"'],
            [fn () => self::outline($workpiece, ['along' => [0, 0, 0]]), 'vector of three numbers'],
            [fn () => self::outline(new Workpiece, []), 'There is no mesh to outline'],
        ]);
        $open = self::outline(new Workpiece(bodies: [Body::of('cup', MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 5.0))]), ['along' => 'X', 'from' => 0.0]);
        self::assertStringContainsString('not closed', implode(' ', $open->notes));
    }
}
