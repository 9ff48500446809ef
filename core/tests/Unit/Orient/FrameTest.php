<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Datums\Frame;
use Emberstone\Core\Datums\FrameChoice;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Orient\SetFrameParameters;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Recipe\Step;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Frames by datums as recipes ask for them: `to` an axis, a plane or the origin, in any order. */
final class FrameTest extends TestCase
{
    private static function datum(string $kind, Gen $gen): Datum
    {
        $d = $gen->points(1);
        $l = sqrt($d[0] ** 2 + $d[1] ** 2 + $d[2] ** 2);
        $name = $kind.$gen->int(1, 1_000_000_000);

        return new Datum($name, $name, $kind, $gen->points(1, 50.0), in_array($kind, ['point', 'sphere'], true) ? [0.0, 0.0, 0.0] : [$d[0] / $l, $d[1] / $l, $d[2] / $l], 5.0);
    }

    #[Test]
    public function every_kind_of_datum_in_every_place_becoming_anything_gives_a_right_handed_frame_or_says_why_not(): void
    {
        $kinds = ['point', 'line', 'plane', 'cylinder', 'cone', 'sphere'];
        $to = [...SetFrameParameters::TO, null];
        $framed = $explained = 0;
        $gen = new Gen(1);
        $datums = array_map(fn (string $kind) => [self::datum($kind, $gen), self::datum($kind, $gen), self::datum($kind, $gen)], $kinds);
        $choice = fn (int $place, int $at): FrameChoice => FrameChoice::of($datums[intdiv($at, count($to))][$place], $to[$at % count($to)], ($at + $place) % 2 === 0);
        $all = count($kinds) * count($to);
        for ($a = 0; $a < $all; $a++) {
            for ($b = -1; $b < $all; $b++) {
                // Without a second there is no third.
                for ($c = -1; $c < ($b < 0 ? 0 : $all); $c++) {
                    $choices = [$choice(0, $a), ...($b < 0 ? [] : [$choice(1, $b)]), ...($c < 0 ? [] : [$choice(2, $c)])];
                    try {
                        $frame = Frame::of($choices);
                    } catch (UnsuitableInput $why) {
                        if (preg_match('/^".+" (is|in|lies) .{20,}\.$/', $why->getMessage()) !== 1) {
                            self::fail($why->getMessage());
                        }
                        $explained++;

                        continue;
                    }
                    $m = $frame->transform->matrix;
                    $determinant = $m[0] * ($m[5] * $m[10] - $m[6] * $m[9]) - $m[1] * ($m[4] * $m[10] - $m[6] * $m[8]) + $m[2] * ($m[4] * $m[9] - $m[5] * $m[8]);
                    $silent = array_filter($choices, fn (FrameChoice $one) => ! in_array($one->datum->name, $frame->locks, true));
                    if (! (abs($determinant - 1.0) < 1e-9 && abs($m[0] ** 2 + $m[4] ** 2 + $m[8] ** 2 - 1.0) < 1e-9 && is_finite(array_sum($m)))
                        || (in_array(null, $frame->locks, true) && count($frame->idle) !== count($silent))) {
                        self::fail(implode(', ', array_map(fn (FrameChoice $one) => "{$one->datum->kind} to ".($one->to ?? 'what is open'), $choices)));
                    }
                    $framed++;
                }
            }
        }
        self::assertSame($all + $all ** 2 + $all ** 3, $framed + $explained);
        self::assertGreaterThan(10_000, min($framed, $explained));
    }

    /** @param  array<string, mixed>  $parameters */
    private static function set(Workpiece $workpiece, array $parameters): Result
    {
        return Catalogue::operation('set-frame')($workpiece, Catalogue::parameters('set-frame', $parameters), new NoProgress);
    }

