<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

/** A figure for each point of a pass (or vertex of a body), to colour it by: one byte each, 0 for none, 1 to 255 from `from` to `to`. */
final readonly class ShadeMap
{
    private function __construct(
        public string $target,
        public string $label,
        public string $unit,
        public float $from,
        public float $to,
        public string $bytes,
        public ?float $band = null,
    ) {
    }

    /**
     * @param  string  $target  id of the pass or body
     * @param  array<int, float|null>  $values  one a point; null or what is not finite has no colour
     * @param  float  $from  what is below is shown as this
     * @param  float|null  $band  to either side of 0, that is marked beside the colours: a tolerance
     */
    public static function of(string $target, string $label, string $unit, array $values, float $from, float $to, ?float $band = null): self
    {
        return new self($target, $label, $unit, $from, $to, self::shades($values, $from, $to), $band);
    }

    public static function ofBytes(string $target, string $label, string $unit, string $bytes, float $from, float $to): self
    {
        return new self($target, $label, $unit, $from, $to, $bytes);
    }

    /** @param  array<int, float|null>  $values */
    public static function shades(array $values, float $from, float $to): string
    {
        $factor = $to > $from ? 254.0 / ($to - $from) : 0.0;
        $bytes = str_repeat("\0", count($values));
        foreach ($values as $i => $value) {
            if ($value !== null && is_finite($value)) {
                $shade = (int) (1.5 + ($value - $from) * $factor);
                $bytes[$i] = chr($shade < 1 ? 1 : ($shade > 255 ? 255 : $shade));
            }
        }

        return $bytes;
    }
}
