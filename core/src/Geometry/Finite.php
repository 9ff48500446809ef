<?php

declare(strict_types=1);

namespace Emberstone\Core\Geometry;

use Emberstone\Core\Foundation\UnsuitableInput;

/** Refuses coordinates that nobody has measured: a grid over what is no number would have no end, and squares of what is too large are no numbers. */
final class Finite
{
    /** The largest number taken for a coordinate: a million kilometres in millimetres. Squares and products of three are far from the largest number there is. */
    public const MOST = 1e12;

    /**
     * @param  array<int, float>  $values  flat xyz
     * @param  string  $what  that three of them belong to
     *
     * @throws UnsuitableInput naming the first that is not finite, or larger than MOST
     */
    public static function coordinates(array $values, string $what): void
    {
        // Infinities and what is no number are all that a sum cannot get rid of.
        if ($values === [] || (is_finite(array_sum($values)) && max($values) <= self::MOST && min($values) >= -self::MOST)) {
            return;
        }
        $bad = array_key_first(array_filter($values, fn (float $value) => ! is_finite($value)));
        if ($bad !== null) {
            throw UnsuitableInput::because("A coordinate of $what ".intdiv($bad, 3).' is not a finite number; leave it out, or write the file again.');
        }
        $bad = array_key_first(array_filter($values, fn (float $value) => abs($value) > self::MOST));
        if ($bad !== null) {
            throw UnsuitableInput::because(sprintf('A coordinate of %s %d is %.3g, farther out than anything measured; leave it out, or write the file again.', $what, intdiv($bad, 3), $values[$bad]));
        }
    }
}
