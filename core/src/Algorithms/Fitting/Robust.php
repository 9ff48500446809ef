<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Fitting;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Linear\Symmetric3;

/**
 * What fits of every kind share: weighted moments, reweighting by Tukey's biweight, steps that leave some freedoms alone.
 *
 * @internal
 */
final class Robust
{
    /**
     * A step of Gauss-Newton that leaves some of the parameters as they are.
     *
     * @param  list<float>  $h  square, row by row
     * @param  list<float>  $g
     * @param  list<int>  $fixed
     * @return list<float>
     */
    public static function step(array $h, array $g, array $fixed): array
    {
        $n = count($g);
        foreach ($fixed as $a) {
            for ($b = 0; $b < $n; $b++) {
                $h[$n * $a + $b] = $h[$n * $b + $a] = 0.0;
            }
            $h[$n * $a + $a] = 1.0;
            $g[$a] = 0.0;
        }

        return Dense::step($h, $g, $n);
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, float>  $centre
     * @param  array<int, float>  $direction
     */
    public static function along(array $p, int $o, array $centre, array $direction): float
    {
        return ($p[$o] - $centre[0]) * $direction[0] + ($p[$o + 1] - $centre[1]) * $direction[1] + ($p[$o + 2] - $centre[2]) * $direction[2];
    }

    /**
     * @param  list<float>  $p
     * @param  list<float>  $w
     * @param  array{float, float, float}|null  $about  the moments are those about this; about the centre when null
     * @return array{centre: array{float, float, float}, vectors: list<array{float, float, float}>, moments: array{float, float, float, float, float, float}} vectors by rising moment
     */
    public static function moments(array $p, array $w, ?array $about = null): array
    {
        $sum = array_sum($w) ?: 1.0;
        $c = [0.0, 0.0, 0.0];
        foreach ($w as $i => $k) {
            $c[0] += $k * $p[3 * $i] / $sum;
            $c[1] += $k * $p[3 * $i + 1] / $sum;
            $c[2] += $k * $p[3 * $i + 2] / $sum;
        }
        [$x0, $y0, $z0] = $about ?? $c;
        $xx = $xy = $xz = $yy = $yz = $zz = 0.0;
        foreach ($w as $i => $k) {
            $x = $p[3 * $i] - $x0;
            $y = $p[3 * $i + 1] - $y0;
            $z = $p[3 * $i + 2] - $z0;
            $xx += $k * $x * $x;
            $xy += $k * $x * $y;
            $xz += $k * $x * $z;
            $yy += $k * $y * $y;
            $yz += $k * $y * $z;
            $zz += $k * $z * $z;
        }

        return ['centre' => $c, 'vectors' => Symmetric3::eigen($xx, $xy, $xz, $yy, $yz, $zz)[1], 'moments' => [$xx, $xy, $xz, $yy, $yz, $zz]];
    }

    /**
     * @param  list<float>  $w
     * @param  list<float>  $e
     * @return list<float>
     */
    public static function reweight(array $w, array $e): array
    {
        $cut = 4.685 * max(1e-9, 1.4826 * Median::of(array_map(abs(...), $e)));

        return array_map(fn (float $k, float $v) => abs($v) < $cut ? $k * (1.0 - ($v / $cut) ** 2) ** 2 : 0.0, $w, $e);
    }

    /**
     * @param  list<float>  $p
     * @param  array<int, float>  $centre
     * @param  list<float>  $e
     * @param  list<float>  $use
     * @return array{rms: float, max: float, points: int, size: float}
     */
    public static function quality(array $p, array $centre, array $e, array $use): array
    {
        $squares = $sum = $most = $size = 0.0;
        $count = 0;
        foreach ($use as $i => $k) {
            $size = max($size, ($p[3 * $i] - $centre[0]) ** 2 + ($p[3 * $i + 1] - $centre[1]) ** 2 + ($p[3 * $i + 2] - $centre[2]) ** 2);
            if ($k <= 0.0) {
                continue;
            }
            $squares += $k * $e[$i] * $e[$i];
            $sum += $k;
            $most = max($most, abs($e[$i]));
            $count++;
        }

        return ['rms' => sqrt($squares / ($sum ?: 1.0)), 'max' => $most, 'points' => $count, 'size' => sqrt($size)];
    }
}
