<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** Names of passes and bodies, of which no two are the same. */
final class Names
{
    /**
     * The name, or the first of `name-2`, `name-3`... that nothing has.
     *
     * @param  array<string, true>  $taken  (changed) names that are taken
     */
    public static function distinct(string $name, array &$taken): string
    {
        for ($k = 1, $free = $name; isset($taken[$free]); $free = "$name-".++$k);
        $taken[$free] = true;

        return $free;
    }

    /** The name without what a file may not be called; it may be empty. */
    public static function forFile(string $name): string
    {
        return trim((string) preg_replace('/[^\p{L}\p{N}._ ,-]+/u', '_', $name));
    }
}
