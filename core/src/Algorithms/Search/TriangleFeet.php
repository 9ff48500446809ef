<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Search;

/**
 * The nearest places on triangles that are known to be the nearest.
 *
 * Source    Ericson 2005, Real-Time Collision Detection, 5.1.5.
 */
final class TriangleFeet
{
    /**
     * The nearest place to each point on the triangle that goes with it.
     *
     * @param  array<int, float>  $q  flat xyz
     * @param  array<int, int>  $face  a triangle for each
     * @param  array<int, float>  $P  flat xyz of the surface
     * @param  array<int, int>  $T  flat corners of its triangles
     * @param  array<int, int>  $corner  (changed) the corner of it, 0 to 2, that weighs most there
     * @return array<int, float> flat xyz
     */
    public static function of(array $q, array $face, array $P, array $T, array &$corner = []): array
    {
        $corner = [];
        foreach ($face as $k => $t) {
            $o = 3 * $k;
            $i = 3 * $T[3 * $t];
            $j = 3 * $T[3 * $t + 1];
            $l = 3 * $T[3 * $t + 2];
            $ax = $P[$i];
            $ay = $P[$i + 1];
            $az = $P[$i + 2];
            $ux = $P[$j] - $ax;
            $uy = $P[$j + 1] - $ay;
            $uz = $P[$j + 2] - $az;
            $vx = $P[$l] - $ax;
            $vy = $P[$l + 1] - $ay;
            $vz = $P[$l + 2] - $az;
            $x = $q[$o] - $ax;
            $y = $q[$o + 1] - $ay;
            $z = $q[$o + 2] - $az;
            $uu = $ux * $ux + $uy * $uy + $uz * $uz;
            $uv = $ux * $vx + $uy * $vy + $uz * $vz;
            $vv = $vx * $vx + $vy * $vy + $vz * $vz;
            $d1 = $ux * $x + $uy * $y + $uz * $z;
            $d2 = $vx * $x + $vy * $y + $vz * $z;
            $d3 = $d1 - $uu;
            $d4 = $d2 - $uv;
            $d5 = $d1 - $uv;
            $d6 = $d2 - $vv;
            // How much of u and of v there is in the nearest place.
            if ($d1 <= 0.0 && $d2 <= 0.0) {
                $s = $r = 0.0;
            } elseif ($d3 >= 0.0 && $d4 <= $d3) {
                $s = 1.0;
                $r = 0.0;
            } elseif ($d6 >= 0.0 && $d5 <= $d6) {
                $s = 0.0;
                $r = 1.0;
            } elseif (($vc = $d1 * $d4 - $d3 * $d2) <= 0.0 && $d1 >= 0.0 && $d3 <= 0.0) {
                $s = $uu > 0.0 ? $d1 / $uu : 0.0;
                $r = 0.0;
            } elseif (($vb = $d5 * $d2 - $d1 * $d6) <= 0.0 && $d2 >= 0.0 && $d6 <= 0.0) {
                $s = 0.0;
                $r = $vv > 0.0 ? $d2 / $vv : 0.0;
            } elseif (($va = $d3 * $d6 - $d5 * $d4) <= 0.0 && $d4 - $d3 >= 0.0 && $d5 - $d6 >= 0.0) {
                $r = ($e = $d4 - $d3 + $d5 - $d6) > 0.0 ? ($d4 - $d3) / $e : 0.0;
                $s = 1.0 - $r;
            } else {
                $e = 1.0 / ($va + $vb + $vc);
                $s = $vb * $e;
                $r = $vc * $e;
            }
            $q[$o] = $ax + $s * $ux + $r * $vx;
            $q[$o + 1] = $ay + $s * $uy + $r * $vy;
            $q[$o + 2] = $az + $s * $uz + $r * $vz;
            $first = 1.0 - $s - $r;
            $corner[] = $first >= $s && $first >= $r ? 0 : ($s >= $r ? 1 : 2);
        }

        return $q;
    }
}
