<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Measure;

/**
 * Smoothing of vertex positions. Vertices on open rims stay.
 *
 * @internal
 */
final class MeshDenoising
{
    /** Cosine between normals under which two faces have an edge between them and do not even each other out. */
    private const EDGE = 0.7;

    /**
     * Face normals are averaged with those of neighbours that face nearly the same way; then vertices follow the normals.
     *
     * Source    Sun, Rosin, Martin & Langbein 2007, "Fast and Effective Feature-Preserving Mesh Denoising", eqs. 2 to 6.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  callable(float): void  $breathe  told how much is done; may stop the work by an exception
     * @return array<int, float> new positions
     */
    public static function betweenEdges(array $p, array $f, int $rounds, callable $breathe): array
    {
        if ($rounds === 0) {
            return $p;
        }
        $twin = Topology::twins($f);
        $fixed = self::onRims($f, $twin, intdiv(count($p), 3));
        $n = self::normals($p, $f);
        $m = count($f);
        for ($round = 0; $round < $rounds; $round++) {
            $next = $n;
            for ($o = 0; $o < $m; $o += 3) {
                $nx = $n[$o];
                $ny = $n[$o + 1];
                $nz = $n[$o + 2];
                $k = (1.0 - self::EDGE) * (1.0 - self::EDGE);
                $sx = $k * $nx;
                $sy = $k * $ny;
                $sz = $k * $nz;
                for ($h = $o; $h < $o + 3; $h++) {
                    $g = $twin[$h];
                    if ($g < 0) {
                        continue;
                    }
                    $g -= $g % 3;
                    $w = $nx * $n[$g] + $ny * $n[$g + 1] + $nz * $n[$g + 2] - self::EDGE;
                    if ($w > 0.0) {
                        $w *= $w;
                        $sx += $w * $n[$g];
                        $sy += $w * $n[$g + 1];
                        $sz += $w * $n[$g + 2];
                    }
                }
                $l = sqrt($sx * $sx + $sy * $sy + $sz * $sz);
                if ($l > 0.0) {
                    $next[$o] = $sx / $l;
                    $next[$o + 1] = $sy / $l;
                    $next[$o + 2] = $sz / $l;
                }
            }
            $n = $next;
            $breathe(0.5 * ($round + 1) / $rounds);
        }
        for ($round = 0; $round < 2 * $rounds; $round++) {
            $move = array_fill(0, count($p), 0.0);
            $many = array_fill(0, intdiv(count($p), 3), 0);
            for ($o = 0; $o < $m; $o += 3) {
                $a = 3 * $f[$o];
                $b = 3 * $f[$o + 1];
                $c = 3 * $f[$o + 2];
                $nx = $n[$o];
                $ny = $n[$o + 1];
                $nz = $n[$o + 2];
                $da = $nx * $p[$a] + $ny * $p[$a + 1] + $nz * $p[$a + 2];
                $db = $nx * $p[$b] + $ny * $p[$b + 1] + $nz * $p[$b + 2];
                $dc = $nx * $p[$c] + $ny * $p[$c + 1] + $nz * $p[$c + 2];
                $mean = ($da + $db + $dc) / 3.0;
                $da = $mean - $da;
                $db = $mean - $db;
                $dc = $mean - $dc;
                $move[$a] += $da * $nx;
                $move[$a + 1] += $da * $ny;
                $move[$a + 2] += $da * $nz;
                $move[$b] += $db * $nx;
                $move[$b + 1] += $db * $ny;
                $move[$b + 2] += $db * $nz;
                $move[$c] += $dc * $nx;
                $move[$c + 1] += $dc * $ny;
                $move[$c + 2] += $dc * $nz;
                $many[$f[$o]]++;
                $many[$f[$o + 1]]++;
                $many[$f[$o + 2]]++;
            }
            foreach ($many as $v => $count) {
                if ($count > 0 && $fixed[$v] === 0) {
                    $o = 3 * $v;
                    $p[$o] += $move[$o] / $count;
                    $p[$o + 1] += $move[$o + 1] / $count;
                    $p[$o + 2] += $move[$o + 2] / $count;
                }
            }
            $breathe(0.5 + 0.25 * ($round + 1) / $rounds);
        }

        return $p;
    }

    /**
     * Two steps a round, one that shrinks and one that swells as much: noise goes, volume stays.
     *
     * Source    Taubin 1995, "A Signal Processing Approach to Fair Surface Design", lambda 0.5, mu -0.53.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  callable(float): void  $breathe
     * @return array<int, float>
     */
    public static function everywhere(array $p, array $f, int $rounds, callable $breathe): array
    {
        $fixed = self::onRims($f, Topology::twins($f), intdiv(count($p), 3));
        for ($round = 0; $round < 2 * $rounds; $round++) {
            $sum = array_fill(0, count($p), 0.0);
            $many = array_fill(0, intdiv(count($p), 3), 0);
            for ($h = 0, $m = count($f); $h < $m; $h++) {
                $v = $f[$h];
                $w = 3 * $f[$h % 3 === 2 ? $h - 2 : $h + 1];
                $o = 3 * $v;
                $sum[$o] += $p[$w];
                $sum[$o + 1] += $p[$w + 1];
                $sum[$o + 2] += $p[$w + 2];
                $many[$v]++;
            }
            $step = $round % 2 === 0 ? 0.5 : -0.53;
            foreach ($many as $v => $count) {
                if ($count > 0 && $fixed[$v] === 0) {
                    $o = 3 * $v;
                    $p[$o] += $step * ($sum[$o] / $count - $p[$o]);
                    $p[$o + 1] += $step * ($sum[$o + 1] / $count - $p[$o + 1]);
                    $p[$o + 2] += $step * ($sum[$o + 2] / $count - $p[$o + 2]);
                }
            }
            $breathe(0.5 * ($round + 1) / $rounds);
        }

        return $p;
    }

    /**
     * @param  array<int, int>  $f
     * @param  array<int, int>  $twin
     * @return array<int, int> 1 for vertices of open or shared edges
     */
    private static function onRims(array $f, array $twin, int $vertices): array
    {
        $on = array_fill(0, $vertices, 0);
        foreach ($twin as $h => $g) {
            if ($g < 0) {
                $on[$f[$h]] = 1;
                $on[$f[$h % 3 === 2 ? $h - 2 : $h + 1]] = 1;
            }
        }

        return $on;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return array<int, float> unit normals, zero for faces without area
     */
    private static function normals(array $p, array $f): array
    {
        $normals = Measure::crosses($p, $f);
        for ($o = 0, $n = count($normals); $o < $n; $o += 3) {
            $x = $normals[$o];
            $y = $normals[$o + 1];
            $z = $normals[$o + 2];
            $l = sqrt($x * $x + $y * $y + $z * $z);
            $w = $l > 0.0 ? 1.0 / $l : 0.0;
            $normals[$o] = $x * $w;
            $normals[$o + 1] = $y * $w;
            $normals[$o + 2] = $z * $w;
        }

        return $normals;
    }
}
