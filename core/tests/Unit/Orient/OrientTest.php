<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\NoProgress;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Orient\AddDatum;
use Emberstone\Core\Orient\AddDatumParameters;
use Emberstone\Core\Orient\Frame;
use Emberstone\Core\Orient\FrameChoice;
use Emberstone\Core\Orient\Scale;
use Emberstone\Core\Orient\ScaleParameters;
use Emberstone\Core\Orient\SetFrame;
use Emberstone\Core\Orient\SetFrameParameters;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\ExactSurface;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class OrientTest extends TestCase
{
    #[Test]
    public function datums_of_the_exact_pedestal_are_exact_and_set_its_frame_from_any_pose(): void
    {
        $away = Transform::turn([0.3, -1.0, 0.4], 2.1)->then(Transform::shift(310.0, -40.0, 77.0));
        $workpiece = new Workpiece([], [new Body('p', 'Pedestal', ExactSurface::of(new BearingPedestal, 1.0), $away)]);
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
    public function a_factor_of_25_4_smells_of_inches(): void
    {
        $result = (new Scale)(new Workpiece([], [Body::of('ball', MeshBuilder::icosphere(0))]), new ScaleParameters(measured: 10.0, actual: 254.0), new NoProgress);
        self::assertStringContainsString('inch and mm', $result->notes[0]);
    }
}
