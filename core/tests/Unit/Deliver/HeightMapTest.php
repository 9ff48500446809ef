<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Deliver\HeightPictures;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class HeightMapTest extends TestCase
{
    use Refuses;

    /** @param  array<string, mixed>  $parameters */
    private static function map(Workpiece $workpiece, array $parameters): Workpiece
    {
        return Catalogue::operation('height-map')($workpiece, Catalogue::parameters('height-map', $parameters), new NoProgress)->workpiece;
    }

    /** @return list<list<int>> the grey values of a PNG, row by row, its check sums proved */
    private static function pixels(string $png): array
    {
        self::assertSame("\x89PNG\r\n\x1a\n", substr($png, 0, 8));
        $packed = '';
        $columns = 0;
        for ($at = 8; $at < strlen($png); $at += 12 + $length) {
            ['length' => $length] = unpack('Nlength', $png, $at) ?: ['length' => 0];
            $type = substr($png, $at + 4, 4);
            $data = substr($png, $at + 8, $length);
            self::assertSame(unpack('N', $png, $at + 8 + $length), [1 => crc32($type.$data)], $type);
            $packed .= $type === 'IDAT' ? $data : '';
            $columns = $type === 'IHDR' ? (unpack('N', $data) ?: [1 => 0])[1] : $columns;
        }
        $lines = str_split((string) gzuncompress($packed), 1 + 2 * $columns);

        return array_map(fn (string $line) => array_values(unpack('n*', $line, 1) ?: []), $lines);
    }

    /** A wedge of 20 by 10, 4 high at x = 0 and 8 at x = 20, with a mark on the corner at x = 0, y = 0. */
    private static function wedge(): TriangleMesh
    {
        $wedge = SimpleSolid::box([10.0, 5.0, 0.0], [0.0, 0.0, 1.0], [20.0, 10.0, 4.0]);
        $p = $wedge->positions;
        for ($o = 0; $o < count($p); $o += 3) {
            $p[$o + 2] += $p[$o + 2] > 2.0 ? 0.2 * $p[$o] : 0.0;
        }
        $mark = SimpleSolid::box([1.0, 1.0, -3.0], [0.0, 0.0, 1.0], [2.0, 2.0, 1.0]);

        return TriangleMesh::joined([$wedge->withPositions($p), $mark]);
    }

    #[Test]
    public function every_pixel_is_as_high_as_the_surface_and_the_back_is_seen_from_behind(): void
    {
        $found = self::map(new Workpiece(bodies: [Body::of('Wedge', self::wedge())]), ['along' => [0, 0, -1], 'pixel' => 0.5, 'side' => 'both']);
        [$artefact] = $found->artefacts;
        self::assertSame(['front', 'back'], HeightPictures::sides($artefact));
        [$front, $back] = HeightPictures::report($artefact, Unit::Millimetre);
        self::assertSame([40, 20], [$front['columns'], $front['rows']]);
        // From the middle of the first column to that of the last: 0.2 of 19.5 mm.
        self::assertEqualsWithDelta([3.9, 3.0], [$front['depth'], $back['depth']], 1e-9);
        $rows = self::pixels(HeightPictures::png($artefact, 'front', Unit::Millimetre));
        // Seen from above with X to the right, Y is up.
        foreach ([0, 7, 19] as $r) {
            foreach ([0, 13, 39] as $c) {
                self::assertEqualsWithDelta(0.2 * 0.5 * $c, ($rows[$r][$c] - 1) * $front['step'], 0.51 * $front['step']);
            }
        }
        $behind = self::pixels(HeightPictures::png($artefact, 'back', Unit::Millimetre));
        // From below the mark is at the other hand, and nearest.
        $marked = fn (int $r, int $c): bool => $behind[$r][$c] === 30001;
        self::assertSame([true, true, false, false], [$marked(19, 39), $marked(16, 36), $marked(19, 0), $marked(0, 39)]);
    }

    #[Test]
    public function the_points_lie_on_the_body_wherever_it_has_gone_since(): void
    {
        $ball = MeshBuilder::icosphere(4, 10.0);
        $axis = new Datum('p', 'Look', 'plane', [0.0, 0.0, 0.0], [0.6, 0.0, 0.8]);
        $found = self::map(new Workpiece(bodies: [Body::of('Ball', $ball)], datums: [$axis]), ['along' => 'Look', 'pixel' => 0.8, 'side' => 'both']);
        $moved = $found->moved(RigidTransform::turn([1.0, 2.0, 3.0], 1.0)->then(RigidTransform::shift(500.0, 0.0, -20.0)))->scaled(2.0);
        $mesh = $moved->bodies[0]->placedMesh();
        $tree = TriangleBvh::of($mesh->positions, $mesh->faces);
        foreach (['front', 'back'] as $side) {
            $points = HeightPictures::points($moved->artefacts[0], $side);
            self::assertGreaterThan(400, $points->count());
            $faces = $squares = [];
            $tree->closest($points->positions, $faces, $squares);
            self::assertLessThan(2.0 * HeightPictures::step(0.0, 20.0), sqrt(max($squares)), $side);
        }
        // At a plane it is looked from outside: its front is where the plane looks.
        $front = HeightPictures::points($found->artefacts[0], 'front')->positions;
        for ($o = 0, $n = count($front); $o < $n; $o += 3) {
            self::assertGreaterThan(-0.5, 0.6 * $front[$o] + 0.8 * $front[$o + 2]);
        }
        self::assertStringContainsString("Pixel\0".sprintf('%.9g in', 1.6 / 25.4), HeightPictures::png($moved->artefacts[0], 'front', Unit::Inch));
    }

    #[Test]
    public function what_gives_no_picture_is_refused_with_what_would(): void
    {
        $ball = new Workpiece(bodies: [Body::of('Ball', MeshBuilder::icosphere(2, 10.0))]);
        self::assertRefused([
            [fn () => self::map($ball, ['pixel' => 1e-4]), 'make it larger: 0.005 mm at least'],
            [fn () => self::map($ball, ['along' => [0, 0, 0]]), 'that is not zero'],
            [fn () => self::map($ball, ['along' => 'Nowhere']), 'cannot find "Nowhere"'],
            [fn () => self::map(new Workpiece, []), 'no mesh to draw heights of'],
            [fn () => self::map(new Workpiece(bodies: [Body::of('Leaf', TriangleMesh::fromFlat([0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0], [0, 1, 2]))]), ['along' => 'Z', 'pixel' => 0.1]), 'No middle of a pixel'],
        ]);
    }
}
