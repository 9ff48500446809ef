<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;

/**
 * One operation of the job. Takes a workpiece and its parameters, changes neither, gives a new workpiece and figures.
 *
 * @template P of object
 */
interface Operation
{
    public static function about(): About;

    /** @param  P  $parameters */
    public function estimate(Workpiece $workpiece, object $parameters): Estimate;

    /**
     * @param  P  $parameters
     *
     * @throws UnsuitableInput when the data do not allow it
     * @throws OperationCancelled when $progress says so
     */
    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result;
}
