<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Gather;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Search\Clusters;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Gather\Copy;
use Emberstone\Core\Gather\Discard;
use Emberstone\Core\Gather\DropBase;
use Emberstone\Core\Gather\DropBaseParameters;
use Emberstone\Core\Gather\ItemsParameters;
use Emberstone\Core\Gather\NoiseReport;
use Emberstone\Core\Gather\NoiseReportParameters;
use Emberstone\Core\Gather\RemoveGrazing;
use Emberstone\Core\Gather\RemoveGrazingParameters;
use Emberstone\Core\Gather\RemoveOutliers;
use Emberstone\Core\Gather\RemoveOutliersParameters;
use Emberstone\Core\Gather\RemoveStrays;
use Emberstone\Core\Gather\RemoveStraysParameters;
use Emberstone\Core\Gather\RemoveUnsure;
use Emberstone\Core\Gather\RemoveUnsureParameters;
use Emberstone\Core\Gather\Thin;
use Emberstone\Core\Gather\ThinParameters;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Operations that take points out of passes: strays, thinning, grazing points; and the report that says what would help. */
final class SieveTest extends TestCase
{
    /**
     * A square plate in the plane z = 0 with a corner in the origin, rows 0.5 mm apart, and normal noise across it.
     *
     * @return list<float>
     */
    private static function plate(int $rows, float $noise = 0.0, int $seed = 1): array
    {
        $gen = new Gen($seed);
        $p = [];
        for ($i = 0; $i < $rows * $rows; $i++) {
            // Twelve even numbers added are nearly normal.
            $z = array_sum(array_map(fn () => $gen->float(-0.5, 0.5), range(1, 12)));
            array_push($p, 0.5 * ($i % $rows), 0.5 * intdiv($i, $rows), $noise * $z);
        }

        return $p;
    }

    /**
     * @param  list<float>  $at
     * @return list<float> a clump of eight points 0.3 mm apart
     */
    private static function clump(array $at): array
    {
        $p = [];
        for ($k = 0; $k < 8; $k++) {
            array_push($p, $at[0] + 0.3 * ($k & 1), $at[1] + 0.3 * ($k >> 1 & 1), $at[2] + 0.3 * ($k >> 2));
        }

        return $p;
    }

    #[Test]
    public function clusters_are_what_hangs_together_largest_first(): void
    {
        $p = [...self::clump([50.0, 0.0, 0.0]), ...self::plate(20), ...self::clump([-3.0, -3.0, 9.0])];
        ['label' => $label, 'size' => $size] = Clusters::of($p, 2.0);
        self::assertSame([400, 8, 8], $size);
        self::assertSame(0, $label[8]);
        self::assertCount(1, array_unique(array_slice($label, 8, 400)));
        self::assertCount(1, array_unique(array_slice($label, 0, 8)));
        self::assertNotSame($label[0], $label[408]);
    }

    #[Test]
    public function clusters_do_not_depend_on_the_order_or_the_place_of_the_points(): void
    {
        $gen = new Gen(12);
        $p = [...self::clump([5.0, 5.0, 5.0]), ...self::plate(12), ...self::clump([-40.0, 3.0, 0.0]), ...self::clump([-44.0, 3.0, 0.0])];
        $expected = Clusters::of($p, 1.6)['size'];
        for ($round = 0; $round < 20; $round++) {
            $order = range(0, intdiv(count($p), 3) - 1);
            for ($k = count($order) - 1; $k > 0; $k--) {
                $j = $gen->int(0, $k);
                [$order[$k], $order[$j]] = [$order[$j], $order[$k]];
            }
            $far = $gen->float(-9000.0, 9000.0);
            $moved = [];
            foreach ($order as $i) {
                array_push($moved, $p[3 * $i] + $far, $p[3 * $i + 1] - $far, $p[3 * $i + 2] + $far);
            }
            self::assertSame($expected, Clusters::of($moved, 1.6)['size']);
        }
    }

