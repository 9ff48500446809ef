<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse\Kernel;

/**
 * Writes oriented points into a volume as an implicit moving least squares distance.
 *
 * Source    Shen, O'Brien & Shewchuk 2004; Kolluri 2005, "Provably good moving least squares": f(v) = sum w n.(v - p) / sum w.
 * Departs   compact weight (1 - d^2/r^2)^3 in place of the Gaussian; points are weighted by their quality.
 *
 * @internal
 */
final class Splat
{
    /**
     * Makes the blocks that the points touch.
     *
     * @param  array<int, float>  $p  flat xyz
     */
    public static function allocate(Volume $volume, array $p, float $radius): void
    {
        $top = $volume->top;
        $volume->top = [];
        $blocks = $volume->blocks;
        $w = 1.0 / (8.0 * $volume->voxel);
        $r = $radius * $w;
        $x0 = $volume->x0;
        $y0 = $volume->y0;
        $z0 = $volume->z0;
        $by = $volume->by;
        $bz = $volume->bz;
        $count = count($blocks);
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $x = ($p[$o] - $x0) * $w;
            $y = ($p[$o + 1] - $y0) * $w;
            $z = ($p[$o + 2] - $z0) * $w;
            $ax = (int) ($x - $r);
            $ex = (int) ($x + $r);
            $ay = (int) ($y - $r);
            $ey = (int) ($y + $r);
            $az = (int) ($z - $r);
            $ez = (int) ($z + $r);
            for ($a = $ax; $a <= $ex; $a++) {
                for ($b = $ay; $b <= $ey; $b++) {
                    for ($c = $az; $c <= $ez; $c++) {
                        $t = ($a * $by + $b) * $bz + $c;
                        if ($top[$t] < 0) {
                            $top[$t] = $count++;
                            $blocks[] = $t;
                        }
                    }
                }
            }
        }
        $volume->top = $top;
        $volume->blocks = $blocks;
    }

    /**
     * Adds one pass.
     *
     * @param  array<int, float>  $p  flat xyz
     * @param  array<int, float>  $n  flat unit normals
     * @param  array<int, float>  $quality  weight a point
     * @param  int  $bit  which bit of `seen` is this pass'
     */
    public static function add(Volume $volume, array $p, array $n, array $quality, float $radius, int $bit): void
    {
        $top = $volume->top;
        $dist = $volume->distance;
        $volume->distance = [];
        $weight = $volume->weight;
        $volume->weight = [];
        $seen = $volume->seen;
        $volume->seen = [];
        $h = $volume->voxel;
        $iv = 1.0 / $h;
        $x0 = $volume->x0;
        $y0 = $volume->y0;
        $z0 = $volume->z0;
        $by = $volume->by;
        $bz = $volume->bz;
        $rv = $radius * $iv;
        $rSq = $radius * $radius;
        $irSq = 1.0 / $rSq;
        for ($i = 0, $o = 0, $e = count($p); $o < $e; $i++, $o += 3) {
            $q = $quality[$i];
            if ($q <= 0.0) {
                continue;
            }
            $x = $p[$o] - $x0;
            $y = $p[$o + 1] - $y0;
            $z = $p[$o + 2] - $z0;
            $nx = $n[$o];
            $ny = $n[$o + 1];
            $nz = $n[$o + 2];
            $fx = $x * $iv;
            $fy = $y * $iv;
            $fz = $z * $iv;
            $ax = (int) ($fx - $rv) + 1;
            $ex = (int) ($fx + $rv);
            $ay = (int) ($fy - $rv) + 1;
            $ey = (int) ($fy + $rv);
            $az = (int) ($fz - $rv) + 1;
            $ez = (int) ($fz + $rv);
            for ($c = $az; $c <= $ez; $c++) {
                $dz = $c * $h - $z;
                $lz = $dz * $dz;
                $nzd = $nz * $dz;
                for ($b = $ay; $b <= $ey; $b++) {
                    $dy = $b * $h - $y;
                    $ly = $lz + $dy * $dy;
                    if ($ly >= $rSq) {
                        continue;
                    }
                    $nyd = $nzd + $ny * $dy;
                    $row = ($b >> 3) * $bz + ($c >> 3);
                    $in = (($c & 7) << 6) | (($b & 7) << 3);
                    for ($a = $ax; $a <= $ex; $a++) {
                        $dx = $a * $h - $x;
                        $l = $ly + $dx * $dx;
                        if ($l >= $rSq) {
                            continue;
                        }
                        $k = ($top[($a >> 3) * $by * $bz + $row] << 9) | $in | ($a & 7);
                        $l = 1.0 - $l * $irSq;
                        $l = $l * $l * $l * $q;
                        $dist[$k] += $l * ($nyd + $nx * $dx);
                        $weight[$k] += $l;
                        $seen[$k] |= $bit;
                    }
                }
            }
        }
        $volume->distance = $dist;
        $volume->weight = $weight;
        $volume->seen = $seen;
    }

    /** Turns the sums into distances; voxels with hardly any weight count as not seen. */
    public static function finish(Volume $volume, float $leastWeight): void
    {
        $dist = $volume->distance;
        $volume->distance = [];
        $weight = $volume->weight;
        $volume->weight = [];
        for ($k = 0, $n = count($dist); $k < $n; $k++) {
            $w = $weight[$k];
            if ($w > $leastWeight) {
                $dist[$k] /= $w;
            } else {
                $weight[$k] = 0.0;
            }
        }
        $volume->distance = $dist;
        $volume->weight = $weight;
    }
}
