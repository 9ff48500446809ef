<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Kernel;

/**
 * Sums of squared distances to planes: ten numbers a vertex, the upper triangle of a symmetric 4 x 4 matrix row by row, weighted by
 * the area of the faces the planes come from.
 *
 * Source    Garland & Heckbert 1997, "Surface Simplification Using Quadric Error Metrics", sections 5 and 6.
 *
 * @internal
 */
final class Quadrics
{
    /**
     * @param  array<int, float>  $P  flat xyz
     * @param  array<int, int>  $T  faces of stride four
     * @return array{array<int, float>, array<int, float>} ten numbers and the area, a vertex
     */
    public static function ofFaces(array $P, array $T): array
    {
        $nv = intdiv(count($P), 3);
        $A = array_fill(0, $nv, 0.0);
        $Q = array_fill(0, 10 * $nv, 0.0);
        for ($j = 0, $e = count($T); $j < $e; $j += 4) {
            $o = 3 * $T[$j];
            $ax = $P[$o];
            $ay = $P[$o + 1];
            $az = $P[$o + 2];
            $o = 3 * $T[$j + 1];
            $ux = $P[$o] - $ax;
            $uy = $P[$o + 1] - $ay;
            $uz = $P[$o + 2] - $az;
            $o = 3 * $T[$j + 2];
            $vx = $P[$o] - $ax;
            $vy = $P[$o + 1] - $ay;
            $vz = $P[$o + 2] - $az;
            $nx = $uy * $vz - $uz * $vy;
            $ny = $uz * $vx - $ux * $vz;
            $nz = $ux * $vy - $uy * $vx;
            $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
            if ($l < 1e-300) {
                continue;
            }
            $nx /= $l;
            $ny /= $l;
            $nz /= $l;
            $d = -($nx * $ax + $ny * $ay + $nz * $az);
            $w = 0.5 * $l;
            $wx = $w * $nx;
            $wy = $w * $ny;
            $wz = $w * $nz;
            $wd = $w * $d;
            $xx = $wx * $nx;
            $xy = $wx * $ny;
            $xz = $wx * $nz;
            $xd = $wx * $d;
            $yy = $wy * $ny;
            $yz = $wy * $nz;
            $yd = $wy * $d;
            $zz = $wz * $nz;
            $zd = $wz * $d;
            $dd = $wd * $d;
            for ($c = $j; $c < $j + 3; $c++) {
                $v = $T[$c];
                $A[$v] += $w;
                $o = 10 * $v;
                $Q[$o] += $xx;
                $Q[$o + 1] += $xy;
                $Q[$o + 2] += $xz;
                $Q[$o + 3] += $xd;
                $Q[$o + 4] += $yy;
                $Q[$o + 5] += $yz;
                $Q[$o + 6] += $yd;
                $Q[$o + 7] += $zz;
                $Q[$o + 8] += $zd;
                $Q[$o + 9] += $dd;
            }
        }

        return [$Q, $A];
    }

    /**
     * Adds to both ends of each open edge the plane through it that stands square on its face, so that a rim keeps its place.
     *
     * @param  array<int, float>  $Q  (changed)
     * @param  array<int, float>  $P  flat xyz
     * @param  array<int, int>  $T  faces of stride four
     * @param  array<int, int>  $atRim  a vertex, 0 or 1
     */
    public static function holdRims(array &$Q, array $P, array $T, Stars $stars, array $atRim, float $weight): void
    {
        for ($j = 0, $e = count($T); $j < $e; $j++) {
            if (($j & 3) === 3) {
                continue;
            }
            $a = $T[$j];
            $b = $T[($j & 3) === 2 ? $j - 2 : $j + 1];
            if ($atRim[$a] === 0 || $atRim[$b] === 0 || $stars->hold($T, $b, $a)) {
                continue;
            }
            $o = 3 * $a;
            $ax = $P[$o];
            $ay = $P[$o + 1];
            $az = $P[$o + 2];
            $ex = $P[3 * $b] - $ax;
            $ey = $P[3 * $b + 1] - $ay;
            $ez = $P[3 * $b + 2] - $az;
            $o = 3 * $T[($j & 3) === 0 ? $j + 2 : $j - 1];
            $nx = $P[$o] - $ax;
            $ny = $P[$o + 1] - $ay;
            $nz = $P[$o + 2] - $az;
            $lengthSq = $ex * $ex + $ey * $ey + $ez * $ez;
            if ($lengthSq < 1e-300) {
                continue;
            }
            // What of the way to the third corner is square to the edge.
            $along = ($nx * $ex + $ny * $ey + $nz * $ez) / $lengthSq;
            $nx -= $along * $ex;
            $ny -= $along * $ey;
            $nz -= $along * $ez;
            $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
            if ($l < 1e-300) {
                continue;
            }
            $nx /= $l;
            $ny /= $l;
            $nz /= $l;
            $d = -($nx * $ax + $ny * $ay + $nz * $az);
            $w = $weight * $lengthSq;
            foreach ([10 * $a, 10 * $b] as $o) {
                $Q[$o] += $w * $nx * $nx;
                $Q[$o + 1] += $w * $nx * $ny;
                $Q[$o + 2] += $w * $nx * $nz;
                $Q[$o + 3] += $w * $nx * $d;
                $Q[$o + 4] += $w * $ny * $ny;
                $Q[$o + 5] += $w * $ny * $nz;
                $Q[$o + 6] += $w * $ny * $d;
                $Q[$o + 7] += $w * $nz * $nz;
                $Q[$o + 8] += $w * $nz * $d;
                $Q[$o + 9] += $w * $d * $d;
            }
        }
    }
}
