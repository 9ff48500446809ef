<?php

declare(strict_types=1);

namespace Emberstone\Core\Spatial;

/**
 * Bounding volume hierarchy over triangles: boxes of siblings side by side, corners copied in leaf order.
 *
 * Source    splits half-way along the widest axis of the triangles' centres; closest point on a triangle after Ericson 2005, 5.1.5.
 */
final readonly class TriangleBvh
{
    /** Deeper than any tree: a split halves an extent of 2^20 on one of three axes, or a count. */
    private const DEPTH = 128;

    /** From so many rays on, sorting them costs less than the memory they would call for in any order. */
    private const WORTH_SORTING = 5000;

    /**
     * @param  array<int, float>  $boxes  six numbers a node (min xyz, max xyz); node 0 is the root
     * @param  array<int, float>  $corners  nine numbers a triangle, in leaf order
     * @param  array<int, int>  $link  inner node => its first child, the other one is the next; leaf => -1 - (first triangle << 3 | how many)
     * @param  array<int, int>  $order  leaf order => face index
     */
    private function __construct(
        public array $boxes,
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
        $V = array_fill(0, 9 * $nf, 0.0);
        for ($i = 0, $o = 0; $i < $nf; $i++, $o += 9) {
            $j = 3 * $order[$i];
            $a = 3 * $T[$j];
            $b = 3 * $T[$j + 1];
            $c = 3 * $T[$j + 2];
            $V[$o] = $P[$a];
            $V[$o + 1] = $P[$a + 1];
            $V[$o + 2] = $P[$a + 2];
            $V[$o + 3] = $P[$b];
            $V[$o + 4] = $P[$b + 1];
            $V[$o + 5] = $P[$b + 2];
            $V[$o + 6] = $P[$c];
            $V[$o + 7] = $P[$c + 1];
            $V[$o + 8] = $P[$c + 2];
        }

        return new self(TriangleTree::boxes($link, $V), $V, $link, $order);
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
        $V = $this->corners;
        $link = $this->link;
        $ord = $this->order;
        $nq = intdiv(count($q), 3);
        $dist = array_fill(0, $nq, 0.0);
        $stk = array_fill(0, self::DEPTH, 0);
        $sd = array_fill(0, self::DEPTH, 0.0);
        $res = array_fill(0, $nq, -1);
        for ($i = 0,$j = 0; $i < $nq; $i++,$j += 3) {
            $x = $q[$j];
            $y = $q[$j + 1];
            $z = $q[$j + 2];
            $best = $limit;
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
                    $v = $k;
                    $o = 6 * $v;
                    $d = $B[$o] - $x;
                    if ($d < 0.0) {
                        $d = $x - $B[$o + 3];
                        if ($d < 0.0) {
                            $d = 0.0;
                        }
                    } $d1 = $d * $d;
                    $d = $B[$o + 1] - $y;
                    if ($d < 0.0) {
                        $d = $y - $B[$o + 4];
                        if ($d < 0.0) {
                            $d = 0.0;
                        }
                    } $d1 += $d * $d;
                    $d = $B[$o + 2] - $z;
                    if ($d < 0.0) {
                        $d = $z - $B[$o + 5];
                        if ($d < 0.0) {
                            $d = 0.0;
                        }
                    } $d1 += $d * $d;
                    $d = $B[$o + 6] - $x;
                    if ($d < 0.0) {
                        $d = $x - $B[$o + 9];
                        if ($d < 0.0) {
                            $d = 0.0;
                        }
                    } $d2 = $d * $d;
                    $d = $B[$o + 7] - $y;
                    if ($d < 0.0) {
                        $d = $y - $B[$o + 10];
                        if ($d < 0.0) {
                            $d = 0.0;
                        }
                    } $d2 += $d * $d;
                    $d = $B[$o + 8] - $z;
                    if ($d < 0.0) {
                        $d = $z - $B[$o + 11];
                        if ($d < 0.0) {
                            $d = 0.0;
                        }
                    } $d2 += $d * $d;
                    if ($d1 <= $d2) {
                        if ($d1 >= $best) {
                            continue 2;
                        } if ($d2 < $best) {
                            $stk[$sp] = $v + 1;
                            $sd[$sp] = $d2;
                            $sp++;
                        }
                    } else {
                        if ($d2 >= $best) {
                            continue 2;
                        } if ($d1 < $best) {
                            $stk[$sp] = $v;
                            $sd[$sp] = $d1;
                            $sp++;
                        } $v++;
                    }
                }
                $k = -1 - $k;
                $e = ($k >> 3) + ($k & 7);
                for ($k >>= 3; $k < $e; $k++) {
                    $o = 9 * $k; // Ericson closest point on triangle
                    $ax = $V[$o];
                    $ay = $V[$o + 1];
                    $az = $V[$o + 2];
                    $abx = $V[$o + 3] - $ax;
                    $aby = $V[$o + 4] - $ay;
                    $abz = $V[$o + 5] - $az;
                    $acx = $V[$o + 6] - $ax;
                    $acy = $V[$o + 7] - $ay;
                    $acz = $V[$o + 8] - $az;
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
        $V = $this->corners;
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
        foreach ($n < self::WORTH_SORTING ? range(0, $n - 1) : RayOrder::byEntry($rays, array_slice($this->boxes, 0, 6)) as $i) {
            $i &= RayOrder::RAY;
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
                    $v = $k;
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
                    $o = 9 * $k;
                    $ax = $V[$o];
                    $ay = $V[$o + 1];
                    $az = $V[$o + 2];
                    $abx = $V[$o + 3] - $ax;
                    $aby = $V[$o + 4] - $ay;
                    $abz = $V[$o + 5] - $az;
                    $acx = $V[$o + 6] - $ax;
                    $acy = $V[$o + 7] - $ay;
                    $acz = $V[$o + 8] - $az;
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
