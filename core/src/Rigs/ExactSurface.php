<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Algorithms\Field\DualSurface;
use Emberstone\Core\Algorithms\Field\Sharpen;
use Emberstone\Core\Algorithms\Field\Volume;
use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Mesh\TriangleMesh;

/** The surface of a part, finely meshed: every vertex on it, edges included. */
final class ExactSurface
{
    /** @param  float  $voxel edge of the cells, mm; the mesh is about as fine */
    public static function of(Part $part, float $voxel): TriangleMesh
    {
        [$min, $max] = $part->bounds();
        $volume = Volume::around($min, $max, $voxel);
        for ($a = 0; $a < $volume->bx; $a++) {
            for ($b = 0; $b < $volume->by; $b++) {
                for ($c = 0; $c < $volume->bz; $c++) {
                    $x = $volume->x0 + (8 * $a + 4) * $voxel;
                    $y = $volume->y0 + (8 * $b + 4) * $voxel;
                    $z = $volume->z0 + (8 * $c + 4) * $voxel;
                    if (abs($part->distance($x, $y, $z)) > 9.0 * $voxel) {
                        continue;
                    }
                    $t = ($a * $volume->by + $b) * $volume->bz + $c;
                    $volume->top[$t] = count($volume->blocks);
                    $volume->blocks[] = $t;
                    for ($k = 0; $k < 512; $k++) {
                        $volume->distance[] = $part->distance($x + (($k & 7) - 4) * $voxel, $y + (($k >> 3 & 7) - 4) * $voxel, $z + (($k >> 6) - 4) * $voxel);
                    }
                }
            }
        }
        $volume->weight = array_fill(0, count($volume->distance), 1.0);
        $volume->seen = array_fill(0, count($volume->distance), 1);
        $surface = DualSurface::extract($volume);
        $cells = $surface['cells'];
        $tasks = [];
        // A vertex settles by itself: each core takes its share of them.
        $share = 3 * (int) ceil(count($surface['positions']) / 3 / Cores::count());
        foreach ($share === 0 ? [] : range(0, count($surface['positions']) - 1, $share) as $first) {
            $tasks[] = function () use ($part, $surface, $first, $share, $cells, $voxel): string {
                $p = array_slice($surface['positions'], $first, $share);
                $cells = array_slice($cells, $first, $share);
                for ($o = 0, $n = count($p); $o < $n; $o += 3) {
                    self::settle($part, $p, $o, $cells, $voxel);
                }

                return Packed::doubles($p);
            };
        }
        $p = Packed::toDoubles(implode('', Fork::map($tasks, Cores::count())));

        return TriangleMesh::fromFlat($p, Sharpen::triangles($surface['quads'], $p));
    }

    /**
     * Puts one vertex on the surface: the tangent planes at points of the surface around it decide, so that edges come out exact.
     *
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, float>  $cells
     */
    private static function settle(Part $part, array &$p, int $o, array $cells, float $voxel): void
    {
        for ($round = 0; $round < 2; $round++) {
            $x = $p[$o];
            $y = $p[$o + 1];
            $z = $p[$o + 2];
            $a = [0.0, 0.0, 0.0, 0.0, 0.0, 0.0];
            $b = [0.0, 0.0, 0.0];
            foreach ([[0, 0, 0], [-1, -1, -1], [1, -1, -1], [-1, 1, -1], [1, 1, -1], [-1, -1, 1], [1, -1, 1], [-1, 1, 1], [1, 1, 1]] as [$i, $j, $k]) {
                $px = $x + 0.5 * $voxel * $i;
                $py = $y + 0.5 * $voxel * $j;
                $pz = $z + 0.5 * $voxel * $k;
                for ($step = 0; $step < 2; $step++) {
                    $d = $part->distance($px, $py, $pz);
                    [$nx, $ny, $nz] = self::gradient($part, $px, $py, $pz);
                    $l = $nx * $nx + $ny * $ny + $nz * $nz;
                    if ($l < 0.25) {
                        continue 2;
                    }
                    $px -= $d * $nx / $l;
                    $py -= $d * $ny / $l;
                    $pz -= $d * $nz / $l;
                }
                $e = $nx * ($px - $x) + $ny * ($py - $y) + $nz * ($pz - $z);
                $a[0] += $nx * $nx;
                $a[1] += $nx * $ny;
                $a[2] += $nx * $nz;
                $a[3] += $ny * $ny;
                $a[4] += $ny * $nz;
                $a[5] += $nz * $nz;
                $b[0] += $e * $nx;
                $b[1] += $e * $ny;
                $b[2] += $e * $nz;
            }
            $move = Dense::step([$a[0] + 1e-3, $a[1], $a[2], $a[1], $a[3] + 1e-3, $a[4], $a[2], $a[4], $a[5] + 1e-3], $b, 3);
            for ($k = 0; $k < 3; $k++) {
                $p[$o + $k] = min($cells[$o + $k] + $voxel, max($cells[$o + $k], $p[$o + $k] + $move[$k]));
            }
        }
        // What the cell's walls or the pull left over.
        for ($step = 0; $step < 3; $step++) {
            [$x, $y, $z] = [$p[$o], $p[$o + 1], $p[$o + 2]];
            $d = $part->distance($x, $y, $z);
            $n = self::gradient($part, $x, $y, $z);
            $l = $n[0] ** 2 + $n[1] ** 2 + $n[2] ** 2;
            if ($l < 0.25 || abs($d) < 1e-9) {
                return;
            }
            $p[$o] = $x - $d * $n[0] / $l;
            $p[$o + 1] = $y - $d * $n[1] / $l;
            $p[$o + 2] = $z - $d * $n[2] / $l;
        }
    }

    /** @return array{float, float, float} */
    private static function gradient(Part $part, float $x, float $y, float $z): array
    {
        return [
            ($part->distance($x + 1e-4, $y, $z) - $part->distance($x - 1e-4, $y, $z)) * 5e3,
            ($part->distance($x, $y + 1e-4, $z) - $part->distance($x, $y - 1e-4, $z)) * 5e3,
            ($part->distance($x, $y, $z + 1e-4) - $part->distance($x, $y, $z - 1e-4)) * 5e3,
        ];
    }
}
