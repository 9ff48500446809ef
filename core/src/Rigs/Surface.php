<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/** How a surface answers the light of a scanner. Matting spray makes any of them matt. */
enum Surface: string
{
    case Matt = 'matt';
    case Shiny = 'shiny';
    case Dark = 'dark';

    /**
     * How many times noisier than on matt surface a place is, or 0 when nothing comes back.
     *
     * @param  float  $cos  cosine between the ray and the normal
     */
    public function response(float $cos, Noise $noise): float
    {
        return match ($this) {
            self::Matt => 1.0,
            // Straight on it blinds the camera, from aside the light goes elsewhere.
            self::Shiny => $cos > 0.985 || $cos < 0.35 || $noise->even() > 0.4 + $cos * 0.5 ? 0.0 : 1.6,
            // Little light comes back, the less the flatter.
            self::Dark => $noise->even() > 0.75 * $cos ? 0.0 : 2.2,
        };
    }
}
