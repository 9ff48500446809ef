<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Datums\Frame;
use Emberstone\Core\Datums\FrameChoice;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Moves everything into the frame of three places: the origin, one on the X axis, and one in the XY plane on the side of Y.
 *
 * @implements Operation<FrameFromPointsParameters>
 */
final class FrameFromPoints implements Operation
{
    public static function about(): About
    {
        return new About('frame-from-points', Stage::Orient, 'Frame from points', 'Sets origin and axes by three picks: the origin, a place on X, a place towards Y.', 'places', FrameFromPointsParameters::class, together: true, avoid: 'Not for exact work: three clicks are only as good as a click. Use datums.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $workpiece->refuseEmpty();
        $point = fn (int $k, string $name): Datum => new Datum($name, $name, 'point', array_map(floatval(...), array_values($parameters->points[$k])));
        $frame = Frame::of([FrameChoice::of($point(0, 'the first pick'), 'origin'), FrameChoice::of($point(1, 'the second pick'), 'X'), FrameChoice::of($point(2, 'the third pick'), 'Y')]);

        return new Result($workpiece->moved($frame->transform), 'all six locked', [], ['locks' => $frame->locks, 'transform' => $frame->transform->matrix], everything: Placement::of(1.0, $frame->transform));
    }
}