    #[Test]
    public function a_base_a_bore_and_an_end_face_of_a_recipe_set_the_frame_with_its_offset(): void
    {
        $away = RigidTransform::turn([0.3, -1.0, 0.4], 2.1)->then(RigidTransform::shift(310.0, -40.0, 77.0));
        $datums = [
            new Datum('1', 'base', 'plane', [7.0, 3.0, 0.0], [0.0, 0.0, -1.0]),
            new Datum('2', 'bore', 'cylinder', [0.0, 12.0, 52.0], [0.0, 1.0, 0.0], 15.0),
            new Datum('3', 'end', 'plane', [4.0, -30.0, 73.0], [0.0, -1.0, 0.0]),
        ];
        $workpiece = new Workpiece([], [Body::of('p', MeshBuilder::icosphere(0))], array_map(fn (Datum $datum) => $datum->moved($away), $datums));
        $result = self::set($workpiece, ['first' => ['datum' => 'base', 'to' => 'XY'], 'second' => ['datum' => 'bore', 'to' => 'X'], 'third' => ['datum' => 'end', 'to' => 'YZ'], 'offset' => [0, 5, 0]]);
        self::assertSame(['shiftX' => 'end', 'shiftY' => 'bore', 'shiftZ' => 'base', 'turnX' => 'base', 'turnY' => 'base', 'turnZ' => 'bore'], $result->after['locks']);
        [$base, $bore, $end] = $result->workpiece->datums;
        self::assertEqualsWithDelta([0.0, 0.0, -1.0], $base->direction, 1e-9, 'the part stands on it');
        self::assertEqualsWithDelta(0.0, $base->origin[2], 1e-9);
        self::assertEqualsWithDelta([1.0, 0.0, 0.0], $bore->direction, 1e-9);
        self::assertEqualsWithDelta([5.0, 52.0], [$bore->origin[1], $bore->origin[2]], 1e-9);
        self::assertEqualsWithDelta(0.0, $end->origin[0], 1e-9);
        $flipped = self::set($workpiece, ['first' => ['datum' => 'base', 'to' => 'XY', 'flip' => true], 'second' => ['datum' => 'bore', 'to' => 'X', 'flip' => true]]);
        self::assertEqualsWithDelta([0.0, 0.0, 1.0], $flipped->workpiece->datums[0]->direction, 1e-9);
        self::assertEqualsWithDelta([-1.0, 0.0, 0.0], $flipped->workpiece->datums[1]->direction, 1e-9);
        self::assertNull($flipped->after['locks']['shiftX']);
    }

    #[Test]
    public function chosen_bodies_go_into_the_frame_with_their_datums_and_all_else_stays(): void
    {
        $at = RigidTransform::shift(5.0, 0.0, 0.0);
        $bodies = [new Body('a', 'Cap', MeshBuilder::icosphere(0), $at), new Body('b', 'Bush', MeshBuilder::icosphere(0), $at)];
        $datums = [new Datum('1', 'foot', 'point', [1.0, 2.0, 3.0], bodyId: 'a'), new Datum('2', 'rim', 'point', [1.0, 2.0, 3.0], bodyId: 'b'), new Datum('3', 'loose', 'point', [1.0, 2.0, 3.0])];
        // `only` is what `on` was called before.
        foreach (['on', 'only'] as $word) {
            $result = Step::of('set-frame', ['first' => ['datum' => 'foot', 'to' => 'origin'], $word => ['Cap']])(new Workpiece([], $bodies, $datums), new NoProgress);
            self::assertNull($result->everything, 'only some have moved');
            $moved = $result->workpiece;
            self::assertSame([[4.0, -2.0, -3.0], [5.0, 0.0, 0.0]], array_map(fn (Body $body) => $body->transform->point([0.0, 0.0, 0.0]), $moved->bodies));
            self::assertEqualsWithDelta([[0.0, 0.0, 0.0], [1.0, 2.0, 3.0], [1.0, 2.0, 3.0]], array_map(fn (Datum $datum) => $datum->origin, $moved->datums), 1e-12);
        }
        foreach ([['Shaft'], []] as $bad) {
            try {
                Step::of('set-frame', ['first' => 'foot', 'on' => $bad])(new Workpiece([], $bodies, $datums), new NoProgress);
                self::fail('it was set');
            } catch (InvalidParameter $refusal) {
                self::assertStringContainsString($bad === [] ? 'one name or more' : 'names "Shaft", but there are Cap, Bush', $refusal->getMessage());
            }
        }
    }