    #[Test]
    public function small_far_clusters_go_and_are_listed_with_size_and_place(): void
    {
        $cloud = PointCloud::fromFlat([...self::plate(40), ...self::clump([10.0, 10.0, 15.0]), ...self::clump([-30.0, 0.0, 0.0])]);
        $result = (new RemoveStrays)(new Workpiece([Pass::of('p', $cloud)]), new RemoveStraysParameters(share: 0.01), new NoProgress);
        self::assertSame(1600, $result->workpiece->pointCount());
        self::assertSame($cloud, $result->workpiece->passes[0]->cloud(), 'raw points stay');
        self::assertSame(2, $result->after['clusters']);
        $listed = $result->notes;
        // Both clumps, the middle of each 0.15 from its first corner.
        sort($listed);
        self::assertMatchesRegularExpression('/^p: 8 points, 0\.3 mm large, at -29\.[89], 0\.[12], 0\.[12] mm\.$/', $listed[0]);
        self::assertMatchesRegularExpression('/^p: 8 points, 0\.3 mm large, at 10\.[12], 10\.[12], 15\.[12] mm\.$/', $listed[1]);
    }

    #[Test]
    public function the_largest_cluster_stays_even_when_all_are_small(): void
    {
        $cloud = PointCloud::fromFlat([...self::clump([0.0, 0.0, 0.0]), ...self::clump([30.0, 0.0, 0.0]), ...self::clump([60.0, 0.0, 0.0])]);
        $result = (new RemoveStrays)(new Workpiece([Pass::of('p', $cloud)]), new RemoveStraysParameters(3.0, 1.0), new NoProgress);
        self::assertSame(8, $result->workpiece->pointCount());
    }

    #[Test]
    public function thinning_leaves_measured_points_one_a_cell(): void
    {
        $p = self::plate(40, 0.02);
        $pass = (new Thin)(new Workpiece([Pass::of('p', PointCloud::fromFlat($p))]), new ThinParameters(2.0), new NoProgress)->workpiece->passes[0];
        $kept = $pass->keptCloud()->positions;
        $raw = array_map(serialize(...), array_chunk($p, 3));
        $cells = [];
        foreach (array_chunk($kept, 3) as $point) {
            self::assertContains(serialize($point), $raw, 'points are neither moved nor averaged');
            $cells[] = implode(' ', array_map(fn (float $v) => (int) floor($v / 2.0), $point));
        }
        self::assertSame(array_unique($cells), $cells);
        // The plate is 10 x 10 cells; noise makes those below and those above the plane.
        self::assertGreaterThanOrEqual(100, count($cells));
        self::assertLessThanOrEqual(200, count($cells));
    }

    #[Test]
    #[DataProvider('choices')]
    public function thinning_to_a_density_leaves_that_density_where_there_was_more_and_all_where_there_was_less(string $keep): void
    {
        // 400 points a square centimetre on the first plate, 44 on the second.
        $dense = self::plate(120, 0.005);
        $sparse = [];
        for ($i = 0; $i < 1600; $i++) {
            array_push($sparse, 100.0 + 1.5 * ($i % 40), 1.5 * intdiv($i, 40), 0.0);
        }
        $thin = fn (array $p, float $density) => (new Thin)(new Workpiece([Pass::of('p', PointCloud::fromFlat($p))]), new ThinParameters(null, $keep, $density), new NoProgress)->workpiece->passes[0]->keptCloud()->positions;
        foreach ([60.0, 30.0] as $density) {
            $kept = $thin($dense, $density);
            self::assertEqualsWithDelta($density * 36.0, count($kept) / 3, 0.12 * $density * 36.0);
            $limit = Thin::distance($density) ** 2;
            for ($i = 0; $i < 200; $i++) {
                for ($k = $i + 1; $k < 200; $k++) {
                    self::assertGreaterThanOrEqual($limit, ($kept[3 * $i] - $kept[3 * $k]) ** 2 + ($kept[3 * $i + 1] - $kept[3 * $k + 1]) ** 2 + ($kept[3 * $i + 2] - $kept[3 * $k + 2]) ** 2);
                }
            }
        }
        self::assertSame($sparse, $thin($sparse, 60.0));
    }

