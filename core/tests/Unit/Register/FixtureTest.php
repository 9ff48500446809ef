<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\NoProgress;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\ApplyFixture;
use Emberstone\Core\Register\ApplyFixtureParameters;
use Emberstone\Core\Register\Fixture;
use Emberstone\Core\Register\SolveFixture;
use Emberstone\Core\Register\SolveFixtureParameters;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\Part;
use Emberstone\Core\Rigs\RingRig;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Four fixed heads: solved once on the target, applied to a part they then capture, and noticed when one is bumped. */
final class FixtureTest extends TestCase
{
    private static function captured(Part $part, ?int $bumped = null, int $seed = 3): Workpiece
    {
        $rig = new RingRig(width: 260, height: 195, bumped: $bumped);

        return new Workpiece(array_map(fn (int $k) => Pass::of('head '.($k + 1), $rig->capture($part, $k, $seed)['cloud']), range(0, 3)));
    }

    /** The farthest that a place on a part of 120 mm lies from where it is. */
    private static function error(Transform $found, int $head): float
    {
        $truth = (new RingRig)->head($head);
        $worst = 0.0;
        foreach ([[0.0, 0.0, 0.0], [60.0, 40.0, 0.0], [-60.0, 0.0, 50.0], [0.0, -60.0, 80.0]] as $at) {
            $there = $found->point($truth->inverse()->point($at));
            $worst = max($worst, sqrt(($there[0] - $at[0]) ** 2 + ($there[1] - $at[1]) ** 2 + ($there[2] - $at[2]) ** 2));
        }

        return $worst;
    }

    #[Test]
    public function heads_are_found_within_five_hundredths_of_a_millimetre_and_place_a_later_part(): void
    {
        $solved = (new SolveFixture)(self::captured(Catalogue::part('target')), new SolveFixtureParameters, new NoProgress);
        self::assertSame([6, 6, 6, 6], array_column($solved->after['heads'], 'balls'));
        foreach ($solved->workpiece->passes as $k => $pass) {
            self::assertLessThan(0.05, self::error($pass->transform, $k));
            $turn = (new RingRig)->head($k)->inverse()->then($pass->transform)->matrix;
            self::assertLessThan(0.02, rad2deg(acos(min(1.0, 0.5 * ($turn[0] + $turn[5] + $turn[10] - 1.0)))));
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

    #[Test]
    public function a_capture_without_the_target_is_refused_in_words(): void
    {
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessageMatches('/^head 1: \d+ balls of 25 mm were found, and fewer than three of them lie to each other as on the target/');
        (new SolveFixture)(self::captured(Catalogue::part('bush')), new SolveFixtureParameters, new NoProgress);
    }

    #[Test]
    public function as_many_passes_as_heads_are_needed_unless_names_say_which_is_which(): void
    {
        $fixture = Fixture::of(array_map(fn (int $k) => ['name' => "head $k", 'transform' => Transform::shift(100.0 * $k, 0.0, 0.0), 'residual' => 0.0, 'balls' => 6], [1, 2, 3]))->toArray();
        $cloud = self::captured(Catalogue::part('bush'))->passes[0]->cloud;
        $one = (new ApplyFixture)(new Workpiece([Pass::of('head 3', $cloud)]), new ApplyFixtureParameters($fixture), new NoProgress);
        self::assertSame(300.0, $one->workpiece->passes[0]->transform->matrix[3]);
        $this->expectExceptionMessage('The fixture has 3 heads, and there are 2 passes');
        (new ApplyFixture)(new Workpiece([Pass::of('a', $cloud), Pass::of('b', $cloud)]), new ApplyFixtureParameters($fixture), new NoProgress);
    }

    /** @return iterable<string, array{array<mixed>, string}> */
    public static function badFixtures(): iterable
    {
        $head = ['name' => 'a', 'transform' => Transform::identity()->matrix];
        yield 'nothing' => [[], '"fixture": 1 is missing'];
        yield 'inches' => [['fixture' => 1, 'unit' => 'in', 'heads' => [$head]], 'must be "mm"'];
        yield 'no heads' => [['fixture' => 1, 'heads' => []], 'has no heads'];
        yield 'a head without a name' => [['fixture' => 1, 'heads' => [['transform' => Transform::identity()->matrix]]], 'head 1 needs a name'];
        yield 'a matrix of fifteen' => [['fixture' => 1, 'heads' => [$head, ['name' => 'b', 'transform' => array_fill(0, 15, 0.0)]]], 'head 2'];
        yield 'a pose that scales' => [['fixture' => 1, 'heads' => [['name' => 'a', 'transform' => Transform::scale(25.4)->matrix]]], 'scales by 25.4'];
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
        $fixture = Fixture::of([['name' => 'a', 'transform' => Transform::turn([0.1, 0.7, -0.2], 1.1)->then(Transform::shift(3.0, -4.0, 0.125)), 'residual' => 0.02, 'balls' => 5]]);
        $again = Fixture::fromArray(json_decode(json_encode($fixture->toArray(), JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION), true, 16, JSON_THROW_ON_ERROR));
        self::assertSame($fixture->heads[0]['transform']->matrix, $again->heads[0]['transform']->matrix);
        self::assertSame(['a', 5], [$again->heads[0]['name'], $again->heads[0]['balls']]);
    }
}
