<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Fixture\ApplyFixture;
use Emberstone\Core\Register\Fixture\ApplyFixtureParameters;
use Emberstone\Core\Register\Fixture\Fixture;
use Emberstone\Core\Register\Fixture\SolveFixture;
use Emberstone\Core\Register\Fixture\SolveFixtureParameters;
use Emberstone\Core\Rigs\CalibrationTarget;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\Part;
use Emberstone\Core\Rigs\RingRig;
use Emberstone\Core\Tests\Support\Captures;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Four fixed heads: solved once on the target, applied to a part they then capture, and noticed when one is bumped. */
final class FixtureTest extends TestCase
{
    private static function captured(Part $part, ?int $bumped = null, int $seed = 3): Workpiece
    {
        $rig = new RingRig(width: 200, height: 150, bumped: $bumped);

        return new Workpiece(array_map(fn (int $k) => Pass::of('head '.($k + 1), Captures::of($rig, $part, $k, $seed)['cloud']), range(0, 3)));
    }

    /** The farthest that a place on a part of 120 mm lies from where it is. */
    private static function error(RigidTransform $found, int $head): float
    {
        $truth = (new RingRig)->head($head);
        $worst = 0.0;
        foreach ([[0.0, 0.0, 0.0], [60.0, 40.0, 0.0], [-60.0, 0.0, 50.0], [0.0, -60.0, 80.0]] as $at) {
            $there = $found->point($truth->inverse()->point($at));
            $worst = max($worst, sqrt(($there[0] - $at[0]) ** 2 + ($there[1] - $at[1]) ** 2 + ($there[2] - $at[2]) ** 2));
        }

        return $worst;
    }

    /** Degrees between a head as found and as it stands. */
    private static function turnedOff(RigidTransform $found, int $head): float
    {
        $turn = (new RingRig)->head($head)->inverse()->then($found)->matrix;

        return rad2deg(acos(min(1.0, 0.5 * ($turn[0] + $turn[5] + $turn[10] - 1.0))));
    }

    #[Test]
    public function heads_are_found_within_five_hundredths_of_a_millimetre_and_place_a_later_part(): void
    {
        $solved = (new SolveFixture)(self::captured(Catalogue::part('target')), new SolveFixtureParameters, new NoProgress);
        self::assertSame([6, 6, 6, 6], array_column($solved->after['heads'], 'balls'));
        foreach ($solved->workpiece->passes as $k => $pass) {
            self::assertLessThan(0.05, self::error($pass->transform, $k));
            self::assertLessThan(0.02, self::turnedOff($pass->transform, $k));
        }
        $fixture = json_decode(json_encode($solved->after['fixture'], JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION), true, 16, JSON_THROW_ON_ERROR);

        $applied = (new ApplyFixture)(self::captured(Catalogue::part('pedestal'), seed: 8), new ApplyFixtureParameters($fixture), new NoProgress);
        self::assertSame([Outcome::Reached, 0], [$applied->outcome, $applied->after['bumped']]);
        foreach ($applied->workpiece->passes as $k => $pass) {
            self::assertLessThan(0.05, self::error($pass->transform, $k));
        }

        $bumped = (new ApplyFixture)(self::captured(Catalogue::part('pedestal'), bumped: 2, seed: 8), new ApplyFixtureParameters($fixture), new NoProgress);
        self::assertSame(Outcome::NotConverged, $bumped->outcome);
        self::assertStringStartsWith('head 3 fits the other heads to', $bumped->notes[0]);
    }

    /** @return iterable<string, array{list<int>, list<int>, float}> which balls and flat faces of the target are known, and the error allowed, mm */
    public static function knownParts(): iterable
    {
        yield 'balls alone' => [[0, 1, 2, 3, 4, 5], [], 0.05];
        yield 'two balls and the plate' => [[0, 3], [0], 0.05];
        yield 'one ball, the plate and the wedges' => [[4], [0, 5, 6, 7], 0.05];
        yield 'flat faces alone' => [[], [0, 1, 2, 3, 4, 5, 6, 7], 0.05];
    }