    /** @return iterable<string, array{string}> */
    public static function choices(): iterable
    {
        yield 'at random' => ['middle'];
        yield 'the least noisy first' => ['least-noisy'];
    }

    #[Test]
    public function lengths_are_millimetres_whatever_the_unit_of_the_file(): void
    {
        $inMm = PointCloud::fromFlat([...self::plate(40), ...self::clump([10.0, 10.0, 15.0])]);
        $inMetres = $inMm->scaled(0.001);
        $pass = fn (PointCloud $cloud, float $scale) => new Workpiece([new Pass('p', 'p', $cloud, RigidTransform::identity(), scale: $scale)]);
        foreach ([[new Thin, new ThinParameters(2.9)], [new RemoveStrays, new RemoveStraysParameters(4.0)], [new DropBase, new DropBaseParameters(1.0)]] as [$operation, $parameters]) {
            self::assertSame($operation($pass($inMm, 1.0), $parameters, new NoProgress)->workpiece->pointCount(), $operation($pass($inMetres, 1000.0), $parameters, new NoProgress)->workpiece->pointCount(), $operation::about()->name);
        }
        self::assertEqualsWithDelta(1.0, ThinParameters::suggestSpacing($pass($inMetres, 1000.0)) / ThinParameters::suggestSpacing($pass($inMm, 1.0)), 1e-6);
    }

    #[Test]
    public function points_seen_along_the_surface_go_and_passes_without_a_sensor_stay(): void
    {
        // Seen from 10 mm above a corner: beyond 37 mm away the ray is within 15 degrees of the plate.
        $p = self::plate(120);
        $seen = Pass::of('seen', PointCloud::fromFlat($p, [], [], [0.0, 0.0, 10.0]));
        $blind = Pass::of('blind', PointCloud::fromFlat($p));
        $result = (new RemoveGrazing)(new Workpiece([$seen, $blind]), new RemoveGrazingParameters(75.0), new NoProgress);
        foreach (array_chunk($result->workpiece->passes[0]->keptCloud()->positions, 3) as [$x, $y]) {
            self::assertLessThan(10.0 * tan(deg2rad(75.0)) + 0.01, hypot($x, $y));
        }
        $expected = count(array_filter(array_chunk($p, 3), fn (array $point) => hypot($point[0], $point[1]) < 10.0 * tan(deg2rad(75.0))));
        self::assertEqualsWithDelta($expected, $result->workpiece->passes[0]->keptCount(), 2);
        self::assertSame($blind->keptCount(), $result->workpiece->passes[1]->keptCount());
        self::assertStringContainsString('blind does not say where', $result->notes[0]);
        $this->expectException(UnsuitableInput::class);
        (new RemoveGrazing)(new Workpiece([$blind]), new RemoveGrazingParameters, new NoProgress);
    }

    /** @return iterable<string, array{float}> */
    public static function noises(): iterable
    {
        yield '0.02 mm' => [0.02];
        yield '0.05 mm' => [0.05];
        yield '0.1 mm' => [0.1];
    }

    #[Test]
    #[DataProvider('noises')]
    public function the_report_measures_the_noise_within_a_tenth(float $noise): void
    {
        $pass = Pass::of('p', PointCloud::fromFlat(self::plate(60, $noise, 5)));
        $report = (new NoiseReport)(new Workpiece([$pass]), new NoiseReportParameters, new NoProgress);
        self::assertEqualsWithDelta($noise, $report->after['noiseMm'], 0.1 * $noise);
        self::assertEqualsWithDelta(0.5, $report->after['passes'][0]['spacingMm'], 0.05);
        self::assertNull($report->after['passes'][0]['grazing']);
        self::assertStringStartsWith('Clean: only 0.', $report->notes[0]);
        self::assertSame([$pass], $report->workpiece->passes, 'nothing is changed');
    }

