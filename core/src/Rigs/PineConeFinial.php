<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/**
 * The pine cone on top of the press: scales in a spiral over an egg, a collar and a stem below. Nothing on it is flat but the end of the stem.
 * Axis x = 0, y = 0 along Z; stem from z = 0, cone from 22 to 128, some 72 across.
 */
final class PineConeFinial implements Part
{
    private const SCALES = 120;

    /** The golden angle: no two scales stand above each other. */
    private const TURN = 2.399963229728653;

    /** @var list<float> centre and radius of each scale, from below, flat */
    private readonly array $scales;

    public function __construct()
    {
        $scales = [];
        for ($k = 0; $k < self::SCALES; $k++) {
            // Evenly over the surface of the egg: evenly in height.
            $t = ($k + 0.5) / self::SCALES;
            $z = 26.0 + 96.0 * $t;
            $radius = 30.0 * sqrt(max(0.0, 1.0 - (($z - 70.0) / 54.0) ** 2));
            array_push($scales, $radius * cos(self::TURN * $k), $radius * sin(self::TURN * $k), $z, 6.4 - 2.6 * $t);
        }
        $this->scales = $scales;
    }

    public function name(): string
    {
        return 'finial';
    }

    public function distance(float $x, float $y, float $z): float
    {
        $r = sqrt($x * $x + $y * $y);
        // An egg, from below: a lower bound of the distance, as rays need it.
        $egg = (sqrt($r * $r / 900.0 + ($z - 70.0) * ($z - 70.0) / 2916.0) - 1.0) * 30.0;
        $d = $egg;
        if ($egg < 16.0) {
            // Only scales about as high can be nearest; 96 mm hold all of them.
            $near = ($z - 26.0) * self::SCALES / 96.0;
            $first = (int) max(0.0, $near - 26.0);
            $last = (int) min(self::SCALES - 1.0, $near + 26.0);
            $scales = $this->scales;
            for ($o = 4 * $first, $end = 4 * $last; $o <= $end; $o += 4) {
                $u = $x - $scales[$o];
                $v = $y - $scales[$o + 1];
                $w = $z - $scales[$o + 2];
                $within = $d + $scales[$o + 3];
                $s = $u * $u + $v * $v + $w * $w;
                if ($within > 0.0 && $s < $within * $within) {
                    $d = sqrt($s) - $scales[$o + 3];
                }
            }
            // Scales farther up or down are at least this far.
            $beyond = 26.0 * 96.0 / self::SCALES - 6.4;
            if ($d > $beyond) {
                $d = $beyond;
            }
        } else {
            $d = $egg - 6.4;
        }

        return min($d, Sdf::cylinder($x, $y, $z - 12.0, 9.0, 12.0), Sdf::cylinder($x, $y, $z - 20.0, 17.0, 3.0));
    }

    public function bounds(): array
    {
        return [[-37.0, -37.0, 0.0], [37.0, 37.0, 129.0]];
    }

    public function features(): array
    {
        return ['axis' => ['origin' => [0.0, 0.0, 0.0], 'direction' => [0.0, 0.0, 1.0]], 'stemEnd' => ['origin' => [0.0, 0.0, 0.0], 'normal' => [0.0, 0.0, -1.0]], 'stemDiameter' => 18.0, 'collarDiameter' => 34.0, 'scales' => self::SCALES];
    }
}
