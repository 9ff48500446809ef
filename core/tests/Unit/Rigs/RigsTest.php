<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Rigs;

use Emberstone\Core\Algorithms\Fitting\SphereFit;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Gather\Simulate;
use Emberstone\Core\Gather\SimulateParameters;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\BearingBush;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\CalibrationTarget;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Rigs\MarkerDots;
use Emberstone\Core\Rigs\Part;
use Emberstone\Core\Rigs\PressHall;
use Emberstone\Core\Rigs\Rig;
use Emberstone\Core\Rigs\RingRig;
use Emberstone\Core\Rigs\Surface;
use Emberstone\Core\Rigs\TripodRig;
use Emberstone\Core\Rigs\TurntableRig;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Simulated scanners: what they give lies on the part where they say it does, with the noise they say. */
final class RigsTest extends TestCase
{
    /** @return iterable<string, array{Rig, Part}> */
    public static function rigs(): iterable
    {
        yield 'handheld' => [new HandheldRig(width: 120, height: 90, table: false), new BearingPedestal];
        yield 'handheld, off scale' => [new HandheldRig(passes: 4, width: 120, height: 90, table: false, turnsOver: false, scale: 1.008), Catalogue::part('pedestal-with-bar')];
        yield 'turntable' => [new TurntableRig(width: 120, height: 90), new BearingBush];
        yield 'ring' => [new RingRig(width: 120, height: 90), new CalibrationTarget];
        yield 'tripod' => [new TripodRig(columns: 120, rows: 60), new PressHall];
    }

    /** @return list<float> distance of each point to the part, or to the table's plane where that is nearer */
    private static function off(Rig $rig, Part $part, int $index): array
    {
        ['cloud' => $cloud, 'pose' => $pose] = $rig->capture($part, $index, 5);
        $p = $cloud->scaled($rig instanceof HandheldRig ? 1.0 / $rig->scale : 1.0)->transformed($pose)->positions;
        $table = $part->bounds()[0][2];
        $off = [];
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $off[] = min(abs($part->distance($p[$o], $p[$o + 1], $p[$o + 2])), $rig instanceof TripodRig ? INF : abs($p[$o + 2] - $table));
        }

