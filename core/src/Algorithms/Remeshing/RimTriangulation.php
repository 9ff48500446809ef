<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\Linear\Median;

/**
 * Spans a rim with triangles whose sharpest bend, between each other and against the surface around, is the least there is; of equals those of least area.
 *
 * Source    Barequet & Sharir 1995, "Filling gaps in the boundary of a polyhedron" (dynamic programming over chords); Liepa 2003, "Filling Holes in Meshes" (bends first).
 * Departs   rims of more than MOST corners are first shortened by clipping their sharpest ears.
 * Cost      O(n^3), 0.5 s at n = 260.
 *
 * @internal
 */
final class RimTriangulation
{
    private const MOST = 260;

    /** Steps of cosines: those in the same one are alike, and area decides. */
    private const STEPS = 512.0;

    /**
     * @param  list<int>  $rim  vertices in the direction of the open half-edges
     * @param  array<int, float>  $p
     * @param  array<int, bool>  $taken  edges of the mesh (low << 32 | high) that may not be used again
     * @param  array<int, array{float, float, float}>  $beside  unit normals of the faces along the rim, by their half-edge there (from << 32 | to)
     * @return list<int>|null flat triangles facing as the mesh around does, or null when every way would reuse an edge
     */
    public static function span(array $rim, array $p, array $taken, array $beside = []): ?array
    {
        $faces = [];
        while (count($rim) > self::MOST) {
            if (! self::clipEars($rim, $p, $taken, $faces)) {
                return null;
            }
        }
        $rest = self::flattest($rim, $p, $taken, $beside);

        return $rest === null ? null : [...$faces, ...$rest];
    }

    /**
     * Clips every other ear that is sharper than the median.
     *
     * @param  list<int>  $rim  (changed)
     * @param  array<int, float>  $p
     * @param  array<int, bool>  $taken
     * @param  list<int>  $faces  (changed)
     */
    private static function clipEars(array &$rim, array $p, array $taken, array &$faces): bool
    {
        $n = count($rim);
        $cosines = [];
        for ($i = 0; $i < $n; $i++) {
            $a = 3 * $rim[($i + $n - 1) % $n];
            $b = 3 * $rim[$i];
            $c = 3 * $rim[($i + 1) % $n];
            $ux = $p[$a] - $p[$b];
            $uy = $p[$a + 1] - $p[$b + 1];
            $uz = $p[$a + 2] - $p[$b + 2];
            $vx = $p[$c] - $p[$b];
            $vy = $p[$c + 1] - $p[$b + 1];
            $vz = $p[$c + 2] - $p[$b + 2];
            $cosines[] = ($ux * $vx + $uy * $vy + $uz * $vz) / (sqrt(($ux * $ux + $uy * $uy + $uz * $uz) * ($vx * $vx + $vy * $vy + $vz * $vz)) ?: 1.0);
        }
        $limit = Median::of($cosines);
        $kept = [];
        $clipped = false;
        for ($i = 0; $i < $n; $i++) {
            $a = $rim[($i + $n - 1) % $n];
            $b = $rim[$i];
            $c = $rim[($i + 1) % $n];
            if (! $clipped && $i > 0 && $i < $n - 1 && $cosines[$i] >= $limit && ! isset($taken[min($a, $c) << 32 | max($a, $c)])) {
                array_push($faces, $c, $b, $a);
                $clipped = true;
            } else {
                $kept[] = $b;
                $clipped = false;
            }
        }
        $progress = count($kept) < $n;
        $rim = $kept;

        return $progress;
    }

