<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Geometry\Vector3;

/**
 * The axis that the normals of a turned surface meet.
 *
 * Source    Pottmann & Randrup 1998, "Rotational and Helical Surface Approximation for Reverse Engineering": the normals belong to a linear line complex.
 *
 * @internal
 */
final class LineComplex
{
    /**
     * The line that the normals of a round surface meet: direction, moment about the middle, and the squares that three directions would leave.
     *
     * @param  list<float>  $q
     * @param  list<float>  $n
     * @param  list<float>  $use
     * @param  array{float, float, float}  $middle
     * @return array{array{float, float, float}, array{float, float, float}, array{float, float, float}}
     */
    public static function axis(array $q, array $n, array $use, array $middle): array
    {
        $a = $b = $c = array_fill(0, 9, 0.0);
        $sum = 0.0;
        foreach ($use as $i => $w) {
            if ($w <= 0.0) {
                continue;
            }
            $o = 3 * $i;
            $normal = [$n[$o], $n[$o + 1], $n[$o + 2]];
            $m = Vector3::cross([$q[$o] - $middle[0], $q[$o + 1] - $middle[1], $q[$o + 2] - $middle[2]], $normal);
            for ($j = 0; $j < 3; $j++) {
                for ($k = 0; $k < 3; $k++) {
                    $a[3 * $j + $k] += $w * $m[$j] * $m[$k];
                    $b[3 * $j + $k] += $w * $m[$j] * $normal[$k];
                    $c[3 * $j + $k] += $w * $normal[$j] * $normal[$k];
                }
            }
            $sum += $w;
        }
        // Least over the moment first: a pseudo-inverse, for the normals of a cylinder do not reach along its axis.
        [$values, $vectors] = Symmetric3::eigen($c[0], $c[1], $c[2], $c[4], $c[5], $c[8]);
        $inverse = array_fill(0, 9, 0.0);
        foreach ($values as $e => $value) {
            for ($k = 0; $value > 1e-6 * $values[2] && $k < 9; $k++) {
                $inverse[$k] += $vectors[$e][intdiv($k, 3)] * $vectors[$e][$k % 3] / $value;
            }
        }
        $bi = self::product($b, $inverse);
        $left = self::product($bi, [$b[0], $b[3], $b[6], $b[1], $b[4], $b[7], $b[2], $b[5], $b[8]]);
        $s = array_map(fn (float $x, float $y) => $x - $y, $a, $left);
        [$values, $vectors] = Symmetric3::eigen($s[0], 0.5 * ($s[1] + $s[3]), 0.5 * ($s[2] + $s[6]), $s[4], 0.5 * ($s[5] + $s[7]), $s[8]);
        $d = $vectors[0];
        $moment = [0.0, 0.0, 0.0];
        for ($k = 0; $k < 3; $k++) {
            $moment[$k] = -($bi[$k] * $d[0] + $bi[3 + $k] * $d[1] + $bi[6 + $k] * $d[2]);
        }
        // What is left along the axis would be the pitch of a screw.
        $pitch = Vector3::dot($moment, $d);

        return [$d, [$moment[0] - $pitch * $d[0], $moment[1] - $pitch * $d[1], $moment[2] - $pitch * $d[2]], [max(0.0, $values[0]) / max(1e-300, $sum), max(0.0, $values[1]) / max(1e-300, $sum), max(0.0, $values[2]) / max(1e-300, $sum)]];
    }

    /**
     * @param  array<int, float>  $a
     * @param  array<int, float>  $b
     * @return array<int, float>
     */
    private static function product(array $a, array $b): array
    {
        $c = [];
        for ($k = 0; $k < 9; $k++) {
            $i = 3 * intdiv($k, 3);
            $c[] = $a[$i] * $b[$k % 3] + $a[$i + 1] * $b[3 + $k % 3] + $a[$i + 2] * $b[6 + $k % 3];
        }

        return $c;
    }
}
