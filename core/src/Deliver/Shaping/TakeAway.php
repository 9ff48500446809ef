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
 * Takes away from bodies what another one fills: their difference. The other one stays.
 *
 * Output    closed and sound of closed and sound bodies; faces that do not meet stay to the bit. The new walls are marked as made.
 *
 * Error     see Algorithms\Cutting\MeshBoolean.
 *
 * @implements Operation<CombineParameters>
 */
final class TakeAway implements Operation
{
    public static function about(): About
    {
        return new About('take-away', Stage::Deliver, 'Take away', 'Takes away from a body what another one fills, with room around it if asked. The other one stays.', 'meshes', CombineParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return Combine::estimate($workpiece, $parameters->clearance);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        return Combine::with($workpiece, 'with', $parameters->with, $parameters->clearance, MeshBoolean::DIFFERENCE, $parameters->body, $parameters->on, $progress);
    }
}
