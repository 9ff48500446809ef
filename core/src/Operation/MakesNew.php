<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

/** An operation that makes passes or bodies beside those that are there: later steps of a recipe may name them. */
interface MakesNew
{
    /**
     * @param  list<string>|null  $on  what the step works on
     * @return list<string>|null the names of what it makes; null where they depend on the data
     */
    public static function makes(object $parameters, ?array $on): ?array;
}
