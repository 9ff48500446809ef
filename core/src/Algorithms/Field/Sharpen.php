<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Algorithms\Surface\Evidence;

/**
 * Moves surface vertices onto the planes of the measured points around them, so that edges stand and noise averages out.
 *
 * Source    Ju et al. 2002 (dual contouring, quadratic error of tangent planes), over points in place of grid crossings.
 *
 * @internal
 */
final class Sharpen
{
    /** How far a point reaches, and the edge of a cell in which points are looked for, in voxels. */
    private const REACH = 1.5;

    private const CELL = 0.75;

    /**
     * The points as project() wants them.
     *
     * @param  array<int, float>  $p  flat xyz
     */
    public static function grid(array $p, float $voxel): PointGrid
    {
        return PointGrid::of($p, self::CELL * $voxel);
    }

    /**
     * Normals, weights and bends in the order in which the grid has its points.
     *
     * @param  array<int, float>  $normals  flat
     * @param  array<int, float>  $quality  a point
     * @param  array<int, float>  $bends  a point, see Splat::bends()
     * @return array{list<float>, list<float>, list<float>}
     */
    public static function inSlots(PointGrid $grid, array $normals, array $quality, array $bends): array
    {
        $n = $q = $bent = [];
        foreach ($grid->order as $i) {
            $n[] = $normals[3 * $i];
            $n[] = $normals[3 * $i + 1];
            $n[] = $normals[3 * $i + 2];
            $q[] = $quality[$i];
            $bent[] = $bends[$i];
        }

        return [$n, $q, $bent];
    }

    /**
     * Minimises sum w (n.(x - p) + bend)^2 + pull |x - start|^2 for each vertex, x kept near its cell; bend: how far the surface around a point leaves its plane as far away as the vertex began.
     *
     * @param  array<int, float>  $v  (changed) flat xyz of the vertices
     * @param  array<int, float>  $cells  lower corner of each vertex' cell
     * @param  array<int, float>  $normals  flat, in the grid's slot order
     * @param  array<int, float>  $quality  in slot order
     * @param  array<int, float>  $bends  in slot order
     * @param  array{float, float, float}  $corner  of the lattice of cells: a vertex goes the same way whatever else is worked on with it
     * @return list<int> what the points around each vertex say as Evidence: how far they lie off their planes' best point, and what they weigh; no passes
     */
    public static function project(array &$v, array $cells, float $voxel, PointGrid $grid, array $normals, array $quality, array $bends, array $corner): array
    {
        $top = $grid->top;
        $st = $grid->start;
        $s = $grid->sorted;
        $x0 = $grid->x0;
        $y0 = $grid->y0;
        $z0 = $grid->z0;
        $w = 1.0 / $grid->cell;
        $by = $grid->by;
        $bz = $grid->bz;
        $mx = 8 * $grid->bx - 1;
        $my = 8 * $by - 1;
        $mz = 8 * $bz - 1;
        $radius = self::REACH * $voxel;
        $rSq = $radius * $radius;
        $irSq = 1.0 / $rSq;
        $iv = 1.0 / $voxel;
        [$cornerX, $cornerY, $cornerZ] = $corner;
        $out = $v;
        $v = $evidence = [];
        for ($o = 0, $n = count($out); $o < $n; $o += 3) {
            $x = $out[$o];
            $y = $out[$o + 1];
            $z = $out[$o + 2];
            $ax = (int) (($x - $radius - $x0) * $w);
            if ($ax < 0) {
                $ax = 0;
            }
            $ay = (int) (($y - $radius - $y0) * $w);
            if ($ay < 0) {
                $ay = 0;
            }
            $az = (int) (($z - $radius - $z0) * $w);
            if ($az < 0) {
                $az = 0;
            }
            $ex = (int) (($x + $radius - $x0) * $w);
            if ($ex > $mx) {
                $ex = $mx;
            }
            $ey = (int) (($y + $radius - $y0) * $w);
            if ($ey > $my) {
                $ey = $my;
            }
            $ez = (int) (($z + $radius - $z0) * $w);
            if ($ez > $mz) {
                $ez = $mz;
            }
            $xx = $xy = $xz = $yy = $yz = $zz = $bx = $b2 = $b3 = $sum = $squares = 0.0;
            for ($a = $ax; $a <= $ex; $a++) {
                for ($b = $ay; $b <= $ey; $b++) {
                    $tb = (($a >> 3) * $by + ($b >> 3)) * $bz;
                    $lb = (($a & 7) << 6) | (($b & 7) << 3);
                    for ($c = $az; $c <= $ez; $c++) {
                        $cell = $top[$tb + ($c >> 3)];
                        if ($cell < 0) {
                            continue;
                        }
                        $cell += $lb | ($c & 7);
                        for ($q = $st[$cell], $end = $st[$cell + 1]; $q < $end; $q++) {
                            $g = 3 * $q;
                            $dx = $s[$g] - $x;
                            $dy = $s[$g + 1] - $y;
                            $dz = $s[$g + 2] - $z;
                            $d = $dx * $dx + $dy * $dy + $dz * $dz;
                            if ($d >= $rSq) {
                                continue;
                            }
                            $nx = $normals[$g];
                            $ny = $normals[$g + 1];
                            $nz = $normals[$g + 2];
                            $off = $nx * $dx + $ny * $dy + $nz * $dz;
                            $off -= $bends[$q] * ($d - $off * $off);
                            $d = 1.0 - $d * $irSq;
                            $d = $d * $d * $quality[$q];
                            $k = $d * $off;
                            $squares += $k * $off;
                            $bx += $k * $nx;
                            $b2 += $k * $ny;
                            $b3 += $k * $nz;
                            $sum += $d;
                            $nx *= $d;
                            $xx += $nx * $normals[$g];
                            $xy += $nx * $ny;
                            $xz += $nx * $nz;
                            $yy += $d * $ny * $ny;
                            $yz += $d * $ny * $nz;
                            $zz += $d * $nz * $nz;
                        }
                    }
                }
            }
            if ($sum <= 0.0) {
                $evidence[] = 0;

                continue;
            }
            $pull = 0.03 * $sum;
            $xx += $pull;
            $yy += $pull;
            $zz += $pull;
            $c0 = $yy * $zz - $yz * $yz;
            $c1 = $xz * $yz - $xy * $zz;
            $c2 = $xy * $yz - $xz * $yy;
            $det = 1.0 / ($xx * $c0 + $xy * $c1 + $xz * $c2);
            $dx = $det * ($c0 * $bx + $c1 * $b2 + $c2 * $b3);
            $dy = $det * ($c1 * $bx + ($xx * $zz - $xz * $xz) * $b2 + ($xy * $xz - $xx * $yz) * $b3);
            $dz = $det * ($c2 * $bx + ($xy * $xz - $xx * $yz) * $b2 + ($xx * $yy - $xy * $xy) * $b3);
            $x += $dx;
            $y += $dy;
            $z += $dz;
            // What the least squares leave over.
            $squares -= $dx * $bx + $dy * $b2 + $dz * $b3;
            $evidence[] = Evidence::of(0, $squares > 0.0 ? sqrt($squares / $sum) : 0.0, $sum);
            // Up to three quarters of a voxel out of its own cell, and not all by the same (the fractions are powers of 0.8191725134, which fill the unit interval evenly: Roberts 2018): where planes meet outside the cells that the surface
            // runs through, the edge is there and not at the wall of the cell. Vertices that pass each other are taken apart afterwards.
            $turn = 0.8191725134 * floor(($cells[$o] - $cornerX) * $iv + 0.5) + 0.6710436067 * floor(($cells[$o + 1] - $cornerY) * $iv + 0.5) + 0.5497004779 * floor(($cells[$o + 2] - $cornerZ) * $iv + 0.5);
            $margin = $voxel * (-0.7 + 0.03 * ($turn - floor($turn)));
            $room = $voxel - 2.0 * $margin;
            $l = $cells[$o] + $margin;
            if ($x < $l) {
                $x = $l;
            } elseif ($x > $l + $room) {
                $x = $l + $room;
            }
            $l = $cells[$o + 1] + $margin;
            if ($y < $l) {
                $y = $l;
            } elseif ($y > $l + $room) {
                $y = $l + $room;
            }
            $l = $cells[$o + 2] + $margin;
            if ($z < $l) {
                $z = $l;
            } elseif ($z > $l + $room) {
                $z = $l + $room;
            }
            $out[$o] = $x;
            $out[$o + 1] = $y;
            $out[$o + 2] = $z;
        }
        $v = $out;

        return $evidence;
    }

