<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

/**
 * Writes oriented points into a volume as an implicit moving least squares distance, slab by slab, so that each core can have its own.
 *
 * Source    Shen, O'Brien & Shewchuk 2004; Kolluri 2005, "Provably good moving least squares": f(v) = sum w n.(v - p) / sum w.
 * Departs   compact weight (1 - d^2/r^2)^3 in place of the Gaussian; points are weighted by their quality.
 *
 * @internal
 */
final class Splat
{
    /**
     * Makes the blocks that the points touch, in the order of the table: those of a slab follow each other.
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
                            $top[$t] = 0;
                            $blocks[] = $t;
                        }
                    }
                }
            }
        }
        sort($blocks);
        foreach ($blocks as $k => $t) {
            $top[$t] = $k;
        }
        $volume->top = $top;
        $volume->blocks = $blocks;
    }

    /**
     * The volume cut across x into slabs of about as many blocks each.
     *
     * @return list<array{int, int}> first and last plane of blocks of each
     */
    public static function slabs(Volume $volume, int $many): array
    {
        $plane = $volume->by * $volume->bz;
        $slabs = [];
        $from = $k = 0;
        foreach (array_count_values(array_map(fn (int $t) => intdiv($t, $plane), $volume->blocks)) as $x => $blocks) {
            $k += $blocks;
            if ($k * $many >= count($volume->blocks) * (count($slabs) + 1)) {
                $slabs[] = [$from, $x];
                $from = $x + 1;
            }
        }

        return $slabs;
    }

    /**
     * The distances of one slab's voxels from all passes; nothing in the volume is changed.
     *
     * @param  array<int, float>  $p  flat xyz, pass after pass
     * @param  array<int, float>  $n  flat unit normals
     * @param  array<int, float>  $quality  weight a point
     * @param  list<int>  $counts  points of each pass
     * @param  float  $least  voxels with less weight count as not seen
     * @param  int  $from  first plane of blocks
     * @param  int  $to  last plane of blocks
     * @return array{list<float>, non-empty-list<array<int, int>>} distance, and the sets of passes that saw it (see Volume), a voxel of the slab's blocks
     */
    public static function slab(Volume $volume, array $p, array $n, array $quality, array $counts, float $radius, float $least, int $from, int $to): array
    {
        $plane = $volume->by * $volume->bz;
        $blocks = array_filter($volume->blocks, fn (int $t) => $t >= $from * $plane && $t < ($to + 1) * $plane);
        $first = 512 * (array_key_first($blocks) ?? 0);
        $dist = $weight = array_fill(0, 512 * count($blocks), 0.0);
        $seen = array_fill(0, 512 * count($blocks), 0);
        $top = $volume->top;
        $h = $volume->voxel;
        $iv = 1.0 / $h;
        $x0 = $volume->x0;
        $y0 = $volume->y0;
        $z0 = $volume->z0;
        $bz = $volume->bz;
        $rv = $radius * $iv;
        $rSq = $radius * $radius;
        $irSq = 1.0 / $rSq;
        $lowest = 8 * $from;
        $highest = 8 * $to + 7;
        $pass = 0;
        $bit = 1;
        $next = $counts[0];
        $sets = [];
        for ($i = 0, $o = 0, $e = count($p); $o < $e; $i++, $o += 3) {
            while ($i >= $next) {
                $next += $counts[++$pass];
                $bit = 1 << ($pass % Volume::PASSES_A_SET);
                if ($bit === 1) {
                    $sets[] = $seen;
                    $seen = array_fill(0, 512 * count($blocks), 0);
                }
            }
            $q = $quality[$i];
            $x = $p[$o] - $x0;
            $fx = $x * $iv;
            $ax = (int) ($fx - $rv) + 1;
            $ex = (int) ($fx + $rv);
            if ($q <= 0.0 || $ax > $highest || $ex < $lowest) {
                continue;
            }
            if ($ax < $lowest) {
                $ax = $lowest;
            }
            if ($ex > $highest) {
                $ex = $highest;
            }
            $y = $p[$o + 1] - $y0;
            $z = $p[$o + 2] - $z0;
            $nx = $n[$o];
            $ny = $n[$o + 1];
            $nz = $n[$o + 2];
            $fy = $y * $iv;
            $fz = $z * $iv;
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
                    $in = ((($c & 7) << 6) | (($b & 7) << 3)) - $first;
                    for ($a = $ax; $a <= $ex; $a++) {
                        $dx = $a * $h - $x;
                        $l = $ly + $dx * $dx;
                        if ($l >= $rSq) {
                            continue;
                        }
                        $k = ($top[($a >> 3) * $plane + $row] << 9) + $in + ($a & 7);
                        $l = 1.0 - $l * $irSq;
                        $l = $l * $l * $l * $q;
                        $dist[$k] += $l * ($nyd + $nx * $dx);
                        $weight[$k] += $l;
                        $seen[$k] |= $bit;
                    }
                }
            }
        }
        $sets[] = $seen;
        // Passes at the end that have no points here.
        while (count($sets) <= intdiv(count($counts) - 1, Volume::PASSES_A_SET)) {
            $sets[] = array_fill(0, 512 * count($blocks), 0);
        }
        for ($k = 0, $n = count($dist); $k < $n; $k++) {
            if ($weight[$k] > $least) {
                $dist[$k] /= $weight[$k];
            }
        }
        foreach ($sets as $s => $set) {
            // Written in a local: an array inside another is copied at every write.
            for ($k = 0; $k < $n; $k++) {
                if ($weight[$k] <= $least) {
                    $set[$k] = 0;
                } elseif ($s === 0 && $set[$k] === 0) {
                    $set[$k] = 1 << Volume::PASSES_A_SET;
                }
            }
            $sets[$s] = $set;
        }

        return [$dist, $sets];
    }
}
