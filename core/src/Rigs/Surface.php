<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/** How a surface answers the light of a scanner. Matting spray makes any of them matt. */
enum Surface: string
{
    case Matt = 'matt';
    case Shiny = 'shiny';
    case Dark = 'dark';
    /** Matt, with glaze in places. */
    case Glassy = 'glassy';

    /**
     * How many times noisier than on matt surface a place is, or 0 when nothing comes back.
     *
     * @param  float  $cos  cosine between the ray and the normal
     * @param  bool  $glazed  see isGlazed()
     */
    public function response(float $cos, bool $glazed, Noise $noise): float
    {
        return match ($this) {
            self::Matt => 1.0,
            // Straight on it blinds the camera, from aside the light goes elsewhere.
            self::Shiny => $cos > 0.985 || $cos < 0.35 || $noise->even() > 0.4 + $cos * 0.5 ? 0.0 : 1.6,
            // Little light comes back, the less the flatter.
            self::Dark => $noise->even() > 0.75 * $cos ? 0.0 : 2.2,
            // Most of the light goes through or elsewhere.
            self::Glassy => ! $glazed ? 1.0 : ($noise->even() > 0.4 ? 0.0 : 1.6),
        };
    }

    /** Whether there is glaze at a place of the part: in blots some 20 mm across. */
    public function isGlazed(float $x, float $y, float $z): bool
    {
        return $this === self::Glassy && sin($x / 7.0) + sin($y / 6.0 + 1.0) + sin($z / 6.5 + 2.0) > 1.0;
    }

    /** What comes back from glaze comes from within: so much farther along the ray, mm. */
    public function depthOfGlaze(Noise $noise): float
    {
        return 0.4 + 1.6 * $noise->even();
    }
}
