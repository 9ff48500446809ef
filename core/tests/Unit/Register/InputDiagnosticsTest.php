<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Coarse\Overlaps;
use Emberstone\Core\Register\Diagnosis\InputDiagnostics;
use Emberstone\Core\Register\MatchParameters;
use Emberstone\Core\Register\MatchPasses;
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
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** What is wrong with passes is said in words. */
final class InputDiagnosticsTest extends TestCase
{
    /** @var list<Pass> taken once */
    private static array $stones = [];

    /**
     * Looks at a stone that no mirror looks the same in, each thrown somewhere else.
     *
     * @return list<Pass>
     */
    private static function stones(): array
    {
        $rig = new HandheldRig(width: 200, height: 150, table: false, turnsOver: false);

        return self::$stones = self::$stones ?: array_map(fn (int $k) => Pass::of("look $k", Captures::of($rig, new WeightStone, $k, 5)['cloud']->transformed(self::somewhere($k))), [0, 1, 2]);
    }

    private static function somewhere(int $k): RigidTransform
    {
        return RigidTransform::turn([0.3, 1.0, -0.2 * $k], 0.9 * $k)->then(RigidTransform::shift(120.0 * $k, -40.0, 15.0 * $k));
    }

    /** @param  callable(float, float, float): array{float, float, float}  $change */
    private static function changed(Pass $pass, string $name, callable $change): Pass
    {
        $p = $pass->cloud()->positions;
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            [$p[$o], $p[$o + 1], $p[$o + 2]] = $change($p[$o], $p[$o + 1], $p[$o + 2]);
        }

