<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Markers\DotMarkers;
use Emberstone\Core\Register\Markers\MatchMarkers;
use Emberstone\Core\Register\Markers\MatchMarkersParameters;
use Emberstone\Core\Register\MatchParameters;
use Emberstone\Core\Register\MatchPasses;
use Emberstone\Core\Register\Move;
use Emberstone\Core\Register\MoveParameters;
use Emberstone\Core\Register\Place;
use Emberstone\Core\Register\PlaceParameters;
use Emberstone\Core\Rigs\Assembly;
use Emberstone\Core\Rigs\BearingCap;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\ExactSurface;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Rigs\MarkerDots;
use Emberstone\Core\Tests\Support\Captures;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\WeightStone;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Ways in besides tightening: by shape, by dots, by hand, and bodies placed on others without merging. */
final class PlacingTest extends TestCase
{
    private static function thrown(Gen $gen): RigidTransform
    {
        return RigidTransform::turn($gen->points(1), $gen->float(-3.0, 3.0))->then(RigidTransform::shift(...$gen->points(1, 200.0)));
    }

    /** How far places of a part lie from where they should. */
    private static function error(RigidTransform $of): float
    {
        $worst = 0.0;
        foreach ([[0.0, 0.0, 0.0], [60.0, 30.0, 0.0], [-60.0, 0.0, 40.0], [0.0, -30.0, 80.0]] as $at) {
            $there = $of->point($at);
            $worst = max($worst, sqrt(($there[0] - $at[0]) ** 2 + ($there[1] - $at[1]) ** 2 + ($there[2] - $at[2]) ** 2));
        }

        return $worst;
    }

    #[Test]
    public function passes_thrown_anywhere_find_each_other_by_their_dots(): void
    {
        $gen = new Gen(9);
        $part = Catalogue::part('pedestal');
        $rig = new HandheldRig(width: 400, height: 300, table: false, dots: new MarkerDots(2.0, 11.0));
        $passes = $truth = [];
        foreach ([0, 1, 3] as $k) {
            $capture = Captures::of($rig, $part, $k, 5);
            $truth[] = $capture['pose'];
            $passes[] = new Pass("p$k", "Pass $k", $capture['cloud'], $k === 0 ? RigidTransform::identity() : self::thrown($gen));
        }
        $result = (new MatchMarkers)(new Workpiece($passes), new MatchMarkersParameters(4.0), new NoProgress);
        self::assertSame('2 of 2 passes placed by dots', $result->headline);
        foreach ($result->workpiece->passes as $k => $pass) {
            self::assertLessThan(0.8, self::error($truth[$k]->inverse()->then($pass->transform)), 'near enough to tighten');
        }
        // The wrong diameter finds none.
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('Check the diameter');
        (new MatchMarkers)(new Workpiece($passes), new MatchMarkersParameters(20.0), new NoProgress);
    }

    #[Test]
    public function missing_and_false_dots_do_not_matter_and_like_constellations_are_said_to_be(): void
    {
        for ($seed = 1; $seed <= 15; $seed++) {
            $gen = new Gen($seed);
            $all = array_chunk($gen->points(30, 60.0), 3);
            $throw = self::thrown($gen);
            // Two thirds of them seen again, as many false ones among them as right ones missing, each a little off.
            $seen = array_map(fn (array $dot) => $throw->point([$dot[0] + $gen->float(-0.1, 0.1), $dot[1] + $gen->float(-0.1, 0.1), $dot[2]]), array_slice($all, 10, 14));
            $false = array_chunk($gen->points(6, 300.0), 3);
            $found = DotMarkers::pose([...$seen, ...$false], array_slice($all, 0, 24), 0.6);
            self::assertNotNull($found, "seed $seed");
            self::assertSame(14, $found['agree']);
            self::assertLessThan(0.4, self::error($throw->then($found['pose'])));
            self::assertLessThan(7, $found['rival']);
        }
        // A square grid fits itself in many ways.
        $grid = [];
        for ($k = 0; $k < 16; $k++) {
            $grid[] = [20.0 * ($k % 4), 20.0 * intdiv($k, 4), 0.0];
        }
        $found = DotMarkers::pose($grid, $grid, 0.6);
        self::assertGreaterThan(12, $found['rival'] ?? 0);
        self::assertNull(DotMarkers::pose([[0.0, 0.0, 0.0], [10.0, 0.0, 0.0], [20.0, 0.1, 0.0]], $grid, 0.6), 'three in a line');
    }