    #[Test]
    public function the_report_advises_where_strays_are_and_names_the_noisy_pass(): void
    {
        $gen = new Gen(9);
        $strays = [];
        for ($k = 0; $k < 60; $k++) {
            array_push($strays, $gen->float(0.0, 30.0), $gen->float(0.0, 30.0), $gen->float(5.0, 60.0));
        }
        $report = (new NoiseReport)(new Workpiece([
            Pass::of('a', PointCloud::fromFlat([...self::plate(60, 0.03, 1), ...$strays])), Pass::of('b', PointCloud::fromFlat(self::plate(60, 0.03, 2))), Pass::of('c', PointCloud::fromFlat(self::plate(60, 0.15, 3))),
        ]), new NoiseReportParameters, new NoProgress);
        self::assertStringContainsString('removing outliers would help', $report->notes[0]);
        self::assertMatchesRegularExpression('/^c is (4\.[5-9]|5\.\d) times as noisy/', $report->notes[1]);
        self::assertEqualsWithDelta(60 / 3660, $report->after['passes'][0]['isolated'], 0.003);
    }

    #[Test]
    public function all_of_them_refuse_a_workpiece_without_points(): void
    {
        foreach ([[new RemoveStrays, new RemoveStraysParameters], [new Thin, new ThinParameters], [new NoiseReport, new NoiseReportParameters], [new RemoveGrazing, new RemoveGrazingParameters]] as [$operation, $parameters]) {
            try {
                $operation(new Workpiece, $parameters, new NoProgress);
                self::fail($operation::about()->name);
            } catch (UnsuitableInput $refusal) {
                self::assertStringContainsString('no points', $refusal->getMessage());
            }
        }
    }

    #[Test]
    public function strays_near_the_part_stay_when_only_far_ones_are_meant_and_so_do_places_named(): void
    {
        // Clumps 5 and 30 mm off the plate's edge.
        $near = self::clump([-5.0, 5.0, 0.0]);
        $far = self::clump([-30.0, 5.0, 0.0]);
        $pass = new Pass('p', 'p', PointCloud::fromFlat([...self::plate(40), ...$near, ...$far]), RigidTransform::shift(100.0, 0.0, 0.0));
        $kept = fn (RemoveStraysParameters $parameters): int => (new RemoveStrays)(new Workpiece([$pass]), $parameters, new NoProgress)->workpiece->pointCount();
        self::assertSame(1600, $kept(new RemoveStraysParameters(share: 0.01)));
        self::assertSame(1608, $kept(new RemoveStraysParameters(share: 0.01, distance: 10.0)), 'the near clump stays');
        self::assertSame(1608, $kept(new RemoveStraysParameters(share: 0.01, keep: [[70.2, 5.2, 0.2]])), 'the far clump was named, where it stands in the project');
        $this->expectException(InvalidParameter::class);
        new RemoveStraysParameters(keep: [[1.0, 2.0]]);
    }

    #[Test]
    public function by_radius_goes_what_has_too_few_others_around(): void
    {
        // Eight points of a clump have seven others; a pair one; a single none.
        $cloud = PointCloud::fromFlat([...self::clump([0.0, 0.0, 0.0]), 9.0, 0.0, 0.0, 9.3, 0.0, 0.0, -9.0, 0.0, 0.0]);
        foreach ([1 => 10, 2 => 8, 7 => 8, 8 => 0] as $least => $left) {
            $result = (new RemoveOutliers)(new Workpiece([Pass::of('p', $cloud)]), new RemoveOutliersParameters(by: 'radius', radius: 1.0, least: $least), new NoProgress);
            self::assertSame($left, $result->workpiece->pointCount(), "$least others");
        }
    }

