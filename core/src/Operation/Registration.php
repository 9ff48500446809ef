<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;

/** Moves passes onto each other. An operation of another stage that needs this is handed it by the catalogue: stages do not know each other. */
interface Registration
{
    /**
     * From where the passes stand, without looking for other places.
     *
     * @param  float  $reach  how far apart the same place may be on two passes, mm
     * @param  list<string>  $locked  names of passes that stay where they are, besides the first
     *
     * @throws UnsuitableInput when the data do not allow it
     * @throws OperationCancelled when $progress says so
     */
    public function registered(Workpiece $workpiece, float $reach, array $locked, Progress $progress): Result;
}
