<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Foundation\RecordingProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Diagnosis\FreeSpaceViolations;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\PairPoints;
use Emberstone\Core\Register\PairPointsParameters;
use Emberstone\Core\Register\Prepare;
use Emberstone\Core\Register\Register;
use Emberstone\Core\Register\RegisterParameters;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Tests\Support\Captures;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\WeightStone;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class RegisterTest extends TestCase
{
    #[Test]
    public function eight_drifted_passes_come_within_0_15_mm_of_the_truth_everywhere_on_the_part(): void
    {
        $rig = new HandheldRig(width: 220, height: 165, table: false);
        $passes = $poses = [];
        for ($k = 0; $k < 8; $k++) {
            $capture = Captures::of($rig, new BearingPedestal, $k, 11);
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
            self::assertSame($passes[$k]->cloud(), $pass->cloud(), 'points never change');
        }
        self::assertTrue($result->workpiece->passes[0]->transform->isIdentity(), 'the reference stays');
        self::assertDoesNotMatchRegularExpression('/can (turn|slide)/', implode(' ', $result->notes), 'this part holds its passes');
        $sorted = $progress->fractions;
        sort($sorted);
        self::assertSame($sorted, $progress->fractions, 'progress never falls');

        $histogram = $result->after['histogram'];
        self::assertEqualsWithDelta(1.0, array_sum($histogram['shares']), 1e-3);
        // Noise of 0.05 mm along the ray on both sides: half within some 0.04 mm of each other's surface, and as many before as behind.
        self::assertEqualsWithDelta(0.035, $histogram['within50Mm'], 0.015);
        self::assertLessThan(0.3, $histogram['within95Mm']);
        self::assertEqualsWithDelta(0.5, array_sum(array_slice($histogram['shares'], 0, 10)), 0.1);
        // Falling off evenly to both sides of the middle: no heap of points without a surface under them.
        self::assertLessThan(1.3 * $histogram['shares'][9], $histogram['shares'][10]);
        self::assertGreaterThan($histogram['shares'][7], $histogram['shares'][9]);
        self::assertCount(8, $result->maps);
        foreach ($result->maps as $k => $map) {
            self::assertSame([$passes[$k]->id, 'Residual', $passes[$k]->cloud()->count()], [$map->target, $map->label, strlen($map->bytes)]);
            self::assertGreaterThan(0.3, 1.0 - substr_count($map->bytes, "\0") / strlen($map->bytes), 'a third of each is seen by others at least');
        }
    }

    #[Test]
    #[Group('nightly')]
    public function what_bent_during_a_pass_is_listed_as_a_double_skin_and_what_did_not_is_not(): void
    {
        $rig = new HandheldRig(width: 260, height: 195, table: false, turnsOver: false);
        $passes = [];
        for ($k = 0; $k < 5; $k++) {
            $capture = Captures::of($rig, new BearingPedestal, $k, 3);
            $passes[] = Pass::of("pass $k", $capture['cloud']->transformed($capture['pose']));
        }
        $clean = (new Register)(new Workpiece($passes), new RegisterParameters, new NoProgress);
        self::assertSame([], $clean->after['doubleSkins']);
        self::assertStringNotContainsString('Double', implode(' ', $clean->notes));

        // In one pass the top had slipped upwards by a millimetre: no place for the pass as a whole mends that.
        $cloud = $passes[2]->cloud();
        $p = $cloud->positions;
        for ($o = 2, $n = count($p); $o < $n; $o += 3) {
            $p[$o] += $p[$o] > 40.0 ? 1.0 : 0.0;
        }
        $passes[2] = Pass::of('pass 2', PointCloud::fromFlat($p, sensorOrigin: $cloud->sensorOrigin));
        $bent = (new Register)(new Workpiece($passes), new RegisterParameters, new NoProgress);
        self::assertNotSame([], $bent->after['doubleSkins']);
        foreach ($bent->after['doubleSkins'] as $skin) {
            self::assertContains('pass 2', $skin['passes']);
            self::assertGreaterThan(0.3, $skin['gapMm']);
            self::assertLessThan(1.1, $skin['gapMm']);
        }
        self::assertSame(['pass 2'], $bent->after['doubleSkins'][0]['off']);
        self::assertMatchesRegularExpression('/pass 2.* off the others. Resolve them/', implode(' ', $bent->notes));
    }

    #[Test]
    public function a_pass_that_ended_in_a_wrong_place_is_found_by_what_others_saw_through(): void
    {
        $rig = new HandheldRig(width: 200, height: 150, table: false, driftMm: 0.0, driftDeg: 0.0);
        $passes = array_map(fn (int $k) => Pass::of("pass $k", Captures::of($rig, new BearingPedestal, $k, 5)['cloud']), [4, 5, 6, 7]);
        $right = Prepare::all($passes, new NoProgress);
        $spacing = $right[0]->spacing;
        self::assertNull((new FreeSpaceViolations(new Icp($right, 3.0, 1.0), $right, $spacing))->worst([0]));

        $wrong = Prepare::all($passes, new NoProgress);
        $wrong[2]->transform = RigidTransform::shift(0.0, 5.0, 0.0);
        $contradictions = new FreeSpaceViolations(new Icp($wrong, 3.0, 1.0), $wrong, $spacing);
        $worst = $contradictions->worst([0]);
        self::assertNotNull($worst);
        self::assertSame(2, $worst['pass']);

        $contradictions->retry(2, $wrong[2]->transform, 10.0);
        self::assertNull($contradictions->worst([0]));
        self::assertEqualsWithDelta([0.0, 0.0, 0.0], $wrong[2]->transform->point([0.0, 0.0, 0.0]), $spacing, 'within the distance of two points: near enough for tightening');
        self::assertLessThan(1.0, $spacing);
    }

    #[Test]
    public function a_pass_that_cannot_stand_right_is_named(): void
    {
        $rig = new HandheldRig(width: 160, height: 120, table: false, driftMm: 0.0, driftDeg: 0.0);
        $passes = array_map(fn (int $k) => Pass::of("pass $k", Captures::of($rig, new BearingPedestal, $k, 2)['cloud']), [4, 5, 6]);
        // A pass of a part a tenth larger fits nowhere; the others looked through where it stands out.
        $passes[2] = Pass::of('larger', $passes[2]->cloud()->scaled(1.1));
        $result = (new Register)(new Workpiece($passes), new RegisterParameters('auto', 6.0), new NoProgress);
        self::assertSame(Outcome::NotConverged, $result->outcome);
        self::assertSame('larger', $result->after['doubtful']);
        self::assertStringContainsString('larger does not stand right', implode(' ', $result->notes));
        self::assertStringContainsString('No place was found by shape for larger', implode(' ', $result->notes));
        self::assertStringContainsString('All were tightened from where they were put', implode(' ', $result->notes));
    }

    #[Test]
    public function passes_that_do_not_overlap_are_named(): void
    {
        $rig = new HandheldRig(width: 120, height: 90, table: false);
        $near = Captures::of($rig, new BearingPedestal, 0, 1)['cloud'];
        $far = $near->transformed(RigidTransform::shift(500.0, 0.0, 0.0));
        $this->expectExceptionObject(UnsuitableInput::because('elsewhere does not overlap the other passes where the scanner put them. Set the rough placing to auto, pick pairs to bring it near, raise the reach, or leave it out.'));
        (new Register)(new Workpiece([Pass::of('here', $near), Pass::of('elsewhere', $far)]), new RegisterParameters('none', 6.0), new NoProgress);
    }

    #[Test]
    public function locked_passes_stay_to_the_last_bit_and_the_others_come_to_them(): void
    {
        $rig = new HandheldRig(width: 160, height: 120, table: false, driftMm: 0.0, driftDeg: 0.0);
        $passes = array_map(fn (int $k) => Pass::of("pass $k", Captures::of($rig, new WeightStone, $k, 8)['cloud']), [4, 5, 6]);
        $away = RigidTransform::turn([0.0, 1.0, 1.0], 0.01)->then(RigidTransform::shift(0.4, 0.3, -0.5));
        $passes[0] = $passes[0]->moved($away);
        $outcome = (new Register)(new Workpiece($passes), new RegisterParameters(maxDistance: 3.0, locked: ['pass 5', 'pass 6']), new NoProgress);
        $result = $outcome->workpiece->passes;
        self::assertSame($passes[1]->transform->matrix, $result[1]->transform->matrix);
        self::assertSame($passes[2]->transform->matrix, $result[2]->transform->matrix);
        self::assertEqualsWithDelta([60.0, 35.0, 0.0], $result[0]->transform->point([60.0, 35.0, 0.0]), 0.15);
        // The report says where each went, and the way back.
        [$moved, $locked] = $outcome->after['passes'];
        self::assertSame([0.0, 0.0], [$locked['moved'], $locked['turned']]);
        self::assertEqualsWithDelta(rad2deg(0.01), $moved['turned'], 0.05);
        self::assertGreaterThan(0.5, $moved['moved']);
        self::assertSame($result[0]->transform->matrix, $moved['is']);
        self::assertEqualsWithDelta($away->point([5.0, 6.0, 7.0]), RigidTransform::fromMatrix($moved['is'])->then(RigidTransform::fromMatrix($moved['back']))->point([5.0, 6.0, 7.0]), 1e-9);

        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('unlock the one that may move');
        (new Register)(new Workpiece($passes), new RegisterParameters(locked: ['pass 4', 'pass 5', 'pass 6']), new NoProgress);
    }

    #[Test]
    public function a_stop_is_heard(): void
    {
        $cloud = Captures::of(new HandheldRig(width: 120, height: 90, table: false), new BearingPedestal, 0, 1)['cloud'];
        $this->expectException(OperationCancelled::class);
        (new Register)(new Workpiece([Pass::of('a', $cloud), Pass::of('b', $cloud)]), new RegisterParameters(maxDistance: 6.0), new RecordingProgress(0.4));
    }

    #[Test]
    public function picked_pairs_bring_a_pass_onto_its_partner(): void
    {
        $truth = RigidTransform::turn([1.0, 1.0, 0.0], 1.2)->then(RigidTransform::shift(10.0, -20.0, 5.0));
        $pairs = array_map(fn (array $p) => ['from' => $p, 'to' => $truth->point($p)], [[0.0, 0.0, 0.0], [50.0, 0.0, 0.0], [0.0, 40.0, 10.0], [5.0, 5.0, 30.0]]);
        $pass = Pass::of('moving', PointCloud::fromFlat([1.0, 2.0, 3.0]));
        $moved = (new PairPoints)(new Workpiece([$pass]), new PairPointsParameters('moving', $pairs), new NoProgress)->workpiece->passes[0];
        self::assertEqualsWithDelta($truth->matrix, $moved->transform->matrix, 1e-9);
    }

    #[Test]
    public function others_that_lie_on_it_move_along_as_they_stand_to_it_and_one_must_stay(): void
    {
        $by = RigidTransform::turn([0.0, 1.0, 1.0], 0.4)->then(RigidTransform::shift(7.0, 1.0, -3.0));
        $pairs = array_map(fn (array $p) => ['from' => $p, 'to' => $by->point($p)], [[0.0, 0.0, 0.0], [50.0, 0.0, 0.0], [0.0, 40.0, 10.0]]);
        $passes = array_map(fn (string $name) => Pass::of($name, PointCloud::fromFlat([1.0, 2.0, 3.0]))->moved(RigidTransform::shift(0.0, 0.0, (float) strlen($name))), ['stays', 'moving', 'along with it']);
        $result = (new PairPoints)(new Workpiece($passes), new PairPointsParameters('moving', $pairs, [$passes[2]->id]), new NoProgress)->workpiece->passes;
        self::assertSame($passes[0]->transform->matrix, $result[0]->transform->matrix);
        foreach ([1, 2] as $k) {
            self::assertEqualsWithDelta($passes[$k]->transform->then($by)->matrix, $result[$k]->transform->matrix, 1e-9);
        }
        foreach ([[['along with it', 'stays'], 'none would stay'], [['nobody'], 'names "nobody", but the passes are stays, moving, along with it'], [[3], 'entry 1 must be the name']] as [$with, $words]) {
            try {
                (new PairPoints)(new Workpiece($passes), new PairPointsParameters('moving', $pairs, $with), new NoProgress);
                self::fail($words);
            } catch (InvalidParameter $refused) {
                self::assertStringContainsString($words, $refused->getMessage());
            }
        }
    }

    #[Test]
    public function picks_nearly_in_a_line_are_refused(): void
    {
        $line = array_map(fn (float $x) => ['from' => [$x, 0.01 * $x * $x / 50, 0.0], 'to' => [$x, 1.0, 0.0]], [0.0, 25.0, 50.0]);
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('nearly in a line');
        (new PairPoints)(new Workpiece([Pass::of('a', PointCloud::fromFlat([0.0, 0.0, 0.0]))]), new PairPointsParameters('a', $line), new NoProgress);
    }

    #[Test]
    public function picks_that_hold_something_loosely_are_warned_of(): void
    {
        $places = array_chunk((new Gen(6))->points(400, 50.0), 3);
        $pairs = fn (array ...$at): array => array_map(fn (array $one) => ['from' => $one, 'to' => $one], $at);
        self::assertNull(PairPoints::caution($pairs([40, 40, 0], [-40, 40, 10], [0, -40, 0]), $places));
        self::assertStringContainsString('crowded in one corner: they span 14.1 mm', (string) PairPoints::caution($pairs([40, 40, 0], [30, 40, 0], [40, 30, 0]), $places));
        self::assertStringContainsString('nearly in a line: the turn about it is held loosely', (string) PairPoints::caution($pairs([40, 0, 0], [-40, 0, 0], [0, 5, 0]), $places));
        // The step says so too, and is carried out.
        $pass = Pass::of('a', PointCloud::fromFlat(array_merge(...$places)));
        $result = (new PairPoints)(new Workpiece([$pass]), new PairPointsParameters('a', $pairs([40, 40, 0], [30, 40, 0], [40, 30, 0])), new NoProgress);
        self::assertCount(1, $result->notes);
        self::assertStringContainsString('spread them', $result->notes[0]);
    }

    #[Test]
    public function a_noisy_pass_has_less_to_say_where_another_stands(): void
    {
        // Three plates; the third has a true one below and a noisy one above it, 0.1 mm apart, and both stay.
        $gen = new Gen(3);
        $plate = function (float $z, float $noise) use ($gen): PointCloud {
            $p = [];
            for ($i = 0; $i < 60; $i++) {
                for ($j = 0; $j < 60; $j++) {
                    array_push($p, $i + $gen->float(-0.2, 0.2), $j + $gen->float(-0.2, 0.2), $z + $gen->float(-$noise, $noise));
                }
            }

            return PointCloud::fromFlat($p, [], [], [30.0, 30.0, 300.0]);
        };
        $height = function (float $true, float $noise) use ($plate): float {
            $passes = [Pass::of('true', $plate(0.0, $true)), Pass::of('noisy', $plate(0.1, $noise)), Pass::of('between', $plate(0.05, 0.1))];
            $result = (new Register)(new Workpiece($passes), new RegisterParameters(maxDistance: 3.0, locked: ['true', 'noisy']), new NoProgress);

            return $result->workpiece->passes[2]->transform->point([30.0, 30.0, 0.05])[2];
        };
        self::assertEqualsWithDelta(0.05, $height(0.1, 0.1), 0.015, 'as much to say as the other');
        self::assertLessThan(0.03, $height(0.05, 0.25));
    }

    #[Test]
    public function one_more_pick_is_wanted_where_the_others_hold_least(): void
    {
        // Three picks near the edge x = y = 0 of a long box: what swings about it moves the far edge most.
        $pairs = array_map(fn (array $at) => ['from' => $at, 'to' => $at], [[0.0, 0.0, 0.0], [0.0, 1.0, 50.0], [1.0, 0.0, 100.0]]);
        // Places all over the box, and a few strays far out.
        $places = [];
        foreach (array_chunk((new Gen(6))->points(200, 0.5), 3) as [$x, $y, $z]) {
            $places[] = [80.0 * ($x + 0.5), 40.0 * ($y + 0.5), 100.0 * ($z + 0.5)];
        }
        array_push($places, [900.0, 0.0, 0.0], [-700.0, 100.0, 50.0], [0.0, 800.0, 900.0]);
        [$x, $y] = PairPoints::hint($pairs, $places);
        self::assertGreaterThan(55.0, $x);
        self::assertLessThanOrEqual([80.0, 40.0], [$x, $y]);
    }
}
