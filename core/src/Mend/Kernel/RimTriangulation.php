<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend\Kernel;

use Emberstone\Core\Linear\Median;

/**
 * Spans a rim with triangles of least total area.
 *
 * Source    Barequet & Sharir 1995, "Filling gaps in the boundary of a polyhedron" (dynamic programming over chords).
 * Departs   rims of more than MOST corners are first shortened by clipping their sharpest ears.
 * Cost      O(n^3), 0.3 s at n = 300.
 *
 * @internal
 */
final class RimTriangulation
{
    private const MOST = 260;

    /**
     * @param  list<int>  $rim  vertices in the direction of the open half-edges
     * @param  array<int, float>  $p
     * @param  array<int, bool>  $taken  edges of the mesh (low << 32 | high) that may not be used again
     * @return list<int>|null flat triangles facing as the mesh around does, or null when every way would reuse an edge
     */
    public static function span(array $rim, array $p, array $taken): ?array
    {
        $faces = [];
        while (count($rim) > self::MOST) {
            if (! self::clipEars($rim, $p, $taken, $faces)) {
                return null;
            }
        }
        $rest = self::leastArea($rim, $p, $taken);

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
     * @return list<int>|null
     */
    private static function leastArea(array $rim, array $p, array $taken): ?array
    {
        $n = count($rim);
        $q = [];
        foreach ($rim as $v) {
            $q[] = $p[3 * $v];
            $q[] = $p[3 * $v + 1];
            $q[] = $p[3 * $v + 2];
        }
        $cost = array_fill(0, $n * $n, 0.0);
        $by = array_fill(0, $n * $n, -1);
        for ($span = 2; $span < $n; $span++) {
            for ($i = 0, $j = $span; $j < $n; $i++, $j++) {
                // The chord (0, n - 1) closes the ring; every other one is a new edge.
                if ($span < $n - 1 && isset($taken[$rim[$i] < $rim[$j] ? $rim[$i] << 32 | $rim[$j] : $rim[$j] << 32 | $rim[$i]])) {
                    $cost[$i * $n + $j] = INF;

                    continue;
                }
                $a = 3 * $i;
                $b = 3 * $j;
                $x = $q[$a];
                $y = $q[$a + 1];
                $z = $q[$a + 2];
                $ux = $q[$b] - $x;
                $uy = $q[$b + 1] - $y;
                $uz = $q[$b + 2] - $z;
                $best = INF;
                $at = -1;
                for ($k = $i + 1; $k < $j; $k++) {
                    $c = $cost[$i * $n + $k] + $cost[$k * $n + $j];
                    if ($c >= $best) {
                        continue;
                    }
                    $o = 3 * $k;
                    $vx = $q[$o] - $x;
                    $vy = $q[$o + 1] - $y;
                    $vz = $q[$o + 2] - $z;
                    $wx = $uy * $vz - $uz * $vy;
                    $wy = $uz * $vx - $ux * $vz;
                    $wz = $ux * $vy - $uy * $vx;
                    $c += sqrt($wx * $wx + $wy * $wy + $wz * $wz);
                    if ($c < $best) {
                        $best = $c;
                        $at = $k;
                    }
                }
                $cost[$i * $n + $j] = $best;
                $by[$i * $n + $j] = $at;
            }
        }
        if ($n < 3 || ! is_finite($cost[$n - 1])) {
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
