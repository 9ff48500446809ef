<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Linear;

use Emberstone\Core\Geometry\RigidTransform;

/** The best rigid transform between paired points. */
final class Horn
{
    /**
     * Least squares over pairs, closed form by unit quaternions.
     *
     * Source    Horn 1987, "Closed-form solution of absolute orientation using unit quaternions".
     *
     * @param  array<int, float>  $from  flat xyz
     * @param  array<int, float>  $to  flat xyz, as many
     */
    public static function fit(array $from, array $to): RigidTransform
    {
        $n = intdiv(count($from), 3);
        $a = $b = [0.0, 0.0, 0.0];
        for ($o = 0; $o < 3 * $n; $o++) {
            $a[$o % 3] += $from[$o] / $n;
            $b[$o % 3] += $to[$o] / $n;
        }
        $s = array_fill(0, 9, 0.0);
        for ($o = 0; $o < 3 * $n; $o += 3) {
            for ($i = 0; $i < 3; $i++) {
                for ($j = 0; $j < 3; $j++) {
                    $s[3 * $i + $j] += ($from[$o + $i] - $a[$i]) * ($to[$o + $j] - $b[$j]);
                }
            }
        }
        [$xx, $xy, $xz, $yx, $yy, $yz, $zx, $zy, $zz] = $s;
        // The largest eigenvector of Horn's 4x4 matrix by shifted power iteration; the shift makes all eigenvalues positive.
        $m = [
            [$xx + $yy + $zz, $yz - $zy, $zx - $xz, $xy - $yx],
            [$yz - $zy, $xx - $yy - $zz, $xy + $yx, $zx + $xz],
            [$zx - $xz, $xy + $yx, -$xx + $yy - $zz, $yz + $zy],
            [$xy - $yx, $zx + $xz, $yz + $zy, -$xx - $yy + $zz],
        ];
        $q = self::largestEigenvector($m);
        [$w, $x, $y, $z] = $q;
        $r = [
            $w * $w + $x * $x - $y * $y - $z * $z, 2 * ($x * $y - $w * $z), 2 * ($x * $z + $w * $y),
            2 * ($x * $y + $w * $z), $w * $w - $x * $x + $y * $y - $z * $z, 2 * ($y * $z - $w * $x),
            2 * ($x * $z - $w * $y), 2 * ($y * $z + $w * $x), $w * $w - $x * $x - $y * $y + $z * $z,
        ];

        return RigidTransform::of($r, [
            $b[0] - ($r[0] * $a[0] + $r[1] * $a[1] + $r[2] * $a[2]),
            $b[1] - ($r[3] * $a[0] + $r[4] * $a[1] + $r[5] * $a[2]),
            $b[2] - ($r[6] * $a[0] + $r[7] * $a[1] + $r[8] * $a[2]),
        ]);
    }

    /**
     * Jacobi rotations on a symmetric 4x4 matrix.
     *
     * @param  array<int, array<int, float>>  $a
     * @return list<float>
     */
    private static function largestEigenvector(array $a): array
    {
        $v = [[1.0, 0.0, 0.0, 0.0], [0.0, 1.0, 0.0, 0.0], [0.0, 0.0, 1.0, 0.0], [0.0, 0.0, 0.0, 1.0]];
        for ($sweep = 0; $sweep < 60; $sweep++) {
            $off = 0.0;
            for ($p = 0; $p < 3; $p++) {
                for ($q = $p + 1; $q < 4; $q++) {
                    $off += $a[$p][$q] ** 2;
                    if ($a[$p][$q] === 0.0) {
                        continue;
                    }
                    $theta = ($a[$q][$q] - $a[$p][$p]) / (2.0 * $a[$p][$q]);
                    $t = ($theta >= 0.0 ? 1.0 : -1.0) / (abs($theta) + sqrt($theta * $theta + 1.0));
                    $c = 1.0 / sqrt($t * $t + 1.0);
                    $s = $t * $c;
                    for ($k = 0; $k < 4; $k++) {
                        [$x, $y] = [$a[$k][$p], $a[$k][$q]];
                        $a[$k][$p] = $c * $x - $s * $y;
                        $a[$k][$q] = $s * $x + $c * $y;
                    }
                    for ($k = 0; $k < 4; $k++) {
                        [$x, $y] = [$a[$p][$k], $a[$q][$k]];
                        $a[$p][$k] = $c * $x - $s * $y;
                        $a[$q][$k] = $s * $x + $c * $y;
                        [$x, $y] = [$v[$k][$p], $v[$k][$q]];
                        $v[$k][$p] = $c * $x - $s * $y;
                        $v[$k][$q] = $s * $x + $c * $y;
                    }
                }
            }
            if ($off === 0.0 || $off < 1e-30 * ($a[0][0] ** 2 + $a[1][1] ** 2 + $a[2][2] ** 2 + $a[3][3] ** 2)) {
                break;
            }
        }
        $best = 0;
        for ($i = 1; $i < 4; $i++) {
            if ($a[$i][$i] > $a[$best][$best]) {
                $best = $i;
            }
        }

        return [$v[0][$best], $v[1][$best], $v[2][$best], $v[3][$best]];
    }
}