    /**
     * @param  list<int>  $balls
     * @param  list<int>  $planes
     */
    #[Test]
    #[DataProvider('knownParts')]
    public function heads_are_found_from_any_three_features_that_leave_no_motion_open(array $balls, array $planes, float $allowed): void
    {
        $target = self::captured(Catalogue::part('target'));
        $known = new SolveFixtureParameters(balls: array_map(fn (int $k) => CalibrationTarget::BALLS[$k], $balls), planes: array_map(fn (int $k) => CalibrationTarget::PLANES[$k], $planes));
        $solved = (new SolveFixture)($target, $known, new NoProgress);
        foreach ($solved->workpiece->passes as $k => $pass) {
            self::assertLessThanOrEqual(count($balls), $solved->after['heads'][$k]['balls']);
            self::assertGreaterThanOrEqual(3, $solved->after['heads'][$k]['balls'] + $solved->after['heads'][$k]['planes']);
            self::assertLessThan($allowed, self::error($pass->transform, $k), $pass->name);
            self::assertLessThan(0.02, self::turnedOff($pass->transform, $k), $pass->name);
        }
    }

    #[Test]
    public function the_demo_target_has_its_faces_however_its_balls_are_written(): void
    {
        // JSON leaves out the point of whole numbers.
        $whole = json_decode(json_encode(CalibrationTarget::BALLS, JSON_THROW_ON_ERROR), true, 4, JSON_THROW_ON_ERROR);
        self::assertCount(8, (new SolveFixtureParameters(balls: $whole))->target()->planes);
        self::assertCount(0, (new SolveFixtureParameters(balls: array_slice($whole, 1)))->target()->planes);
    }

    #[Test]
    public function planes_add_to_balls_and_are_counted(): void
    {
        $solved = (new SolveFixture)(self::captured(Catalogue::part('target')), new SolveFixtureParameters, new NoProgress);
        foreach ($solved->after['heads'] as $head) {
            // The plate, two wedges or more, and a side of the plate: what a head in that place sees.
            self::assertGreaterThanOrEqual(4, $head['planes'], $head['name']);
        }
    }

    #[Test]
    public function a_target_that_looks_the_same_from_two_sides_is_refused(): void
    {
        // A square of balls on a plate: any quarter turn looks the same.
        $balls = [[50.0, 50.0, 40.0], [-50.0, 50.0, 40.0], [-50.0, -50.0, 40.0], [50.0, -50.0, 40.0]];
        $gen = new Gen(7);
        $points = [];
        foreach ($balls as [$x, $y, $z]) {
            for ($k = 0; $k < 500; $k++) {
                [$turn, $up] = [$gen->float(0.0, 2.0 * M_PI), $gen->float(0.0, 1.0)];
                $r = 12.5 * sqrt(1.0 - $up * $up);
                array_push($points, $x + $r * cos($turn), $y + $r * sin($turn), $z + 12.5 * $up);
            }
        }
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessageMatches('/^head 1: what was found of the target \(4 balls, 0 flat faces\) fits it in \d+ ways/');
        (new SolveFixture)(new Workpiece([Pass::of('head 1', PointCloud::fromFlat($points, [], [], [0.0, 0.0, 400.0]))]), new SolveFixtureParameters(balls: $balls), new NoProgress);
    }

    /** @return iterable<string, array{array<mixed>, array<mixed>|null, string}> */
    public static function badTargets(): iterable
    {
        yield 'two balls and nothing else' => [[[0.0, 0.0, 0.0], [50.0, 0.0, 0.0]], null, 'a pose needs three or more in all'];
        yield 'a plane without its direction' => [[], [[0.0, 0.0, 12.0]], 'entry 1 must be six numbers'];
        yield 'a direction of no length' => [CalibrationTarget::BALLS, [[0.0, 0.0, 12.0, 0.0, 0.0, 0.0]], 'entry 1 has no normal'];
        yield 'a ball of two numbers' => [[[1.0, 2.0]], null, 'entry 1 must be three numbers'];
    }

