<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Search;

/**
 * Bounding volume hierarchy over triangles: boxes of siblings side by side, corners named in leaf order: the mesh's own
 * coordinates are shared, not copied, and lie in the cache for the neighbours too.
 *
 * Source    splits half-way along the widest axis of the triangles' centres; closest point on a triangle after Ericson 2005, 5.1.5.
 */
final readonly class TriangleBvh
{
    /** Deeper than any tree: a split halves an extent of 2^20 on one of three axes, or a count. */
    private const DEPTH = 128;

    /** Points or rays from which on sorting them costs less than the memory they would call for in any order. */
    private const WORTH_SORTING = 5000;

    /**
     * @param  array<int, float>  $boxes  six numbers a node (min xyz, max xyz); node 0 is the root
     * @param  array<int, float>  $points  flat xyz, those of the mesh
     * @param  array<int, int>  $corners  where in them the three corners of a triangle begin, in leaf order
     * @param  array<int, int>  $link  inner node => its first child << 2 | axis of the split, the other child is the next; leaf => -1 - (first triangle << 3 | how many)
     * @param  array<int, int>  $order  leaf order => face index
     */
    private function __construct(
        public array $boxes,
        public array $points,
        public array $corners,
        public array $link,
        public array $order,
    ) {
    }

    /**
     * @param  array<int, float>  $P  flat xyz
     * @param  array<int, int>  $T  flat vertex indices, at least one face
     */
    public static function of(array $P, array $T): self
    {
        [$link, $order] = TriangleTree::split($P, $T);
        $nf = count($order);
        $corners = array_fill(0, 3 * $nf, 0);
        for ($i = 0, $o = 0; $i < $nf; $i++, $o += 3) {
            $j = 3 * $order[$i];
            $corners[$o] = 3 * $T[$j];
            $corners[$o + 1] = 3 * $T[$j + 1];
            $corners[$o + 2] = 3 * $T[$j + 2];
        }

        return new self(TriangleTree::boxes($link, $P, $corners), $P, $corners, $link, $order);
    }

    /**
     * The nearest triangle of each query, if nearer than sqrt($limit).
     *
     * @param  array<int, float>  $q  flat xyz
     * @param  array<int, int>  $face  (changed) face index, -1 for none
     * @param  array<int, float>  $distanceSq  (changed)
     */
    public function closest(array $q, array &$face, array &$distanceSq, float $limit = 1e300): void
    {
        $B = $this->boxes;
        $P = $this->points;
        $T = $this->corners;
        $link = $this->link;
        $ord = $this->order;
        $nq = intdiv(count($q), 3);
        if ($nq === 0) {
            $face = $distanceSq = [];

            return;
        }
        $dist = array_fill(0, $nq, 0.0);
        $stk = array_fill(0, self::DEPTH, 0);
        $sd = array_fill(0, self::DEPTH, 0.0);
        $res = array_fill(0, $nq, -1);
        $reach = sqrt($limit);
        $last = $reach;
        $lx = $ly = $lz = 0.0;
        foreach ($nq < self::WORTH_SORTING ? range(0, $nq - 1) : CurveOrder::ofPoints($q, array_slice($this->boxes, 0, 6)) as $i) {
            $i &= CurveOrder::NUMBER;
            $j = 3 * $i;
            $x = $q[$j];
            $y = $q[$j + 1];
            $z = $q[$j + 2];
            // No face is farther than the last one found and the way from there.
            $dx = $x - $lx;
            $dy = $y - $ly;
            $dz = $z - $lz;
            $best = $last + sqrt($dx * $dx + $dy * $dy + $dz * $dz);
            $best = $best < $reach ? $best * $best * 1.000001 + 1e-300 : $limit;
            $lx = $x;
            $ly = $y;
            $lz = $z;
            $bi = -1;
            $sp = 1;
            $stk[0] = 0;
            $sd[0] = 0.0;
            while ($sp > 0) {
                $sp--;
                if ($sd[$sp] >= $best) {
                    continue;
                } $v = $stk[$sp];
                while (($k = $link[$v]) >= 0) {
                    $v = $k >> 2;
                    $o = 6 * $v;
                    $k &= 3;
                    // How far it lies beyond the first child, and before the second, along the axis of the split.
                    $d = $k === 0 ? $x : ($k === 1 ? $y : $z);
                    $d1 = $d - $B[$o + 3 + $k];
                    $d2 = $B[$o + 6 + $k] - $d;
                    // The nearer child is gone into unseen; of the other one, that distance mostly says enough.
                    if ($d1 <= $d2) {
                        if ($d2 > 0.0 && $d2 * $d2 >= $best) {
                            continue;
                        }
                        $far = $v + 1;
                        $o += 6;
                    } else {
                        $far = $v++;
                        if ($d1 > 0.0 && $d1 * $d1 >= $best) {
                            continue;
                        }
                    }
                    $d = $B[$o] - $x;
                    if ($d < 0.0) {
                        $d = $x - $B[$o + 3];
                        if ($d < 0.0) {
                            $d = 0.0;
                        }
                    }
                    $d1 = $d * $d;
                    $d = $B[$o + 1] - $y;
                    if ($d < 0.0) {
                        $d = $y - $B[$o + 4];
                        if ($d < 0.0) {
                            $d = 0.0;
                        }
                    }
                    $d1 += $d * $d;
                    $d = $B[$o + 2] - $z;
                    if ($d < 0.0) {
                        $d = $z - $B[$o + 5];
                        if ($d < 0.0) {
                            $d = 0.0;
                        }
                    }
                    $d1 += $d * $d;
                    if ($d1 < $best) {
                        $stk[$sp] = $far;
                        $sd[$sp] = $d1;
                        $sp++;
                    }
                }
                $k = -1 - $k;
                $e = ($k >> 3) + ($k & 7);
                for ($k >>= 3; $k < $e; $k++) {
                    $o = 3 * $k; // Ericson closest point on triangle
                    $ca = $T[$o];
                    $cb = $T[$o + 1];
                    $cc = $T[$o + 2];
                    $ax = $P[$ca];
                    $ay = $P[$ca + 1];
                    $az = $P[$ca + 2];
                    $abx = $P[$cb] - $ax;
                    $aby = $P[$cb + 1] - $ay;
                    $abz = $P[$cb + 2] - $az;
                    $acx = $P[$cc] - $ax;
                    $acy = $P[$cc + 1] - $ay;
                    $acz = $P[$cc + 2] - $az;
                    $apx = $x - $ax;
                    $apy = $y - $ay;
                    $apz = $z - $az;
                    $d1 = $abx * $apx + $aby * $apy + $abz * $apz;
                    $d2 = $acx * $apx + $acy * $apy + $acz * $apz;
                    if ($d1 <= 0.0 && $d2 <= 0.0) {
                        $px = $apx;
                        $py = $apy;
                        $pz = $apz;
                    } else {
                        $ab2 = $abx * $abx + $aby * $aby + $abz * $abz;
                        $ac2 = $acx * $acx + $acy * $acy + $acz * $acz;
                        $abc = $abx * $acx + $aby * $acy + $abz * $acz;
                        $d3 = $d1 - $ab2;
                        $d4 = $d2 - $abc;
                        if ($d3 >= 0.0 && $d4 <= $d3) {
                            $px = $apx - $abx;
                            $py = $apy - $aby;
                            $pz = $apz - $abz;
                        } else {
                            $d5 = $d1 - $abc;
                            $d6 = $d2 - $ac2;
                            if ($d6 >= 0.0 && $d5 <= $d6) {
                                $px = $apx - $acx;
                                $py = $apy - $acy;
                                $pz = $apz - $acz;
                            } else {
                                $vc = $d1 * $d4 - $d3 * $d2;
                                if ($vc <= 0.0 && $d1 >= 0.0 && $d3 <= 0.0) {
                                    $w = $d1 / (($d1 - $d3) ?: 1.0);
                                    $px = $apx - $w * $abx;
                                    $py = $apy - $w * $aby;
                                    $pz = $apz - $w * $abz;
                                } else {
                                    $vb = $d5 * $d2 - $d1 * $d6;
                                    if ($vb <= 0.0 && $d2 >= 0.0 && $d6 <= 0.0) {
                                        $w = $d2 / (($d2 - $d6) ?: 1.0);
                                        $px = $apx - $w * $acx;
                                        $py = $apy - $w * $acy;
                                        $pz = $apz - $w * $acz;
                                    } else {
                                        $va = $d3 * $d6 - $d5 * $d4;
                                        $d43 = $d4 - $d3;
                                        $d56 = $d5 - $d6;
                                        if ($va <= 0.0 && $d43 >= 0.0 && $d56 >= 0.0) {
                                            $w = $d43 / (($d43 + $d56) ?: 1.0);
                                            $u = 1.0 - $w;
                                            $px = $apx - $u * $abx - $w * $acx;
                                            $py = $apy - $u * $aby - $w * $acy;
                                            $pz = $apz - $u * $abz - $w * $acz;
                                        } else {
                                            // A face without area has no inside; one of its edges was nearest.
                                            $w = $va + $vb + $vc;
                                            $w = $w !== 0.0 ? 1.0 / $w : 0.0;
                                            $u = $vb * $w;
                                            $w *= $vc;
                                            $px = $apx - $u * $abx - $w * $acx;
                                            $py = $apy - $u * $aby - $w * $acy;
                                            $pz = $apz - $u * $abz - $w * $acz;
                                        }
                                    }
                                }
                            }
                        }
                    }
                    $d = $px * $px + $py * $py + $pz * $pz;
                    if ($d < $best) {
                        $best = $d;
                        $bi = $k;
                    }
                }
            }
            $last = $bi < 0 ? $reach : sqrt($best);
            $dist[$i] = $best;
            $res[$i] = $bi < 0 ? -1 : $ord[$bi];
        }
        $face = $res;
        $distanceSq = $dist;
    }

    /**
     * The first triangle each ray meets, from either side.
     *
     * Source    slabs (Kay & Kajiya 1986) in the order of the way in; Möller & Trumbore 1997.
     *
     * @param  array<int, float>  $rays  six numbers a ray: origin, direction (of any length but 0)
     * @param  array<int, int>  $face  (changed) face index, -1 where it meets none
     * @param  array<int, float>  $way  (changed) how many times the direction from the origin, INF where it meets none
     * @param  float  $least  what is met before this is passed by, in directions
     */
    public function firstAlong(array $rays, array &$face, array &$way, float $least = 0.0): void
    {
        $B = $this->boxes;
        $P = $this->points;
        $T = $this->corners;
        $link = $this->link;
        $ord = $this->order;
        $n = intdiv(count($rays), 6);
        if ($n === 0) {
            $face = $way = [];

            return;
        }
        $hit = array_fill(0, $n, -1);
        $far = array_fill(0, $n, INF);
        $stk = array_fill(0, self::DEPTH, 0);
        $sd = array_fill(0, self::DEPTH, 0.0);
        foreach ($n < self::WORTH_SORTING ? range(0, $n - 1) : CurveOrder::ofRays($rays, array_slice($this->boxes, 0, 6)) as $i) {
            $i &= CurveOrder::NUMBER;
            $j = 6 * $i;
            $x = $rays[$j];
            $y = $rays[$j + 1];
            $z = $rays[$j + 2];
            $dx = $rays[$j + 3];
            $dy = $rays[$j + 4];
            $dz = $rays[$j + 5];
            $ix = $dx !== 0.0 ? 1.0 / $dx : 1e300;
            $iy = $dy !== 0.0 ? 1.0 / $dy : 1e300;
            $iz = $dz !== 0.0 ? 1.0 / $dz : 1e300;
            // Offsets of the side where the ray enters and of the one where it leaves, axis by axis.
            $sx = $ix < 0.0 ? 3 : 0;
            $sy = $iy < 0.0 ? 4 : 1;
            $sz = $iz < 0.0 ? 5 : 2;
            $ex = 3 - $sx;
            $ey = 5 - $sy;
            $ez = 7 - $sz;
            $best = 1e300;
            $bi = -1;
            $sp = 1;
            $stk[0] = 0;
            $sd[0] = -1e300;
            while ($sp > 0) {
                $sp--;
                if ($sd[$sp] >= $best) {
                    continue;
                }
                $v = $stk[$sp];
                while (($k = $link[$v]) >= 0) {
                    $v = $k >> 2;
                    $o = 6 * $v;
                    $t0 = ($B[$o + $sx] - $x) * $ix;
                    $t1 = ($B[$o + $ex] - $x) * $ix;
                    $a = ($B[$o + $sy] - $y) * $iy;
                    if ($a > $t0) {
                        $t0 = $a;
                    }
                    $a = ($B[$o + $ey] - $y) * $iy;
                    if ($a < $t1) {
                        $t1 = $a;
                    }
                    $a = ($B[$o + $sz] - $z) * $iz;
                    if ($a > $t0) {
                        $t0 = $a;
                    }
                    $a = ($B[$o + $ez] - $z) * $iz;
                    if ($a < $t1) {
                        $t1 = $a;
                    }
                    $left = $t0 <= $t1 && $t1 >= $least && $t0 < $best;
                    $o += 6;
                    $u0 = ($B[$o + $sx] - $x) * $ix;
                    $u1 = ($B[$o + $ex] - $x) * $ix;
                    $a = ($B[$o + $sy] - $y) * $iy;
                    if ($a > $u0) {
                        $u0 = $a;
                    }
                    $a = ($B[$o + $ey] - $y) * $iy;
                    if ($a < $u1) {
                        $u1 = $a;
                    }
                    $a = ($B[$o + $sz] - $z) * $iz;
                    if ($a > $u0) {
                        $u0 = $a;
                    }
                    $a = ($B[$o + $ez] - $z) * $iz;
                    if ($a < $u1) {
                        $u1 = $a;
                    }
                    if ($u0 <= $u1 && $u1 >= $least && $u0 < $best) {
                        if (! $left) {
                            $v++;
                        } elseif ($t0 <= $u0) {
                            $stk[$sp] = $v + 1;
                            $sd[$sp] = $u0;
                            $sp++;
                        } else {
                            $stk[$sp] = $v;
                            $sd[$sp] = $t0;
                            $sp++;
                            $v++;
                        }
                    } elseif (! $left) {
                        continue 2;
                    }
                }
                $k = -1 - $k;
                $e = ($k >> 3) + ($k & 7);
                for ($k >>= 3; $k < $e; $k++) {
                    $o = 3 * $k;
                    $ca = $T[$o];
                    $cb = $T[$o + 1];
                    $cc = $T[$o + 2];
                    $ax = $P[$ca];
                    $ay = $P[$ca + 1];
                    $az = $P[$ca + 2];
                    $abx = $P[$cb] - $ax;
                    $aby = $P[$cb + 1] - $ay;
                    $abz = $P[$cb + 2] - $az;
                    $acx = $P[$cc] - $ax;
                    $acy = $P[$cc + 1] - $ay;
                    $acz = $P[$cc + 2] - $az;
                    $px = $dy * $acz - $dz * $acy;
                    $py = $dz * $acx - $dx * $acz;
                    $pz = $dx * $acy - $dy * $acx;
                    $det = $abx * $px + $aby * $py + $abz * $pz;
                    if ($det === 0.0) {
                        continue;
                    }
                    $w = 1.0 / $det;
                    $tx = $x - $ax;
                    $ty = $y - $ay;
                    $tz = $z - $az;
                    $u = ($tx * $px + $ty * $py + $tz * $pz) * $w;
                    if ($u < 0.0 || $u > 1.0) {
                        continue;
                    }
                    $qx = $ty * $abz - $tz * $aby;
                    $qy = $tz * $abx - $tx * $abz;
                    $qz = $tx * $aby - $ty * $abx;
                    $vv = ($dx * $qx + $dy * $qy + $dz * $qz) * $w;
                    if ($vv < 0.0 || $u + $vv > 1.0) {
                        continue;
                    }
                    $t = ($acx * $qx + $acy * $qy + $acz * $qz) * $w;
                    if ($t > $least && $t < $best) {
                        $best = $t;
                        $bi = $k;
                    }
                }
            }
            if ($bi >= 0) {
                $hit[$i] = $ord[$bi];
                $far[$i] = $best;
            }
        }
        $face = $hit;
        $way = $far;
    }
}