    #[Test]
    public function three_points_are_origin_axis_and_plane(): void
    {
        $away = RigidTransform::turn([1.0, 1.0, -0.5], 1.2)->then(RigidTransform::shift(-4.0, 8.0, 15.0));
        $points = array_map(fn (string $name, array $at) => (new Datum($name, $name, 'point', $at))->moved($away), ['o', 'x', 'y'], [[0.0, 0.0, 0.0], [20.0, 0.0, 0.0], [7.0, 9.0, 0.0]]);
        $result = self::set(new Workpiece([], [], $points), ['first' => ['datum' => 'o', 'to' => 'origin'], 'second' => ['datum' => 'x', 'to' => 'X'], 'third' => ['datum' => 'y', 'to' => 'Y']]);
        self::assertNotContains(null, $result->after['locks']);
        self::assertEqualsWithDelta([0.0, 0.0, 0.0], $result->workpiece->datums[0]->origin, 1e-9);
        self::assertEqualsWithDelta([20.0, 0.0, 0.0], $result->workpiece->datums[1]->origin, 1e-9);
        self::assertEqualsWithDelta([7.0, 9.0, 0.0], $result->workpiece->datums[2]->origin, 1e-9);
    }

    #[Test]
    public function a_line_and_a_plane_meet_in_the_origin(): void
    {
        $plane = new Datum('p', 'p', 'plane', [0.0, 0.0, 4.0], [0.0, 0.0, 1.0]);
        $line = new Datum('l', 'l', 'line', [3.0, 2.0, 0.0], [0.0, 0.6, 0.8]);
        $frame = Frame::of([FrameChoice::of($plane, 'XY', true), FrameChoice::of($line, 'origin')]);
        self::assertEqualsWithDelta([0.0, 0.0, 0.0], $frame->transform->point([3.0, 5.0, 4.0]), 1e-9);
        self::assertNull($frame->locks['turnZ'], 'the origin takes no turn');
    }

    #[Test]
    public function a_point_that_nothing_is_asked_of_is_the_origin_and_after_it_the_direction_of_an_axis(): void
    {
        $point = fn (string $name, float ...$at) => new Datum($name, $name, 'point', $at);
        $base = new Datum('base', 'base', 'plane', [0.0, 0.0, 4.0], [0.0, 0.0, -1.0]);
        $bore = new Datum('bore', 'bore', 'cylinder', [3.0, 2.0, 9.0], [0.0, 0.0, 1.0], 5.0);
        $locks = fn (Datum ...$datums) => Frame::of(array_map(fn (Datum $datum) => FrameChoice::of($datum, null), $datums));

        $frame = $locks($base, $bore, $point('spoke', 3.0, 22.0, 40.0));
        self::assertSame(['shiftX' => 'bore', 'shiftY' => 'bore', 'shiftZ' => 'base', 'turnX' => 'base', 'turnY' => 'base', 'turnZ' => 'spoke'], $frame->locks);
        self::assertEqualsWithDelta([20.0, 0.0, 36.0], $frame->transform->point([3.0, 22.0, 40.0]), 1e-9, 'the first axis that is free');
        self::assertEqualsWithDelta([0.0, 0.0, 0.0], $frame->transform->point([3.0, 2.0, 4.0]), 1e-9);

        $frame = $locks($point('o', 1.0, 1.0, 1.0), $point('x', 1.0, 1.0, 8.0), $point('y', 4.0, 1.0, 2.0));
        self::assertNotContains(null, $frame->locks);
        self::assertEqualsWithDelta([[7.0, 0.0, 0.0], [1.0, 3.0, 0.0]], [$frame->transform->point([1.0, 1.0, 8.0]), $frame->transform->point([4.0, 1.0, 2.0])], 1e-9);

        $frame = $locks($base, $point('o', 5.0, 6.0, 20.0), new Datum('l', 'l', 'line', [0.0, 0.0, 0.0], [0.6, 0.8, 0.0]));
        self::assertNotContains(null, $frame->locks);
        self::assertEqualsWithDelta([0.0, 0.0, 0.0], $frame->transform->point([5.0, 6.0, 4.0]), 1e-9, 'the plane keeps its shift');

        $this->expectExceptionMessage('"middle" lies in the same place as the origin');
        $locks($base, $bore, $point('middle', 3.0, 2.0, 4.0));
    }

