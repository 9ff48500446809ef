<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Moves a pass or body by hand: turns about a place, then a shift. Datums of a body go along.
 *
 * @implements Operation<MoveParameters>
 */
final class Move implements Operation
{
    public static function about(): About
    {
        return new About('move', Stage::Register, 'Move', 'Turns and shifts a pass or body by handles in the view, or by typed values.', 'any', MoveParameters::class, avoid: 'Not to bring passes together exactly: it only sets a start for Register.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $one = $workpiece->named('moving', $parameters->moving);
        [$x, $y, $z] = $parameters->about === null ? BoundingBox::of($one->placed()->positions)->centre() : array_map(floatval(...), array_values($parameters->about));
        $turn = RigidTransform::turn([1.0, 0.0, 0.0], deg2rad($parameters->turnX))->then(RigidTransform::turn([0.0, 1.0, 0.0], deg2rad($parameters->turnY)))->then(RigidTransform::turn([0.0, 0.0, 1.0], deg2rad($parameters->turnZ)));
        $shift = RigidTransform::shift($parameters->shiftX, $parameters->shiftY, $parameters->shiftZ);
        if ($turn->isIdentity() && $shift->isIdentity()) {
            throw InvalidParameter::of('shiftX', 'and all other shifts and turns are 0; type by how much it should move');
        }
        // A shift alone stays exact: no place is subtracted and added again.
        $by = $turn->isIdentity() ? $shift : RigidTransform::shift(-$x, -$y, -$z)->then($turn)->then(RigidTransform::shift($x, $y, $z))->then($shift);
        $words = [];
        foreach (['shiftX' => 'mm', 'shiftY' => 'mm', 'shiftZ' => 'mm', 'turnX' => '°', 'turnY' => '°', 'turnZ' => '°'] as $name => $unit) {
            if ($parameters->$name !== 0.0) {
                $words[] = substr($name, -1).sprintf(' %+g ', $parameters->$name).$unit;
            }
        }

        return new Result($workpiece->movedOnly([$one->id], $by), "$one->name: ".implode(', ', $words), [], ['transform' => $by->matrix]);
    }
}