    /**
     * @param  array<mixed>  $balls
     * @param  array<mixed>|null  $planes
     */
    #[Test]
    #[DataProvider('badTargets')]
    public function a_target_that_is_none_is_refused_with_what_is_wrong(array $balls, ?array $planes, string $why): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($why);
        new SolveFixtureParameters(balls: $balls, planes: $planes);
    }

    #[Test]
    public function the_known_faces_of_the_demo_target_lie_on_it(): void
    {
        $part = new CalibrationTarget;
        foreach (CalibrationTarget::PLANES as [$x, $y, $z, $nx, $ny, $nz]) {
            self::assertEqualsWithDelta(1.0, $nx * $nx + $ny * $ny + $nz * $nz, 1e-9);
            self::assertEqualsWithDelta(0.0, $part->distance($x, $y, $z), 1e-6);
            self::assertEqualsWithDelta(0.1, $part->distance($x + 0.1 * $nx, $y + 0.1 * $ny, $z + 0.1 * $nz), 1e-6);
        }
    }

    #[Test]
    public function a_capture_without_the_target_is_refused_in_words(): void
    {
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessageMatches('/^head 1: \d+ balls? of 25 mm and \d+ flat faces? were found, and too few of them lie to each other as on the target/');
        (new SolveFixture)(self::captured(Catalogue::part('bush')), new SolveFixtureParameters, new NoProgress);
    }

    #[Test]
    public function as_many_passes_as_heads_are_needed_unless_names_say_which_is_which(): void
    {
        $fixture = Fixture::of(array_map(fn (int $k) => ['name' => "head $k", 'transform' => RigidTransform::shift(100.0 * $k, 0.0, 0.0), 'residual' => 0.0, 'balls' => 6, 'planes' => 4], [1, 2, 3]))->toArray();
        $cloud = self::captured(Catalogue::part('bush'))->passes[0]->cloud();
        $one = (new ApplyFixture)(new Workpiece([Pass::of('head 3', $cloud)]), new ApplyFixtureParameters($fixture), new NoProgress);
        self::assertSame(300.0, $one->workpiece->passes[0]->transform->matrix[3]);
        $this->expectExceptionMessage('The fixture has 3 heads, and there are 2 passes');
        (new ApplyFixture)(new Workpiece([Pass::of('a', $cloud), Pass::of('b', $cloud)]), new ApplyFixtureParameters($fixture), new NoProgress);
    }

    /** @return iterable<string, array{array<mixed>, string}> */
    public static function badFixtures(): iterable
    {
        $head = ['name' => 'a', 'transform' => RigidTransform::identity()->matrix];
        yield 'nothing' => [[], '"fixture": 1 is missing'];
        yield 'inches' => [['fixture' => 1, 'unit' => 'in', 'heads' => [$head]], 'must be "mm"'];
        yield 'no heads' => [['fixture' => 1, 'heads' => []], 'has no heads'];
        yield 'a head without a name' => [['fixture' => 1, 'heads' => [['transform' => RigidTransform::identity()->matrix]]], 'head 1 needs a name'];
        yield 'a matrix of fifteen' => [['fixture' => 1, 'heads' => [$head, ['name' => 'b', 'transform' => array_fill(0, 15, 0.0)]]], 'head 2'];
        yield 'a pose that scales' => [['fixture' => 1, 'heads' => [['name' => 'a', 'transform' => [25.4, 0, 0, 0, 0, 25.4, 0, 0, 0, 0, 25.4, 0, 0, 0, 0, 1]]]], 'scales by 25.4'];
    }

    /** @param  array<mixed>  $data */
    #[Test]
    #[DataProvider('badFixtures')]
    public function a_fixture_that_is_none_is_refused_with_what_is_wrong(array $data, string $why): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($why);
        new ApplyFixtureParameters($data);
    }

    #[Test]
    public function a_fixture_comes_back_from_its_file(): void
    {
        $fixture = Fixture::of([['name' => 'a', 'transform' => RigidTransform::turn([0.1, 0.7, -0.2], 1.1)->then(RigidTransform::shift(3.0, -4.0, 0.125)), 'residual' => 0.02, 'balls' => 5, 'planes' => 2]]);
        $again = Fixture::fromArray(json_decode(json_encode($fixture->toArray(), JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION), true, 16, JSON_THROW_ON_ERROR));
        self::assertSame($fixture->heads[0]['transform']->matrix, $again->heads[0]['transform']->matrix);
        self::assertSame(['a', 5, 2], [$again->heads[0]['name'], $again->heads[0]['balls'], $again->heads[0]['planes']]);
    }
}
