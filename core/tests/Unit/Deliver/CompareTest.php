<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Deliver\Compare;
use Emberstone\Core\Deliver\CompareParameters;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Lighten\Shapes\FindShapes;
use Emberstone\Core\Lighten\Shapes\FindShapesParameters;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Recipe;
use Emberstone\Core\Recipe\Run;
use Emberstone\Core\Recipe\Step;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class CompareTest extends TestCase
{
    use Refuses;

    /** @return array<string, mixed> */
    private static function compared(Workpiece $workpiece, CompareParameters $parameters): array
    {
        return (new Compare)($workpiece, $parameters, new NoProgress)->after['comparisons'][0];
    }

    /** A plate of 40 x 20 mm at z = 0 that looks upwards. */
    private static function plate(float $z = 0.0): TriangleMesh
    {
        $p = $f = [];
        for ($i = 0; $i <= 20; $i++) {
            for ($j = 0; $j <= 10; $j++) {
                array_push($p, 2.0 * $i, 2.0 * $j, $z);
            }
        }
        for ($i = 0; $i < 20; $i++) {
            for ($j = 0; $j < 10; $j++) {
                $a = 11 * $i + $j;
                array_push($f, $a, $a + 11, $a + 12, $a, $a + 12, $a + 1);
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    #[Test]
    public function faces_are_as_true_as_their_noise_and_a_bump_on_a_plane_is_told(): void
    {
        $tube = SimpleSolid::tube([0.0, 0.0, 7.0], Vector3::unit([0.2, 0.1, 0.9]), 30.0, 20.0, 15.0);
        $found = (new FindShapes)(new Workpiece(bodies: [Body::of('Tube', $tube)]), new FindShapesParameters, new NoProgress)->workpiece;
        $moved = $found->moved(RigidTransform::turn([1.0, 0.0, 0.0], 0.7));
        $exact = self::compared($moved, new CompareParameters('shapes', tolerance: 0.01));
        self::assertEquals(['shapes', 1.0], [$exact['to'], $exact['within']]);
        // The flats of a round wall lie a little inside of it, or of a bore outside.
        self::assertLessThan(1.1 * SimpleSolid::SAGITTA, $exact['max']);

        // One corner of a box is pulled up: each of its three faces is off by what their planes were not.
        $plate = self::plate();
        $bumpy = $plate->withPositions(array_map(fn (float $v, int $k) => $k === 3 * 110 + 2 ? 0.5 : $v, $plate->positions, array_keys($plate->positions)));
        $found = (new FindShapes)(new Workpiece(bodies: [Body::of('Plate', $bumpy)]), new FindShapesParameters(tolerance: 0.2), new NoProgress)->workpiece;
        $figures = self::compared($found, new CompareParameters('shapes', tolerance: 0.1));
        self::assertEqualsWithDelta(0.5, $figures['max'], 0.05);
        self::assertGreaterThan(0.0, $figures['places'][0]['distance'], 'outside: above a plate that looks up');
        self::assertEqualsWithDelta([20.0, 0.0], array_slice($figures['places'][0]['point'], 0, 2), 2.0);
        self::assertRefused([
            [fn () => self::compared(new Workpiece(bodies: [Body::of('Tube', $tube)]), new CompareParameters('shapes')), 'none were found on Tube yet'],
            [fn () => self::compared($found->withBodies([$found->bodies[0]->pared($tube)]), new CompareParameters('shapes')), 'has changed since its shapes were found'],
        ]);
    }

    #[Test]
    public function points_of_known_noise_and_shift_are_told_by_their_figures(): void
    {
        $gen = new Gen(4);
        $points = [];
        for ($k = 0; $k < 40_000; $k++) {
            array_push($points, $gen->float(1.0, 39.0), $gen->float(1.0, 19.0), 0.05 + 0.03 * sqrt(-2.0 * log($gen->float(1e-9))) * cos(2.0 * M_PI * $gen->float()));
        }
        // One far off, that the list must begin with.
        array_push($points, 20.0, 10.0, -2.5);
        $workpiece = new Workpiece([new Pass('p', 'p', PointCloud::fromFlat($points), RigidTransform::identity())], [Body::of('Plate', self::plate())]);
        $figures = self::compared($workpiece, new CompareParameters(tolerance: 0.08));
        self::assertSame(40_001, $figures['count']);
        // Of 40,000 points the mean is right to 0.03 / 200.
        self::assertEqualsWithDelta(0.05, $figures['mean'], 0.0006);
        self::assertEqualsWithDelta(hypot(0.05, 0.03), $figures['rms'], 0.003);
        self::assertEqualsWithDelta(2.5, $figures['max'], 1e-12);
        self::assertEqualsWithDelta(-2.5, $figures['places'][0]['distance'], 1e-12);
        self::assertEqualsWithDelta([20.0, 10.0, -2.5], $figures['places'][0]['point'], 1e-12);
        // Of a normal distribution 84.13 % lie below one deviation over the mean; what lies below -0.08 is nothing.
        self::assertEqualsWithDelta(0.8413, $figures['within'], 0.006);
        self::assertSame(40_001, array_sum($figures['histogram']['counts']));
        foreach ($figures['places'] as $k => $place) {
            foreach (array_slice($figures['places'], $k + 1) as $other) {
                self::assertGreaterThan(0.05 * hypot(40.0, 20.0) - 1e-9, hypot(hypot($place['point'][0] - $other['point'][0], $place['point'][1] - $other['point'][1]), $place['point'][2] - $other['point'][2]));
            }
        }
    }

    #[Test]
    public function a_larger_ball_lies_outside_a_smaller_one_by_the_difference_of_their_radii(): void
    {
        $workpiece = (new Workpiece)->withBodies([Body::of('Large', MeshBuilder::icosphere(4, 10.25)), Body::of('Small', MeshBuilder::icosphere(4, 10.0))]);
        $outside = self::compared($workpiece, new CompareParameters('Small', on: ['Large']));
        self::assertSame(['Large', 'Small'], [$outside['body'], $outside['to']]);
        self::assertEqualsWithDelta(0.25, $outside['mean'], 0.03);
        self::assertEqualsWithDelta(0.25, $outside['rms'], 0.03);
        self::assertNull($outside['within']);
        $inside = self::compared($workpiece, new CompareParameters('Large', tolerance: 0.3));
        self::assertSame('Small', $inside['body']);
        self::assertEqualsWithDelta(-0.25, $inside['mean'], 0.03);
        self::assertEqualsWithDelta(1.0, $inside['within'], 1e-12);
        self::assertEqualsWithDelta(0.25, self::compared($workpiece, new CompareParameters('Large', signed: false))['mean'], 0.03);
    }

    #[Test]
    public function a_few_points_of_something_else_do_not_take_all_the_shades(): void
    {
        $points = [];
        foreach (range(1, 38) as $x) {
            foreach (range(1, 18) as $y) {
                array_push($points, (float) $x, (float) $y, 0.3);
            }
        }
        // Ten of a table 70 mm off.
        foreach (range(1, 10) as $x) {
            array_push($points, (float) $x, 5.0, 70.0);
        }
        $workpiece = new Workpiece([new Pass('p', 'p', PointCloud::fromFlat($points), RigidTransform::identity())], [Body::of('Plate', self::plate())]);
        $result = (new Compare)($workpiece, new CompareParameters, new NoProgress);
        self::assertEqualsWithDelta(0.45, $result->maps[0]->to, 1e-9);
        self::assertSame(10, $result->after['comparisons'][0]['histogram']['counts'][30]);
        // A tolerance is within the colours, and marked.
        $map = (new Compare)($workpiece, new CompareParameters(tolerance: 0.5), new NoProgress)->maps[0];
        self::assertEqualsWithDelta([1.5, 0.5], [$map->to, $map->band], 1e-9);
    }

    #[Test]
    public function the_map_has_the_mean_distance_around_each_vertex_and_nothing_where_no_point_is(): void
    {
        $points = [];
        foreach (range(1, 38) as $x) {
            foreach (range(1, 18) as $y) {
                // The right half alone, 0.3 mm above the plate.
                $x < 20 || array_push($points, (float) $x + 0.25, $y + 0.4, 0.3);
            }
        }
        $result = (new Compare)(new Workpiece([new Pass('p', 'p', PointCloud::fromFlat($points), RigidTransform::identity())], [Body::of('Plate', self::plate())]), new CompareParameters, new NoProgress);
        $map = $result->maps[0];
        self::assertSame('Plate', $map->target);
        // Half as far again as what holds 95 of 100.
        self::assertEqualsWithDelta([-0.45, 0.45], [$map->from, $map->to], 1e-9);
        foreach (array_chunk(self::plate()->positions, 3) as $v => [$x]) {
            $shade = ord($map->bytes[$v]);
            if ($x < 18.0) {
                self::assertSame(0, $shade);
            } elseif ($x > 21.0 && $x < 37.0 && $shade !== 0) {
                self::assertEqualsWithDelta(0.3, $map->from + ($shade - 1) / 254.0 * ($map->to - $map->from), 0.01);
            }
        }
        self::assertSame($result->workpiece->bodies[0]->geometry->positions, self::plate()->positions);
    }

    #[Test]
    public function in_a_recipe_it_sees_the_passes_and_bodies_that_it_does_not_work_on(): void
    {
        $workpiece = new Workpiece([new Pass('p', 'p', PointCloud::fromFlat([5.0, 5.0, 0.2]), RigidTransform::identity())], [Body::of('Plate', self::plate()), Body::of('Lower', self::plate(-1.0))]);
        $comparisons = fn (array $values): array => Step::of('compare', $values)($workpiece, new NoProgress)->after['comparisons'];
        self::assertEqualsWithDelta([1.2], array_column($comparisons(['on' => ['Lower']]), 'mean'), 1e-12);
        self::assertEqualsWithDelta([1.0], array_column($comparisons(['to' => 'Lower']), 'mean'), 1e-12);
        self::assertSame(['Plate', 'Lower'], array_column($comparisons([]), 'body'));
    }

    #[Test]
    public function what_cannot_be_is_refused_in_words(): void
    {
        $plate = (new Workpiece)->withBodies([Body::of('Plate', self::plate())]);
        self::assertRefused([
            [fn () => self::compared(new Workpiece, new CompareParameters), 'no mesh to compare'],
            [fn () => self::compared($plate, new CompareParameters), 'no passes to compare with'],
            [fn () => self::compared($plate, new CompareParameters('Plate')), 'not compared with itself'],
            [fn () => self::compared($plate, new CompareParameters('Cap')), 'names "Cap"'],
            [fn () => new CompareParameters(on: []), 'list of one name or more'],
        ]);
    }

    #[Test]
    public function fitted_first_it_tells_of_the_shape_alone_and_a_place_that_is_off_does_not_pull(): void
    {
        $brick = MeshBuilder::brick([40.0, 30.0, 10.0], 12);
        // A corner of the other is worn off by 2 mm, and it stands elsewhere.
        $worn = $brick->withPositions(array_merge(...array_map(function (array $at): array {
            $over = max(0.0, $at[0] + $at[1] + $at[2] - 76.0);

            return [$at[0] - $over / 3.0, $at[1] - $over / 3.0, $at[2] - $over / 3.0];
        }, array_chunk($brick->positions, 3))));
        $by = RigidTransform::turn([0.3, -0.5, 0.8], 0.01)->then(RigidTransform::shift(0.4, -0.3, 0.2));
        $workpiece = new Workpiece(bodies: [Body::of('Made', $worn), Body::of('Drawn', $brick->transformed($by))]);
        $parameters = ['on' => ['Made'], 'to' => 'Drawn', 'tolerance' => 0.01];
        $plain = self::compared($workpiece, new CompareParameters(...$parameters));
        $fitted = self::compared($workpiece, new CompareParameters(...$parameters, bestFit: true));
        self::assertLessThan(0.3, $plain['within']);
        self::assertGreaterThan(0.95, $fitted['within']);
        // Worn to a plane that cuts 4 mm off each edge: a third of that under each face.
        self::assertEqualsWithDelta(4.0 / 3.0, $fitted['max'], 0.1);
        self::assertEqualsWithDelta(rad2deg(0.01), $fitted['fitted']['turnDeg'], 1e-3);
        // Nothing was moved.
        self::assertArrayNotHasKey('fitted', $plain);

        // Points of passes the same.
        $points = SurfaceDistance::onSurface($brick, 4000);
        $cloud = PointCloud::fromFlat($by->points($points));
        $withPasses = new Workpiece([Pass::of('Pass', $cloud)], [Body::of('Made', $worn)]);
        self::assertGreaterThan(0.95, self::compared($withPasses, new CompareParameters(tolerance: 0.01, bestFit: true))['within']);
        self::assertSame($cloud->positions, $withPasses->passes[0]->placed()->positions);
    }

    #[Test]
    public function a_ball_on_a_ball_is_shifted_and_not_turned(): void
    {
        $ball = MeshBuilder::icosphere(4, 20.0);
        $workpiece = new Workpiece(bodies: [Body::of('One', $ball), Body::of('Other', $ball->transformed(RigidTransform::shift(0.5, 0.2, -0.1)))]);
        $fitted = self::compared($workpiece, new CompareParameters('Other', tolerance: 0.05, bestFit: true, on: ['One']));
        self::assertEqualsWithDelta(sqrt(0.3), $fitted['fitted']['shiftMm'], 0.01);
        self::assertLessThan(0.02, $fitted['rms']);
        $this->expectExceptionMessage('bestFit');
        new CompareParameters(CompareParameters::SHAPES, bestFit: true);
    }

    #[Test]
    public function a_body_is_compared_with_what_an_earlier_step_left_wherever_all_has_moved_since(): void
    {
        $folder = sys_get_temp_dir().'/earlier'.bin2hex(random_bytes(4));
        mkdir($folder);
        try {
            Formats::write("$folder/Box.stl", SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [10.0, 20.0, 30.0]));
            $steps = [
                ['op' => 'turn', 'axis' => 'x', 'angle' => 90.0, 'about' => 'origin', 'tag' => 'upright'],
                ['op' => 'scale', 'factor' => 2.0],
                ['op' => 'simple-body', 'kind' => 'box', 'name' => 'Block', 'axis' => ['point' => [10.0, -30.0, 0.0], 'direction' => [1.0, 0.0, 0.0]], 'start' => -4.0, 'length' => 8.0, 'width' => 8.0, 'height' => 10.0],
                ['op' => 'add-body', 'on' => ['Box'], 'with' => 'Block'],
                ['op' => 'shift', 'x' => 100.0],
                ['op' => 'compare', 'on' => ['Box'], 'to' => 'earlier', 'revision' => '0'],
                ['op' => 'compare', 'on' => ['Box'], 'to' => 'earlier', 'revision' => 'upright'],
                ['op' => 'compare', 'on' => ['Box'], 'to' => 'earlier', 'revision' => '5'],
            ];
            $report = (new Run(Recipe::fromJson(json_encode(['recipe' => 1, 'unit' => 'mm', 'steps' => $steps], JSON_THROW_ON_ERROR))))(["$folder/Box.stl"], $folder, 'stl', new NoProgress);
            [$first, $tagged, $after] = $report['comparisons'];
            self::assertSame(['earlier', '0'], [$first['to'], $first['revision']]);
            // Nothing but what was added stands out, by as much as it does.
            self::assertEqualsWithDelta(6.0, $first['max'], 0.01);
            self::assertGreaterThan(0.0, $first['places'][0]['distance']);
            self::assertSame([$first['max'], $first['rms']], [$tagged['max'], $tagged['rms']]);
            self::assertLessThan(1e-9, $after['max']);
            self::assertRefused([
                [fn () => (new Run(Recipe::fromJson('{"recipe": 1, "unit": "mm", "steps": [{"op": "compare", "to": "earlier", "revision": "1"}]}')))(["$folder/Box.stl"], $folder, 'stl', new NoProgress), 'step 1 (compare): revision names "1"'],
                [fn () => (new Run(Recipe::fromJson('{"recipe": 1, "unit": "mm", "steps": [{"op": "compare", "to": "earlier"}]}')))(["$folder/Box.stl"], $folder, 'stl', new NoProgress), 'revision is missing'],
                [fn () => self::compared(new Workpiece(bodies: [Body::of('Box', self::plate())]), new CompareParameters('earlier', revision: '1')), 'was not there yet'],
            ]);
        } finally {
            array_map(unlink(...), glob("$folder/*") ?: []);
            rmdir($folder);
        }
    }

    #[Test]
    public function a_fit_by_a_selection_or_by_datums_shows_the_rest_as_it_stands_to_them(): void
    {
        // Two plates, side by side; of the other body the second one stands 0.4 mm higher, and all of it is tilted and lifted: what lies in the plane of a plate, a plate alone would not hold.
        $one = TriangleMesh::joined([self::plate(), self::plate()->transformed(RigidTransform::shift(50.0, 0.0, 0.0))]);
        $faces = self::plate()->faceCount();
        $away = RigidTransform::turn([1.0, 0.0, 0.0], 0.01)->then(RigidTransform::shift(0.0, 0.0, 0.5));
        $other = TriangleMesh::joined([self::plate(), self::plate()->transformed(RigidTransform::shift(50.0, 0.0, 0.4))]);
        $plane = fn (string $name, string $body): Datum => new Datum($name, $name, 'plane', [20.0, 10.0, 0.0], [0.0, 0.0, 1.0], bodyId: $body);
        $line = fn (string $name, string $body): Datum => new Datum($name, $name, 'line', [20.0, 10.0, 0.0], [1.0, 0.0, 0.0], bodyId: $body);
        $point = fn (string $name, string $body): Datum => new Datum($name, $name, 'point', [20.0, 10.0, 0.0], bodyId: $body);
        $workpiece = new Workpiece(
            [Pass::of('Pass', PointCloud::fromFlat($other->transformed($away)->positions))],
            [Body::of('One', $one), Body::of('Other', $other->transformed($away))],
            [$plane('A', 'One'), $line('B', 'One'), $point('C', 'One'), ...array_map(fn (Datum $datum) => $datum->moved($away), [$plane('D', 'Other'), $line('E', 'Other'), $point('F', 'Other')])],
        );
        $selected = ['fitBy' => 'selection', 'selection' => [['target' => 'One', 'ranges' => [[0, $faces - 1]]]]];
        $datums = ['fitBy' => 'datums', 'datums' => [['from' => 'D', 'to' => 'A'], ['from' => 'E', 'to' => 'B'], ['from' => 'F', 'to' => 'C']]];
        foreach ([['Other', $selected], ['Other', $datums], ['passes', $selected]] as [$to, $fit]) {
            $figures = self::compared($workpiece, new CompareParameters(...['to' => $to, 'on' => ['One'], 'signed' => false, 'tolerance' => 0.001, 'bestFit' => true] + $fit));
            self::assertEqualsWithDelta(0.5, $figures['within'], 0.01, "$to by {$fit['fitBy']}: one of the two plates fits");
            self::assertEqualsWithDelta(0.4, $figures['max'], 2e-3, "$to by {$fit['fitBy']}");
            self::assertEqualsWithDelta(0.2, $figures['mean'], 0.01);
        }
        self::assertRefused([
            [fn () => self::compared($workpiece, new CompareParameters('Other', on: ['One'], bestFit: true, fitBy: 'selection', selection: [['target' => 'Other', 'ranges' => [[0, 3]]]])), 'Nothing of One is selected'],
            [fn () => self::compared($workpiece, new CompareParameters('passes', on: ['One'], bestFit: true, fitBy: 'selection', selection: [['target' => 'One', 'ranges' => [[0, 3]]]])), 'select more'],
            [fn () => new CompareParameters('Other', bestFit: true, fitBy: 'selection'), 'selection is missing'],
            [fn () => new CompareParameters('passes', bestFit: true, fitBy: 'datums', datums: [['from' => 'D', 'to' => 'A']]), 'datums of two bodies'],
            [fn () => new CompareParameters('Other', bestFit: true, fitBy: 'datums'), 'datums is missing'],
        ]);
    }
}
