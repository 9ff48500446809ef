<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Shifts everything along the axes of the frame.
 *
 * @implements Operation<ShiftParameters>
 */
final class Shift implements Operation
{
    public static function about(): About
    {
        return new About('shift', Stage::Orient, 'Shift', 'Shifts everything along the axes of the frame, by a handle in the view or typed lengths.', 'places', ShiftParameters::class, together: true, avoid: 'Not to lay a face exactly into a plane: set the frame from datums.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $workpiece->refuseEmpty();
        if ($parameters->x === 0.0 && $parameters->y === 0.0 && $parameters->z === 0.0) {
            throw InvalidParameter::of('x', 'and y and z are 0; type by how much to shift');
        }
        $shift = RigidTransform::shift($parameters->x, $parameters->y, $parameters->z);

        return new Result($workpiece->moved($shift), sprintf('%+g, %+g, %+g mm', $parameters->x, $parameters->y, $parameters->z), [], ['transform' => $shift->matrix], everything: Placement::of(1.0, $shift));
    }
}
