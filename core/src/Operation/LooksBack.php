<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

/** An operation that may ask for the bodies as an earlier step left them; it finds them in Workpiece::$earlier. */
interface LooksBack
{
    /** @return string|null the step: its number in a recipe (from 1; 0 before the first), its tag, or its id in a ledger; null where none is asked for */
    public static function looksBackAt(object $parameters): ?string;
}
