<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\NoProgress;
use Emberstone\Core\Operation\OperationCancelled;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\RecordingProgress;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\PairPoints;
use Emberstone\Core\Register\PairPointsParameters;
use Emberstone\Core\Register\Register;
use Emberstone\Core\Register\RegisterParameters;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\HandheldRig;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class RegisterTest extends TestCase
{
    #[Test]
    public function eight_drifted_passes_come_within_0_15_mm_of_the_truth_everywhere_on_the_part(): void
    {
        $rig = new HandheldRig(width: 300, height: 225, table: false);
        $passes = $poses = [];
        for ($k = 0; $k < 8; $k++) {
            $capture = $rig->capture(new BearingPedestal, $k, 11);
            $passes[] = Pass::of("pass $k", $capture['cloud']);
            $poses[] = $capture['pose'];
        }
        $progress = new RecordingProgress;
        $result = (new Register)(new Workpiece($passes), new RegisterParameters(maxDistance: 6.0), $progress);
        foreach ($result->workpiece->passes as $k => $pass) {
            foreach ([[-60.0, -35.0, 0.0], [60.0, 35.0, 0.0], [-60.0, 35.0, 14.0], [0.0, 30.0, 79.0], [0.0, -30.0, 79.0]] as $corner) {
                $found = $pass->transform->point($poses[$k]->inverse()->point($corner));
                self::assertEqualsWithDelta($corner, $found, 0.15, $pass->name);
            }
            self::assertSame($passes[$k]->cloud, $pass->cloud, 'points never change');
        }
        self::assertTrue($result->workpiece->passes[0]->transform->isIdentity(), 'the reference stays');
        $sorted = $progress->fractions;
        sort($sorted);
        self::assertSame($sorted, $progress->fractions, 'progress never falls');
    }

    #[Test]
    public function passes_that_do_not_overlap_are_named(): void
    {
        $rig = new HandheldRig(width: 120, height: 90, table: false);
        $near = $rig->capture(new BearingPedestal, 0, 1)['cloud'];
        $far = $near->transformed(Transform::shift(500.0, 0.0, 0.0));
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('elsewhere does not overlap');
        (new Register)(new Workpiece([Pass::of('here', $near), Pass::of('elsewhere', $far)]), new RegisterParameters(maxDistance: 6.0), new NoProgress);
    }

    #[Test]
    public function a_stop_is_heard(): void
    {
        $cloud = (new HandheldRig(width: 120, height: 90, table: false))->capture(new BearingPedestal, 0, 1)['cloud'];
        $this->expectException(OperationCancelled::class);
        (new Register)(new Workpiece([Pass::of('a', $cloud), Pass::of('b', $cloud)]), new RegisterParameters(maxDistance: 6.0), new RecordingProgress(0.4));
    }

    #[Test]
    public function picked_pairs_bring_a_pass_onto_its_partner(): void
    {
        $truth = Transform::turn([1.0, 1.0, 0.0], 1.2)->then(Transform::shift(10.0, -20.0, 5.0));
        $pairs = array_map(fn (array $p) => ['from' => $p, 'to' => $truth->point($p)], [[0.0, 0.0, 0.0], [50.0, 0.0, 0.0], [0.0, 40.0, 10.0], [5.0, 5.0, 30.0]]);
        $pass = Pass::of('moving', PointCloud::fromFlat([1.0, 2.0, 3.0]));
        $moved = (new PairPoints)(new Workpiece([$pass]), new PairPointsParameters('moving', $pairs), new NoProgress)->workpiece->passes[0];
        self::assertEqualsWithDelta($truth->matrix, $moved->transform->matrix, 1e-9);
    }

    #[Test]
    public function picks_nearly_in_a_line_are_refused(): void
    {
        $line = array_map(fn (float $x) => ['from' => [$x, 0.01 * $x * $x / 50, 0.0], 'to' => [$x, 1.0, 0.0]], [0.0, 25.0, 50.0]);
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('nearly in a line');
        (new PairPoints)(new Workpiece([Pass::of('a', PointCloud::fromFlat([0.0, 0.0, 0.0]))]), new PairPointsParameters('a', $line), new NoProgress);
    }
}
