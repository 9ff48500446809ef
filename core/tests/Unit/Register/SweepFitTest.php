<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\RecordingProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\SweepFit;
use Emberstone\Core\Register\Sweeps;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\LiveScan;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** What a handheld scanner's pose walks off inside one sweep, taken out again. */
final class SweepFitTest extends TestCase
{
    #[Test]
    #[TestWith(['pedestal', 1])]
    #[TestWith(['cap', 2])]
    public function frames_that_walked_off_are_brought_back_onto_each_other(string $name, int $seed): void
    {
        $part = Catalogue::part($name);
        [$min, $max] = $part->bounds();
        $corners = [...$min, ...$max, $min[0], $max[1], $min[2], $max[0], $min[1], $max[2]];
        $scan = new LiveScan($part, 'handheld', seed: $seed);
        $frames = $walked = [];
        for ($k = 0; $k < 9; $k++) {
            $frame = $scan->next();
            self::assertNotNull($frame);
            $frames[] = $frame;
            $walked[] = $scan->drift();
        }
        // How far a corner of the part stands from where the middle frame has it.
        $off = fn (array $motions): float => max(array_map(fn (int $k) => PoseDistance::apart($walked[4]->then($motions[4]), $walked[$k]->then($motions[$k]), $corners), array_keys($walked)));
        $progress = new RecordingProgress;
        $sweep = Sweeps::of($frames, $progress)[0];
        $sorted = $progress->fractions;
        sort($sorted);
        self::assertSame($sorted, $progress->fractions, 'progress never falls');
        $fit = $sweep['fit'];
        self::assertGreaterThan(0.09, $off(array_fill(0, 9, RigidTransform::identity())));
        self::assertLessThan(0.03, $off($fit->motions));
        self::assertTrue($fit->motions[4]->isIdentity(), 'the pass as a whole stays');
        self::assertLessThan(0.06, $fit->residual, 'the noise of 0.05 mm');
        self::assertGreaterThan(1.5 * $fit->residual, $fit->before);
        // The points of the pass are those of the frames, moved.
        $last = array_slice($sweep['cloud']->positions, -3);
        self::assertEqualsWithDelta($fit->motions[8]->point(array_slice($frames[8]->placed()->positions, -3)), $last, 1e-9);
    }

    #[Test]
    public function frames_of_a_bare_plate_do_not_slide_away(): void
    {
        $gen = new Gen(4);
        $frames = [];
        for ($k = 0; $k < 4; $k++) {
            $p = [];
            for ($i = 0; $i < 40; $i++) {
                for ($j = 0; $j < 30; $j++) {
                    array_push($p, $i + 4.0 * $k, $j, $gen->float(-0.05, 0.05) + 0.1 * $k);
                }
            }
            $frames[] = PointCloud::fromFlat($p, [], [], [20.0, 15.0, 200.0]);
        }
        $fit = SweepFit::of($frames, new NoProgress);
        foreach ($fit->motions as $motion) {
            $at = $motion->point([20.0, 15.0, 0.0]);
            self::assertLessThan(0.3, hypot($at[0] - 20.0, $at[1] - 15.0), 'along the plate nothing holds a frame but where it was believed to be');
        }
    }

    #[Test]
    public function frames_with_nothing_in_common_stay_where_the_scanner_believed_them(): void
    {
        $plate = function (float $x): PointCloud {
            $p = [];
            for ($k = 0; $k < 900; $k++) {
                array_push($p, $x + $k % 30, (float) intdiv($k, 30), 0.2 * sin($k));
            }

            return PointCloud::fromFlat($p, [], [], [$x, 0.0, 300.0]);
        };
        $fit = SweepFit::of([$plate(0.0), $plate(500.0), $plate(1000.0)], new NoProgress);
        self::assertSame([null, 0.0], [$fit->residual, $fit->farthest]);
        foreach ($fit->motions as $motion) {
            self::assertTrue($motion->isIdentity());
        }
        self::assertNull(SweepFit::of([$plate(0.0)], new NoProgress)->residual);
    }
}
