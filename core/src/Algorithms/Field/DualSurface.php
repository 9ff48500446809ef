<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

/**
 * The zero surface of a sparse volume: one vertex a loop of a cell, one quad a crossed grid edge. Always manifold.
 *
 * Source    Gibson 1998 (surface nets); Nielson 2004 (several vertices a cell); the pairing of a face is turned over where two
 *           neighbouring cells would otherwise share it twice (after Wenger 2013, manifold dual contouring).
 * Cost      about 0.5 microseconds a voxel of the blocks.
 *
 * @internal
 */
final class DualSurface
{
    /**
     * @return array{positions: array<int, float>, quads: array<int, int>, support: array<int, int>, cells: array<int, float>} quads: four
     *                                                                                                                         vertices each, counter-clockwise from outside; cells: lower corner of each vertex' cell
     */
    public static function extract(Volume $volume): array
    {
        $tables = new CellLoops;
        $cells = self::patterns($volume);
        self::resolve($volume, $cells, $tables);

        return self::build($volume, $cells, $tables);
    }

    /**
     * Sign pattern of every cell that the surface crosses and all of whose corners were seen; -1 elsewhere.
     *
     * @return array<int, int> 512 a block
     */
    private static function patterns(Volume $volume): array
    {
        $top = $volume->top;
        $dist = $volume->distance;
        $weight = $volume->weight;
        $blocks = $volume->blocks;
        $bx = $volume->bx;
        $by = $volume->by;
        $bz = $volume->bz;
        $cells = array_fill(0, 512 * count($blocks), -1);
        // Nine samples a side: the block's own and the first layer of its neighbours. 0 inside, 1 outside, 2 not seen.
        $sign = array_fill(0, 729, 2);
        foreach ($blocks as $q => $t) {
            $cz = $t % $bz;
            $r = intdiv($t, $bz);
            $cy = $r % $by;
            $cx = intdiv($r, $by);
            $any = 0;
            for ($m = 0; $m < 8; $m++) {
                $hx = $m & 1;
                $hy = $m >> 1 & 1;
                $hz = $m >> 2;
                $near = $cx + $hx < $bx && $cy + $hy < $by && $cz + $hz < $bz ? $top[(($cx + $hx) * $by + $cy + $hy) * $bz + $cz + $hz] : -1;
                $any |= self::layer($dist, $weight, $near, $hx, $hy, $hz, $sign);
            }
            if ($any !== 3) {
                continue;
            }
            $o = $q << 9;
            for ($k = 0; $k < 8; $k++) {
                for ($j = 0; $j < 8; $j++) {
                    $l = $k * 81 + $j * 9;
                    for ($i = 0; $i < 8; $i++, $l++, $o++) {
                        $a = $sign[$l];
                        $b = $sign[$l + 1];
                        $c = $sign[$l + 9];
                        $d = $sign[$l + 10];
                        $e = $sign[$l + 81];
                        $f = $sign[$l + 82];
                        $g = $sign[$l + 90];
                        $h = $sign[$l + 91];
                        if ((($a | $b | $c | $d | $e | $f | $g | $h) & 2) !== 0) {
                            continue;
                        }
                        $pattern = 255 - ($a | $b << 1 | $c << 2 | $d << 3 | $e << 4 | $f << 5 | $g << 6 | $h << 7);
                        if ($pattern !== 0 && $pattern !== 255) {
                            $cells[$o] = $pattern;
                        }
                    }
                }
            }
        }

        return $cells;
    }

    /**
     * Copies signs of one block into a block's 9x9x9 samples: all of its own, or the first layer of a neighbour. (A function of
     * its own, and a loop without nesting: written in place, the tracing JIT of PHP 8.2 read wrong values here.)
     *
     * @param  array<int, float>  $dist
     * @param  array<int, float>  $weight
     * @param  array<int, int>  $sign  (changed)
     * @return int bit 0: something inside, bit 1: something outside
     */
    private static function layer(array $dist, array $weight, int $block, int $hx, int $hy, int $hz, array &$sign): int
    {
        $any = 0;
        $side = 8 - 7 * $hx;
        $depth = 8 - 7 * $hy;
        for ($n = $side * $depth * (8 - 7 * $hz) - 1; $n >= 0; $n--) {
            $i = $n % $side;
            $r = intdiv($n, $side);
            $j = $r % $depth;
            $k = intdiv($r, $depth);
            $l = ($k + 8 * $hz) * 81 + ($j + 8 * $hy) * 9 + $i + 8 * $hx;
            $s = $block << 9 | $k << 6 | $j << 3 | $i;
            if ($block < 0 || $weight[$s] <= 0.0) {
                $sign[$l] = 2;
            } elseif ($dist[$s] < 0.0) {
                $sign[$l] = 0;
                $any |= 1;
            } else {
                $sign[$l] = 1;
                $any |= 2;
            }
        }

        return $any;
    }