    #[Test]
    public function a_datum_that_locks_nothing_more_says_why_while_something_is_open(): void
    {
        $base = new Datum('base', 'base', 'plane', [0.0, 0.0, 4.0], [0.0, 0.0, -1.0]);
        $top = new Datum('top', 'top', 'plane', [0.0, 0.0, 14.0], [0.0, 0.0, 1.0]);
        $bore = new Datum('bore', 'bore', 'cylinder', [3.0, 2.0, 9.0], [0.0, 0.0, 1.0], 5.0);
        $place = new Datum('place', 'place', 'point', [3.0, 2.0, 30.0]);
        $workpiece = new Workpiece([], [], [$base, $top, $bore, $place]);
        self::assertSame(['"top" locks nothing more: it is parallel to "base". Choose one that runs across.', 'Still free: shift X, shift Y, turn Z.'], self::set($workpiece, ['first' => 'base', 'second' => ['datum' => 'top']])->notes);
        self::assertSame(['"place" locks nothing more: what it sets is set already by those before it.', 'Still free: turn Z.'], self::set($workpiece, ['first' => 'base', 'second' => ['datum' => 'bore'], 'third' => 'place'])->notes, 'a point on the axis');
        $side = new Datum('side', 'side', 'plane', [0.0, 7.0, 4.0], [1.0, 0.0, 0.0]);
        self::assertSame([], self::set(new Workpiece([], [], [$base, $bore, $side]), ['first' => 'base', 'second' => ['datum' => 'bore'], 'third' => 'side'])->notes, 'a plane of which only the turn is needed');
    }

    /** @return iterable<string, array{array<string, mixed>, string}> */
    public static function badChoices(): iterable
    {
        yield 'no datum' => [['first' => ['to' => 'XY']], 'first needs "datum"'];
        yield 'a place that is none' => [['first' => ['datum' => 'base', 'to' => 'XZY']], 'it must be one of XY, YZ, XZ, X, Y, Z, origin'];
        yield 'a word it does not know' => [['first' => ['datum' => 'base', 'turn' => 3]], 'first has "turn"'];
        yield 'a flip that is a word' => [['first' => ['datum' => 'base', 'flip' => 'yes']], 'neither true nor false'];
        yield 'two numbers for an offset' => [['first' => 'base', 'offset' => [1, 2]], 'offset must be three numbers'];
        yield 'a number for a datum' => [['first' => 3], 'first must be a name, or an object'];
        yield 'the same twice' => [['first' => 'base', 'second' => ['datum' => 'base']], 'a second time'];
        yield 'a datum that is not there' => [['first' => ['datum' => 'top']], 'the datums are base'];
    }

    /** @param  array<string, mixed>  $parameters */
    #[Test]
    #[DataProvider('badChoices')]
    public function a_choice_without_sense_is_refused_by_name(array $parameters, string $why): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($why);
        self::set(new Workpiece([], [], [new Datum('b', 'base', 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, -1.0])]), $parameters);
    }
}
