<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Register\Coarse\AssemblyScore;
use Emberstone\Core\Register\Coarse\PairScoreCache;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\Prepare;
use Emberstone\Core\Register\PreparedPass;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Tests\Support\Captures;
use Emberstone\Core\Tests\Support\WeightStone;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class AssemblyScoreTest extends TestCase
{
    /** @return array{list<PreparedPass>, Icp, float} neighbours of a stone in their true poses, the first a second time, and the spacing */
    private function passes(): array
    {
        $rig = new HandheldRig(width: 160, height: 120, table: false, turnsOver: false);
        $passes = [];
        foreach ([0, 1, 2, 0] as $n => $k) {
            $capture = Captures::of($rig, new WeightStone, $k, 5);
            $passes[] = Pass::of("pass $n", $capture['cloud'])->moved($capture['pose']);
        }
        $prepared = Prepare::all($passes, new NoProgress);
        $spacing = $prepared[0]->spacing;

        return [$prepared, new Icp($prepared, 6.0 * $spacing, 2.5 * $spacing), $spacing];
    }

    #[Test]
    public function the_same_surface_stands_sound_and_a_pass_three_spacings_off_does_not(): void
    {
        [$passes, $fit, $spacing] = $this->passes();
        $standing = new AssemblyScore($fit, $passes, $spacing);
        $right = [...$standing->of([0], [1, 2]), ...$standing->of([1], [2])];
        $standing->learn($right);
        self::assertCount(3, $right);
        self::assertTrue($standing->isSound($right, 100.0));
        self::assertFalse($standing->isSound($right, 1e6), 'too little in common');
        // Nearly all that is near speaks for it.
        self::assertGreaterThan(0.5 * array_sum(array_column($right, 'near')), $standing->support($right));
        $true = $passes[1]->transform;
        $passes[1]->transform = $true->then(RigidTransform::turn([0.2, 1.0, 0.3], 0.12))->then(RigidTransform::shift(3.0 * $spacing, 0.0, 0.0));
        $off = [...$standing->of([0], [1, 2]), ...$standing->of([1], [2])];
        self::assertFalse($standing->isSound($off, 100.0));
        self::assertLessThan(0.0, $standing->support($off));
    }

    #[Test]
    public function passes_from_the_same_place_are_sound_but_worth_less(): void
    {
        [$passes, $fit, $spacing] = $this->passes();
        $standing = new AssemblyScore($fit, $passes, $spacing);
        $beside = $standing->of([0], [1]);
        $twice = $standing->of([0], [3]);
        $standing->learn([...$beside, ...$twice]);
        self::assertGreaterThan(0.85, $twice[0]['share']);
        self::assertTrue($standing->isSound($twice, 100.0));
        self::assertLessThan(0.0, $standing->worth($twice));
        self::assertGreaterThan(0.0, $standing->worth($beside));
    }

    #[Test]
    public function a_rough_place_is_tightened_before_it_is_judged_and_found_once(): void
    {
        [$passes, $fit, $spacing] = $this->passes();
        $standing = new AssemblyScore($fit, $passes, $spacing);
        $verdicts = new PairScoreCache($fit, $passes, $standing, $spacing, 10.0 * $spacing);
        $place = $passes[0]->transform->then($passes[1]->transform->inverse());
        $exact = $standing->of([0], [1])[0];
        $rough = $place->then(RigidTransform::shift(1.5 * $spacing, -$spacing, 0.0));
        $apart = $place->then(RigidTransform::shift(0.0, 0.0, 5000.0));
        $verdicts->find([[[0, 1, $rough], [0, 1, $apart]]], new NoProgress);
        self::assertEqualsWithDelta($exact['near'], $verdicts->of(0, 1, $rough)[0]['near'], 0.05 * $exact['near']);
        self::assertSame($verdicts->of(0, 1, $rough), $verdicts->of(0, 1, $place), 'the same place');
        self::assertSame([], $verdicts->of(0, 1, $apart));
    }
}