    /**
     * Where a face is passed twice by one loop on both of its sides, the face's crossings are paired the other way: each loop falls in two.
     *
     * @param  array<int, int>  $cells  (changed) from patterns to variants
     */
    private static function resolve(Volume $volume, array &$cells, CellLoops $tables): void
    {
        $shift = [[1, 0, 0], [0, 1, 0], [0, 0, 1]];
        for ($o = 0, $n = count($cells); $o < $n; $o++) {
            if ($cells[$o] < 0 || $tables->risky[$cells[$o]] === 0) {
                continue;
            }
            foreach ($shift as $axis => [$dx, $dy, $dz]) {
                $face = 2 * $axis + 1;
                if (($tables->risky[$cells[$o]] >> $face & 1) === 0) {
                    continue;
                }
                $near = $volume->neighbour($o, $dx, $dy, $dz);
                if ($near < 0 || $cells[$near] < 0 || ($tables->risky[$cells[$near]] >> ($face - 1) & 1) === 0) {
                    continue;
                }
                $cells[$o] = $tables->flipped($cells[$o], $face);
                $cells[$near] = $tables->flipped($cells[$near], $face - 1);
            }
        }
    }

    /**
     * @param  array<int, int>  $cells  variants
     * @return array{positions: array<int, float>, quads: array<int, int>, support: array<int, int>, cells: array<int, float>}
     */
    private static function build(Volume $volume, array $cells, CellLoops $tables): array
    {
        $top = $volume->top;
        $dist = $volume->distance;
        $seen = $volume->seen;
        $more = $volume->seenByMore;
        $ofFirst = (1 << Volume::PASSES_A_SET) - 1;
        $blocks = $volume->blocks;
        $bx = $volume->bx;
        $by = $volume->by;
        $bz = $volume->bz;
        $h = $volume->voxel;
        $x0 = $volume->x0;
        $y0 = $volume->y0;
        $z0 = $volume->z0;
        $allLoops = $tables->loops;
        $loopOfEdge = $tables->loopOfEdge;
        $low = array_column(CellLoops::EDGES, 0);
        $high = array_column(CellLoops::EDGES, 1);
        $cornerX = [0.0, 1.0, 0.0, 1.0, 0.0, 1.0, 0.0, 1.0];
        $cornerY = [0.0, 0.0, 1.0, 1.0, 0.0, 0.0, 1.0, 1.0];
        $cornerZ = [0.0, 0.0, 0.0, 0.0, 1.0, 1.0, 1.0, 1.0];
        $first = array_fill(0, count($cells), -1);
        $p = $quads = $support = $corner = [];
        $count = 0;
        // Offsets of the eight corners from a cell well inside its block.
        $inner = [0, 1, 8, 9, 64, 65, 72, 73];
        $at = array_fill(0, 8, 0);
        foreach ($blocks as $q => $t) {
            $cz = $t % $bz;
            $r = intdiv($t, $bz);
            $cy = $r % $by;
            $cx = intdiv($r, $by);
            $base = $q << 9;
            for ($l = 0; $l < 512; $l++) {
                $o = $base + $l;
                $variant = $cells[$o];
                if ($variant < 0) {
                    continue;
                }
                $i = $l & 7;
                $j = $l >> 3 & 7;
                $k = $l >> 6;
                if ($i < 7 && $j < 7 && $k < 7) {
                    for ($c = 0; $c < 8; $c++) {
                        $at[$c] = $o + $inner[$c];
                    }
                } else {
                    for ($c = 0; $c < 8; $c++) {
                        $gx = $i + ($c & 1);
                        $gy = $j + ($c >> 1 & 1);
                        $gz = $k + ($c >> 2);
                        $at[$c] = $top[(($cx + ($gx >> 3)) * $by + $cy + ($gy >> 3)) * $bz + $cz + ($gz >> 3)] << 9 | ($gz & 7) << 6 | ($gy & 7) << 3 | ($gx & 7);
                    }
                }
                $first[$o] = $count;
                $ox = $x0 + (8 * $cx + $i) * $h;
                $oy = $y0 + (8 * $cy + $j) * $h;
                $oz = $z0 + (8 * $cz + $k) * $h;
                $bits = 0;
                for ($c = 0; $c < 8; $c++) {
                    $bits |= $seen[$at[$c]];
                }
                $bits &= $ofFirst;
                $passes = 0;
                while ($bits !== 0) {
                    $bits &= $bits - 1;
                    $passes++;
                }
                foreach ($more as $set) {
                    for ($c = 0; $c < 8; $c++) {
                        // Blocks that were made for a gap have none.
                        $bits |= $set[$at[$c]] ?? 0;
                    }
                    while ($bits !== 0) {
                        $bits &= $bits - 1;
                        $passes++;
                    }
                }
                foreach ($allLoops[$variant] as $loop) {
                    $x = $y = $z = 0.0;
                    foreach ($loop as $edge) {
                        $a = $low[$edge];
                        $da = $dist[$at[$a]];
                        $s = $da / ($da - $dist[$at[$high[$edge]]]);
                        $x += $cornerX[$a];
                        $y += $cornerY[$a];
                        $z += $cornerZ[$a];
                        if ($edge < 4) {
                            $x += $s;
                        } elseif ($edge < 8) {
                            $y += $s;
                        } else {
                            $z += $s;
                        }
                    }
                    $w = $h / count($loop);
                    $p[] = $ox + $x * $w;
                    $p[] = $oy + $y * $w;
                    $p[] = $oz + $z * $w;
                    $corner[] = $ox;
                    $corner[] = $oy;
                    $corner[] = $oz;
                    $support[] = $passes;
                    $count++;
                }
            }
        }
        // A quad for each crossed edge that leaves a cell's lowest corner: the four cells around it, named by their offset
        // (backwards along the two other axes) and by the number the edge has in them.
        $around = [
            [[0, 0, 0, 0], [0, -1, 0, 1], [0, -1, -1, 3], [0, 0, -1, 2]],
            [[0, 0, 0, 4], [0, 0, -1, 6], [-1, 0, -1, 7], [-1, 0, 0, 5]],
            [[0, 0, 0, 8], [-1, 0, 0, 9], [-1, -1, 0, 11], [0, -1, 0, 10]],
        ];
        foreach ($blocks as $q => $t) {
            $cz = $t % $bz;
            $r = intdiv($t, $bz);
            $cy = $r % $by;
            $cx = intdiv($r, $by);
            $base = $q << 9;
            for ($l = 0; $l < 512; $l++) {
                $o = $base + $l;
                $variant = $cells[$o];
                if ($variant < 0) {
                    continue;
                }
                $i = $l & 7;
                $j = $l >> 3 & 7;
                $k = $l >> 6;
                $inside = ($tables->variants[$variant] >> 6 & 1) === 1;
                for ($axis = 0; $axis < 3; $axis++) {
                    if ($loopOfEdge[12 * $variant + 4 * $axis] < 0) {
                        continue;
                    }
                    $v = [];
                    foreach ($around[$axis] as [$dx, $dy, $dz, $edge]) {
                        $gx = $i + $dx;
                        $gy = $j + $dy;
                        $gz = $k + $dz;
                        if ($gx >= 0 && $gy >= 0 && $gz >= 0) {
                            $s = $o + $dx + 8 * $dy + 64 * $dz;
                        } else {
                            $nx = $cx + ($gx >> 3);
                            $ny = $cy + ($gy >> 3);
                            $nz = $cz + ($gz >> 3);
                            if ($nx < 0 || $ny < 0 || $nz < 0) {
                                continue 2;
                            }
                            $block = $top[($nx * $by + $ny) * $bz + $nz];
                            if ($block < 0) {
                                continue 2;
                            }
                            $s = $block << 9 | ($gz & 7) << 6 | ($gy & 7) << 3 | ($gx & 7);
                        }
                        if ($first[$s] < 0) {
                            continue 2;
                        }
                        $v[] = $first[$s] + $loopOfEdge[12 * $cells[$s] + $edge];
                    }
                    $quads[] = $v[0];
                    if ($inside) {
                        $quads[] = $v[1];
                        $quads[] = $v[2];
                        $quads[] = $v[3];
                    } else {
                        $quads[] = $v[3];
                        $quads[] = $v[2];
                        $quads[] = $v[1];
                    }
                }
            }
        }

        return ['positions' => $p, 'quads' => $quads, 'support' => $support, 'cells' => $corner];
    }
}
