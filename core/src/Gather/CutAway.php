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
 * Deletes the selected points and faces.
 *
 * @implements Operation<SelectionParameters>
 */
final class CutAway implements Operation
{
    public static function about(): About
    {
        return new About('cut-away', Stage::Gather, 'Cut away', 'Deletes what is selected. Undo brings it back.', 'any', SelectionParameters::class, avoid: 'Not for what a rule can find: strays, outliers and the base have tools that say what they took.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5, 100);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $progress->advance('cutting', 0.1);

        return Selected::apply($workpiece, $parameters, keep: false);
    }
}
