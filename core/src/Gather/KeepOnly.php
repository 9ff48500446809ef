<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\SelectionParameters;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Deletes all but the selected points and faces of the passes and bodies in which something is selected.
 *
 * @implements Operation<SelectionParameters>
 */
final class KeepOnly implements Operation
{
    public static function about(): About
    {
        return new About('keep-only', Stage::Gather, 'Keep only', 'Keeps what is selected and deletes the rest. Undo brings it back.', 'any', SelectionParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5, 100);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $progress->advance('cutting', 0.1);

        return Selected::apply($workpiece, $parameters, keep: true);
    }
}