    /**
     * Cuts quads in two along the diagonal whose triangles agree best.
     *
     * @param  array<int, int>  $quads
     * @param  array<int, float>  $p
     * @return array<int, int> flat triangles
     */
    public static function triangles(array $quads, array $p): array
    {
        $faces = [];
        for ($q = 0, $n = count($quads); $q < $n; $q += 4) {
            $i = $quads[$q];
            $j = $quads[$q + 1];
            $k = $quads[$q + 2];
            $l = $quads[$q + 3];
            $a = 3 * $i;
            $b = 3 * $j;
            $c = 3 * $k;
            $d = 3 * $l;
            if (self::agreement($p, $a, $b, $c, $d) >= self::agreement($p, $b, $c, $d, $a)) {
                $faces[] = $i;
                $faces[] = $j;
                $faces[] = $k;
                $faces[] = $i;
                $faces[] = $k;
                $faces[] = $l;
            } else {
                $faces[] = $j;
                $faces[] = $k;
                $faces[] = $l;
                $faces[] = $j;
                $faces[] = $l;
                $faces[] = $i;
            }
        }

        return $faces;
    }

    /**
     * Cosine between the triangles abc and acd, less a share for their worse shape.
     *
     * @param  array<int, float>  $p
     */
    private static function agreement(array $p, int $a, int $b, int $c, int $d): float
    {
        $ux = $p[$b] - $p[$a];
        $uy = $p[$b + 1] - $p[$a + 1];
        $uz = $p[$b + 2] - $p[$a + 2];
        $vx = $p[$c] - $p[$a];
        $vy = $p[$c + 1] - $p[$a + 1];
        $vz = $p[$c + 2] - $p[$a + 2];
        $wx = $p[$d] - $p[$a];
        $wy = $p[$d + 1] - $p[$a + 1];
        $wz = $p[$d + 2] - $p[$a + 2];
        $mx = $uy * $vz - $uz * $vy;
        $my = $uz * $vx - $ux * $vz;
        $mz = $ux * $vy - $uy * $vx;
        $nx = $vy * $wz - $vz * $wy;
        $ny = $vz * $wx - $vx * $wz;
        $nz = $vx * $wy - $vy * $wx;
        $lm = $mx * $mx + $my * $my + $mz * $mz;
        $ln = $nx * $nx + $ny * $ny + $nz * $nz;
        if ($lm <= 0.0 || $ln <= 0.0) {
            return -2.0;
        }
        $diagonal = $vx * $vx + $vy * $vy + $vz * $vz;

        return ($mx * $nx + $my * $ny + $mz * $nz) / sqrt($lm * $ln) + 0.1 * sqrt($lm < $ln ? $lm : $ln) / $diagonal;
    }
}
