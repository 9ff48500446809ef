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
 * Makes room around another body: what lies nearer to it than a distance is taken away. The other one stays.
 *
 * Output    closed and sound of closed and sound bodies; the new walls are marked as made, with round corners where a ball of that radius rolls.
 *
 * Error     see Algorithms\Cutting\MeshBoolean.
 *
 * @implements Operation<ClearanceCutParameters>
 */
final class ClearanceCut implements Operation
{
    public static function about(): About
    {
        return new About('clearance-cut', Stage::Deliver, 'Make room', 'Takes away from a body what lies nearer to another one than a distance.', 'meshes', ClearanceCutParameters::class, avoid: 'Not for a fit: room is the same all around. Open a hole by its diameter for that.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return Combine::estimate($workpiece, $parameters->distance);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        return Combine::with($workpiece, 'around', $parameters->around, $parameters->distance, MeshBoolean::DIFFERENCE, $parameters->body, $parameters->on, $progress);
    }
}