        return $off;
    }

    #[Test]
    #[DataProvider('rigs')]
    public function most_points_lie_on_the_part_within_the_noise_once_the_pose_is_applied(Rig $rig, Part $part): void
    {
        for ($k = 0; $k < min(4, $rig->passes()); $k++) {
            $off = self::off($rig, $part, $k);
            self::assertGreaterThan(500, count($off));
            self::assertLessThan(1.2 * $rig->noiseMm(), Median::of($off), "capture $k");
            self::assertGreaterThan(0.1 * $rig->noiseMm(), Median::of($off), "capture $k is too good to be true");
        }
    }

    #[Test]
    #[DataProvider('rigs')]
    public function the_same_seed_gives_the_same_capture_and_another_seed_another(Rig $rig, Part $part): void
    {
        $once = $rig->capture($part, 1, 3);
        $again = $rig->capture($part, 1, 3);
        self::assertSame($once['cloud']->positions, $again['cloud']->positions);
        self::assertSame($once['pose']->matrix, $again['pose']->matrix);
        self::assertNotSame($once['cloud']->positions, $rig->capture($part, 1, 4)['cloud']->positions);
    }

    #[Test]
    #[DataProvider('rigs')]
    public function the_sensor_stands_where_its_rays_come_from(Rig $rig, Part $part): void
    {
        ['cloud' => $cloud] = $rig->capture($part, 0, 3);
        self::assertNotNull($cloud->sensorOrigin);
        if ($rig instanceof RingRig || $rig instanceof TripodRig) {
            self::assertEqualsWithDelta([0.0, 0.0, 0.0], $cloud->sensorOrigin, 1e-9);
        }
        // Seen from there, no two points of a thousand lie on one ray.
        $seen = [];
        $p = $cloud->positions;
        for ($o = 0, $n = count($p), $step = 3 * max(1, intdiv($n, 3000)); $o < $n; $o += $step) {
            $d = [$p[$o] - $cloud->sensorOrigin[0], $p[$o + 1] - $cloud->sensorOrigin[1], $p[$o + 2] - $cloud->sensorOrigin[2]];
            $l = sqrt($d[0] ** 2 + $d[1] ** 2 + $d[2] ** 2);
            $seen[implode(' ', array_map(fn (float $v) => (int) round(20000 * $v / $l), $d))] = true;
        }
        self::assertGreaterThan(0.98 * min(1000, intdiv(count($p), 3)), count($seen));
    }

    #[Test]
    public function heads_of_the_ring_stay_where_they_are_from_part_to_part_until_one_is_bumped(): void
    {
        $rig = new RingRig(width: 40, height: 30);
        for ($k = 0; $k < 4; $k++) {
            self::assertSame($rig->capture(new BearingBush, $k, 1)['pose']->matrix, $rig->capture(new CalibrationTarget, $k, 9)['pose']->matrix);
        }
        $bumped = new RingRig(bumped: 2);
        self::assertSame($rig->head(1)->matrix, $bumped->head(1)->matrix);
        $moved = $bumped->head(2)->point([0.0, 0.0, 0.0]);
        $was = $rig->head(2)->point([0.0, 0.0, 0.0]);
        self::assertEqualsWithDelta(sqrt(1.2 ** 2 + 0.8 ** 2 + 0.5 ** 2), sqrt(($moved[0] - $was[0]) ** 2 + ($moved[1] - $was[1]) ** 2 + ($moved[2] - $was[2]) ** 2), 1e-9);
        // Each head looks down along its own Z onto the stand.
        for ($k = 0; $k < 4; $k++) {
            self::assertLessThan(-0.3, $rig->head($k)->direction([0.0, 0.0, 1.0])[2]);
        }
    }

    #[Test]
    public function stops_of_the_turntable_are_off_by_little_and_the_first_by_nothing(): void
    {
        $rig = new TurntableRig(width: 30, height: 20);
        self::assertTrue($rig->capture(new BearingBush, 0, 2)['pose']->isIdentity());
        foreach ([1, 5, 9] as $k) {
            $pose = $rig->capture(new BearingBush, $k, 2)['pose'];
            $at = $pose->point([0.0, 0.0, 50.0]);
            $off = sqrt($at[0] ** 2 + $at[1] ** 2 + ($at[2] - 50.0) ** 2);
            self::assertGreaterThan(0.01, $off);
            self::assertLessThan(4.0, $off);
        }
    }

    #[Test]
    public function glassy_places_give_fewer_points_and_some_from_within(): void
    {
        $part = new BearingPedestal;
        $within = function (Surface $surface) use ($part): array {
            $capture = (new HandheldRig(width: 120, height: 90, table: false, surface: $surface))->capture($part, 1, 3);
            $cloud = $capture['cloud']->transformed($capture['pose']);
            $deep = 0;
            for ($o = 0; $o < 3 * $cloud->count(); $o += 3) {
                $deep += $part->distance($cloud->positions[$o], $cloud->positions[$o + 1], $cloud->positions[$o + 2]) < -0.3 ? 1 : 0;
            }

            return [$cloud->count(), $deep];
        };
        [[$all, $none], [$left, $deep]] = [$within(Surface::Matt), $within(Surface::Glassy)];
        self::assertLessThan(0.95 * $all, $left);
        self::assertGreaterThan(0.5 * $all, $left);
        self::assertLessThan(0.002 * $all, $none);
        self::assertGreaterThan(0.02 * $left, $deep);
    }

    #[Test]
    public function a_shiny_part_gives_fewer_and_worse_points_and_spray_brings_them_back(): void
    {
        $count = fn (Surface $surface) => (new HandheldRig(width: 120, height: 90, table: false, surface: $surface))->capture(new BearingPedestal, 1, 3)['cloud']->count();
        $matt = $count(Surface::Matt);
        self::assertLessThan(0.85 * $matt, $count(Surface::Shiny));
        self::assertLessThan(0.75 * $matt, $count(Surface::Dark));
        $simulate = fn (array $more) => (new Simulate)(new Workpiece, new SimulateParameters(...['part' => 'bush', 'rig' => 'ring', 'density' => 100.0] + $more), new NoProgress)->workpiece->pointCount();
        self::assertSame($simulate([]), $simulate(['surface' => 'shiny', 'spray' => true]));
        self::assertLessThan($simulate([]), $simulate(['surface' => 'shiny']));
    }

    #[Test]
    public function dots_lie_on_the_part_no_two_too_near_and_show_in_colour_alone(): void
    {
        $dots = new MarkerDots(3.0, 30.0);
        $part = new BearingPedestal;
        $places = $dots->places($part);
        self::assertGreaterThan(15, count($places));
        foreach ($places as $k => [$x, $y, $z]) {
            self::assertEqualsWithDelta(0.0, $part->distance($x, $y, $z), 0.3);
            foreach (array_slice($places, 0, $k) as [$a, $b, $c]) {
                self::assertGreaterThanOrEqual(30.0, sqrt(($x - $a) ** 2 + ($y - $b) ** 2 + ($z - $c) ** 2));
            }
        }
        $rig = fn (?MarkerDots $d) => (new HandheldRig(width: 160, height: 120, table: false, dots: $d))->capture($part, 1, 3);
        ['cloud' => $cloud, 'pose' => $pose] = $rig($dots);
        self::assertSame($rig(null)['cloud']->positions, $cloud->positions);
        $p = $cloud->transformed($pose)->positions;
        $white = 0;
        foreach ($cloud->colours as $i => $colour) {
            if ($colour !== MarkerDots::WHITE) {
                continue;
            }
            $white++;
            $near = min(array_map(fn (array $at) => ($p[3 * $i] - $at[0]) ** 2 + ($p[3 * $i + 1] - $at[1]) ** 2 + ($p[3 * $i + 2] - $at[2]) ** 2, $places));
            self::assertLessThan(3.1 ** 2, $near);
        }
        self::assertGreaterThan(30, $white);
    }

    #[Test]
    public function a_scanner_that_is_off_scale_makes_the_gauge_bar_too_long(): void
    {
        $bar = Catalogue::part('pedestal-with-bar')->features()['gauge-bar'];
        ['cloud' => $cloud, 'pose' => $pose] = (new HandheldRig(passes: 4, width: 240, height: 180, table: false, turnsOver: false, scale: 1.008))->capture(Catalogue::part('pedestal-with-bar'), 3, 2);
        $centres = [];
        foreach ($bar['balls'] as ['centre' => $centre]) {
            // What lies on the ball in truth, where the scanner says it does.
            $on = [];
            $true = $cloud->scaled(1.0 / 1.008)->transformed($pose)->positions;
            for ($o = 0, $n = count($true); $o < $n; $o += 3) {
                if (abs(sqrt(($true[$o] - $centre[0]) ** 2 + ($true[$o + 1] - $centre[1]) ** 2 + ($true[$o + 2] - $centre[2]) ** 2) - 10.0) < 0.3 && (abs($true[$o]) > 50.0 || hypot($true[$o + 1] - $centre[1], $true[$o + 2] - $centre[2]) > 5.0)) {
                    array_push($on, $cloud->positions[$o], $cloud->positions[$o + 1], $cloud->positions[$o + 2]);
                }
            }
            $ball = SphereFit::of($on, array_fill(0, intdiv(count($on), 3), 1.0));
            self::assertNotNull($ball);
            self::assertEqualsWithDelta(10.08, $ball['radius'], 0.05);
            $centres[] = $ball['origin'];
        }
        [$a, $b] = $centres;
        self::assertEqualsWithDelta(100.8, sqrt(($a[0] - $b[0]) ** 2 + ($a[1] - $b[1]) ** 2 + ($a[2] - $b[2]) ** 2), 0.08);
    }

    #[Test]
    public function a_room_needs_the_tripod_and_the_tripod_a_room(): void
    {
        foreach ([['press-hall', 'handheld'], ['bush', 'tripod']] as [$part, $rig]) {
            try {
                (new Simulate)(new Workpiece, new SimulateParameters($part, $rig), new NoProgress);
                self::fail("$part with $rig");
            } catch (InvalidParameter $refusal) {
                self::assertStringContainsString('tripod', $refusal->getMessage());
            }
        }
    }
}
