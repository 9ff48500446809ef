<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver\Measuring;

use Emberstone\Core\Deliver\Measuring\Measurement;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Recipe\Recipe;
use Emberstone\Core\Recipe\Run;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class TakeMeasureTest extends TestCase
{
    /** @return list<Datum> on a plate of 40 x 30 x 10 with a bore of 8 through it; what is typed is exact */
    private static function datums(): array
    {
        return [
            new Datum('a', 'Base', 'plane', [20.0, 15.0, 0.0], [0.0, 0.0, -1.0], size: 25.0),
            new Datum('b', 'Top', 'plane', [20.0, 15.0, 10.0], [0.0, 0.0, 1.0], size: 25.0, max: 0.05),
            new Datum('c', 'Side', 'plane', [0.0, 15.0, 5.0], [-1.0, 0.0, 0.0]),
            new Datum('d', 'Bore', 'cylinder', [20.0, 15.0, 5.0], [0.0, 0.0, 1.0], 4.0, 5.0, max: 0.2),
            new Datum('e', 'Pin', 'line', [30.0, 15.0, 5.0], [0.0, 0.0, 1.0]),
            new Datum('f', 'Crossing', 'line', [3.0, 20.0, 7.0], [1.0, 0.0, 0.0]),
            new Datum('g', 'Corner', 'point', [40.0, 30.0, 10.0]),
            new Datum('h', 'Leaning', 'line', [0.0, 0.0, 0.0], [0.0, 0.5, 0.8660254037844386]),
            new Datum('i', 'Ledge', 'plane', [5.0, 15.0, 6.0], [0.0, 0.0, 1.0]),
            new Datum('j', 'Short', 'line', [0.0, 1.0, 0.0], [0.0, 0.6, 0.8], size: 20.0 / 3.0),
        ];
    }

    /** @param  array<string, mixed>  $parameters */
    private static function taken(array $parameters, ?TriangleMesh $mesh = null, Datum ...$more): Result
    {
        $workpiece = new Workpiece(bodies: [Body::of('Plate', $mesh ?? MeshBuilder::brick([40.0, 30.0, 10.0], 8))], datums: [...self::datums(), ...array_values($more)]);

        return Catalogue::operation('measure')($workpiece, Catalogue::parameters('measure', $parameters), new NoProgress);
    }

    /**
     * @param  array<string, mixed>  $parameters
     * @return array<string, mixed>
     */
    private static function figures(array $parameters, ?TriangleMesh $mesh = null, Datum ...$more): array
    {
        return self::taken($parameters, $mesh, ...$more)->after['measurements'][0];
    }

    /** @return iterable<string, array{array<string, mixed>, float}> */
    public static function distances(): iterable
    {
        yield 'two planes' => [['of' => ['Base', 'Top']], 10.0];
        yield 'a plane and a place' => [['of' => [[5.0, 5.0, 17.5], 'Top']], 7.5];
        yield 'a plane and an axis beside it' => [['of' => ['Bore', 'Side']], 20.0];
        yield 'two axes side by side' => [['of' => ['Bore', 'Pin']], 10.0];
        yield 'two axes that pass' => [['of' => ['Bore', 'Crossing']], 5.0];
        yield 'two places' => [['of' => [[37.0, 26.0, 10.0], 'Corner']], 5.0];
        yield 'a place and an axis' => [['of' => ['Bore', [23.0, 19.0, 99.0]]], 5.0];
        yield 'along an axis' => [['of' => ['Bore', 'Corner'], 'along' => 'Y'], 15.0];
        yield 'an angle of axes' => [['kind' => 'angle', 'of' => ['Bore', 'Leaning']], 30.0];
        yield 'an angle of planes' => [['kind' => 'angle', 'of' => ['Base', 'Side']], 90.0];
        yield 'a plane and an axis that leans' => [['kind' => 'angle', 'of' => ['Leaning', 'Top']], 60.0];
        yield 'a diameter' => [['kind' => 'diameter', 'of' => ['Bore']], 8.0];
        yield 'an area' => [['kind' => 'area'], 3800.0];
        yield 'a volume' => [['kind' => 'volume', 'of' => ['Plate']], 12000.0];
        yield 'a wall' => [['kind' => 'wall', 'of' => [[15.0, 10.0, 10.3]]], 10.0];
        yield 'the thinnest wall' => [['kind' => 'wall'], 10.0];
        yield 'a wall by its name' => [['kind' => 'wall', 'of' => ['Plate']], 10.0];
        yield 'a wall by a ball' => [['kind' => 'wall', 'of' => [[20.0, 15.0, 10.0]], 'by' => 'ball'], 10.0];
        yield 'a step up' => [['kind' => 'step', 'of' => ['Ledge', 'Top']], 4.0];
        yield 'a step down' => [['kind' => 'step', 'of' => ['Top', 'Ledge']], -4.0];
        yield 'a radius' => [['kind' => 'radius', 'of' => ['Bore']], 4.0];
        yield 'a box' => [['kind' => 'box'], 40.0];
        yield 'the position of an axis to another' => [['kind' => 'position', 'of' => ['Bore', 'Pin']], 20.0];
        yield 'the position of an axis to a place' => [['kind' => 'position', 'of' => ['Bore', [20.3, 15.4, 99.0]]], 1.0];
        yield 'the position of an axis that leans, at its worse end' => [['kind' => 'position', 'of' => ['Short', [0.0, 0.0, 0.0]]], 10.0];
        yield 'the position of a place' => [['kind' => 'position', 'of' => ['Corner', [40.0, 26.0, 7.0]]], 10.0];
        yield 'a length over an edge' => [['kind' => 'length', 'of' => [[32.0, 14.0, 10.0], [40.0, 14.0, 4.0]]], 14.0];
    }

    /** @param  array<string, mixed>  $parameters */
    #[Test]
    #[DataProvider('distances')]
    public function values_are_those_of_the_exact_part(array $parameters, float $value): void
    {
        self::assertEqualsWithDelta($value, self::figures($parameters)['value'], 1e-9);
    }

    /** @param  array<string, mixed>  $parameters */
    #[Test]
    #[DataProvider('distances')]
    public function a_dimension_is_as_long_as_what_it_stands_for(array $parameters, float $value): void
    {
        $figures = self::figures($parameters);
        if (! in_array($figures['kind'], ['distance', 'diameter', 'radius', 'wall'], true)) {
            self::assertIsList($figures['line']);

            return;
        }
        [$from, $to] = $figures['line'];
        self::assertEqualsWithDelta($value, sqrt(($to[0] - $from[0]) ** 2 + ($to[1] - $from[1]) ** 2 + ($to[2] - $from[2]) ** 2), 1e-9);
    }

    #[Test]
    public function the_wall_of_a_body_is_mapped_and_its_thinnest_places_are_listed(): void
    {
        // A plate of 10 with a pocket from below that leaves 3.
        $plate = MeshBuilder::brick([40.0, 30.0, 10.0], 8);
        $pocket = MeshBuilder::brick([10.0, 10.0, 20.0], 4)->transformed(RigidTransform::shift(5.0, 5.0, -13.0));
        $workpiece = new Workpiece(bodies: [Body::of('Plate', $plate), Body::of('Pocket', $pocket)]);
        $cut = Catalogue::operation('take-away')($workpiece, Catalogue::parameters('take-away', ['body' => 'Plate', 'with' => 'Pocket']), new NoProgress)->workpiece->bodies[0];
        foreach (['ray', 'ball'] as $by) {
            $result = self::taken(['kind' => 'wall', 'by' => $by], $cut->placedMesh());
            [$figures] = $result->after['measurements'];
            self::assertEqualsWithDelta(3.0, $figures['value'], 0.01, $by);
            self::assertCount(1, $result->after['measurements']);
            [$first] = $figures['places'];
            self::assertTrue($first['point'][0] > 4.9 && $first['point'][0] < 15.1 && $first['point'][1] > 4.9 && $first['point'][1] < 15.1, $by);
            self::assertGreaterThan(1, count($figures['places']));
            [$map] = $result->maps;
            self::assertSame(['Wall', $cut->placedMesh()->vertexCount()], [$map->label, strlen($map->bytes)]);
        }
    }

    #[Test]
    public function a_ball_is_as_thick_as_it_is_wide_and_a_thin_edge_is_no_wall(): void
    {
        $ball = SimpleSolid::ball([3.0, 2.0, 1.0], [0.0, 0.0, 1.0], 20.0);
        $place = array_slice($ball->positions, 0, 3);
        foreach (['ray', 'ball'] as $by) {
            // The facet at the pole leans, and with it the ball that touches it.
            self::assertEqualsWithDelta(20.0, self::figures(['kind' => 'wall', 'of' => [$place], 'by' => $by], $ball)['value'], 0.5, $by);
        }
        // The four sides of a tetrahedron lean by more than 60 degrees to each other: no two of them make a wall.
        $this->expectExceptionMessage('no wall');
        self::taken(['kind' => 'wall'], TriangleMesh::fromFlat([1.0, 1.0, 1.0, 1.0, -1.0, -1.0, -1.0, 1.0, -1.0, -1.0, -1.0, 1.0], [0, 1, 2, 0, 3, 1, 0, 2, 3, 1, 3, 2]));
    }

    #[Test]
    public function a_position_is_no_matter_of_planes_nor_a_step_of_axes(): void
    {
        foreach ([['position', ['Base', 'Bore']], ['step', ['Bore', 'Top']], ['step', ['Base', 'Side']]] as [$kind, $of]) {
            try {
                self::taken(['kind' => $kind, 'of' => $of]);
                self::fail("$kind was not refused");
            } catch (InvalidParameter $refused) {
                self::assertStringContainsString('names "', $refused->getMessage());
            }
        }
    }

    #[Test]
    public function clicks_on_the_surface_measure_what_is_fitted_around_them(): void
    {
        $at = fn (float $x, float $y, float $z, string $fit): array => ['at' => [$x, $y, $z], 'fit' => $fit];
        $across = self::figures(['of' => [$at(10.0, 10.0, 0.0, 'plane'), $at(25.0, 12.0, 10.01, 'plane')]]);
        self::assertEqualsWithDelta(10.0, $across['value'], 1e-9);
        self::assertSame('Distance of plane to plane', $across['name']);
        self::assertEqualsWithDelta(4.0, self::figures(['of' => [$at(10.0, 10.0, 4.0, 'point'), 'Base']])['value'], 1e-9);
        $tube = SimpleSolid::tube([0.0, 0.0, 0.0], [0.0, 0.6, 0.8], 30.0, 20.0, 25.0);
        $wall = array_slice($tube->positions, 3 * $tube->faces[0], 3);
        $bore = self::figures(['kind' => 'diameter', 'of' => [['at' => array_values($wall), 'fit' => 'cylinder']]], $tube);
        self::assertEqualsWithDelta(30.0, max($bore['value'], 30.0), 0.01);
        self::assertNotNull($bore['uncertainty']);
    }

    #[Test]
    public function a_click_beside_which_the_part_was_moved_is_not_taken_for_another_place(): void
    {
        $click = ['at' => [10.0, 10.0, 10.0], 'fit' => 'plane'];
        self::assertEqualsWithDelta(10.0, self::figures(['of' => [$click, 'Base']])['value'], 1e-9);
        try {
            self::taken(['of' => [$click, 'Base']], MeshBuilder::brick([40.0, 30.0, 10.0], 8)->transformed(RigidTransform::shift(0.0, 0.0, 4.0)));
            self::fail('not refused');
        } catch (UnsuitableInput $refused) {
            self::assertStringContainsString('is not at 10, 10, 10 any more', $refused->getMessage());
        }
    }

    #[Test]
    public function all_holes_like_one_are_measured_in_one_act_and_no_others(): void
    {
        $workpiece = new Workpiece(bodies: [Body::of('Flange', SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [60.0, 60.0, 8.0]))]);
        $do = function (string $name, array $parameters) use (&$workpiece): Result {
            $result = Catalogue::operation($name)($workpiece, Catalogue::parameters($name, $parameters), new NoProgress);
            $workpiece = $result->workpiece;

            return $result;
        };
        foreach ([[20.0, 20.0, 9.0], [-20.0, 20.0, 9.1], [-20.0, -20.0, 9.0], [0.0, 0.0, 14.0]] as [$x, $y, $diameter]) {
            $do('open-hole', ['axis' => ['point' => [$x, $y, 0.0], 'direction' => [0.0, 0.0, 1.0]], 'diameter' => $diameter]);
        }
        $click = ['at' => [24.5, 20.0, 4.0], 'fit' => 'cylinder'];
        try {
            $do('measure', ['kind' => 'diameter', 'of' => [$click], 'alike' => true]);
            self::fail('not refused');
        } catch (UnsuitableInput $refused) {
            self::assertStringContainsString('find its shapes first', $refused->getMessage());
        }
        $do('find-shapes', []);
        $result = $do('measure', ['kind' => 'diameter', 'of' => [$click], 'alike' => true, 'name' => 'Bolt hole', 'nominal' => 9.0, 'plus' => 0.05, 'minus' => 0.05]);
        $found = $result->after['measurements'];
        self::assertSame(['Bolt hole 1', 'Bolt hole 2', 'Bolt hole 3'], array_column($found, 'name'));
        $values = array_column($found, 'value');
        sort($values);
        self::assertEqualsWithDelta([9.0, 9.0, 9.1], $values, 0.01);
        self::assertStringStartsWith('3 alike, ', $result->headline);
        self::assertStringContainsString('2 in tolerance · 1 out of tolerance', $result->headline);
    }

    #[Test]
    public function a_form_is_what_the_surface_strays_and_an_opening_has_an_inner_and_an_outer_size(): void
    {
        // A bore that is 8.1 by 7.9 wide, and a top with a dent of 0.03.
        $plate = MeshBuilder::brick([40.0, 30.0, 10.0], 16);
        $bore = SimpleSolid::cone([0.0, 0.0, -1.0], [0.0, 0.0, 1.0], 8.0, 8.0, 12.0);
        $p = $bore->positions;
        for ($o = 0; $o < count($p); $o += 3) {
            [$p[$o], $p[$o + 1]] = [20.0 + 1.0125 * $p[$o], 15.0 + 0.9875 * $p[$o + 1]];
        }
        $drilled = Catalogue::operation('take-away')((new Workpiece)->withBodies([Body::of('Plate', $plate), Body::of('Bore', $bore->withPositions($p))]), Catalogue::parameters('take-away', ['with' => 'Bore']), new NoProgress)->workpiece->bodies[0]->placed();
        assert($drilled instanceof TriangleMesh);
        $q = $drilled->positions;
        $dent = array_keys(array_filter(array_chunk($q, 3), fn (array $v) => abs($v[2] - 10.0) < 1e-9 && hypot($v[0] - 10.0, $v[1] - 15.0) < 0.1));
        self::assertCount(1, $dent);
        $q[3 * $dent[0] + 2] -= 0.03;
        $mesh = $drilled->withPositions($q);

        // The flats of the wall cut its corners by that much.
        $opening = self::figures(['kind' => 'opening', 'of' => ['Bore']], $mesh);
        self::assertEqualsWithDelta(7.9, $opening['value'], SimpleSolid::SAGITTA);
        self::assertEqualsWithDelta(8.1, $opening['more']->outer, SimpleSolid::SAGITTA);
        self::assertEqualsWithDelta(0.1, self::figures(['kind' => 'cylindricity', 'of' => ['Bore']], $mesh)['value'], SimpleSolid::SAGITTA);
        self::assertEqualsWithDelta(0.1, self::figures(['kind' => 'roundness', 'of' => ['Bore']], $mesh)['value'], SimpleSolid::SAGITTA);
        self::assertEqualsWithDelta(0.03, self::figures(['kind' => 'flatness', 'of' => ['Top']], $mesh)['value'], 1e-9);
    }

    #[Test]
    public function fits_say_how_sure_a_value_is_and_that_grows_with_the_distance_from_their_middle(): void
    {
        // 0.02 over the root of 20 places but three; a lean of that over 10 / sqrt 3.
        $fitted = new Datum('x', 'Fitted', 'plane', [20.0, 15.0, 10.0], [0.0, 0.0, 1.0], size: 10.0, rms: 0.02, points: 5000, made: 'spread');
        $s = 0.02 / sqrt(17.0);
        $near = self::figures(['of' => ['Fitted', [20.0, 15.0, 4.0]]], null, $fitted);
        self::assertEqualsWithDelta(2.0 * $s, $near['uncertainty'], 1e-12);
        $far = self::figures(['of' => ['Fitted', [320.0, 15.0, 4.0]]], null, $fitted);
        self::assertEqualsWithDelta(2.0 * hypot($s, 300.0 * $s * sqrt(3.0) / 10.0), $far['uncertainty'], 1e-12);
        // Of what is made of other datums nothing is known.
        self::assertNull(self::figures(['of' => ['Made', 'Top']], null, new Datum('y', 'Made', 'point', [0.0, 0.0, 0.0], made: 'constructed'))['uncertainty']);
        self::assertSame('6.0000 ± 0.0097 mm · Distance of Fitted to 20, 15, 4', self::taken(['of' => ['Fitted', [20.0, 15.0, 4.0]]], null, $fitted)->headline);
    }

    #[Test]
    public function a_verdict_is_in_out_or_too_near_the_limit_to_tell(): void
    {
        $measured = new Measurement(10.05, 'mm', 0.02);
        self::assertSame('in', $measured->verdict(10.0, 0.1, 0.1));
        self::assertSame('unsure', $measured->verdict(10.0, 0.08, 0.1));
        self::assertSame('out', $measured->verdict(10.0, 0.0, null));
        self::assertSame('in', $measured->verdict(10.0, null, 0.0));
        self::assertNull($measured->verdict(10.0, null, null));
        self::assertSame('10.000 ± 0.000 mm · in tolerance · Distance of Base to Top', self::taken(['of' => ['Base', 'Top'], 'nominal' => 10.0, 'plus' => 0.1, 'minus' => 0.1])->headline);
    }

    #[Test]
    public function a_recipe_in_inches_gives_and_takes_inches_and_squares_of_them(): void
    {
        $folder = sys_get_temp_dir().'/emberstone-measure-'.getmypid();
        mkdir($folder);
        $file = "$folder/plate.off";
        Formats::write($file, MeshBuilder::brick([4.0, 3.0, 1.0], 2));
        $report = (new Run(Recipe::fromJson((string) json_encode(['recipe' => 1, 'unit' => 'in', 'steps' => [
            ['op' => 'measure', 'kind' => 'area', 'nominal' => 38.0, 'plus' => 0.1, 'minus' => 0.1], ['op' => 'measure', 'of' => [[0, 0, 0], [0, 0, 1]], 'nominal' => 1.0, 'plus' => 0.01],
        ]]))))([$file], $folder, 'ply', new NoProgress);
        array_map(unlink(...), glob("$folder/*") ?: []);
        rmdir($folder);
        self::assertSame(['in2', 'in'], array_column($report['measurements'], 'unit'));
        self::assertEqualsWithDelta(38.0, $report['measurements'][0]['value'], 1e-9);
        self::assertEqualsWithDelta(1.0, $report['measurements'][1]['nominal'], 1e-12);
        self::assertSame(['in', 'in'], array_column($report['measurements'], 'verdict'));
    }

    #[Test]
    public function a_known_length_brings_the_scale_into_the_uncertainty_of_what_is_measured_after_it(): void
    {
        $folder = sys_get_temp_dir().'/emberstone-scale-'.bin2hex(random_bytes(4));
        mkdir($folder);
        try {
            Formats::write("$folder/Bush.off", SimpleSolid::tube([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], 40.0, 30.0, 100.0));
            $measure = ['op' => 'measure', 'kind' => 'diameter', 'of' => [['at' => [20.0, 0.0, 50.0], 'fit' => 'cylinder']]];
            $scale = ['op' => 'scale', 'measured' => 100.0, 'actual' => 100.0, 'readTo' => 0.1];
            $run = fn (array $steps) => (new Run(Recipe::fromJson((string) json_encode(['recipe' => 1, 'unit' => 'mm', 'steps' => $steps]))))(["$folder/Bush.off"], $folder, 'ply', new NoProgress);
            $report = $run([$measure, $scale, $measure, ['op' => 'turn', 'axis' => 'z', 'angle' => 90.0, 'about' => 'origin'], $measure, ['op' => 'scale', 'factor' => 1.0001], $measure]);
            [$before, $known, $turned, $lost] = array_column($report['measurements'], 'uncertainty');
            $share = 0.1 / sqrt(3.0) / 100.0;
            self::assertEqualsWithDelta(hypot($before, 2.0 * $share * 40.0), $known, 1e-6);
            self::assertEqualsWithDelta($known, $turned, 1e-9);
            self::assertEqualsWithDelta($before, $lost, 1e-3 * $before, 'by a factor that nobody measured nothing is known');
            self::assertStringContainsString('the scale comes on top', $report['steps'][0]['notes'][0]);
            self::assertStringContainsString('and of the scale', $report['steps'][2]['notes'][0]);
        } finally {
            array_map(unlink(...), glob("$folder/*") ?: []);
            rmdir($folder);
        }
    }

    /** @return iterable<string, array{array<string, mixed>, string}> */
    public static function refusals(): iterable
    {
        yield 'a datum that is gone' => [['of' => ['Base', 'Gone']], 'cannot find "Gone": the datums are Base, Top'];
        yield 'planes that meet' => [['of' => ['Base', 'Side']], 'lean 90.0 degrees to each other'];
        yield 'one alone' => [['of' => ['Base']], 'distance is measured of two: datums or places'];
        yield 'a diameter of a plane' => [['kind' => 'diameter', 'of' => ['Base']], 'a plane; a diameter is that of a cylinder'];
        yield 'an angle to a point' => [['kind' => 'angle', 'of' => ['Base', 'Corner']], 'which has no direction'];
        yield 'nothing there' => [['kind' => 'cylindricity', 'of' => ['Bore']], 'No surface lies on Bore any more'];
        yield 'tolerance of nothing' => [['kind' => 'area', 'plus' => 1.0], 'say what it should be'];
        yield 'a fit that is none' => [['of' => ['Base', ['at' => [1.0, 2.0, 3.0], 'fit' => 'torus']]], 'fits one of plane, cylinder'];
        yield 'not a place' => [['of' => ['Base', [1.0, 2.0]]], 'places of three numbers'];
    }

    /** @param  array<string, mixed>  $parameters */
    #[Test]
    #[DataProvider('refusals')]
    public function what_cannot_be_measured_is_refused_in_words(array $parameters, string $words): void
    {
        try {
            self::taken($parameters);
            self::fail('not refused');
        } catch (UnsuitableInput|InvalidParameter $refusal) {
            self::assertStringContainsString($words, $refusal->getMessage());
        }
    }

    #[Test]
    public function an_open_body_has_no_volume_and_far_from_the_origin_values_are_the_same(): void
    {
        $open = MeshBuilder::without(MeshBuilder::icosphere(2, 6.0), 5.0);
        try {
            self::taken(['kind' => 'volume'], $open);
            self::fail('not refused');
        } catch (UnsuitableInput $refusal) {
            self::assertStringContainsString('not closed has no volume', $refusal->getMessage());
        }
        $brick = MeshBuilder::brick([40.0, 30.0, 10.0], 4)->transformed(RigidTransform::shift(1e6, -2e6, 3e5));
        self::assertEqualsWithDelta(12000.0, self::figures(['kind' => 'volume'], $brick)['value'], 1e-4);
    }
}
