<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Deliver\Handover\HandedOver;
use Emberstone\Core\Deliver\Handover\HandoverContext;
use Emberstone\Core\Deliver\Handover\Package;
use Emberstone\Core\Deliver\Handover\PartPicture;
use Emberstone\Core\Deliver\Handover\RawDeviation;
use Emberstone\Core\Deliver\Handover\ReportPage;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Version;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class HandoverTest extends TestCase
{
    use Refuses;

    /** @param  array<string, mixed>  $parameters */
    private static function delivered(Workpiece $workpiece, array $parameters): HandedOver
    {
        $artefacts = Catalogue::operation('deliver')($workpiece, Catalogue::parameters('deliver', $parameters), new NoProgress)->workpiece->artefacts;

        return HandedOver::of($artefacts[count($artefacts) - 1]);
    }

    private static function workpiece(): Workpiece
    {
        $box = SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [40.0, 30.0, 10.0]);
        $box = TriangleMesh::fromFlat($box->positions, $box->faces, [], [TriangleMesh::MADE, ...array_fill(0, $box->faceCount() - 1, TriangleMesh::MEASURED)]);
        $workpiece = new Workpiece(bodies: [Body::of('a+b', $box), Body::of('a_b', MeshBuilder::icosphere(2, 10.0))]);

        return Catalogue::operation('section')($workpiece, Catalogue::parameters('section', ['plane' => ['point' => [0.0, 0.0, 5.0], 'normal' => [0.0, 0.0, 1.0]]]), new NoProgress)->workpiece;
    }

    private static function wheel(): HandedOver
    {
        static $delivery = null;

        return $delivery ??= self::delivered(self::workpiece(), ['for' => 'Kelter & Sons', 'brief' => ['title' => 'Wheel <1>', 'scale' => ['by' => 'Oda Kern', 'at' => '2026-11-29T10:00:00Z']]]);
    }

    private static function context(): HandoverContext
    {
        $measured = ['name' => 'Bore <A>', 'kind' => 'diameter', 'value' => 30.01, 'unit' => 'mm', 'words' => '30.010 ± 0.020 mm', 'nominal' => 30.0, 'plus' => 0.1, 'minus' => null, 'verdict' => 'in'];
        $compared = ['body' => 'wheel', 'to' => 'passes', 'rms' => 0.03, 'mean' => 0.001, 'p95' => 0.06, 'max' => 0.4, 'within' => 0.97, 'tolerance' => 0.09, 'places' => [], 'histogram' => ['from' => -0.15, 'to' => 0.15, 'counts' => [1, 8, 3]]];

        return new HandoverContext(new \DateTimeImmutable('2026-11-30T10:00:00Z'), 'Ines Brandt', true, [['label' => 'Fuse', 'what' => '107 k faces', 'notes' => []]], [$measured], [$compared], Version::NUMBER);
    }

    #[Test]
    public function files_are_as_the_brief_asks_with_names_of_their_own_and_right_sums(): void
    {
        $delivery = self::delivered(self::workpiece(), ['formats' => ['stl', 'off'], 'for' => 'Kelter Mill', 'brief' => ['unit' => 'cm', 'up' => '+y']]);
        $files = array_column($delivery->files(), null, 'name');
        self::assertSame(['a_b.stl', 'a_b.off', 'a_b-2.stl', 'a_b-2.off', 'Section of a_b.dxf', 'Section of a_b.svg', 'Section of a_b-2.dxf', 'Section of a_b-2.svg'], array_keys($files));
        $path = tempnam(sys_get_temp_dir(), 'delivered').'.off';
        $bytes = (string) base64_decode($files['a_b.off']['bytes'], true);
        self::assertSame([strlen($bytes), hash('sha256', $bytes)], [$files['a_b.off']['size'], $files['a_b.off']['sha256']]);
        file_put_contents($path, $bytes);
        $box = BoundingBox::of(Formats::read($path)->geometry->positions);
        unlink($path);
        // Centimetres; what pointed along Z points along Y.
        self::assertEqualsWithDelta([4.0, 1.0, 3.0], [$box->max[0] - $box->min[0], $box->max[1] - $box->min[1], $box->max[2] - $box->min[2]], 1e-9);
    }

    #[Test]
    public function a_package_holds_everything_with_its_sums_and_is_the_same_to_the_bit(): void
    {
        $delivery = self::wheel();
        $zip = Package::zip(Package::files($delivery, self::context(), '{"recipe": 1}'), $delivery, self::context());
        self::assertSame(hash('sha256', $zip), hash('sha256', Package::zip(Package::files($delivery, self::context(), '{"recipe": 1}'), $delivery, self::context())));
        $path = tempnam(sys_get_temp_dir(), 'package');
        file_put_contents($path, $zip);
        $archive = new \ZipArchive;
        self::assertTrue($archive->open($path));
        $manifest = json_decode((string) $archive->getFromName(Package::MANIFEST), true);
        self::assertSame(['Wheel <1>', 'Ines Brandt', 'mm'], [$manifest['title'], $manifest['by'], $manifest['unit']]);
        self::assertSame($archive->numFiles - 1, count($manifest['files']));
        foreach ($manifest['files'] as $file) {
            $bytes = (string) $archive->getFromName($file['name']);
            self::assertSame([$file['size'], $file['sha256']], [strlen($bytes), hash('sha256', $bytes)], $file['name']);
        }
        self::assertStringStartsWith('%PDF-', (string) $archive->getFromName('report.pdf'));
        self::assertSame('{"recipe": 1}', $archive->getFromName('recipe.json'));
        $archive->close();
        unlink($path);
    }

    #[Test]
    public function the_report_shows_how_far_the_raw_points_lie_off(): void
    {
        // A plate whose points lie 0.15 mm over its top, and none anywhere else.
        $points = [];
        for ($x = 1; $x < 40; $x++) {
            for ($y = 1; $y < 30; $y++) {
                array_push($points, (float) $x, (float) $y, 10.15);
            }
        }
        $plate = MeshBuilder::brick([40.0, 30.0, 10.0], 8);
        $workpiece = new Workpiece([Pass::of('Pass', PointCloud::fromFlat($points))], [Body::of('Plate', $plate)]);
        $delivery = self::delivered($workpiece, ['brief' => ['toleranceMm' => 0.15]]);
        $part = $delivery->parts()[0];
        self::assertStringContainsString('0.15 mm', $part['deviation']['title']);
        self::assertStringContainsString($part['deviation']['png'], ReportPage::html($delivery, self::context()));
        $seen = RawDeviation::picture($plate, $workpiece->passes, 0.15, [0.0, 0.0, -1.0], [0.0, 1.0, 0.0], 40, 30);
        [, $colours] = self::middle((string) base64_decode($seen['png'] ?? '', true), 40);
        // Brown, at the outer end of the scale: red more than green more than blue.
        self::assertTrue($colours[0] > $colours[1] && $colours[1] > $colours[2], implode(' ', $colours));
        $below = RawDeviation::picture($plate, $workpiece->passes, 0.15, [0.0, 0.0, 1.0], [0.0, 1.0, 0.0], 40, 30);
        [, $grey] = self::middle((string) base64_decode($below['png'] ?? '', true), 40);
        self::assertLessThan(20, max($grey) - min($grey));
        self::assertNull(RawDeviation::picture($plate, [], 0.15, [0.0, 0.0, -1.0], [0.0, 1.0, 0.0], 40, 30));
    }

    /** @return array{int, array{int, int, int}} rows, and the colour in the middle of a PNG of three bytes a pixel without filters */
    private static function middle(string $png, int $columns): array
    {
        $raw = '';
        for ($at = 8; $at < strlen($png);) {
            $length = (unpack('N', $png, $at) ?: [1 => 0])[1];
            $raw .= substr($png, $at + 4, 4) === 'IDAT' ? substr($png, $at + 8, $length) : '';
            $at += 12 + $length;
        }
        $pixels = (string) gzuncompress($raw);
        $rows = intdiv(strlen($pixels), 1 + 3 * $columns);
        $o = intdiv($rows, 2) * (1 + 3 * $columns) + 1 + 3 * intdiv($columns, 2);

        return [$rows, [ord($pixels[$o]), ord($pixels[$o + 1]), ord($pixels[$o + 2])]];
    }

    #[Test]
    public function the_report_says_what_was_made_up_who_confirmed_the_scale_and_what_was_measured(): void
    {
        $html = ReportPage::html(self::wheel(), self::context());
        // Half of the top of a box of 40 x 30 x 10.
        self::assertStringContainsString('made '.round(100 * 600 / 3800, 1).' %', $html);
        foreach (['Wheel &lt;1&gt;', 'for Kelter &amp; Sons', 'by Ines Brandt', 'confirmed by Oda Kern', 'Bore &lt;A&gt;', '30.010 ± 0.020 mm', 'in tolerance', '12,000 mm³', '107 k faces', 'Section of a+b', 'wheel to passes', '97 % within 0.09 mm', 'from -0.15 mm'] as $words) {
            self::assertStringContainsString($words, $html);
        }
        // A bar for each count, and beyond the tolerance rimmed ones.
        preg_match('~far off" src="data:image/svg\+xml;base64,([^"]+)~', $html, $drawing);
        $svg = (string) base64_decode($drawing[1] ?? '', true);
        self::assertSame([4, 2], [substr_count($svg, '<rect'), substr_count($svg, 'stroke=')], 'the middles of the outer bars lie 0.1 off');
        // It needs nothing from outside.
        self::assertDoesNotMatchRegularExpression('~(src|href)="(?!data:)~', $html);
        self::assertSame([], array_filter(libxml_get_errors()));
    }

    #[Test]
    public function a_picture_shows_the_part_in_its_place_and_hatches_what_was_made(): void
    {
        $box = SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [40.0, 20.0, 10.0]);
        $box = TriangleMesh::fromFlat($box->positions, $box->faces);
        $pixels = self::pixels(PartPicture::of($box, [0.0, 0.0, -1.0], [0.0, 1.0, 0.0], 200, 200));
        // 40 wide fill 0.92 of 200 pixels, 20 high half of that.
        $colours = array_map(fn (array $at) => $pixels[$at[1]][$at[0]], [[100, 100], [100, 50], [100, 60], [10, 100], [3, 100], [197, 140]]);
        self::assertSame([255, 255, 255], $colours[1]);
        self::assertNotSame([255, 255, 255], $colours[2]);
        self::assertNotSame([255, 255, 255], $colours[3]);
        self::assertSame([[255, 255, 255], [255, 255, 255]], [$colours[4], $colours[5]]);
        self::assertGreaterThan($colours[0][2], $colours[0][0], 'measured surface is warm');
        $made = TriangleMesh::fromFlat($box->positions, $box->faces, [], array_fill(0, $box->faceCount(), TriangleMesh::FILLED));
        $hatched = self::pixels(PartPicture::of($made, [0.0, 0.0, -1.0], [0.0, 1.0, 0.0], 200, 200));
        self::assertGreaterThan($hatched[100][100][0], $hatched[100][100][1], 'made-up surface is teal');
        self::assertGreaterThan(1, count(array_unique(array_column(array_slice($hatched[100], 90, 20), 1))), 'in stripes');
    }

    /** @return list<list<array{int, int, int}>> */
    private static function pixels(string $png): array
    {
        ['wide' => $wide] = unpack('Nwide', $png, 16) ?: ['wide' => 0];
        $at = (int) strpos($png, 'IDAT');
        ['length' => $length] = unpack('Nlength', $png, $at - 4) ?: ['length' => 0];

        return array_map(fn (string $line) => array_map(fn (string $pixel) => array_map(ord(...), str_split($pixel)), str_split(substr($line, 1), 3)), str_split((string) gzuncompress(substr($png, $at + 4, $length)), 1 + 3 * $wide));
    }

    #[Test]
    public function names_given_by_hand_stand_on_files_and_report(): void
    {
        $delivery = self::delivered(new Workpiece(bodies: [Body::of('Fused, 0.8 mm', MeshBuilder::icosphere(1, 10.0))]), ['brief' => ['names' => ['Fused, 0.8 mm' => 'Finial']]]);
        self::assertSame([['Finial.stl'], ['Finial']], [array_column($delivery->files(), 'name'), array_column($delivery->parts(), 'name')]);
    }

    #[Test]
    public function a_body_looks_in_files_pictures_and_report_as_somebody_said(): void
    {
        $ball = new Workpiece(bodies: [Body::of('Ball', MeshBuilder::icosphere(3, 10.0))]);
        $look = ['colour' => '#2040c0', 'material' => 'painted oak'];
        foreach ([['looks' => ['Ball' => $look]], ['brief' => ['looks' => ['Ball' => $look]]]] as $said) {
            $delivery = self::delivered($ball, $said + ['formats' => ['glb']]);
            self::assertStringContainsString('"painted oak"', (string) base64_decode($delivery->files()[0]['bytes']));
            self::assertSame('painted oak', $delivery->parts()[0]['material']);
            [, [$red, $green, $blue]] = self::middle((string) base64_decode($delivery->parts()[0]['pictures'][0]['png']), 640);
            self::assertTrue($blue > 2 * $green && $green > $red, "$red $green $blue");
            self::assertStringContainsString('painted oak', ReportPage::html($delivery, self::context()));
        }
        self::assertSame('', self::delivered($ball, [])->parts()[0]['material']);
        self::assertRefused([[fn () => self::delivered($ball, ['looks' => ['Ball' => ['colour' => 'blue']]]), 'six hexadecimal digits'], [fn () => self::delivered($ball, ['looks' => ['Bal' => $look]]), 'looks names "Bal"']]);
    }

    #[Test]
    public function what_cannot_be_handed_over_is_told(): void
    {
        self::assertRefused([
            [fn () => self::delivered(new Workpiece, []), 'There is no body to hand over'],
            [fn () => self::delivered(self::workpiece(), ['formats' => ['dwg']]), 'formats holds "dwg"'],
            [fn () => self::delivered(self::workpiece(), ['on' => ['nothing']]), 'nothing'],
            [fn () => self::delivered(self::workpiece(), ['on' => ['a+b'], 'bodies' => ['a+b']]), 'say the same'],
        ]);
        $one = self::delivered(self::workpiece(), ['bodies' => ['a_b']]);
        self::assertSame(['a_b.stl', 'Section of a_b.dxf', 'Section of a_b.svg'], array_column($one->files(), 'name'));
    }

    #[Test]
    public function the_version_is_that_of_the_package(): void
    {
        self::assertSame(json_decode((string) file_get_contents(__DIR__.'/../../../composer.json'), true)['version'], Version::NUMBER);
    }
}