    /**
     * @param  list<int>  $rim
     * @param  array<int, float>  $p
     * @param  array<int, bool>  $taken
     * @param  array<int, array{float, float, float}>  $beside
     * @return list<int>|null
     */
    private static function flattest(array $rim, array $p, array $taken, array $beside): ?array
    {
        $n = count($rim);
        $q = [];
        foreach ($rim as $v) {
            $q[] = $p[3 * $v];
            $q[] = $p[3 * $v + 1];
            $q[] = $p[3 * $v + 2];
        }
        // Of the best way to span the rim from corner i to corner j, at i n + j: the cosine of its sharpest bend, its area, and the normal of its face at that chord.
        $bend = array_fill(0, $n * $n, 1.0);
        $area = $nx = $ny = $nz = $free = array_fill(0, $n * $n, 0.0);
        $by = array_fill(0, $n * $n, -1);
        for ($i = 0; $i < $n; $i++) {
            // The last edge, from the end to the beginning, stands where the chord between them does: at n - 1, 0.
            $at = $i * $n + ($i + 1) % $n;
            [$nx[$at], $ny[$at], $nz[$at]] = $beside[$rim[$i] << 32 | $rim[($i + 1) % $n]] ?? [0.0, 0.0, 0.0];
            // Where there is no surface beside the edge, no bend is a bad one.
            $free[$at] = isset($beside[$rim[$i] << 32 | $rim[($i + 1) % $n]]) ? 0.0 : 1.0;
        }
        $closing = ($n - 1) * $n;
        for ($span = 2; $span < $n; $span++) {
            for ($i = 0, $j = $span; $j < $n; $i++, $j++) {
                $chord = $i * $n + $j;
                // The chord (0, n - 1) closes the ring; every other one is a new edge.
                if ($span < $n - 1 && isset($taken[$rim[$i] < $rim[$j] ? $rim[$i] << 32 | $rim[$j] : $rim[$j] << 32 | $rim[$i]])) {
                    $area[$chord] = INF;

                    continue;
                }
                $a = 3 * $i;
                $b = 3 * $j;
                $x = $q[$b];
                $y = $q[$b + 1];
                $z = $q[$b + 2];
                $ux = $q[$a] - $x;
                $uy = $q[$a + 1] - $y;
                $uz = $q[$a + 2] - $z;
                $best = -2.0;
                $least = INF;
                $at = -1;
                $atX = $atY = $atZ = 0.0;
                for ($k = $i + 1; $k < $j; $k++) {
                    $first = $i * $n + $k;
                    $second = $k * $n + $j;
                    $c = $area[$first] + $area[$second];
                    $cosine = $bend[$first] < $bend[$second] ? $bend[$first] : $bend[$second];
                    if ($c === INF || $cosine < $best) {
                        continue;
                    }
                    $o = 3 * $k;
                    $vx = $q[$o] - $x;
                    $vy = $q[$o + 1] - $y;
                    $vz = $q[$o + 2] - $z;
                    $wx = $vy * $uz - $vz * $uy;
                    $wy = $vz * $ux - $vx * $uz;
                    $wz = $vx * $uy - $vy * $ux;
                    $l = sqrt($wx * $wx + $wy * $wy + $wz * $wz);
                    $c += $l;
                    // A face without area has no normal: that counts as a right angle, which says nothing good.
                    if ($l <= 1e-12 * ($ux * $ux + $uy * $uy + $uz * $uz)) {
                        $wx = $wy = $wz = 0.0;
                        $cosine = $cosine < 0.0 ? $cosine : 0.0;
                    } else {
                        $l = 1.0 / $l;
                        $wx *= $l;
                        $wy *= $l;
                        $wz *= $l;
                    }
                    $d = $wx * $nx[$first] + $wy * $ny[$first] + $wz * $nz[$first] + $free[$first];
                    if ($d < $cosine) {
                        $cosine = $d;
                    }
                    $d = $wx * $nx[$second] + $wy * $ny[$second] + $wz * $nz[$second] + $free[$second];
                    if ($d < $cosine) {
                        $cosine = $d;
                    }
                    if ($span === $n - 1) {
                        $d = $wx * $nx[$closing] + $wy * $ny[$closing] + $wz * $nz[$closing] + $free[$closing];
                        if ($d < $cosine) {
                            $cosine = $d;
                        }
                    }
                    $cosine = floor($cosine * self::STEPS) / self::STEPS;
                    if ($cosine > $best || ($cosine === $best && $c < $least)) {
                        $best = $cosine;
                        $least = $c;
                        $at = $k;
                        $atX = $wx;
                        $atY = $wy;
                        $atZ = $wz;
                    }
                }
                $bend[$chord] = $best;
                $area[$chord] = $least;
                $by[$chord] = $at;
                $nx[$chord] = $atX;
                $ny[$chord] = $atY;
                $nz[$chord] = $atZ;
            }
        }
        if ($n < 3 || ! is_finite($area[$n - 1])) {
            return null;
        }
        $faces = [];
        $stack = [[0, $n - 1]];
        while ($stack !== []) {
            [$i, $j] = array_pop($stack);
            if ($j - $i < 2) {
                continue;
            }
            $k = $by[$i * $n + $j];
            array_push($faces, $rim[$j], $rim[$k], $rim[$i]);
            $stack[] = [$i, $k];
            $stack[] = [$k, $j];
        }

        return $faces;
    }
}
