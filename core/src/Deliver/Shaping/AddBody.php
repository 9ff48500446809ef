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
 * Makes one body of a body and another that reaches into it: their union. The other one becomes part of it.
 *
 * Output    closed and sound of closed and sound bodies; faces that do not meet stay to the bit. What the other body brings is marked as made unless it was fused from passes.
 *
 * Error     see Algorithms\Cutting\MeshBoolean.
 *
 * @implements Operation<CombineParameters>
 */
final class AddBody implements Operation
{
    public static function about(): About
    {
        return new About('add-body', Stage::Deliver, 'Add a body', 'Makes one body of a body and another that reaches into it.', 'meshes', CombineParameters::class, avoid: 'Not for bodies that only touch or lie apart: join those.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return Combine::estimate($workpiece, $parameters->clearance);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        return Combine::with($workpiece, 'with', $parameters->with, $parameters->clearance, MeshBoolean::UNION, $parameters->body, $parameters->on, $progress);
    }
}