    #[Test]
    public function a_crowd_is_counted_as_by_brute_force(): void
    {
        $p = (new Gen(8))->points(400);
        $grid = PointGrid::of($p, 0.3);
        foreach ($grid->crowd(0.5, 1000) as $slot => $others) {
            $i = $grid->order[$slot];
            $count = -1;
            for ($o = 0; $o < 1200; $o += 3) {
                $count += ($p[$o] - $p[3 * $i]) ** 2 + ($p[$o + 1] - $p[3 * $i + 1]) ** 2 + ($p[$o + 2] - $p[3 * $i + 2]) ** 2 <= 0.25 ? 1 : 0;
            }
            self::assertSame($count, $others);
        }
    }

    #[Test]
    public function a_stand_on_a_table_has_two_planes(): void
    {
        // A plate 60 mm above a wider one, and the part as a small ball of points over it; the sensor looks from above.
        $gen = new Gen(2);
        $p = [];
        foreach ([[0.0, 60.0, 6000], [20.0, 25.0, 2500]] as [$z, $half, $many]) {
            for ($k = 0; $k < $many; $k++) {
                array_push($p, $gen->float(-$half, $half), $gen->float(-$half, $half), $z + $gen->float(-0.05, 0.05));
            }
        }
        for ($k = 0; $k < 1500; $k++) {
            [$x, $y, $z] = $gen->points(1);
            $l = sqrt($x * $x + $y * $y + $z * $z);
            array_push($p, 8.0 * $x / $l, 8.0 * $y / $l, 32.0 + 8.0 * $z / $l);
        }
        $workpiece = new Workpiece([Pass::of('p', PointCloud::fromFlat($p, sensorOrigin: [0.0, 0.0, 300.0]))]);
        $once = (new DropBase)($workpiece, new DropBaseParameters(1.0), new NoProgress);
        self::assertSame([4000, 1], [$once->workpiece->pointCount(), $once->after['planes']]);
        $twice = (new DropBase)($workpiece, new DropBaseParameters(1.0, planes: 5), new NoProgress);
        self::assertSame([1500, 2], [$twice->workpiece->pointCount(), $twice->after['planes']]);
    }

    #[Test]
    public function the_least_noisy_point_of_a_cell_lies_nearer_to_the_surface(): void
    {
        $cloud = PointCloud::fromFlat(self::plate(60, 0.1));
        $rms = function (string $keep) use ($cloud): float {
            $left = (new Thin)(new Workpiece([Pass::of('p', $cloud)]), new ThinParameters(2.0, $keep), new NoProgress)->workpiece->passes[0]->keptCloud();
            $squares = 0.0;
            for ($o = 2; $o < count($left->positions); $o += 3) {
                $squares += $left->positions[$o] ** 2;
            }

            return sqrt($squares / $left->count());
        };
        // Some sixteen points a cell, noise of 0.1 mm: a point taken blindly would be that far off.
        self::assertLessThan(0.06, $rms('middle'));
        self::assertLessThan(min(0.045, $rms('middle')), $rms('least-noisy'));
    }

    #[Test]
    public function points_the_scanner_was_unsure_of_go_and_passes_that_do_not_say_stay(): void
    {
        $told = Pass::of('told', PointCloud::fromFlat(self::plate(10), confidence: array_map(fn (int $i) => $i / 100, range(0, 99))));
        $silent = Pass::of('silent', PointCloud::fromFlat(self::plate(10)));
        $result = (new RemoveUnsure)(new Workpiece([$told, $silent]), new RemoveUnsureParameters(0.25), new NoProgress);
        self::assertSame([75, 100], array_map(fn (Pass $pass) => $pass->keptCount(), $result->workpiece->passes));
        self::assertSame(['silent does not say how sure the scanner was; nothing removed.'], $result->notes);
        self::assertSame(0.05, RemoveUnsureParameters::suggestLeast(new Workpiece([$told])));
        $this->expectException(UnsuitableInput::class);
        (new RemoveUnsure)(new Workpiece([$silent]), new RemoveUnsureParameters(0.25), new NoProgress);
    }

