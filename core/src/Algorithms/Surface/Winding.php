<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Surface;

/**
 * How often a surface, open or closed, goes around a place: 1 inside a closed one that faces outwards, 0 outside, -1 inside one that faces inwards,
 * and something between where it is open.
 *
 * Source    Jacobson, Kavan & Sorkine-Hornung 2013, "Robust inside-outside segmentation using generalized winding numbers", eq. 5 and 6;
 *           the solid angle of a triangle after van Oosterom & Strackee 1983.
 *
 * @internal
 */
final class Winding
{
    /** So many faces, evenly over the list, say where the surface faces. */
    private const ASKED = 32;

    /**
     * The winding number on the surface itself, between that of its two sides, and the mean of it by area: 0.5 for a closed surface that
     * faces outwards, -0.5 for one that faces inwards, less of either the more is open, 0 for a flat sheet.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     */
    public static function facing(array $p, array $f): float
    {
        $faces = intdiv(count($f), 3);
        $sum = $areas = 0.0;
        for ($t = 0, $every = intdiv($faces, self::ASKED) + 1; $t < $faces; $t += $every) {
            [$a, $b, $c] = [3 * $f[3 * $t], 3 * $f[3 * $t + 1], 3 * $f[3 * $t + 2]];
            $x = ($p[$b + 1] - $p[$a + 1]) * ($p[$c + 2] - $p[$a + 2]) - ($p[$b + 2] - $p[$a + 2]) * ($p[$c + 1] - $p[$a + 1]);
            $y = ($p[$b + 2] - $p[$a + 2]) * ($p[$c] - $p[$a]) - ($p[$b] - $p[$a]) * ($p[$c + 2] - $p[$a + 2]);
            $z = ($p[$b] - $p[$a]) * ($p[$c + 1] - $p[$a + 1]) - ($p[$b + 1] - $p[$a + 1]) * ($p[$c] - $p[$a]);
            $area = sqrt($x * $x + $y * $y + $z * $z);
            // A face seen from its own middle is seen edge-on: it takes no angle.
            $sum += $area * self::at($p, $f, [($p[$a] + $p[$b] + $p[$c]) / 3.0, ($p[$a + 1] + $p[$b + 1] + $p[$c + 1]) / 3.0, ($p[$a + 2] + $p[$b + 2] + $p[$c + 2]) / 3.0], $t);
            $areas += $area;
        }

        return $areas > 0.0 ? $sum / $areas : 0.0;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array{float, float, float}  $place
     * @param  int  $without  a face that does not count
     */
    public static function at(array $p, array $f, array $place, int $without = -1): float
    {
        [$x, $y, $z] = $place;
        $sum = 0.0;
        for ($o = 0, $n = count($f), $without *= 3; $o < $n; $o += 3) {
            if ($o === $without) {
                continue;
            }
            $k = 3 * $f[$o];
            $ax = $p[$k] - $x;
            $ay = $p[$k + 1] - $y;
            $az = $p[$k + 2] - $z;
            $k = 3 * $f[$o + 1];
            $bx = $p[$k] - $x;
            $by = $p[$k + 1] - $y;
            $bz = $p[$k + 2] - $z;
            $k = 3 * $f[$o + 2];
            $cx = $p[$k] - $x;
            $cy = $p[$k + 1] - $y;
            $cz = $p[$k + 2] - $z;
            $a = sqrt($ax * $ax + $ay * $ay + $az * $az);
            $b = sqrt($bx * $bx + $by * $by + $bz * $bz);
            $c = sqrt($cx * $cx + $cy * $cy + $cz * $cz);
            $sum += atan2(
                $ax * ($by * $cz - $bz * $cy) + $ay * ($bz * $cx - $bx * $cz) + $az * ($bx * $cy - $by * $cx),
                $a * $b * $c + ($ax * $bx + $ay * $by + $az * $bz) * $c + ($bx * $cx + $by * $cy + $bz * $cz) * $a + ($cx * $ax + $cy * $ay + $cz * $az) * $b,
            );
        }

        return $sum / (2.0 * M_PI);
    }
}
