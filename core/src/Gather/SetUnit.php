<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Says in which unit passes and bodies were written; what they were read in so far is taken back.
 *
 * @implements Operation<SetUnitParameters>
 */
final class SetUnit implements Operation
{
    public static function about(): About
    {
        return new About('set-unit', Stage::Gather, 'Set unit', 'Says in which unit the chosen files were written.', 'any', SetUnitParameters::class, together: true, avoid: 'Not to correct a scanner that measures too long or too short: that is Scale.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $workpiece->refuseEmpty();
        $factor = Unit::from($parameters->unit)->inMillimetres() / Unit::from($parameters->was)->inMillimetres();

        return new Result($workpiece->scaled($factor), "read as {$parameters->unit}", ['unit' => $parameters->was], ['unit' => $parameters->unit], everything: Placement::of($factor, RigidTransform::identity()));
    }
}