    #[Test]
    public function matching_moves_what_was_thrown_and_keeps_the_reference_to_the_last_bit(): void
    {
        $stone = new WeightStone;
        $rig = new HandheldRig(width: 160, height: 120, table: false);
        $gen = new Gen(5);
        $reference = RigidTransform::turn([0.2, 0.3, 0.4], 0.3);
        $thrown = $truth = [];
        foreach ([0, 1, 2, 3] as $k) {
            $capture = Captures::of($rig, $stone, $k, 5);
            $truth[] = $capture['pose'];
            $thrown[] = new Pass("p$k", "Pass $k", $capture['cloud'], $k === 2 ? self::thrown($gen) : $reference);
        }
        $result = (new MatchPasses)(new Workpiece($thrown), new MatchParameters, new NoProgress);
        self::assertSame($reference->matrix, $result->workpiece->passes[0]->transform->matrix);
        self::assertContains('Pass 2', $result->after['moved']);
        self::assertLessThan(1.5, self::error($truth[2]->then($truth[0]->inverse())->then($reference)->inverse()->then($result->workpiece->passes[2]->transform)), 'near enough to tighten');
    }

    #[Test]
    #[Group('nightly')]
    public function parts_of_an_assembly_are_placed_on_a_rough_scan_of_the_whole_and_stay_bodies_of_their_own(): void
    {
        $gen = new Gen(3);
        $noise = array_map(fn (float $v) => $v + $gen->float(-0.1, 0.1), ExactSurface::of(new Assembly('both', new BearingPedestal, new BearingCap), 1.6)->positions);
        $whole = ExactSurface::of(new Assembly('both', new BearingPedestal, new BearingCap), 1.6)->withPositions($noise);
        $cap = ExactSurface::of(new BearingCap, 1.0);
        $away = self::thrown($gen);
        $datum = new Datum('d', 'Top', 'plane', $away->point([0.0, 0.0, 90.0]), $away->direction([0.0, 0.0, 1.0]), bodyId: 'Cap');
        $workpiece = new Workpiece([], [Body::of('Rough', $whole), new Body('Cap', 'Cap', $cap, $away)], [$datum]);
        $result = (new Place)($workpiece, new PlaceParameters('Cap', 'Rough'), new NoProgress);
        self::assertSame(['Rough', 'Cap'], array_map(fn (Body $body) => $body->name, $result->workpiece->bodies));
        self::assertSame(RigidTransform::identity()->matrix, $result->workpiece->bodies[0]->transform->matrix, 'what it is placed on stays');
        self::assertSame($cap, $result->workpiece->bodies[1]->geometry, 'nothing is resampled');
        self::assertLessThan(0.1, self::error($result->workpiece->bodies[1]->transform));
        self::assertEqualsWithDelta([0.0, 0.0, 90.0], $result->workpiece->datums[0]->origin, 0.1, 'its datums go along');
    }

    #[Test]
    public function pairs_and_best_fit_place_and_groups_move_together(): void
    {
        $ball = MeshBuilder::icosphere(3, 10.0);
        $bumpy = MeshBuilder::together(MeshBuilder::together($ball, MeshBuilder::icosphere(3, 3.0)->transformed(RigidTransform::shift(11.0, 0.0, 0.0))), MeshBuilder::icosphere(3, 4.0)->transformed(RigidTransform::shift(0.0, 10.0, 3.0)));
        $away = RigidTransform::turn([1.0, 2.0, 3.0], 2.0)->then(RigidTransform::shift(80.0, -20.0, 5.0));
        $workpiece = new Workpiece([], [Body::of('still', $bumpy), new Body('moving', 'moving', $bumpy, $away), new Body('rider', 'rider', $ball, $away)]);
        // Picks half a millimetre off.
        $pairs = array_map(fn (array $at) => ['from' => $away->point([$at[0] + 0.5, $at[1], $at[2]]), 'to' => $at], [[14.0, 0.0, 0.0], [0.0, 14.0, 3.0], [0.0, 0.0, 10.0], [-10.0, 0.0, 0.0]]);
        $placed = (new Place)($workpiece, new PlaceParameters('moving', 'still', 'pairs', $pairs, with: ['rider']), new NoProgress);
        self::assertLessThan(0.05, self::error($placed->workpiece->bodies[1]->transform));
        self::assertSame($placed->workpiece->bodies[1]->transform->matrix, $placed->workpiece->bodies[2]->transform->matrix);
        // Where balls pass into each other there is no surface to meet.
        self::assertGreaterThan(0.8, $placed->after['overlap']);
        $rough = (new Place)($workpiece, new PlaceParameters('moving', 'still', 'pairs', $pairs, tighten: false), new NoProgress);
        self::assertEqualsWithDelta(0.5, self::error($rough->workpiece->bodies[1]->transform), 0.15, 'as well as the picks');
    }

