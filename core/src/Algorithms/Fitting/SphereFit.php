<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Fitting;

use Emberstone\Core\Algorithms\Linear\Dense;

/**
 * A sphere that dents and fillets do not pull away.
 *
 * @internal
 */
final class SphereFit
{
    /** Radius of a ball, in extents of what was seen of it, from which nothing but noise tells it from a plane. */
    private const FLAT = 15.0;

    /**
     * Sphere: an algebraic start (Coope 1993), then Gauss-Newton on centre and radius with Tukey's biweight.
     *
     * @param  list<float>  $p  flat xyz
     * @param  list<float>  $w
     * @return array{origin: array{float, float, float}, direction: array{float, float, float}, radius: float, rms: float, max: float, points: int, size: float}|null null when the area is flat
     */
    public static function of(array $p, array $w, ?FitConstraints $held = null): ?array
    {
        $n = count($w);
        $middle = Robust::moments($p, $w)['centre'];
        $m = array_fill(0, 16, 0.0);
        $r = [0.0, 0.0, 0.0, 0.0];
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            [$x, $y, $z] = [$p[$o] - $middle[0], $p[$o + 1] - $middle[1], $p[$o + 2] - $middle[2]];
            $row = [$x, $y, $z, 1.0];
            for ($j = 0; $j < 4; $j++) {
                for ($k = 0; $k < 4; $k++) {
                    $m[4 * $j + $k] += $w[$i] * $row[$j] * $row[$k];
                }
                $r[$j] += $w[$i] * $row[$j] * ($x * $x + $y * $y + $z * $z);
            }
        }
        $c = Dense::solve($m, $r, 4);
        if ($c === null) {
            return null;
        }
        $centre = [$middle[0] + 0.5 * $c[0], $middle[1] + 0.5 * $c[1], $middle[2] + 0.5 * $c[2]];
        $radius = sqrt(max(1e-12, $c[3] + 0.25 * ($c[0] ** 2 + $c[1] ** 2 + $c[2] ** 2)));
        $radius = $held->radius ?? $radius;
        $fixed = $held?->radius === null ? [] : [3];
        $use = $w;
        $e = [];
        for ($round = 0; $round < 30; $round++) {
            $h = array_fill(0, 16, 0.0);
            $g = [0.0, 0.0, 0.0, 0.0];
            $e = [];
            for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
                [$x, $y, $z] = [$p[$o] - $centre[0], $p[$o + 1] - $centre[1], $p[$o + 2] - $centre[2]];
                $d = sqrt($x * $x + $y * $y + $z * $z) ?: 1e-12;
                $e[] = $d - $radius;
                $j = [-$x / $d, -$y / $d, -$z / $d, -1.0];
                for ($a = 0; $a < 4; $a++) {
                    for ($b = 0; $b < 4; $b++) {
                        $h[4 * $a + $b] += $use[$i] * $j[$a] * $j[$b];
                    }
                    $g[$a] -= $use[$i] * $j[$a] * $e[$i];
                }
            }
            $use = $round < 2 ? $w : Robust::reweight($w, $e);
            $step = Robust::step($h, $g, $fixed);
            $centre = [$centre[0] + $step[0], $centre[1] + $step[1], $centre[2] + $step[2]];
            $radius += $step[3];
            if ($round > 4 && max(array_map(abs(...), $step)) < 1e-8 * max(1.0, abs($radius))) {
                break;
            }
        }
        $quality = Robust::quality($p, $centre, $e, $use);
        $extent = Robust::quality($p, $middle, $e, $use)['size'];
        // A cap lower than its own roughness is flat: any large ball fits it.
        if (! is_finite($radius) || $radius <= 0.0 || $radius > self::FLAT * $extent) {
            return null;
        }

        return [...$quality, 'origin' => $centre, 'direction' => [0.0, 0.0, 0.0], 'radius' => $radius, 'size' => $radius];
    }
}
