<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Algorithms\Cutting\MeshBoolean;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Keeps of bodies what lies in another one as well: their intersection. The other one stays.
 *
 * Output    closed and sound of closed and sound bodies. What the other body bounds is marked as made unless it was fused from passes.
 *
 * Error     see Algorithms\Cutting\MeshBoolean.
 *
 * @implements Operation<CombineParameters>
 */
final class KeepCommon implements Operation
{
    public static function about(): About
    {
        return new About('keep-common', Stage::Deliver, 'Keep the common part', 'Keeps of a body what lies in another one as well.', 'meshes', CombineParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return Combine::estimate($workpiece, $parameters->clearance);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        return Combine::with($workpiece, 'with', $parameters->with, $parameters->clearance, MeshBoolean::INTERSECTION, $parameters->body, $parameters->on, $progress);
    }
}
