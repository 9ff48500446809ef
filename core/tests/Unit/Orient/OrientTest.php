<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Datums\Frame;
use Emberstone\Core\Datums\FrameChoice;
use Emberstone\Core\Datums\Uncertainty;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Orient\AddDatum;
use Emberstone\Core\Orient\AddDatumParameters;
use Emberstone\Core\Orient\Scale;
use Emberstone\Core\Orient\ScaleParameters;
use Emberstone\Core\Orient\SetFrame;
use Emberstone\Core\Orient\SetFrameParameters;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\ExactSurface;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class OrientTest extends TestCase
{
    #[Test]
    public function datums_of_the_exact_pedestal_are_exact_and_set_its_frame_from_any_pose(): void
    {
        $away = RigidTransform::turn([0.3, -1.0, 0.4], 2.1)->then(RigidTransform::shift(310.0, -40.0, 77.0));
        $workpiece = new Workpiece([], [new Body('p', 'Pedestal', ExactSurface::of(new BearingPedestal, 2.0), $away)]);
        foreach ([['base', 'plane', [30.0, 20.0, 0.0]], ['bore', 'cylinder', [0.0, 3.0, 37.0]], ['end', 'plane', [0.0, -30.0, 73.0]]] as [$name, $kind, $seed]) {
            $workpiece = (new AddDatum)($workpiece, new AddDatumParameters($name, $kind, $away->point($seed), 20.0), new NoProgress)->workpiece;
        }
        self::assertEqualsWithDelta(15.0, $workpiece->datums[1]->radius, 0.005);
        self::assertEqualsWithDelta($away->direction([0.0, 0.0, -1.0]), $workpiece->datums[0]->direction, 1e-5);
        $framed = (new SetFrame)($workpiece, new SetFrameParameters('base', '-z', 'bore', '+y', 'end'), new NoProgress);
        self::assertNotContains(null, $framed->after['locks']);
        $body = $framed->workpiece->bodies[0];
        // Origin where base, bore and end face meet; the bore's axis may have come out either way along y.
        $axis = $framed->workpiece->datums[1];
        self::assertEqualsWithDelta(0.0, $axis->origin[0], 1e-3);
        self::assertEqualsWithDelta(52.0, $axis->origin[2], 2e-3);
        self::assertEqualsWithDelta(1.0, $axis->direction[1], 1e-6);
        $corner = $body->transform->point([60.0, 35.0, 0.0]);
        self::assertEqualsWithDelta([60.0, 0.0], [abs($corner[0]), $corner[2]], 0.01);
        self::assertSame($workpiece->bodies[0]->geometry, $body->geometry, 'nothing is resampled');
    }

    #[Test]
    public function six_locks_tell_what_each_datum_took_and_what_is_free(): void
    {
        $plane = new Datum('a', 'base', 'plane', [0.0, 0.0, 5.0], [0.0, 0.0, 1.0]);
        $axis = new Datum('b', 'bore', 'cylinder', [10.0, 3.0, 9.0], [0.0, 1.0, 0.0], 15.0);
        $alone = Frame::of([FrameChoice::pointing($plane, '+z')]);
        self::assertSame(['shiftX' => null, 'shiftY' => null, 'shiftZ' => 'base', 'turnX' => 'base', 'turnY' => 'base', 'turnZ' => null], $alone->locks);
        self::assertEqualsWithDelta([0.0, 0.0, 0.0], $alone->transform->point([0.0, 0.0, 5.0]), 1e-12);
        $both = Frame::of([FrameChoice::pointing($plane, '+z'), FrameChoice::pointing($axis, '+x')]);
        self::assertSame(['shiftX' => null, 'shiftY' => 'bore', 'shiftZ' => 'base', 'turnX' => 'base', 'turnY' => 'base', 'turnZ' => 'bore'], $both->locks);
    }

    #[Test]
    public function a_second_datum_parallel_to_the_first_is_explained(): void
    {
        $a = new Datum('a', 'top', 'plane', [0.0, 0.0, 5.0], [0.0, 0.0, 1.0]);
        $b = new Datum('b', 'bottom', 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, -1.0]);
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('"bottom" is parallel to "top"');
        Frame::of([FrameChoice::pointing($a, '+z'), FrameChoice::pointing($b, '+x')]);
    }

    #[Test]
    public function several_known_lengths_are_balanced_and_a_wrong_one_is_said(): void
    {
        $gen = new Gen(4);
        $away = RigidTransform::turn([0.3, 0.5, -0.8], 1.2)->then(RigidTransform::shift(40.0, -7.0, 3.0));
        $datums = array_map(fn (Datum $datum) => $datum->moved($away), [
            new Datum('base', 'base', 'plane', [9.0, 4.0, 0.0], [0.0, 0.0, -1.0]),
            new Datum('top', 'top', 'plane', [-3.0, 30.0, 80.0], [0.0, 0.0, 1.0]),
            new Datum('bore', 'bore', 'cylinder', [0.0, 11.0, 52.0], [0.0, 1.0, 0.0], 15.0),
            new Datum('pin', 'pin', 'line', [30.0, -5.0, 12.0], [0.0, -1.0, 0.0]),
            new Datum('ball', 'ball', 'sphere', [60.0, 0.0, 52.0], radius: 8.0),
        ]);
        $body = Body::of('Brick', MeshBuilder::icosphere(0));
        $scaled = fn (array $lengths) => (new Scale)(new Workpiece([], [$body], $datums), new ScaleParameters(lengths: $lengths), new NoProgress);
        $truth = [['base', 'top', 80.0], ['top', 'bore', 28.0], ['bore', 'pin', 50.0], ['ball', 'bore', 60.0], ['pin', 'base', 12.0], [$away->point([1.0, 2.0, 2.0]), $away->point([0.0, 0.0, 0.0]), 3.0]];
        for ($round = 0; $round < 20; $round++) {
            $factor = $gen->float(0.9, 1.1);
            $all = $scaled(array_map(fn (array $length) => ['from' => $length[0], 'to' => $length[1], 'actual' => $factor * $length[2]], $truth));
            self::assertEqualsWithDelta($factor, $all->after['factor'], 1e-9);
            foreach ($all->after['lengths'] as $k => $length) {
                self::assertEqualsWithDelta([$truth[$k][2], 0.0], [$length['measured'], $length['residual']], 1e-9);
            }
            self::assertCount(1, $all->notes);
            self::assertStringContainsString('and to how well the length on the mesh was told', $all->notes[0], 'one of them between clicked places');
        }
        $off = $scaled([['from' => 'base', 'to' => 'top', 'actual' => 80.0], ['from' => 'bore', 'to' => 'pin', 'actual' => 51.0]]);
        self::assertEqualsWithDelta((80.0 ** 2 + 50.0 * 51.0) / (80.0 ** 2 + 50.0 ** 2), $off->after['factor'], 1e-12);
        self::assertStringContainsString('disagree by up to 1.4', $off->notes[0]);
    }

    #[Test]
    public function the_scale_is_known_as_well_as_readings_and_fits_say(): void
    {
        $gen = new Gen(11);
        $body = Body::of('Brick', MeshBuilder::icosphere(0));
        foreach ([[[80.0]], [[80.0, 50.0, 30.0]]] as [$truths]) {
            $inside = 0;
            $squares = [];
            for ($round = 0; $round < 400; $round++) {
                $datums = $lengths = [];
                foreach ($truths as $k => $truth) {
                    $base = new Datum("base $k", "base $k", 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, -1.0], rms: 0.05, points: 1000, made: 'region');
                    $deviation = (float) Uncertainty::of($base)->placeMm;
                    // The scan is a hundredth too small; each plane is off as its fit says, each reading by up to 0.03 mm.
                    $shift = fn (float $height): array => [0.0, 0.0, $height / 1.01 + $deviation * sqrt(-2.0 * log(1.0 - $gen->float(0.0, 0.999999))) * cos($gen->float(0.0, 2.0 * M_PI))];
                    $datums[] = new Datum($base->id, $base->name, 'plane', $shift(0.0), $base->direction, rms: 0.05, points: 1000, made: 'region');
                    $datums[] = new Datum("top $k", "top $k", 'plane', $shift($truth), [0.0, 0.0, 1.0], rms: 0.05, points: 1000, made: 'region');
                    $lengths[] = ['from' => "base $k", 'to' => "top $k", 'actual' => $truth + $gen->float(-0.03, 0.03)];
                }
                $result = (new Scale)(new Workpiece([], [$body], $datums), new ScaleParameters(lengths: $lengths), new NoProgress);
                $off = ($result->after['factor'] - 1.01) / 1.01 / $result->scaleError;
                $inside += abs($off) <= 2.0 ? 1 : 0;
                $squares[] = $off ** 2;
            }
            self::assertGreaterThan(0.93 * 400, $inside);
            // Not wider than it is either; of several lengths the worse of two is told.
            self::assertEqualsWithDelta(count($truths) === 1 ? 1.0 : 0.9, sqrt(array_sum($squares) / 400), 0.12);
        }
        $by = fn (mixed ...$parameters) => (new Scale)(new Workpiece([], [$body]), new ScaleParameters(...$parameters), new NoProgress);
        self::assertNull($by(factor: 2.0)->scaleErrorAfter(0.001), 'a factor tells nothing, and what was known before is gone');
        self::assertEqualsWithDelta(0.1 / sqrt(3.0) / 50.0, $by(measured: 49.0, actual: 50.0, readTo: 0.1)->scaleErrorAfter(null), 1e-12);
    }

    /** @return iterable<string, array{mixed, string}> */
    public static function lengthsOfNoUse(): iterable
    {
        yield 'none' => [[], 'is empty'];
        yield 'no actual' => [[['from' => [0, 0, 0], 'to' => [1, 0, 0]]], 'entry 1 needs "actual"'];
        yield 'nothing long' => [[['from' => [0, 0, 0], 'to' => [1, 0, 0], 'actual' => 0]], 'entry 1 needs "actual"'];
        yield 'two numbers' => [[['from' => [0, 0], 'to' => [1, 0, 0], 'actual' => 1]], 'entry 1 needs "from"'];
        yield 'a word too many' => [[['from' => [0, 0, 0], 'to' => [1, 0, 0], 'actual' => 1, 'unit' => 'in']], '"unit"'];
        yield 'one place' => [[['from' => [1, 0, 0], 'to' => [1, 0, 0], 'actual' => 1]], 'one place'];
        yield 'a stranger' => [[['from' => 'base', 'to' => 'top', 'actual' => 1]], 'the datums are base, slope'];
        yield 'not parallel' => [[['from' => 'base', 'to' => 'slope', 'actual' => 1]], '30.0 degrees from parallel'];
    }

    #[Test]
    #[DataProvider('lengthsOfNoUse')]
    public function a_length_of_no_use_is_refused_in_words(array $lengths, string $why): void
    {
        $datums = [new Datum('base', 'base', 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, 1.0]), new Datum('slope', 'slope', 'plane', [0.0, 0.0, 9.0], [0.0, 0.5, sqrt(0.75)])];
        $this->expectExceptionMessage($why);
        (new Scale)(new Workpiece([], [Body::of('Brick', MeshBuilder::icosphere(0))], $datums), new ScaleParameters(lengths: $lengths), new NoProgress);
    }

    #[Test]
    public function a_factor_of_25_4_smells_of_inches(): void
    {
        $result = (new Scale)(new Workpiece([], [Body::of('ball', MeshBuilder::icosphere(0))]), new ScaleParameters(measured: 10.0, actual: 254.0), new NoProgress);
        self::assertStringContainsString('inch and mm', $result->notes[0]);
    }
}
