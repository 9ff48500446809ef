<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

/** How an operation ended. Not converging is a result, not an exception. */
enum Outcome: string
{
    case Reached = 'reached';
    case StoppedEarly = 'stopped-early';
    case NotConverged = 'not-converged';
}
