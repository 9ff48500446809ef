<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Deliver\Section;
use Emberstone\Core\Deliver\SectionDimensions;
use Emberstone\Core\Deliver\SectionDrawing;
use Emberstone\Core\Deliver\SectionParameters;
use Emberstone\Core\Deliver\Shaping\OpenHole;
use Emberstone\Core\Deliver\Shaping\OpenHoleParameters;
use Emberstone\Core\Exchange\Dxf;
use Emberstone\Core\Exchange\Svg;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class SectionDimensionsTest extends TestCase
{
    /** A plate of 60 x 40 x 10 mm with two holes of 9 mm and one of 12 mm, cut level through its middle. */
    private static function plate(bool $dimensions = true): Artefact
    {
        $plate = new Workpiece(bodies: [Body::of('Plate', SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [60.0, 40.0, 10.0]))]);
        foreach ([[-20.0, 10.0, 9.0], [20.0, 10.0, 9.0], [0.0, -8.0, 12.0]] as [$x, $y, $diameter]) {
            $plate = (new OpenHole)($plate, new OpenHoleParameters(['point' => [$x, $y, 20.0], 'direction' => [0.0, 0.0, -1.0]], $diameter), new NoProgress)->workpiece;
        }

        return (new Section)($plate, new SectionParameters('XY', shift: 5.0, fit: 0.02, dimensions: $dimensions), new NoProgress)->workpiece->artefacts[0];
    }

    /** @return list<string> */
    private static function words(Artefact $artefact, float $scale = 1.0): array
    {
        return array_map(fn (array $one) => SectionDimensions::words($one, $scale, 1), $artefact->data['planes'][0]['dimensions']);
    }

    #[Test]
    public function a_plate_with_holes_is_told_by_four_sizes_each_of_them_once(): void
    {
        $artefact = self::plate();
        self::assertSame(['60.0', '40.0', 'Ø 12.0', '2 × Ø 9.0'], self::words($artefact));
        foreach ($artefact->data['planes'][0]['dimensions'] as $one) {
            [$a, $b] = $one['line'];
            self::assertEqualsWithDelta([5.0, 5.0], [$a[2], $b[2]], 1e-9, 'in the plane');
            self::assertEqualsWithDelta($one['value'], Vector3::length(Vector3::minus($b, $a)), 1e-9, 'as long as it says');
            // The width and height stand outside of the part, diameters where the holes are.
            $isOutside = max(abs($a[0]) / 30.0, abs($a[1]) / 20.0) > 1.0;
            self::assertSame($one['sign'] === '', $isOutside);
        }
        self::assertArrayNotHasKey('dimensions', self::plate(false)->data['planes'][0]);
    }

    #[Test]
    public function rounded_corners_have_a_radius_and_a_slanted_side_its_own_length(): void
    {
        // Level curve of 40 x 30 with corners of 5 mm, and one corner cut off instead by a side of 10 x 10.
        $points = [[-15.0, -15.0], [15.0, -15.0], [20.0, -10.0], [20.0, 10.0], [15.0, 15.0], [-10.0, 15.0], [-20.0, 5.0], [-20.0, -10.0]];
        $quarter = tan(M_PI / 8.0);
        $pieces = [[0, 0.0], [1, 0.0], [2, $quarter], [3, 0.0], [4, $quarter], [5, 0.0], [6, 0.0], [7, 0.0], [0, $quarter]];
        $flat = array_merge(...array_map(fn (array $p) => [$p[0], $p[1], 7.0], $points));
        $found = SectionDimensions::of(['name' => 'XY', 'point' => [0.0, 0.0, 7.0], 'normal' => [0.0, 0.0, 1.0], 'curves' => [['closed' => true, 'points' => $flat, 'pieces' => $pieces]]]);
        self::assertSame(['40.00', '30.00', '30.00', '25.00', '20.00', '15.00', '14.14', '3 × R 5.00'], array_map(fn (array $one) => SectionDimensions::words($one, 1.0, 2), $found), 'one side of 30 and the height');
        $radius = $found[count($found) - 1];
        // From the middle of an arc, 5 mm from the centre of its corner, outwards.
        self::assertEqualsWithDelta(5.0, Vector3::length(Vector3::minus($radius['line'][0], [15.0, -10.0, 7.0])), 1e-9);
        self::assertGreaterThan(5.0, Vector3::length(Vector3::minus($radius['line'][1], [15.0, -10.0, 7.0])));
    }

    #[Test]
    public function they_go_where_the_body_goes_and_are_written_in_the_unit_asked_for(): void
    {
        $artefact = self::plate()->scaled(2.54)->moved(RigidTransform::turn([1.0, 0.0, 0.0], 0.5 * M_PI)->then(RigidTransform::shift(0.0, 0.0, 300.0)));
        $drawing = SectionDrawing::of($artefact, Unit::Inch);
        self::assertSame(['6.000', '4.000', 'Ø 1.200', '2 × Ø 0.900'], array_column($drawing->notes, 'words'));
        self::assertSame([0.0, 90.0, 30.0, 30.0], array_column($drawing->notes, 'turn'));
        self::assertEqualsWithDelta(6.0, abs($drawing->notes[0]['lines'][0][2] - $drawing->notes[0]['lines'][0][0]), 1e-9);
        // All of it lies on the sheet.
        $svg = simplexml_load_string(Svg::of($drawing));
        self::assertNotFalse($svg);
        [, , $width, $height] = array_map(floatval(...), explode(' ', (string) $svg['viewBox']));
        foreach ($svg->g[1]->text ?? [] as $text) {
            self::assertTrue((float) $text['x'] > 0.0 && (float) $text['x'] < $width && (float) $text['y'] > 0.0 && (float) $text['y'] < $height);
        }
        self::assertSame(['Dimensions', 4], [(string) ($svg->g[1]['id'] ?? ''), count($svg->g[1]->text ?? [])]);
        self::assertStringNotContainsString('Dimensions', Dxf::of(SectionDrawing::of(self::plate(false), Unit::Inch)));
    }

    #[Test]
    #[Group('nightly')]
    public function an_independent_reader_finds_them_on_a_layer_of_their_own(): void
    {
        exec('/usr/bin/python3 -c "import ezdxf" 2>&1', $said, $status);
        if ($status !== 0) {
            self::markTestSkipped('ezdxf is not installed');
        }
        $path = sys_get_temp_dir().'/dimensions-'.bin2hex(random_bytes(6)).'.dxf';
        file_put_contents($path, Dxf::of(SectionDrawing::of(self::plate(), Unit::Millimetre)));
        $ask = <<<'PYTHON'
            import sys, json, ezdxf
            doc = ezdxf.readfile(sys.argv[1])
            own = [e for e in doc.modelspace() if e.dxf.layer == 'Dimensions']
            print(json.dumps({'errors': len(doc.audit().errors), 'texts': [e.plain_text() for e in own if e.dxftype() == 'TEXT'], 'lines': sum(e.dxftype() == 'LINE' for e in own), 'rest': len(doc.modelspace()) - len(own)}))
            PYTHON;
        $found = json_decode((string) shell_exec('/usr/bin/python3 -c '.escapeshellarg($ask).' '.escapeshellarg($path)), true);
        unlink($path);
        // Two with two lines to them, two without; four curves besides.
        self::assertSame(['errors' => 0, 'texts' => ['60.00', '40.00', 'Ø 12.00', '2 × Ø 9.00'], 'lines' => 8, 'rest' => 4], $found);
    }
}