    #[Test]
    public function a_copy_is_a_body_of_its_own_and_what_is_discarded_is_gone(): void
    {
        $pass = (new Pass('id-1', 'Left side', PointCloud::fromFlat(self::plate(4)), RigidTransform::shift(5.0, 0.0, 0.0)))->narrowed("\0".str_repeat("\1", 15));
        $workpiece = new Workpiece([$pass], [], [new Datum('d', 'Base', 'plane', [0.0, 0.0, 0.0])]);
        $copied = (new Copy)($workpiece, new ItemsParameters(['id-1']), new NoProgress)->workpiece;
        self::assertSame([1, 1, 'Left side, copy'], [count($copied->passes), count($copied->bodies), $copied->bodies[0]->name]);
        self::assertSame($pass->placed()->positions, $copied->bodies[0]->placed()->positions, 'kept points, where they stand');
        $again = (new Copy)($copied, new ItemsParameters(['Left side']), new NoProgress)->workpiece;
        self::assertSame('Left side, copy 2', $again->bodies[1]->name);
        $left = (new Discard)($again, new ItemsParameters(['Left side, copy', 'Base']), new NoProgress);
        self::assertSame([1, 1, 0], [count($left->workpiece->passes), count($left->workpiece->bodies), count($left->workpiece->datums)]);
        self::assertSame('− 2 items', $left->headline);
        $this->expectExceptionMessage('There is no pass, body, datum or artefact "Right side"');
        (new Discard)($again, new ItemsParameters(['Right side']), new NoProgress);
    }

    #[Test]
    public function a_large_pass_loses_the_same_points_however_many_processes_look_at_it(): void
    {
        [$gen, $points] = [new Gen(6), []];
        for ($i = 0; $i < 110000; $i++) {
            // A wavy cloth with a point in a thousand off it.
            [$x, $y] = [$gen->float(0.0, 300.0), $gen->float(0.0, 300.0)];
            array_push($points, $x, $y, 5.0 * sin($x / 20.0) + ($i % 1000 === 0 ? $gen->float(3.0, 30.0) : $gen->float(-0.02, 0.02)));
        }
        $pass = Pass::of('p', PointCloud::fromFlat($points));
        $kept = [];
        try {
            foreach ([1, 2, 3] as $workers) {
                Cores::limit($workers);
                $kept[] = (new RemoveOutliers)(new Workpiece([$pass]), new RemoveOutliersParameters, new NoProgress)->workpiece->passes[0]->mask;
            }
        } finally {
            Cores::limit(0);
        }
        self::assertSame([$kept[0], $kept[0]], [$kept[1], $kept[2]]);
        $gone = array_keys(str_split((string) $kept[0]), "\0", true);
        self::assertGreaterThan(100, count(array_filter($gone, fn (int $i) => $i % 1000 === 0)));
    }

    #[Test]
    public function datums_made_of_one_that_goes_are_named(): void
    {
        $plane = fn (string $name, array $parents = []): Datum => new Datum($name, $name, 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, 1.0], parents: $parents);
        $workpiece = new Workpiece(datums: [$plane('Base'), $plane('Top'), $plane('Middle', ['Base', 'Top']), $plane('Other', ['Top'])]);
        $result = (new Discard)($workpiece, new ItemsParameters(['Base']), new NoProgress);
        self::assertSame(['Base was taken out.', 'Middle was made of Base; it stays where it is.'], $result->notes);
        self::assertSame(['Top', 'Middle', 'Other'], array_map(fn (Datum $datum) => $datum->name, $result->workpiece->datums));
    }
}