    /** @return iterable<string, array{callable(): mixed, string}> */
    public static function refusals(): iterable
    {
        $bodies = [Body::of('a', MeshBuilder::icosphere(2, 10.0)), new Body('b', 'b', MeshBuilder::icosphere(2, 10.0), RigidTransform::shift(500.0, 0.0, 0.0))];
        $place = fn (PlaceParameters $parameters) => (new Place)(new Workpiece([], $bodies), $parameters, new NoProgress);
        yield 'onto itself' => [fn () => new PlaceParameters('a', 'a'), 'is the moving body itself'];
        yield 'a name that is none' => [fn () => $place(new PlaceParameters('c', 'a')), 'moving names "c", but there are a, b'];
        yield 'two pairs' => [fn () => $place(new PlaceParameters('b', 'a', 'pairs', [['from' => [0, 0, 0], 'to' => [0, 0, 0]], ['from' => [1, 0, 0], 'to' => [1, 0, 0]]])), 'pick 1 more'];
        yield 'locked' => [fn () => $place(new PlaceParameters('b', 'a', 'none', locked: ['b'])), 'b is locked and does not move'];
        yield 'far apart' => [fn () => $place(new PlaceParameters('b', 'a', 'none')), 'b does not lie on a'];
        yield 'what stays among what moves' => [fn () => $place(new PlaceParameters('b', 'a', with: ['a'])), 'which stays where it is'];
        yield 'a move by nothing' => [fn () => (new Move)(new Workpiece([], $bodies), new MoveParameters('a'), new NoProgress), 'are 0; type by how much'];
        yield 'about two numbers' => [fn () => new MoveParameters('a', 1.0, about: [1.0, 2.0]), 'about must be three numbers'];
    }

    /** @param  callable(): mixed  $try */
    #[Test]
    #[DataProvider('refusals')]
    public function what_cannot_be_placed_or_moved_is_refused_in_words(callable $try, string $why): void
    {
        try {
            $try();
            self::fail('it was done');
        } catch (InvalidParameter|UnsuitableInput $problem) {
            self::assertStringContainsString($why, $problem->getMessage());
        }
    }

    #[Test]
    public function a_move_turns_about_its_place_in_the_order_x_y_z_and_a_shift_is_exact(): void
    {
        $mesh = TriangleMesh::fromFlat([0.0, 0.0, 0.0, 2.0, 0.0, 0.0, 0.0, 2.0, 0.0], [0, 1, 2]);
        $workpiece = new Workpiece([Pass::of('p', PointCloud::fromFlat([0.1, 0.2, 0.3]))], [Body::of('b', $mesh)]);
        $shifted = (new Move)($workpiece, new MoveParameters('p', 1.5, -2.0, 0.25), new NoProgress)->workpiece;
        self::assertSame(RigidTransform::shift(1.5, -2.0, 0.25)->matrix, $shifted->passes[0]->transform->matrix);
        self::assertSame($workpiece->bodies[0]->transform->matrix, $shifted->bodies[0]->transform->matrix);
        $turned = (new Move)($workpiece, new MoveParameters('b', turnX: 90.0, turnZ: 90.0, about: [1.0, 0.0, 0.0]), new NoProgress);
        // (0, 2, 0) about (1, 0, 0): by X to (0, 0, 2), by Z to (1, -1, 2).
        self::assertEqualsWithDelta([1.0, -1.0, 2.0], $turned->workpiece->bodies[0]->transform->point([0.0, 2.0, 0.0]), 1e-12);
        self::assertSame('b: X +90 °, Z +90 °', $turned->headline);
    }
}
