<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Icp;

use Emberstone\Core\Algorithms\Linear\Median;

/**
 * The normal equations of point-to-plane best fit between two placed passes.
 *
 * Source    Chen & Medioni 1992 (point to plane); Rusinkiewicz 2019 (symmetric: the plane stands halfway between both normals) where the normals agree; Tukey's biweight for robustness (Huber & Ronchetti 2009).
 *
 * @internal
 */
final class IcpEquations
{
    /** Cosine between two normals that belong to the same smooth surface, noise and all: within ten degrees. Over edges one of them is wrong, and halfway between both is none. */
    private const ALIKE = 0.985;

    /**
     * Pairs samples of a moving pass with the nearest points of a still one and sums J^T J and J^T e, both in project coordinates.
     *
     * e = n.(x - q) for the moved sample x, its partner q and the normal n, halfway between both or the partner's; J = (x cross n, n): eq. of the linearised turn and shift.
     *
     * @param  array<int, float>  $p  samples of the moving pass, flat xyz, in its own coordinates
     * @param  array<int, float>  $n  their normals
     * @param  array<int, float>  $quality  weight a sample
     * @param  array<int, float>  $m  the moving pass' matrix (16)
     * @param  CorrespondenceCache  $partners  of these samples in the still pass
     * @param  array<int, float>  $targetNormals  in the tree's leaf order
     * @param  array<int, float>  $t  the still pass' matrix (16)
     * @param  array<int, float>  $inverse  the inverse of $t
     * @return array{a: list<float>, b: list<float>, pairs: int, near: int, weight: float, squares: float, scale: float, tilt: float} a: upper triangle of J^T W J, 21 numbers by rows; near: partners before those that fit badly are cut off; squares: sum of w e^2; tilt: mean of 1 - cos between normals that agree
     */
    public static function pair(array $p, array $n, array $quality, array $m, CorrespondenceCache $partners, array $targetNormals, array $t, array $inverse, float $maxDistance, float $leastScale): array
    {
        $count = intdiv(count($p), 3);
        // Straight into the still pass' own coordinates, where the tree stands.
        [$a0, $a1, $a2, $a3, $a4, $a5, $a6, $a7, $a8, $a9, $a10, $a11] = self::product($inverse, $m);
        $q = array_fill(0, 3 * $count, 0.0);
        for ($o = 0, $e = 3 * $count; $o < $e; $o += 3) {
            $x = $p[$o];
            $y = $p[$o + 1];
            $z = $p[$o + 2];
            $q[$o] = $a0 * $x + $a1 * $y + $a2 * $z + $a3;
            $q[$o + 1] = $a4 * $x + $a5 * $y + $a6 * $z + $a7;
            $q[$o + 2] = $a8 * $x + $a9 * $y + $a10 * $z + $a11;
        }
        $nearest = $partners->of($q, $maxDistance);
        $s = $partners->tree->sorted;
        $errors = array_fill(0, $count, 1e300);
        $normals = array_fill(0, 3 * $count, 0.0);
        $sizes = [];
        $tilt = 0.0;
        $alike = 0;
        for ($i = 0, $o = 0; $i < $count; $i++, $o += 3) {
            $k = $nearest[$i];
            if ($k < 0) {
                continue;
            }
            $nx = $targetNormals[$k];
            $ny = $targetNormals[$k + 1];
            $nz = $targetNormals[$k + 2];
            $x = $n[$o];
            $y = $n[$o + 1];
            $z = $n[$o + 2];
            $ox = $a0 * $x + $a1 * $y + $a2 * $z;
            $oy = $a4 * $x + $a5 * $y + $a6 * $z;
            $oz = $a8 * $x + $a9 * $y + $a10 * $z;
            $c = $nx * $ox + $ny * $oy + $nz * $oz;
            // Surfaces that face different ways are not the same place.
            if ($c < 0.75) {
                continue;
            }
            if ($c > self::ALIKE) {
                $tilt += 1.0 - $c;
                $alike++;
                $c = 1.0 / sqrt(2.0 + 2.0 * $c);
                $nx = ($nx + $ox) * $c;
                $ny = ($ny + $oy) * $c;
                $nz = ($nz + $oz) * $c;
            }
            $normals[$o] = $nx;
            $normals[$o + 1] = $ny;
            $normals[$o + 2] = $nz;
            $e = $nx * ($q[$o] - $s[$k]) + $ny * ($q[$o + 1] - $s[$k + 1]) + $nz * ($q[$o + 2] - $s[$k + 2]);
            $errors[$i] = $e;
            $sizes[] = $e < 0.0 ? -$e : $e;
        }
        $scale = $sizes === [] ? $maxDistance : 1.4826 * Median::of($sizes);
        if ($scale < $leastScale) {
            $scale = $leastScale;
        }
        $cut = 4.685 * $scale;
        $icut = 1.0 / $cut;
        [$m0, $m1, $m2, $m3, $m4, $m5, $m6, $m7, $m8, $m9, $m10, $m11] = $m;
        [$t0, $t1, $t2, , $t4, $t5, $t6, , $t8, $t9, $t10] = $t;
        $h00 = $h01 = $h02 = $h03 = $h04 = $h05 = $h11 = $h12 = $h13 = $h14 = $h15 = $h22 = $h23 = $h24 = $h25 = $h33 = $h34 = $h35 = $h44 = $h45 = $h55 = 0.0;
        $b0 = $b1 = $b2 = $b3 = $b4 = $b5 = $sum = $squares = 0.0;
        $pairs = 0;
        for ($i = 0, $o = 0; $i < $count; $i++, $o += 3) {
            $e = $errors[$i];
            if ($e > $cut || $e < -$cut) {
                continue;
            }
            $w = $e * $icut;
            $w = 1.0 - $w * $w;
            $w = $w * $w * $quality[$i];
            $x = $p[$o];
            $y = $p[$o + 1];
            $z = $p[$o + 2];
            $gx = $m0 * $x + $m1 * $y + $m2 * $z + $m3;
            $gy = $m4 * $x + $m5 * $y + $m6 * $z + $m7;
            $gz = $m8 * $x + $m9 * $y + $m10 * $z + $m11;
            $x = $normals[$o];
            $y = $normals[$o + 1];
            $z = $normals[$o + 2];
            $nx = $t0 * $x + $t1 * $y + $t2 * $z;
            $ny = $t4 * $x + $t5 * $y + $t6 * $z;
            $nz = $t8 * $x + $t9 * $y + $t10 * $z;
            $cx = $gy * $nz - $gz * $ny;
            $cy = $gz * $nx - $gx * $nz;
            $cz = $gx * $ny - $gy * $nx;
            $wx = $w * $cx;
            $wy = $w * $cy;
            $wz = $w * $cz;
            $ux = $w * $nx;
            $uy = $w * $ny;
            $uz = $w * $nz;
            $h00 += $wx * $cx;
            $h01 += $wx * $cy;
            $h02 += $wx * $cz;
            $h03 += $wx * $nx;
            $h04 += $wx * $ny;
            $h05 += $wx * $nz;
            $h11 += $wy * $cy;
            $h12 += $wy * $cz;
            $h13 += $wy * $nx;
            $h14 += $wy * $ny;
            $h15 += $wy * $nz;
            $h22 += $wz * $cz;
            $h23 += $wz * $nx;
            $h24 += $wz * $ny;
            $h25 += $wz * $nz;
            $h33 += $ux * $nx;
            $h34 += $ux * $ny;
            $h35 += $ux * $nz;
            $h44 += $uy * $ny;
            $h45 += $uy * $nz;
            $h55 += $uz * $nz;
            $b0 += $wx * $e;
            $b1 += $wy * $e;
            $b2 += $wz * $e;
            $b3 += $ux * $e;
            $b4 += $uy * $e;
            $b5 += $uz * $e;
            $sum += $w;
            $squares += $w * $e * $e;
            $pairs++;
        }

        return [
            'a' => [$h00, $h01, $h02, $h03, $h04, $h05, $h11, $h12, $h13, $h14, $h15, $h22, $h23, $h24, $h25, $h33, $h34, $h35, $h44, $h45, $h55],
            'b' => [$b0, $b1, $b2, $b3, $b4, $b5],
            'pairs' => $pairs, 'near' => count($sizes), 'weight' => $sum, 'squares' => $squares, 'scale' => $scale, 'tilt' => $tilt / max(1, $alike),
        ];
    }

    /**
     * @param  array<int, float>  $a  4x4
     * @param  array<int, float>  $b  4x4
     * @return list<float> the first twelve numbers of a b
     */
    private static function product(array $a, array $b): array
    {
        $m = [];
        for ($row = 0; $row < 12; $row += 4) {
            for ($c = 0; $c < 4; $c++) {
                $m[] = $a[$row] * $b[$c] + $a[$row + 1] * $b[4 + $c] + $a[$row + 2] * $b[8 + $c] + ($c === 3 ? $a[$row + 3] : 0.0);
            }
        }

        return $m;
    }

    /** Index of the entry (i, j), i <= j, in an upper triangle of six rows. */
    public static function upper(int $i, int $j): int
    {
        return $i > $j ? self::upper($j, $i) : 6 * $i - intdiv($i * ($i - 1), 2) + $j - $i;
    }
}
