<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Surface;

/**
 * Mass, first and second moments: ten numbers, 1, x, y, z, xx, xy, xz, yy, yz, zz, summed over points, a surface, or the volume inside it.
 *
 * Source    exact integrals over triangles and over tetrahedra from the origin (Zhang & Chen 2001, "Efficient feature extraction for 2D/3D objects in mesh representation").
 *
 * @internal
 */
final class Moments
{
    /**
     * @param  array<int, float>  $p
     * @return list<float>
     */
    public static function ofPoints(array $p): array
    {
        $x = $y = $z = $xx = $xy = $xz = $yy = $yz = $zz = 0.0;
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $a = $p[$o];
            $b = $p[$o + 1];
            $c = $p[$o + 2];
            $x += $a;
            $y += $b;
            $z += $c;
            $xx += $a * $a;
            $xy += $a * $b;
            $xz += $a * $c;
            $yy += $b * $b;
            $yz += $b * $c;
            $zz += $c * $c;
        }

        return [$e / 3.0, $x, $y, $z, $xx, $xy, $xz, $yy, $yz, $zz];
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return list<float>
     */
    public static function ofSurface(array $p, array $f): array
    {
        return self::sum($p, $f, Measure::areas($p, $f), 3);
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f  closed, facing outwards
     * @return list<float>
     */
    public static function ofVolume(array $p, array $f): array
    {
        $volumes = [];
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            [$a, $b, $c] = [3 * $f[$o], 3 * $f[$o + 1], 3 * $f[$o + 2]];
            $volumes[] = ($p[$a] * ($p[$b + 1] * $p[$c + 2] - $p[$b + 2] * $p[$c + 1]) + $p[$a + 1] * ($p[$b + 2] * $p[$c] - $p[$b] * $p[$c + 2]) + $p[$a + 2] * ($p[$b] * $p[$c + 1] - $p[$b + 1] * $p[$c])) / 6.0;
        }

        return self::sum($p, $f, $volumes, 4);
    }

    /**
     * Simplices of three corners, or of four of which the origin is one: mean of x is the sum over all corners by their number, mean of xy is
     * (sum x sum y + sum xy) / (n (n + 1)).
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  list<float>  $weights
     * @return list<float>
     */
    private static function sum(array $p, array $f, array $weights, int $corners): array
    {
        $sum = array_fill(0, 10, 0.0);
        $second = 1.0 / ($corners * ($corners + 1));
        foreach ($weights as $t => $w) {
            [$a, $b, $c] = [3 * $f[3 * $t], 3 * $f[3 * $t + 1], 3 * $f[3 * $t + 2]];
            $s = [$p[$a] + $p[$b] + $p[$c], $p[$a + 1] + $p[$b + 1] + $p[$c + 1], $p[$a + 2] + $p[$b + 2] + $p[$c + 2]];
            $sum[0] += $w;
            for ($i = 0, $k = 4; $i < 3; $i++) {
                $sum[1 + $i] += $w * $s[$i] / $corners;
                for ($j = $i; $j < 3; $j++, $k++) {
                    $sum[$k] += $w * $second * ($s[$i] * $s[$j] + $p[$a + $i] * $p[$a + $j] + $p[$b + $i] * $p[$b + $j] + $p[$c + $i] * $p[$c + $j]);
                }
            }
        }

        return array_values($sum);
    }

    /**
     * @param  list<float>  $m
     * @return array{float, float, float}
     */
    public static function centre(array $m): array
    {
        return [$m[1] / $m[0], $m[2] / $m[0], $m[3] / $m[0]];
    }

    /**
     * @param  list<float>  $m
     * @return array{float, float, float, float, float, float} xx, xy, xz, yy, yz, zz about the centre, per mass
     */
    public static function covariance(array $m): array
    {
        [$x, $y, $z] = self::centre($m);

        return [$m[4] / $m[0] - $x * $x, $m[5] / $m[0] - $x * $y, $m[6] / $m[0] - $x * $z, $m[7] / $m[0] - $y * $y, $m[8] / $m[0] - $y * $z, $m[9] / $m[0] - $z * $z];
    }
}
