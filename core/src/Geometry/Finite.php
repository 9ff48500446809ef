<?php

declare(strict_types=1);

namespace Emberstone\Core\Geometry;

use Emberstone\Core\Foundation\UnsuitableInput;

/** Refuses coordinates that are no numbers: a grid over them would have no end. */
final class Finite
{
    /**
     * @param  array<int, float>  $values  flat xyz
     * @param  string  $what  that three of them belong to
     *
     * @throws UnsuitableInput naming the first that is not finite
     */
    public static function coordinates(array $values, string $what): void
    {
        // Infinities and what is no number are all that a sum cannot get rid of.
        if (is_finite(array_sum($values))) {
            return;
        }
        $bad = array_key_first(array_filter($values, fn (float $value) => ! is_finite($value)));
        if ($bad !== null) {
            throw UnsuitableInput::because("A coordinate of $what ".intdiv($bad, 3).' is not a finite number; leave it out, or write the file again.');
        }
    }
}
