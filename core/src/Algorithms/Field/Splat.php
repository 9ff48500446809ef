<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

use Emberstone\Core\Algorithms\Search\LatticeKeys;

/**
 * Writes oriented points into a volume as an implicit moving least squares distance, slab by slab, so that each core can have its own.
 *
 * Source    Shen, O'Brien & Shewchuk 2004; Kolluri 2005, "Provably good moving least squares": f(v) = sum w n.(v - p) / sum w.
 * Departs   compact weight (1 - d^2/r^2)^3 in place of the Gaussian; points are weighted by their quality; in place of the plane of a point stands a surface that bends as its surroundings do, see bends().
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
     * What slab() takes besides the points of all passes, one after the other.
     *
     * @param  list<int>  $counts  points of each pass
     * @return array{list<int>, non-empty-list<int>} bits and ends
     */
    public static function sets(array $counts): array
    {
        $bits = $ends = [];
        foreach ($counts as $pass => $many) {
            $bit = 1 << ($pass % Volume::PASSES_A_SET);
            for ($i = 0; $i < $many; $i++) {
                $bits[] = $bit;
            }
            $ends[intdiv($pass, Volume::PASSES_A_SET)] = count($bits);
        }

        return [$bits, array_values($ends) ?: [0]];
    }

    /**
     * The points of each cell of half a voxel as one, which adds to a voxel what they together do but for how far each is from it: its plane is the weighted mean of theirs. So the work of slab() goes with the
     * surface, not with how densely it was scanned.
     *
     * @param  array<int, float>  $p  flat xyz, pass after pass
     * @param  array<int, float>  $n  flat unit normals
     * @param  array<int, float>  $quality  weight a point
     * @param  list<int>  $counts  points of each pass
     * @return array{list<float>, list<float>, list<float>, list<int>, non-empty-list<int>} places, normals (shorter where those of a group differ), weights, bits and ends, as slab() takes them
     */
    public static function gathered(Volume $volume, array $p, array $n, array $quality, array $counts): array
    {
        $box = [$volume->x0, $volume->y0, $volume->z0, $volume->x0 + 8.0 * $volume->bx * $volume->voxel, $volume->y0 + 8.0 * $volume->by * $volume->voxel, $volume->z0 + 8.0 * $volume->bz * $volume->voxel];
        $cells = LatticeKeys::of($box, 0.5 * $volume->voxel);
        $places = $normals = $weights = $planes = $bits = $ends = $group = [];
        $i = $groups = 0;
        foreach ($counts as $pass => $many) {
            if ($pass % Volume::PASSES_A_SET === 0) {
                $group = [];
            }
            $bit = 1 << ($pass % Volume::PASSES_A_SET);
            for ($end = $i + $many; $i < $end; $i++) {
                $o = 3 * $i;
                $q = $quality[$i];
                if ($q <= 0.0) {
                    continue;
                }
                [$x, $y, $z] = [$p[$o], $p[$o + 1], $p[$o + 2]];
                $nx = $q * $n[$o];
                $ny = $q * $n[$o + 1];
                $nz = $q * $n[$o + 2];
                $cell = $cells->at($x, $y, $z);
                $g = $group[$cell] ?? -1;
                if ($g < 0) {
                    $group[$cell] = $groups++;
                    array_push($places, $q * $x, $q * $y, $q * $z);
                    array_push($normals, $nx, $ny, $nz);
                    $weights[] = $q;
                    $planes[] = $nx * $x + $ny * $y + $nz * $z;
                    $bits[] = $bit;

                    continue;
                }
                $o = 3 * $g;
                $places[$o] += $q * $x;
                $places[$o + 1] += $q * $y;
                $places[$o + 2] += $q * $z;
                $normals[$o] += $nx;
                $normals[$o + 1] += $ny;
                $normals[$o + 2] += $nz;
                $weights[$g] += $q;
                $planes[$g] += $nx * $x + $ny * $y + $nz * $z;
                $bits[$g] |= $bit;
            }
            $ends[intdiv($pass, Volume::PASSES_A_SET)] = $groups;
        }
        for ($g = 0, $o = 0; $g < $groups; $g++, $o += 3) {
            $w = 1.0 / $weights[$g];
            $x = $w * $places[$o];
            $y = $w * $places[$o + 1];
            $z = $w * $places[$o + 2];
            $nx = $w * $normals[$o];
            $ny = $w * $normals[$o + 1];
            $nz = $w * $normals[$o + 2];
            $square = $nx * $nx + $ny * $ny + $nz * $nz;
            // Onto the mean plane, where there is one.
            $aside = $square > 0.25 ? ($w * $planes[$g] - $nx * $x - $ny * $y - $nz * $z) / $square : 0.0;
            $places[$o] = $x + $aside * $nx;
            $places[$o + 1] = $y + $aside * $ny;
            $places[$o + 2] = $z + $aside * $nz;
            $normals[$o] = $nx;
            $normals[$o + 1] = $ny;
            $normals[$o + 2] = $nz;
        }

        return [$places, $normals, $weights, $bits, array_values($ends) ?: [0]];
    }

    /**
     * How the surface bends around each point: half its curvature, the mean over all ways. Over a plane that touches a bent surface lie places that are on it; without this a mean of such planes lies inside of what
     * bends, a bore of 9 mm 0.034 mm too wide at voxels of 0.8 mm.
     *
     * Method    the turn of the normals over what lies within a cell of the lattice and looks the same way, by least squares: sum of (n_j - n)(p_j - p) over sum of (p_j - p)^2.
     *
     * @param  array<int, float>  $p  flat xyz
     * @param  array<int, float>  $n  flat normals
     * @return list<float> 1 / mm, more than 0 where the surface is convex; 0 where a cell holds an edge or too little
     */
    public static function bends(Volume $volume, array $p, array $n): array
    {
        $w = 1.0 / (self::BEND_CELL * $volume->voxel);
        $many = intdiv(count($p), 3);
        [$x0, $y0, $z0] = [$volume->x0, $volume->y0, $volume->z0];
        $row = (int) (8.0 * $volume->bz * $volume->voxel * $w) + 2;
        $layer = $row * ((int) (8.0 * $volume->by * $volume->voxel * $w) + 2);
        $cells = $of = [];
        $count = $px = $py = $pz = $nx = $ny = $nz = $both = $square = [];
        for ($i = 0, $o = 0; $i < $many; $i++, $o += 3) {
            $u = $n[$o];
            $v = $n[$o + 1];
            $t = $n[$o + 2];
            $x = ($p[$o] - $x0) * $w;
            $y = ($p[$o + 1] - $y0) * $w;
            $z = ($p[$o + 2] - $z0) * $w;
            $ix = (int) $x;
            $iy = (int) $y;
            $iz = (int) $z;
            // Which way it looks most, so that the two sides of a thin wall stay apart.
            $a = $u < 0.0 ? -$u : $u;
            $b = $v < 0.0 ? -$v : $v;
            $c = $t < 0.0 ? -$t : $t;
            $side = $a >= $b && $a >= $c ? ($u < 0.0 ? 0 : 1) : ($b >= $c ? ($v < 0.0 ? 2 : 3) : ($t < 0.0 ? 4 : 5));
            $key = 6 * ($ix * $layer + $iy * $row + $iz) + $side;
            $k = $cells[$key] ?? -1;
            if ($k < 0) {
                $k = $cells[$key] = count($count);
                $count[] = 0;
                $px[] = $py[] = $pz[] = $nx[] = $ny[] = $nz[] = $both[] = $square[] = 0.0;
            }
            $of[] = $k;
            // About the corner of the cell: far from it the sums would be small differences of large numbers.
            $x -= $ix;
            $y -= $iy;
            $z -= $iz;
            $count[$k]++;
            $px[$k] += $x;
            $py[$k] += $y;
            $pz[$k] += $z;
            $nx[$k] += $u;
            $ny[$k] += $v;
            $nz[$k] += $t;
            $both[$k] += $u * $x + $v * $y + $t * $z;
            $square[$k] += $x * $x + $y * $y + $z * $z;
        }
        $most = self::MOST_BEND / $volume->voxel;
        $bends = [];
        foreach ($count as $k => $all) {
            $spread = $square[$k] - ($px[$k] ** 2 + $py[$k] ** 2 + $pz[$k] ** 2) / $all;
            $isAlike = $nx[$k] ** 2 + $ny[$k] ** 2 + $nz[$k] ** 2 >= (self::ALIKE * $all) ** 2;
            $bend = $isAlike && $all >= self::FEWEST_BEND && $spread > 0.0 ? 0.5 * $w * ($both[$k] - ($nx[$k] * $px[$k] + $ny[$k] * $py[$k] + $nz[$k] * $pz[$k]) / $all) / $spread : 0.0;
            $bends[] = max(-$most, min($most, $bend));
        }

        return array_map(fn (int $k) => $bends[$k], $of);
    }

    /** Edge of the cells in which the turn of normals is looked at, in voxels: three to a block, so that they stand the same whichever blocks are made at once. */
    private const BEND_CELL = 8.0 / 3.0;

    /** Points without which a cell tells nothing. */
    private const FEWEST_BEND = 6;

    /** Length of the mean normal without which a cell holds an edge: a turn of 56 degrees from side to side. */
    private const ALIKE = 0.96;

    /** The largest bend, as a share of 1 / voxel: what bends more tightly than a voxel is noise. */
    private const MOST_BEND = 0.25;

    /**
     * The distances of one slab's voxels from all passes; nothing in the volume is changed.
     *
     * @param  array<int, float>  $p  flat xyz, set after set of passes (Volume::PASSES_A_SET)
     * @param  array<int, float>  $n  flat unit normals; shorter ones of groups, see gathered()
     * @param  array<int, float>  $bends  of each point, see bends()
     * @param  array<int, float>  $quality  weight a point
     * @param  array<int, int>  $bits  the passes of its set that saw each point
     * @param  non-empty-list<int>  $ends  the point after the last of each set
     * @param  float  $least  voxels with less weight count as not seen
     * @param  int  $from  first plane of blocks
     * @param  int  $to  last plane of blocks
     * @return array{list<float>, non-empty-list<array<int, int>>} distance, and the sets of passes that saw it (see Volume), a voxel of the slab's blocks
     */
    public static function slab(Volume $volume, array $p, array $n, array $bends, array $quality, array $bits, array $ends, float $radius, float $least, int $from, int $to): array
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
        $next = $ends[0];
        $sets = [];
        for ($i = 0, $o = 0, $e = count($p); $o < $e; $i++, $o += 3) {
            while ($i >= $next) {
                $sets[] = $seen;
                $seen = array_fill(0, 512 * count($blocks), 0);
                $next = $ends[count($sets)];
            }
            $bit = $bits[$i];
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
            $bend = $bends[$i];
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
                        $d = $nyd + $nx * $dx;
                        $d += $bend * ($l - $d * $d);
                        $l = 1.0 - $l * $irSq;
                        $l = $l * $l * $l * $q;
                        $dist[$k] += $l * $d;
                        $weight[$k] += $l;
                        $seen[$k] |= $bit;
                    }
                }
            }
        }
        $sets[] = $seen;
        // Passes at the end that have no points here.
        while (count($sets) < count($ends)) {
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