        return Pass::of($name, PointCloud::fromFlat($p, [], [], $change(...($pass->cloud()->sensorOrigin ?? [0.0, 0.0, 0.0]))));
    }

    private static function refusal(callable $try): string
    {
        try {
            $try();
        } catch (UnsuitableInput $refused) {
            return $refused->getMessage();
        }

        return 'not refused';
    }

    private const MIRRORED = 'the other way runs from point to point the other way round than the other passes do, as in a mirror. Unless another scanner took it, an axis of its file runs the wrong way: write the file anew.';

    #[Test]
    public function the_same_capture_twice_is_named_wherever_it_stands(): void
    {
        [$a, $b] = self::stones();
        // As a file in single precision keeps it, somewhere else.
        $again = Pass::of('again', PointCloud::fromFlat(array_values((array) unpack('g*', pack('g*', ...$a->cloud()->transformed(self::somewhere(2))->positions)))));
        $passes = [$a, $b, $again];
        self::assertSame(['again holds the same points as look 0, which count twice now: leave one of the two out.'], (new InputDiagnostics($passes, []))->inThemselves());
        // As many points, but others.
        $other = self::changed($a, 'other', fn (float $x, float $y, float $z) => [$x, $y, $z + 0.01 * sin($x)]);
        self::assertSame([], (new InputDiagnostics([$a, $b, $other], []))->inThemselves());
        self::assertContains('again holds the same points as look 0, which count twice now: leave one of the two out.', (new Register)(new Workpiece([$a, Pass::of('again', $a->cloud())]), new RegisterParameters, new NoProgress)->notes);
    }

    #[Test]
    #[Group('nightly')]
    public function a_mirrored_pass_is_told_from_one_that_shares_too_little(): void
    {
        [$a, $b, $c] = self::stones();
        // Out of order, so that shape alone tells.
        $points = (new Gen(6))->shuffled(array_chunk(self::mirrored($c)->cloud()->positions, 3));
        $mirrored = Pass::of('the other way', PointCloud::fromFlat(array_merge(...$points), [], [], self::mirrored($c)->cloud()->sensorOrigin));
        self::assertStringContainsString(
            'No place was found by shape for the other way. the other way fits when it is mirrored: an axis of its file runs the wrong way. Write the file anew. Or leave it out.',
            self::refusal(fn () => (new Register)(new Workpiece([$a, $b, $mirrored]), new RegisterParameters(coarse: 'auto'), new NoProgress)),
        );
        // It was the mirror: as it is, the same look has a place.
        self::assertSame(['look 1', 'look 2'], (new MatchPasses)(new Workpiece([$a, $b, $c]), new MatchParameters, new NoProgress)->after['moved']);
    }

    private static function mirrored(Pass $pass): Pass
    {
        return self::changed($pass, 'the other way', fn (float $x, float $y, float $z) => [-$x, $y, $z]);
    }

    #[Test]
    public function a_mirrored_pass_is_named_by_the_order_of_its_points(): void
    {
        [$a, $b, $c] = self::stones();
        $named = self::MIRRORED;
        self::assertSame([$named], (new InputDiagnostics([$a, self::mirrored($c), $b], []))->inThemselves());
        self::assertSame([], (new InputDiagnostics([$a, $b, $c], []))->inThemselves());
        self::assertStringContainsString("No place was found by shape for the other way. $named", self::refusal(fn () => (new MatchPasses)(new Workpiece([$a, $b, self::mirrored($c)]), new MatchParameters, new NoProgress)));
    }

    #[Test]
    #[Group('nightly')]
    public function a_mirrored_pass_that_finds_a_place_is_named_too(): void
    {
        // In a mirror a pedestal looks the same but for the year on its front: it is placed.
        $rig = new HandheldRig(width: 200, height: 150, table: false, turnsOver: false);
        $passes = array_map(fn (int $k) => Pass::of("look $k", Captures::of($rig, new BearingPedestal, $k, 5)['cloud']), range(0, 3));
        $passes[1] = self::mirrored($passes[1]);
        self::assertContains(self::MIRRORED, (new Register)(new Workpiece($passes), new RegisterParameters(coarse: 'auto'), new NoProgress)->notes);
    }

    /** @param  int  $at  0: all others are to be brought to it */
    #[Test]
    #[TestWith(['none', 2])]
    #[TestWith(['auto', 2])]
    #[TestWith(['auto', 0])]
    public function a_pass_in_another_unit_is_told_by_its_size_and_it_alone_is_named(string $coarse, int $at): void
    {
        $passes = self::stones();
        $passes[$at] = self::changed($passes[$at], 'in inches', fn (float $x, float $y, float $z) => [$x / 25.4, $y / 25.4, $z / 25.4]);
        $said = self::refusal(fn () => (new Register)(new Workpiece($passes), new RegisterParameters(coarse: $coarse), new NoProgress));
        self::assertMatchesRegularExpression('/in inches is \S+ mm across where the others are some \S+ mm: set its unit to in\./', $said);
        self::assertStringNotContainsString('look', $coarse === 'auto' ? $said : '');
    }

    #[Test]
    public function a_pass_that_is_too_large_is_told_though_beside_it_no_other_finds_a_place(): void
    {
        [$a, $b, $c] = self::stones();
        $said = self::refusal(fn () => (new MatchPasses)(new Workpiece([$a, Pass::of('large', $b->cloud())->scaled(25.4), $c]), new MatchParameters, new NoProgress));
        self::assertMatchesRegularExpression('/^No place was found by shape for large\. large is \S+ mm across where the others are some \S+ mm: set its unit to mm\. Or leave it out\.$/', $said);
    }

    #[Test]
    public function flat_is_what_lies_on_a_plane_but_for_a_few_points(): void
    {
        [$stone] = self::stones();
        $plate = [];
        for ($k = 0; $k < 4000; $k++) {
            // A golden lattice, some 0.6 mm apart, and one point in a hundred off the plane.
            array_push($plate, 40.0 * fmod(0.6180339887 * $k, 1.0), 0.01 * $k, $k % 100 === 0 ? 3.0 : 0.01 * sin($k));
        }
        $passes = [$stone, Pass::of('plate', PointCloud::fromFlat($plate, [], [], [20.0, 20.0, 300.0])->transformed(self::somewhere(2)))];
        $suspects = new InputDiagnostics($passes, Prepare::all($passes, new NoProgress));
        self::assertFalse($suspects->isFlat(0));
        self::assertTrue($suspects->isFlat(1));
    }

    #[Test]
    public function the_weakest_link_is_the_least_of_those_that_are_needed(): void
    {
        // A ring of four with a pass that hangs on it by a tenth; the ring's own weakest side is not needed.
        $pairs = [[0, 1], [1, 2], [2, 3], [3, 0], [3, 4], [4, 3]];
        $link = Overlaps::weakest(5, $pairs, [0.5, 0.4, 0.6, 0.05, 0.08, 0.1]);
        self::assertSame(['share' => 0.1, 'one' => [0, 1, 2, 3], 'other' => [4]], $link);
        self::assertSame(['share' => 0.4, 'one' => [0, 1], 'other' => [2, 3]], Overlaps::weakest(4, array_slice($pairs, 0, 4), [0.5, 0.4, 0.6, 0.05]));
        self::assertNull(Overlaps::weakest(5, [[0, 1], [2, 3]], [0.5, 0.4]), 'they do not hang together');
        self::assertNull(Overlaps::weakest(1, [], []));
    }
}
