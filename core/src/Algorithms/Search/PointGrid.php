<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Search;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Geometry\BoundingBox;

/**
 * Points sorted into cubic cells: a dense table of 8x8x8-cell blocks, cells filled by counting sort.
 *
 * Coordinates are copied in cell order, so that neighbours in space are neighbours in memory. Everything here speaks of
 * positions in that order ("slots"); `order[slot]` is the index of the point as it was given.
 *
 * Its length has one reason: the search over cells is written out where it is needed, as a call for every point or cell costs more than the work in it.
 */
final readonly class PointGrid
{
    /** Neighbours that are farther than this many cells are looked for in a coarser grid. */
    private const SHELLS = 2;

    /**
     * @param  array<int, int>  $top  block of each table entry, or -1
     * @param  array<int, int>  $start  first slot of each cell; one entry more than cells
     * @param  array<int, int>  $order  slot => index of the point
     * @param  array<int, float>  $sorted  flat xyz in slot order
     */
    private function __construct(
        public array $top,
        public array $start,
        public array $order,
        public array $sorted,
        public float $x0,
        public float $y0,
        public float $z0,
        public float $cell,
        public int $bx,
        public int $by,
        public int $bz,
    ) {
    }

    /**
     * @param  array<int, float>  $p  flat xyz
     * @param  float|null  $cell  edge of a cell; by default some seven points share a cell of a surface
     */
    public static function of(array $p, ?float $cell = null): self
    {
        $n = intdiv(count($p), 3);
        $box = BoundingBox::of($p);
        $cell ??= self::suggestedCell($p, $box);
        // The table of blocks must stay small however small the cell: at most some 2^24 entries.
        $least = $box->longestSide() / 2000.0;
        $h = max($cell, $least, 1e-9);
        $x0 = $box->min[0] - $h;
        $y0 = $box->min[1] - $h;
        $z0 = $box->min[2] - $h;
        $w = 1.0 / $h;
        $bx = ((int) (($box->max[0] - $x0) * $w) >> 3) + 1;
        $by = ((int) (($box->max[1] - $y0) * $w) >> 3) + 1;
        $bz = ((int) (($box->max[2] - $z0) * $w) >> 3) + 1;
        $top = array_fill(0, $bx * $by * $bz, -1);
        $cells = array_fill(0, $n, 0);
        $blocks = 0;
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            $cx = (int) (($p[$o] - $x0) * $w);
            $cy = (int) (($p[$o + 1] - $y0) * $w);
            $cz = (int) (($p[$o + 2] - $z0) * $w);
            $b = (($cx >> 3) * $by + ($cy >> 3)) * $bz + ($cz >> 3);
            $k = $top[$b];
            if ($k < 0) {
                $k = $blocks << 9;
                $blocks++;
                $top[$b] = $k;
            }
            $cells[$i] = $k | (($cx & 7) << 6) | (($cy & 7) << 3) | ($cz & 7);
        }
        $m = $blocks << 9;
        $start = array_fill(0, $m + 1, 0);
        for ($i = 0; $i < $n; $i++) {
            $start[$cells[$i]]++;
        }
        $sum = 0;
        for ($c = 0; $c < $m; $c++) {
            $t = $start[$c];
            $start[$c] = $sum;
            $sum += $t;
        }
        $start[$m] = $sum;
        $next = $start;
        $order = array_fill(0, $n, 0);
        $sorted = array_fill(0, 3 * $n, 0.0);
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            $c = $cells[$i];
            $k = $next[$c];
            $next[$c] = $k + 1;
            $order[$k] = $i;
            $k *= 3;
            $sorted[$k] = $p[$o];
            $sorted[$k + 1] = $p[$o + 1];
            $sorted[$k + 2] = $p[$o + 2];
        }

        return new self($top, $start, $order, $sorted, $x0, $y0, $z0, $h, $bx, $by, $bz);
    }

    /**
     * 2.95 times the typical spacing of points on a surface, found by counting occupied cells of a coarse raster: 16 neighbours reach 2.3 times
     * as far, so that most points find theirs in the cells next to their own (measured: a quarter faster than with 2.0, a twentieth than with 2.6 and 3.4).
     *
     * @param  array<int, float>  $p
     */
    private static function suggestedCell(array $p, BoundingBox $box): float
    {
        $n = intdiv(count($p), 3);
        $side = $box->longestSide();
        if ($n < 2 || $side <= 0.0) {
            return 1.0;
        }
        $cells = 64;
        $w = $cells / ($side * 1.0001);
        $seen = [];
        $step = 3 * (intdiv($n, 50000) + 1);
        for ($o = 0, $e = 3 * $n; $o < $e; $o += $step) {
            $seen[((int) (($p[$o] - $box->min[0]) * $w) * $cells + (int) (($p[$o + 1] - $box->min[1]) * $w)) * $cells + (int) (($p[$o + 2] - $box->min[2]) * $w)] = true;
        }
        // A surface passes about 1.5 times its area in cells.
        $area = count($seen) * ($side / $cells) ** 2 / 1.5;

        return 2.95 * sqrt($area / $n);
    }

    public function count(): int
    {
        return count($this->order);
    }

    /**
     * The k nearest of every point (itself included) by shells of cells, handed to a fixed computation: normals by principal
     * components and the mean distance to the neighbours.
     *
     * Source    Hoppe et al. 1992 for normals from the covariance; the smallest eigenvector in closed form (Eberly, symmetric 3x3).
     * Cost      about 8 microseconds a point at k = 16.
     *
     * @param  list<int>|null  $slots  only these points; all when null
     * @param  bool  $leavesLone  a few points far from the others are not looked into: their spacing is INF, the rest of theirs 0
     * @return array{normals: list<float>, spacing: list<float>, lean: list<float>, bend: list<float>, across: list<float>, off: list<float>} in slot order; spacing is the mean distance to the
     *                                                                            k-1 others; lean how far their centre lies aside, as a share of spacing: near 0 inside a surface, over a half at its rim; bend
     *                                                                            the share of their spread that is across the surface (Pauly et al. 2002): near 0 on a plane, over 0.1 at an edge;
     *                                                                            across their RMS distance from their own plane; off the distance of the point itself from that plane
     */
    public function neighbourhoods(int $k, ?array $slots = null, bool $leavesLone = false): array
    {
        $count = $slots === null ? $this->count() : count($slots);
        $top = $this->top;
        $st = $this->start;
        $s = $this->sorted;
        $x0 = $this->x0;
        $y0 = $this->y0;
        $z0 = $this->z0;
        $h = $this->cell;
        $w = 1.0 / $h;
        $by = $this->by;
        $bz = $this->bz;
        $mx = 8 * $this->bx - 1;
        $my = 8 * $by - 1;
        $mz = 8 * $bz - 1;
        $k = max(2, min($k, $this->count()));
        $far = max($mx, $my, $mz);
        $normals = array_fill(0, 3 * $count, 0.0);
        $spacing = array_fill(0, $count, 0.0);
        $lean = array_fill(0, $count, 0.0);
        $bend = array_fill(0, $count, 0.0);
        $across = array_fill(0, $count, 0.0);
        $aside = array_fill(0, $count, 0.0);
        $dist = array_fill(0, $k, 0.0);
        // Who was among the nearest when it was come upon, and how far (squared).
        $slot = array_fill(0, 64, 0);
        $apart = array_fill(0, 64, 0.0);
        $lone = [];
        // The stretches of slots around the cell that was looked at last: points of one cell share them.
        $first = $last = array_fill(0, 2 * (2 * self::SHELLS + 1) ** 2, 0);
        $runs = 0;
        $atX = $atY = $atZ = $atRadius = -1;
        $px = $py = $pz = 0.0;
        $before = 1e300;
        for ($out = 0; $out < $count; $out++) {
            $i = $slots === null ? $out : $slots[$out];
            $o = 3 * $i;
            $x = $s[$o];
            $y = $s[$o + 1];
            $z = $s[$o + 2];
            $fx = ($x - $x0) * $w;
            $fy = ($y - $y0) * $w;
            $fz = ($z - $z0) * $w;
            $cx = (int) $fx;
            $cy = (int) $fy;
            $cz = (int) $fz;
            // Distance from the point to the nearest wall of its cell, so that shells end as early as they may.
            $wall = $fx - $cx;
            if ($wall > 0.5) {
                $wall = 1.0 - $wall;
            }
            $side = $fy - $cy;
            if ($side > 0.5) {
                $side = 1.0 - $side;
            }
            if ($side < $wall) {
                $wall = $side;
            }
            $side = $fz - $cz;
            if ($side > 0.5) {
                $side = 1.0 - $side;
            }
            if ($side < $wall) {
                $wall = $side;
            }
            // The neighbours of the point before lie within their reach and the way from it: k of all points are not farther than that.
            $dx = $x - $px;
            $dy = $y - $py;
            $dz = $z - $pz;
            $bound = sqrt($before) + sqrt($dx * $dx + $dy * $dy + $dz * $dz);
            // A hair more: in one place with k others it would be zero, and nothing is nearer than that.
            $bound = 1.000001 * $bound * $bound + 1e-300;
            $radius = 1;
            while (true) {
                if ($cx !== $atX || $cy !== $atY || $cz !== $atZ || $radius !== $atRadius) {
                    // The columns of cells around this one, as stretches of slots: cells of a column stand one behind the other within a block.
                    $runs = 0;
                    $ax = $cx > $radius ? $cx - $radius : 0;
                    $ex = $cx + $radius < $mx ? $cx + $radius : $mx;
                    $ay = $cy > $radius ? $cy - $radius : 0;
                    $ey = $cy + $radius < $my ? $cy + $radius : $my;
                    $az = $cz > $radius ? $cz - $radius : 0;
                    $ez = $cz + $radius < $mz ? $cz + $radius : $mz;
                    for ($ix = $ax; $ix <= $ex; $ix++) {
                        for ($iy = $ay; $iy <= $ey; $iy++) {
                            $tb = (($ix >> 3) * $by + ($iy >> 3)) * $bz;
                            $lb = (($ix & 7) << 6) | (($iy & 7) << 3);
                            for ($iz = $az; $iz <= $ez; $iz = $to + 1) {
                                $to = $iz | 7;
                                if ($to > $ez) {
                                    $to = $ez;
                                }
                                $cell = $top[$tb + ($iz >> 3)];
                                if ($cell >= 0) {
                                    $q = $st[$cell + ($lb | ($iz & 7))];
                                    $end = $st[$cell + ($lb | ($to & 7)) + 1];
                                    if ($q < $end) {
                                        $first[$runs] = 3 * $q;
                                        $last[$runs] = 3 * $end;
                                        $runs++;
                                    }
                                }
                            }
                        }
                    }
                    $atX = $cx;
                    $atY = $cy;
                    $atZ = $cz;
                    $atRadius = $radius;
                }
                $found = $seen = 0;
                $worst = $bound;
                $at = 0;
                for ($run = 0; $run < $runs; $run++) {
                    for ($q = $first[$run], $end = $last[$run]; $q < $end; $q += 3) {
                        $dx = $s[$q] - $x;
                        $dy = $s[$q + 1] - $y;
                        $dz = $s[$q + 2] - $z;
                        $d = $dx * $dx + $dy * $dy + $dz * $dz;
                        if ($d < $worst) {
                            $slot[$seen] = $q;
                            $apart[$seen++] = $d;
                            if ($found < $k) {
                                $dist[$found] = $d;
                                $found++;
                                if ($found < $k) {
                                    continue;
                                }
                            } else {
                                $dist[$at] = $d;
                            }
                            $worst = $dist[0];
                            $at = 0;
                            for ($m = 1; $m < $k; $m++) {
                                $v = $dist[$m];
                                if ($v > $worst) {
                                    $worst = $v;
                                    $at = $m;
                                }
                            }
                            // All in one place, as some scanners write what they did not see: nothing is nearer, and there may be a million.
                            if ($worst === 0.0) {
                                break 2;
                            }
                        }
                    }
                }
                $reach = ($radius + $wall) * $h;
                if (($found >= $k && $worst <= $reach * $reach) || $radius > $far) {
                    break;
                }
                if ($radius === self::SHELLS) {
                    $lone[] = $out;

                    continue 2;
                }
                $radius++;
            }
            $px = $x;
            $py = $y;
            $pz = $z;
            $before = $worst;
            // Summed up in the order of slots, so that the result is the same to the last bit whoever was asked about before.
            $sx = $sy = $sz = $xx = $xy = $xz = $yy = $yz = $zz = $sum = 0.0;
            $found = 0;
            for ($m = 0; $m < $seen; $m++) {
                $d = $apart[$m];
                if ($d > $worst) {
                    continue;
                }
                $found++;
                $q = $slot[$m];
                $dx = $s[$q] - $x;
                $dy = $s[$q + 1] - $y;
                $dz = $s[$q + 2] - $z;
                $sx += $dx;
                $sy += $dy;
                $sz += $dz;
                $xx += $dx * $dx;
                $xy += $dx * $dy;
                $xz += $dx * $dz;
                $yy += $dy * $dy;
                $yz += $dy * $dz;
                $zz += $dz * $dz;
                $sum += sqrt($d);
            }
            $f = 1.0 / $found;
            $lean[$out] = $sum > 0.0 ? sqrt($sx * $sx + $sy * $sy + $sz * $sz) / $sum : 1.0;
            $xx -= $sx * $sx * $f;
            $xy -= $sx * $sy * $f;
            $xz -= $sx * $sz * $f;
            $yy -= $sy * $sy * $f;
            $yz -= $sy * $sz * $f;
            $zz -= $sz * $sz * $f;
            $spacing[$out] = $found > 1 ? $sum / ($found - 1) : INF;
            $qm = ($xx + $yy + $zz) / 3.0;
            $a = $xx - $qm;
            $b = $yy - $qm;
            $c = $zz - $qm;
            $pp = ($a * $a + $b * $b + $c * $c + 2.0 * ($xy * $xy + $xz * $xz + $yz * $yz)) / 6.0;
            if ($pp > 1e-300) {
                $ps = sqrt($pp);
                $det = ($a * ($b * $c - $yz * $yz) - $xy * ($xy * $c - $yz * $xz) + $xz * ($xy * $yz - $b * $xz)) / (2.0 * $pp * $ps);
                if ($det > 1.0) {
                    $det = 1.0;
                } elseif ($det < -1.0) {
                    $det = -1.0;
                }
                $l = $qm + 2.0 * $ps * cos(acos($det) / 3.0 + 2.0943951023931953);
                $bend[$out] = $l > 0.0 ? $l / (3.0 * $qm) : 0.0;
                // Three of the residuals go into the plane.
                $across[$out] = $l > 0.0 && $found > 3 ? sqrt($l / ($found - 3)) : 0.0;
                $a = $xx - $l;
                $b = $yy - $l;
                $c = $zz - $l;
                $ux = $xy * $yz - $xz * $b;
                $uy = $xz * $xy - $a * $yz;
                $uz = $a * $b - $xy * $xy;
                $n1 = $ux * $ux + $uy * $uy + $uz * $uz;
                $vx = $xy * $c - $xz * $yz;
                $vy = $xz * $xz - $a * $c;
                $vz = $a * $yz - $xz * $xy;
                $n2 = $vx * $vx + $vy * $vy + $vz * $vz;
                if ($n2 > $n1) {
                    $ux = $vx;
                    $uy = $vy;
                    $uz = $vz;
                    $n1 = $n2;
                }
                $vx = $b * $c - $yz * $yz;
                $vy = $yz * $xz - $xy * $c;
                $vz = $xy * $yz - $b * $xz;
                $n2 = $vx * $vx + $vy * $vy + $vz * $vz;
                if ($n2 > $n1) {
                    $ux = $vx;
                    $uy = $vy;
                    $uz = $vz;
                    $n1 = $n2;
                }
                if ($n1 > 0.0) {
                    $l = 1.0 / sqrt($n1);
                    $o = 3 * $out;
                    $normals[$o] = $ux * $l;
                    $normals[$o + 1] = $uy * $l;
                    $normals[$o + 2] = $uz * $l;
                    $d = ($ux * $sx + $uy * $sy + $uz * $sz) * $l * $f;
                    $aside[$out] = $d < 0.0 ? -$d : $d;
                }
            }
        }
        if ($leavesLone && 4 * count($lone) < $count) {
            foreach ($lone as $out) {
                $spacing[$out] = INF;
            }
        } elseif ($lone !== []) {
            // Points far from the others find them in a coarser grid: shells of small cells would be endless.
            $coarse = self::of($s, 3.0 * $h);
            $at = array_flip($coarse->order);
            $found = $coarse->neighbourhoods($k, array_map(fn (int $out) => $at[$slots === null ? $out : $slots[$out]], $lone));
            foreach ($lone as $j => $out) {
                for ($c = 0; $c < 3; $c++) {
                    $normals[3 * $out + $c] = $found['normals'][3 * $j + $c];
                }
                $spacing[$out] = $found['spacing'][$j];
                $lean[$out] = $found['lean'][$j];
                $bend[$out] = $found['bend'][$j];
                $across[$out] = $found['across'][$j];
                $aside[$out] = $found['off'][$j];
            }
        }

        return ['normals' => $normals, 'spacing' => $spacing, 'lean' => $lean, 'bend' => $bend, 'across' => $across, 'off' => $aside];
    }

    /**
     * How many others lie within a radius of each point, counted up to a limit.
     *
     * @param  float  $radius  some cells at most
     * @return list<int> in slot order
     */
    public function crowd(float $radius, int $limit): array
    {
        [$top, $st, $s] = [$this->top, $this->start, $this->sorted];
        [$x0, $y0, $z0, $by, $bz] = [$this->x0, $this->y0, $this->z0, $this->by, $this->bz];
        $w = 1.0 / $this->cell;
        [$mx, $my, $mz] = [8 * $this->bx - 1, 8 * $by - 1, 8 * $bz - 1];
        $shells = (int) ceil($radius * $w);
        $radiusSq = $radius * $radius;
        $counts = [];
        for ($o = 0, $e = count($s); $o < $e; $o += 3) {
            $x = $s[$o];
            $y = $s[$o + 1];
            $z = $s[$o + 2];
            $cx = (int) (($x - $x0) * $w);
            $cy = (int) (($y - $y0) * $w);
            $cz = (int) (($z - $z0) * $w);
            // The point itself is found too.
            $found = -1;
            for ($ix = max(0, $cx - $shells), $ex = min($mx, $cx + $shells); $ix <= $ex && $found < $limit; $ix++) {
                for ($iy = max(0, $cy - $shells), $ey = min($my, $cy + $shells); $iy <= $ey && $found < $limit; $iy++) {
                    for ($iz = max(0, $cz - $shells), $ez = min($mz, $cz + $shells); $iz <= $ez && $found < $limit; $iz++) {
                        $cell = $top[(($ix >> 3) * $by + ($iy >> 3)) * $bz + ($iz >> 3)];
                        if ($cell < 0) {
                            continue;
                        }
                        $cell += ($ix & 7) << 6 | ($iy & 7) << 3 | $iz & 7;
                        for ($q = 3 * $st[$cell], $end = 3 * $st[$cell + 1]; $q < $end && $found < $limit; $q += 3) {
                            $dx = $s[$q] - $x;
                            $dy = $s[$q + 1] - $y;
                            $dz = $s[$q + 2] - $z;
                            if ($dx * $dx + $dy * $dy + $dz * $dz <= $radiusSq) {
                                $found++;
                            }
                        }
                    }
                }
            }
            $counts[] = $found < $limit ? $found : $limit;
        }

        return $counts;
    }

    /**
     * The typical distance from a point to its nearest neighbour: the median over a sample.
     */
    public function medianSpacing(int $sample = 2000): float
    {
        $n = $this->count();
        if ($n < 2) {
            return 1.0;
        }
        // Among the two nearest one is the point itself.
        $nearest = $this->neighbourhoods(2, range(0, $n - 1, max(1, intdiv($n, $sample))), true)['spacing'];

        return max(1e-9, Median::of($nearest));
    }
}
