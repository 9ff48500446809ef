<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Deliver\Section;
use Emberstone\Core\Deliver\SectionDrawing;
use Emberstone\Core\Deliver\SectionParameters;
use Emberstone\Core\Exchange\Drawing;
use Emberstone\Core\Exchange\Dxf;
use Emberstone\Core\Exchange\Svg;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class SectionTest extends TestCase
{
    use Refuses;

    private static function section(TriangleMesh $mesh, SectionParameters $parameters): Result
    {
        return (new Section)((new Workpiece)->withBodies([Body::of('Cap', $mesh)]), $parameters, new NoProgress);
    }

    private static function artefact(Result $result): Artefact
    {
        return $result->workpiece->artefacts[0];
    }

    /** A tube around Z from z = 0 to a height; its circles are regular polygons with this many sides. */
    private static function tube(float $outer, float $inner, float $height, int $sides): TriangleMesh
    {
        $p = $f = [];
        foreach ([[$outer, 0.0], [$outer, $height], [$inner, $height], [$inner, 0.0]] as [$r, $z]) {
            for ($k = 0; $k < $sides; $k++) {
                array_push($p, $r * cos(2.0 * M_PI * $k / $sides), $r * sin(2.0 * M_PI * $k / $sides), $z);
            }
        }
        for ($ring = 0; $ring < 4; $ring++) {
            for ($k = 0; $k < $sides; $k++) {
                [$a, $b] = [$ring * $sides + $k, $ring * $sides + ($k + 1) % $sides];
                [$c, $d] = [($ring + 1) % 4 * $sides + ($k + 1) % $sides, ($ring + 1) % 4 * $sides + $k];
                array_push($f, $a, $b, $c, $a, $c, $d);
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    #[Test]
    public function a_tube_has_an_outer_curve_and_an_opening_of_the_length_and_area_of_its_polygons(): void
    {
        $result = self::section(self::tube(10.0, 6.0, 8.0, 48), new SectionParameters('XY', shift: 3.0));
        $figures = SectionDrawing::figures(self::artefact($result));
        usort($figures, fn (array $a, array $b) => $b['area'] <=> $a['area']);
        self::assertCount(2, $figures);
        foreach ([[10.0, 1.0], [6.0, -1.0]] as $k => [$r, $sign]) {
            self::assertTrue($figures[$k]['closed']);
            self::assertEqualsWithDelta(48 * 2.0 * $r * sin(M_PI / 48), $figures[$k]['length'], 1e-9);
            self::assertEqualsWithDelta($sign * 24 * $r * $r * sin(2.0 * M_PI / 48), $figures[$k]['area'], 1e-9);
        }
        self::assertEqualsWithDelta($figures[0]['area'] + $figures[1]['area'], $result->after['area'], 1e-9);
        self::assertSame([], $result->notes);
    }

    #[Test]
    public function a_curve_that_lies_on_circles_becomes_a_few_arcs_and_straight_sides_stay_four_lines(): void
    {
        $drawing = SectionDrawing::of(self::artefact(self::section(self::tube(10.0, 6.0, 8.0, 96), new SectionParameters('XY', shift: 3.0, fit: 0.01))), Unit::Millimetre);
        foreach ($drawing->layers[0]['paths'] as $path) {
            self::assertLessThanOrEqual(3, count($path['vertices']));
            foreach ($path['vertices'] as $k => [$x, $y, $bulge]) {
                // The radius that the bulge and the ends give.
                [$u, $v] = $path['vertices'][($k + 1) % count($path['vertices'])];
                $radius = hypot($u - $x, $v - $y) * (1.0 + $bulge * $bulge) / (4.0 * abs($bulge));
                self::assertEqualsWithDelta($radius > 8.0 ? 10.0 : 6.0, $radius, 0.01);
                // Openings run with the clock.
                self::assertSame($radius > 8.0, $bulge > 0.0);
            }
        }
        $box = $drawing->box();
        self::assertEqualsWithDelta([-10.0, -10.0, 10.0, 10.0], $box, 0.01);

        $brick = SectionDrawing::of(self::artefact(self::section(MeshBuilder::brick([20.0, 12.0, 8.0], 9), new SectionParameters('XY', shift: 3.3, fit: 0.001))), Unit::Millimetre);
        self::assertEqualsCanonicalizing([[0.0, 0.0, 0.0], [20.0, 0.0, 0.0], [20.0, 12.0, 0.0], [0.0, 12.0, 0.0]], array_map(fn (array $v) => array_map(fn (float $x) => round($x, 9), $v), $brick->layers[0]['paths'][0]['vertices']));
    }

    #[Test]
    public function lines_and_arcs_pass_no_point_of_a_curve_farther_than_asked(): void
    {
        $gen = new Gen(3);
        $mesh = MeshBuilder::ring(14.0, 5.0, 60, 40);
        $noisy = TriangleMesh::fromFlat(array_map(fn (float $v) => $v + $gen->float(-0.02, 0.02), $mesh->positions), $mesh->faces);
        $curve = self::artefact(self::section($noisy, new SectionParameters(['point' => [0.0, 0.0, 1.0], 'normal' => [0.1, 0.3, 1.0]], fit: 0.05)))->data['planes'][0];
        $pieces = $worst = 0;
        foreach ($curve['curves'] as ['points' => $points, 'pieces' => $chain]) {
            $flat = SectionDrawing::flat($points, $curve['normal']);
            $n = count($flat);
            for ($k = 1; $k < count($chain); $k++) {
                [[$from], [$to, $bulge]] = [$chain[$k - 1], $chain[$k]];
                $pieces++;
                [[$a, $b], [$c, $d]] = [$flat[$from], $flat[$to]];
                for ($i = $from; $i !== $to; $i = ($i + 1) % $n) {
                    [$x, $y] = $flat[$i];
                    if ($bulge === 0.0) {
                        $off = abs(($x - $a) * ($d - $b) - ($y - $b) * ($c - $a)) / hypot($c - $a, $d - $b);
                    } else {
                        // Centre: from the middle of the ends, to the left by (1 - bulge^2) / (4 bulge) of the way between them.
                        $by = (1.0 - $bulge * $bulge) / (4.0 * $bulge);
                        [$mx, $my] = [0.5 * ($a + $c) - $by * ($d - $b), 0.5 * ($b + $d) + $by * ($c - $a)];
                        $off = abs(hypot($x - $mx, $y - $my) - hypot($a - $mx, $b - $my));
                    }
                    $worst = max($worst, $off);
                }
            }
            self::assertSame($chain[0][0], $chain[count($chain) - 1][0]);
        }
        self::assertLessThanOrEqual(0.05 + 1e-9, $worst);
        self::assertLessThan(40, $pieces);
    }

    /** @return array<string, array{TriangleMesh}> */
    public static function shapes(): array
    {
        return SplitTest::shapes();
    }

    #[Test]
    #[DataProvider('shapes')]
    public function curves_of_closed_bodies_are_closed_and_their_areas_add_up_to_the_volume(TriangleMesh $mesh): void
    {
        $gen = new Gen(8);
        $vertices = array_chunk($mesh->positions, 3);
        for ($k = 0; $k < 24; $k++) {
            [$p, $q, $r] = array_map(fn () => $vertices[$gen->int(0, count($vertices) - 1)], [0, 1, 2]);
            // Along an axis, through three vertices, or anyhow.
            $normal = $k % 3 === 0 ? [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]][$gen->int(0, 2)] : ($k % 3 === 1 ? Vector3::cross(Vector3::minus($q, $p), Vector3::minus($r, $p)) : [$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), 0.3]);
            if (Vector3::length($normal) < 1e-6) {
                continue;
            }
            try {
                $figures = SectionDrawing::figures(self::artefact(self::section($mesh, new SectionParameters(['point' => $p, 'normal' => $normal]))));
            } catch (UnsuitableInput) {
                continue;
            }
            foreach ($figures as $curve) {
                self::assertTrue($curve['closed'], "plane $k");
            }
            self::assertGreaterThan(-1e-9, array_sum(array_column($figures, 'area')), "plane $k");
        }
        // The volume as the sum of slices: of 400 the midpoint rule is right to a thousandth.
        $result = self::section($mesh, new SectionParameters('XY', count: 400));
        $planes = self::artefact($result)->data['planes'];
        $spacing = $planes[1]['point'][2] - $planes[0]['point'][2];
        self::assertEqualsWithDelta(Measure::volume($mesh->positions, $mesh->faces), $result->after['area'] * $spacing, 2e-3 * $result->after['area'] * $spacing);
    }

    #[Test]
    public function an_open_body_has_open_curves_and_that_is_said(): void
    {
        $result = self::section(MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 5.0), new SectionParameters('YZ', shift: 0.123));
        self::assertSame(1, $result->after['open']);
        self::assertSame(['1 curve of Cap is open: the body is not closed there.'], $result->notes);
    }

    #[Test]
    public function planes_around_an_axis_give_half_sections_of_equal_area_on_a_tube(): void
    {
        $figures = SectionDrawing::figures(self::artefact(self::section(self::tube(10.0, 6.0, 8.0, 48), new SectionParameters(around: 'Z', count: 4))));
        self::assertCount(8, $figures);
        foreach ($figures as $curve) {
            self::assertEqualsWithDelta(32.0, $curve['area'], 1e-9);
            self::assertEqualsWithDelta(24.0, $curve['length'], 1e-9);
        }
        self::assertSame(['Z at 0°', 'Z at 45°', 'Z at 90°', 'Z at 135°'], array_values(array_unique(array_map(fn (array $curve) => $curve['plane']['name'], $figures))));
    }

    #[Test]
    public function it_goes_where_the_body_goes_and_grows_with_it(): void
    {
        $result = self::section(self::tube(10.0, 6.0, 8.0, 48), new SectionParameters('XY', shift: 3.0, fit: 0.001));
        $before = SectionDrawing::of(self::artefact($result), Unit::Millimetre);
        $moved = $result->workpiece->scaled(2.0)->moved(RigidTransform::turn([0.3, 0.5, -0.8], 1.1)->then(RigidTransform::shift(1e5, 2.0, 3.0)))->artefacts[0];
        self::assertEqualsWithDelta(4.0 * $result->after['area'], array_sum(array_column(SectionDrawing::figures($moved), 'area')), 1e-6);
        $after = SectionDrawing::of($moved, Unit::Millimetre);
        foreach ($before->layers[0]['paths'] as $k => $path) {
            self::assertEqualsWithDelta(array_column($path['vertices'], 2), array_column($after->layers[0]['paths'][$k]['vertices'], 2), 1e-9);
        }
    }

    #[Test]
    public function the_drawing_is_written_as_dxf_and_svg_in_true_size(): void
    {
        $drawing = new Drawing([['name' => 'XY, 3.00 mm before it', 'paths' => [['closed' => true, 'vertices' => [[0.0, 0.0, 0.0], [20.0, 0.0, 1.0], [20.0, 10.0, 0.0], [0.0, 10.0, 0.0]]]]], ['name' => 'bei 45°', 'paths' => []]], Unit::Millimetre);
        self::assertEqualsWithDelta([0.0, 0.0, 25.0, 10.0], $drawing->box(), 1e-12);
        $dxf = explode("\n", Dxf::of($drawing));
        self::assertContains('AC1015', $dxf);
        self::assertContains('XY_ 3.00 mm before it', $dxf);
        self::assertContains("bei 45\xB0", $dxf);
        self::assertSame(1, count(array_keys($dxf, 'LWPOLYLINE', true)));
        // Pairs of a code and a value.
        self::assertSame(0, (count($dxf) - 1) % 2);
        $svg = simplexml_load_string(Svg::of($drawing));
        self::assertNotFalse($svg);
        self::assertSame(['35mm', '20mm'], [(string) $svg['width'], (string) $svg['height']]);
        self::assertSame('M 5 15 L 25 15 A 5 5 0 0 0 25 5 L 5 5 L 5 15 Z', (string) $svg->g[0]->path['d']);
    }

    #[Test]
    #[Group('nightly')]
    public function an_independent_reader_finds_arcs_and_lines_of_the_right_size_and_no_errors(): void
    {
        // Debian's, which the package is for.
        exec('/usr/bin/python3 -c "import ezdxf" 2>&1', $said, $status);
        if ($status !== 0) {
            self::markTestSkipped('ezdxf is not installed');
        }
        $tube = SimpleSolid::tube([5.0, 3.0, 0.0], [0.0, 0.0, 1.0], 30.0, 20.0, 12.0);
        $artefact = self::artefact(self::section($tube, new SectionParameters('XY', shift: 6.0, fit: 0.02)));
        $path = sys_get_temp_dir().'/section-'.bin2hex(random_bytes(6)).'.dxf';
        foreach ([[Unit::Millimetre, 1.0], [Unit::Inch, 25.4]] as [$unit, $mm]) {
            file_put_contents($path, Dxf::of(SectionDrawing::of($artefact, $unit)));
            $ask = <<<'PYTHON'
                import sys, json, ezdxf
                from ezdxf import path
                doc = ezdxf.readfile(sys.argv[1])
                lines = list(doc.modelspace().query('LWPOLYLINE'))
                radii = [e.dxf.radius for l in lines for e in l.virtual_entities() if e.dxftype() == 'ARC']
                def area(points):
                    return abs(sum(a.x * b.y - b.x * a.y for a, b in zip(points, points[1:] + points[:1]))) / 2
                areas = sorted(area(list(path.make_path(l).flattening(1e-4))) for l in lines)
                print(json.dumps({'errors': len(doc.audit().errors), 'units': doc.header.get('$INSUNITS'), 'closed': [bool(l.closed) for l in lines], 'radii': [min(radii), max(radii)], 'areas': areas}))
                PYTHON;
            $answer = shell_exec('/usr/bin/python3 -c '.escapeshellarg($ask).' '.escapeshellarg($path));
            unlink($path);
            $found = json_decode((string) $answer, true);
            self::assertIsArray($found, (string) $answer);
            self::assertSame([0, $unit === Unit::Millimetre ? 4 : 1, [true, true]], [$found['errors'], $found['units'], $found['closed']]);
            // What is fitted lies within 0.02 mm of flats that lie within a hundredth of the circles.
            self::assertEqualsWithDelta([10.0, 15.0], array_map(fn (float $r) => $r * $mm, $found['radii']), 0.04);
            self::assertEqualsWithDelta([M_PI * 100.0, M_PI * 225.0], array_map(fn (float $a) => $a * $mm * $mm, $found['areas']), 2.0);
        }
    }

    #[Test]
    public function what_cannot_be_is_refused_in_words(): void
    {
        $ball = MeshBuilder::icosphere(2, 10.0);
        self::assertRefused([
            [fn () => self::section($ball, new SectionParameters('XY', shift: 50.0)), 'meets no body'],
            [fn () => (new Section)(new Workpiece, new SectionParameters('XY'), new NoProgress), 'no mesh'],
            [fn () => new SectionParameters, 'plane or around is required'],
            [fn () => new SectionParameters('XY', around: 'Z'), 'one of the two'],
            [fn () => self::section($ball, new SectionParameters(around: 'Bore')), 'cannot find "Bore"'],
            [fn () => new SectionParameters(around: ['point' => [0, 0, 0], 'direction' => [0, 0, 0]]), 'direction of length 0'],
        ]);
    }
}
