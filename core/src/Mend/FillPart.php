<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Places;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rims\PatchShape;

/**
 * Closes one side of a hole: the stretch of its rim between two picks, up to a curve across the open.
 *
 * Source    see RimSide and RimFiller.
 * Keeps     every vertex and face there was; the other side of the hole stays open.
 *
 * @implements Operation<FillPartParameters>
 */
final class FillPart implements Operation
{
    public static function about(): About
    {
        return new About('fill-part', Stage::Mend, 'Fill part of a hole', 'Closes one side of a hole, up to a curve between two places on its rim.', 'meshes', FillPartParameters::class, avoid: 'Not where the whole hole can be closed in one go.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5 + 4e-6 * $workpiece->faceCount(), 60 + 4e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        [$from, $to, $side] = Places::checked('points', $parameters->points, 3);

        return RimCover::ofPart($workpiece, $from, $to, $side, PatchShape::of($parameters->shape), $progress);
    }
}
