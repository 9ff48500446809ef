<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Surface;

use Emberstone\Core\Algorithms\Linear\Median;

/**
 * Areas and volumes of triangles, lengths of their edges.
 *
 * @internal
 */
final class Measure
{
    /**
     * The cross product of two edges of each face: its normal, twice its area long.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return list<float> flat xyz
     */
    public static function crosses(array $p, array $f): array
    {
        $crosses = [];
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            $a = 3 * $f[$o];
            $b = 3 * $f[$o + 1];
            $c = 3 * $f[$o + 2];
            $ux = $p[$b] - $p[$a];
            $uy = $p[$b + 1] - $p[$a + 1];
            $uz = $p[$b + 2] - $p[$a + 2];
            $vx = $p[$c] - $p[$a];
            $vy = $p[$c + 1] - $p[$a + 1];
            $vz = $p[$c + 2] - $p[$a + 2];
            $crosses[] = $uy * $vz - $uz * $vy;
            $crosses[] = $uz * $vx - $ux * $vz;
            $crosses[] = $ux * $vy - $uy * $vx;
        }

        return $crosses;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return array<int, float> area of each face
     */
    public static function areas(array $p, array $f): array
    {
        $areas = [];
        $crosses = self::crosses($p, $f);
        for ($o = 0, $n = count($crosses); $o < $n; $o += 3) {
            $x = $crosses[$o];
            $y = $crosses[$o + 1];
            $z = $crosses[$o + 2];
            $areas[] = 0.5 * sqrt($x * $x + $y * $y + $z * $z);
        }

        return $areas;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return list<float> the middle of each face, flat xyz
     */
    public static function centres(array $p, array $f): array
    {
        $centres = [];
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            $a = 3 * $f[$o];
            $b = 3 * $f[$o + 1];
            $c = 3 * $f[$o + 2];
            $centres[] = ($p[$a] + $p[$b] + $p[$c]) / 3.0;
            $centres[] = ($p[$a + 1] + $p[$b + 1] + $p[$c + 1]) / 3.0;
            $centres[] = ($p[$a + 2] + $p[$b + 2] + $p[$c + 2]) / 3.0;
        }

        return $centres;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return float the mean length of the edges, each counted once a face; 0 without faces
     */
    public static function meanEdge(array $p, array $f): float
    {
        return $f === [] ? 0.0 : array_sum(self::edges($p, $f)) / count($f);
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     */
    public static function longestEdge(array $p, array $f): float
    {
        return $f === [] ? 0.0 : max(self::edges($p, $f));
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return list<float> the length of each half-edge
     */
    private static function edges(array $p, array $f): array
    {
        $lengths = [];
        for ($h = 0, $n = count($f); $h < $n; $h++) {
            $a = 3 * $f[$h];
            $b = 3 * $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            $x = $p[$a] - $p[$b];
            $y = $p[$a + 1] - $p[$b + 1];
            $z = $p[$a + 2] - $p[$b + 2];
            $lengths[] = sqrt($x * $x + $y * $y + $z * $z);
        }

        return $lengths;
    }

    /**
     * Signed volume of a closed mesh by the divergence theorem, taken about the first vertex so that far-off coordinates lose nothing.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     */
    public static function volume(array $p, array $f): float
    {
        if ($f === []) {
            return 0.0;
        }
        [$x, $y, $z] = [$p[0], $p[1], $p[2]];
        $sum = 0.0;
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            $a = 3 * $f[$o];
            $b = 3 * $f[$o + 1];
            $c = 3 * $f[$o + 2];
            $ax = $p[$a] - $x;
            $ay = $p[$a + 1] - $y;
            $az = $p[$a + 2] - $z;
            $bx = $p[$b] - $x;
            $by = $p[$b + 1] - $y;
            $bz = $p[$b + 2] - $z;
            $cx = $p[$c] - $x;
            $cy = $p[$c + 1] - $y;
            $cz = $p[$c + 2] - $z;
            $sum += $ax * ($by * $cz - $bz * $cy) + $ay * ($bz * $cx - $bx * $cz) + $az * ($bx * $cy - $by * $cx);
        }

        return $sum / 6.0;
    }

    /**
     * Area-weighted unit normals of the vertices.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return array<int, float>
     */
    public static function vertexNormals(array $p, array $f): array
    {
        $n = array_fill(0, count($p), 0.0);
        for ($o = 0, $m = count($f); $o < $m; $o += 3) {
            $a = 3 * $f[$o];
            $b = 3 * $f[$o + 1];
            $c = 3 * $f[$o + 2];
            $ux = $p[$b] - $p[$a];
            $uy = $p[$b + 1] - $p[$a + 1];
            $uz = $p[$b + 2] - $p[$a + 2];
            $vx = $p[$c] - $p[$a];
            $vy = $p[$c + 1] - $p[$a + 1];
            $vz = $p[$c + 2] - $p[$a + 2];
            $x = $uy * $vz - $uz * $vy;
            $y = $uz * $vx - $ux * $vz;
            $z = $ux * $vy - $uy * $vx;
            $n[$a] += $x;
            $n[$a + 1] += $y;
            $n[$a + 2] += $z;
            $n[$b] += $x;
            $n[$b + 1] += $y;
            $n[$b + 2] += $z;
            $n[$c] += $x;
            $n[$c + 1] += $y;
            $n[$c + 2] += $z;
        }
        for ($o = 0, $m = count($n); $o < $m; $o += 3) {
            $l = sqrt($n[$o] * $n[$o] + $n[$o + 1] * $n[$o + 1] + $n[$o + 2] * $n[$o + 2]);
            if ($l > 0.0) {
                $n[$o] /= $l;
                $n[$o + 1] /= $l;
                $n[$o + 2] /= $l;
            }
        }

        return $n;
    }

    /**
     * The median length of the edges, of some ten thousand of them.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f  at least one face
     */
    public static function typicalEdge(array $p, array $f): float
    {
        $lengths = [];
        for ($h = 0, $n = count($f), $step = 3 * (intdiv($n, 30000) + 1); $h < $n; $h += $step) {
            $a = 3 * $f[$h];
            $b = 3 * $f[$h + 1];
            $lengths[] = sqrt(($p[$a] - $p[$b]) ** 2 + ($p[$a + 1] - $p[$b + 1]) ** 2 + ($p[$a + 2] - $p[$b + 2]) ** 2);
        }

        return Median::of($lengths);
    }
}
