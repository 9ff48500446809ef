<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Register\LocalPasses;
use Emberstone\Core\Register\Prepare;
use Emberstone\Core\Register\PreparedPass;
use Emberstone\Core\Register\SurfaceAdjustment;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class SurfaceAdjustmentTest extends TestCase
{
    private const NOISE = 0.05;

    /** The outside corner of a room: three plates of 30 mm that meet, seen from where all three face. */
    private static function corner(Gen $gen, int $each = 2500): PointCloud
    {
        $p = [];
        for ($k = 0; $k < 3 * $each; $k++) {
            $at = [$gen->float(-30.0, 0.0), $gen->float(-30.0, 0.0)];
            array_splice($at, $k % 3, 0, [self::normal($gen)]);
            array_push($p, ...$at);
        }

        return PointCloud::fromFlat($p, sensorOrigin: [200.0, 200.0, 200.0]);
    }

    private static function normal(Gen $gen): float
    {
        return self::NOISE * sqrt(-2.0 * log(1.0 - $gen->float(0.0, 0.999999))) * cos(2.0 * M_PI * $gen->float());
    }

    /** A bar of square section along X, longer than both looks at it: nothing holds it that way. */
    private static function bar(Gen $gen): PointCloud
    {
        $p = [];
        for ($k = 0; $k < 6000; $k++) {
            $at = [$gen->float(-40.0, 40.0), $gen->float(-8.0, 0.0)];
            array_splice($at, 1 + $k % 2, 0, [self::normal($gen)]);
            array_push($p, ...$at);
        }

        return PointCloud::fromFlat($p, sensorOrigin: [0.0, 200.0, 200.0]);
    }

    /**
     * @param  list<PointCloud>  $clouds
     * @param  list<RigidTransform>  $poses
     * @return list<PreparedPass>
     */
    private static function prepared(array $clouds, array $poses): array
    {
        return Prepare::all(array_map(fn (PointCloud $cloud, RigidTransform $pose, int $k) => Pass::of("pass $k", $cloud)->moved($pose), $clouds, $poses, array_keys($clouds)), new NoProgress);
    }

    private static function off(PreparedPass $pass): float
    {
        $most = 0.0;
        foreach ([[-30.0, 0.0, 0.0], [0.0, -30.0, 0.0], [0.0, 0.0, -30.0], [0.0, 0.0, 0.0]] as $at) {
            $found = $pass->transform->point($at);
            $most = max($most, sqrt(array_sum(array_map(fn (float $a, float $b) => ($a - $b) ** 2, $found, $at))));
        }

        return $most;
    }

    #[Test]
    public function passes_begun_in_their_true_poses_stay_there_within_three_standard_errors(): void
    {
        $gen = new Gen(41);
        $still = RigidTransform::identity();
        $passes = self::prepared([self::corner($gen), self::corner($gen), self::corner($gen)], [$still, $still, $still]);
        $found = (new SurfaceAdjustment($passes))->settle([0], new NoProgress);
        self::assertTrue($found['converged']);
        self::assertEqualsWithDelta(self::NOISE, $found['spreadMm'], 0.1 * self::NOISE);
        self::assertNull($found['errors'][0]);
        foreach ([1, 2] as $k) {
            $error = $found['errors'][$k];
            self::assertTrue($error['isHeld']);
            // Two passes of some 2500 points a plate: each plate is known to about the noise by the root of them, both ends counted.
            self::assertGreaterThan(0.5 * self::NOISE * sqrt(2.0 / 2500), $error['shiftMm']);
            self::assertLessThan(4.0 * self::NOISE * sqrt(2.0 / 2500), $error['shiftMm']);
            self::assertLessThan(3.0 * ($error['shiftMm'] + deg2rad($error['turnDeg']) * 40.0), self::off($passes[$k]));
        }
    }

    #[Test]
    public function passes_a_spacing_off_come_where_those_do_that_were_right(): void
    {
        $still = RigidTransform::identity();
        $away = RigidTransform::turn([1.0, -2.0, 0.5], 0.004)->then(RigidTransform::shift(0.15, -0.1, 0.12));
        $ends = [];
        foreach ([$still, $away] as $start) {
            $gen = new Gen(42);
            $passes = self::prepared([self::corner($gen), self::corner($gen)], [$still, $start]);
            $found = (new SurfaceAdjustment($passes))->settle([0], new NoProgress);
            self::assertTrue($found['converged']);
            $ends[] = $passes[1]->transform->matrix;
            self::assertLessThan(3.0 * ($found['errors'][1]['shiftMm'] + deg2rad($found['errors'][1]['turnDeg']) * 40.0), self::off($passes[1]));
        }
        self::assertEqualsWithDelta($ends[0], $ends[1], 0.003);
    }

    #[Test]
    public function what_nothing_holds_stays_where_it_was_put_and_its_direction_is_told(): void
    {
        $gen = new Gen(43);
        $passes = self::prepared([self::bar($gen), self::bar($gen)], [RigidTransform::identity(), RigidTransform::shift(1.5, 0.06, -0.05)]);
        $error = (new SurfaceAdjustment($passes))->settle([0], new NoProgress)['errors'][1];
        self::assertFalse($error['isHeld']);
        self::assertGreaterThan(0.99, abs($error['direction'][0]));
        [$x, $y, $z] = $passes[1]->transform->point([0.0, 0.0, 0.0]);
        self::assertEqualsWithDelta(1.5, $x, 0.02);
        self::assertEqualsWithDelta([0.0, 0.0], [$y, $z], 0.01);
    }

    #[Test]
    public function one_process_and_two_find_the_same_to_the_last_bit(): void
    {
        $ends = [];
        foreach ([1, 2] as $workers) {
            Cores::limit($workers);
            $gen = new Gen(44);
            $passes = self::prepared([self::corner($gen, 800), self::corner($gen, 800)], [RigidTransform::identity(), RigidTransform::shift(0.05, 0.0, 0.02)]);
            (new SurfaceAdjustment($passes))->settle([0], new NoProgress);
            $ends[] = $passes[1]->transform->matrix;
        }
        Cores::limit(0);
        self::assertSame($ends[0], $ends[1]);
    }

    #[Test]
    public function passes_without_common_surface_are_left_alone(): void
    {
        $gen = new Gen(45);
        $far = RigidTransform::shift(500.0, 0.0, 0.0);
        $passes = self::prepared([self::corner($gen, 300), self::corner($gen, 300)], [RigidTransform::identity(), $far]);
        $found = (new SurfaceAdjustment($passes))->settle([0], new NoProgress);
        self::assertFalse($found['converged']);
        self::assertSame([null, null], $found['errors']);
        self::assertSame($far->matrix, $passes[1]->transform->matrix);
    }

    #[Test]
    public function local_places_lead_back_to_those_of_the_project_and_what_stays_keeps_its_last_bit(): void
    {
        $gen = new Gen(46);
        $cloud = self::corner($gen, 50);
        $far = RigidTransform::turn([0.3, 1.0, -0.2], 1.1)->then(RigidTransform::shift(1.0e6, -4.0e5, 77.0));
        $passes = [new Pass('a', 'a', $cloud->scaled(0.001), $far, scale: 1000.0), Pass::of('b', $cloud->transformed(RigidTransform::shift(3.0e5, 0.0, 0.0)))->moved($far)];
        $local = LocalPasses::of($passes);
        foreach ($passes as $k => $pass) {
            self::assertSame($pass->transform, $local->pose($k, $local->passes[$k]->transform));
            self::assertLessThan(60.0, max(array_map(abs(...), $local->passes[$k]->cloud()->positions)));
            $there = $local->passes[$k]->placed()->positions;
            foreach ([0, 30, 90] as $o) {
                self::assertEqualsWithDelta(array_slice($pass->placed()->positions, $o, 3), $local->place(array_slice($there, $o, 3)), 1e-8);
            }
            $by = RigidTransform::turn([0.0, 0.0, 1.0], 0.01);
            $moved = $local->pose($k, $local->passes[$k]->transform->then($by));
            $at = $local->passes[$k]->transform->then($by)->point(array_slice($local->passes[$k]->cloud()->positions, 0, 3));
            self::assertEqualsWithDelta($local->place($at), $pass->moved($moved)->placement()->point(array_slice($pass->cloud()->positions, 0, 3)), 1e-8);
        }
    }
}
