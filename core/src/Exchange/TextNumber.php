<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

/** Numbers as programs print them into text files. */
final class TextNumber
{
    /** With a decimal point or none, and an exponent after e or d in either case, as Fortran writes it; null for anything else, also for what is not finite. */
    public static function parse(?string $word): ?float
    {
        if ($word === null) {
            return null;
        }
        if (! is_numeric($word)) {
            $word = strtr($word, 'dD', 'ee');
            if (! is_numeric($word)) {
                return null;
            }
        }
        $number = (float) $word;

        return is_finite($number) ? $number : null;
    }
}
