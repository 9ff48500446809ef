<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Search;

/**
 * Nearest neighbour among points: an implicit, perfectly balanced kd-tree (Bentley 1975) with buckets, flat arrays.
 */
final readonly class KdTree
{
    /**
     * @param  array<int, int>  $axis  split axis of inner node v (1-based)
     * @param  array<int, float>  $value  split value
     * @param  array<int, int>  $leaf  offset of each leaf's first coordinate in $sorted; one entry more than leaves
     * @param  array<int, float>  $sorted  flat xyz in leaf order
     * @param  array<int, int>  $order  leaf order => index of the point
     */
    private function __construct(
        public array $axis,
        public array $value,
        public array $leaf,
        public array $sorted,
        public array $order,
        public int $inner,
    ) {
    }

    /**
     * Points already sorted in space (a grid's slot order) build twice as fast as points at random.
     *
     * @param  array<int, float>  $p  flat xyz
     */
    public static function of(array $p, int $bucket = 10): self
    {
        $n = intdiv(count($p), 3);
        $depth = 0;
        while (($n >> $depth) > $bucket) {
            $depth++;
        }
        $nn = 1 << $depth;
        $ord = $n > 0 ? range(0, $n - 1) : [];
        $axis = array_fill(0, $nn, 0);
        $value = array_fill(0, $nn, 0.0);
        $lo = array_fill(0, 2 * $nn, 0);
        $hi = array_fill(0, 2 * $nn, 0);
        $hi[1] = $n;
        for ($v = 1; $v < $nn; $v++) {
            $l = $lo[$v];
            $r = $hi[$v];
            $x0 = $y0 = $z0 = INF;
            $x1 = $y1 = $z1 = -INF;
            $step = ($r - $l) > 4096 ? (($r - $l) >> 10) : 1;
            for ($i = $l; $i < $r; $i += $step) {
                $j = 3 * $ord[$i];
                $x = $p[$j];
                $y = $p[$j + 1];
                $z = $p[$j + 2];
                if ($x < $x0) {
                    $x0 = $x;
                }
                if ($x > $x1) {
                    $x1 = $x;
                }
                if ($y < $y0) {
                    $y0 = $y;
                }
                if ($y > $y1) {
                    $y1 = $y;
                }
                if ($z < $z0) {
                    $z0 = $z;
                }
                if ($z > $z1) {
                    $z1 = $z;
                }
            }
            $dx = $x1 - $x0;
            $dy = $y1 - $y0;
            $dz = $z1 - $z0;
            $d = $dx > $dy ? ($dx > $dz ? 0 : 2) : ($dy > $dz ? 1 : 2);
            $k = ($l + $r) >> 1;
            $left = $l;
            $right = $r - 1;
            while ($left < $right) {
                $a = $p[3 * $ord[$left] + $d];
                $b = $p[3 * $ord[($left + $right) >> 1] + $d];
                $c = $p[3 * $ord[$right] + $d];
                $pivot = $a < $b ? ($b < $c ? $b : ($a < $c ? $c : $a)) : ($a < $c ? $a : ($b < $c ? $c : $b));
                $i = $left;
                $j = $right;
                while ($i <= $j) {
                    $oi = $ord[$i];
                    while ($p[3 * $oi + $d] < $pivot) {
                        $i++;
                        $oi = $ord[$i];
                    }
                    $oj = $ord[$j];
                    while ($p[3 * $oj + $d] > $pivot) {
                        $j--;
                        $oj = $ord[$j];
                    }
                    if ($i <= $j) {
                        $ord[$i] = $oj;
                        $ord[$j] = $oi;
                        $i++;
                        $j--;
                    }
                }
                if ($k <= $j) {
                    $right = $j;
                } elseif ($k >= $i) {
                    $left = $i;
                } else {
                    break;
                }
            }
            $axis[$v] = $d;
            $value[$v] = $p[3 * $ord[$k] + $d];
            $lo[2 * $v] = $l;
            $hi[2 * $v] = $k;
            $lo[2 * $v + 1] = $k;
            $hi[2 * $v + 1] = $r;
        }
        $sorted = array_fill(0, 3 * $n, 0.0);
        for ($i = 0, $j = 0; $i < $n; $i++, $j += 3) {
            $o = 3 * $ord[$i];
            $sorted[$j] = $p[$o];
            $sorted[$j + 1] = $p[$o + 1];
            $sorted[$j + 2] = $p[$o + 2];
        }
        $leaf = [];
        for ($i = 0; $i < $nn; $i++) {
            $leaf[] = 3 * $lo[$nn + $i];
        }
        $leaf[] = 3 * $n;

        return new self($axis, $value, $leaf, $sorted, $ord, $nn);
    }

    /**
     * For each query the nearest point nearer than the limit.
     *
     * @param  array<int, float>  $q  flat xyz
     * @param  array<int, int>  $nearest  (changed) offsets into `sorted`, -1 for none
     * @param  array<int, float>  $distanceSq  (changed)
     */
    public function nearest(array $q, float $limit, array &$nearest, array &$distanceSq): void
    {
        $sd = $this->axis;
        $sv = $this->value;
        $ls = $this->leaf;
        $s = $this->sorted;
        $nn = $this->inner;
        $n = intdiv(count($q), 3);
        $limitSq = $limit * $limit;
        $found = array_fill(0, $n, -1);
        $dist = array_fill(0, $n, 0.0);
        $stack = array_fill(0, 64, 0);
        $bound = array_fill(0, 64, 0.0);
        for ($i = 0, $j = 0; $i < $n; $i++, $j += 3) {
            $x = $q[$j];
            $y = $q[$j + 1];
            $z = $q[$j + 2];
            $best = $limitSq;
            $bi = -1;
            $sp = 1;
            $stack[0] = 1;
            $bound[0] = 0.0;
            while ($sp > 0) {
                $sp--;
                if ($bound[$sp] >= $best) {
                    continue;
                }
                $v = $stack[$sp];
                while ($v < $nn) {
                    $d = $sd[$v];
                    $df = ($d === 0 ? $x : ($d === 1 ? $y : $z)) - $sv[$v];
                    $v += $v;
                    if ($df >= 0.0) {
                        $stack[$sp] = $v;
                        $v++;
                    } else {
                        $stack[$sp] = $v + 1;
                    }
                    $bound[$sp] = $df * $df;
                    $sp++;
                }
                $v -= $nn;
                for ($o = $ls[$v], $e = $ls[$v + 1]; $o < $e; $o += 3) {
                    $dx = $s[$o] - $x;
                    $dy = $s[$o + 1] - $y;
                    $dz = $s[$o + 2] - $z;
                    $d2 = $dx * $dx + $dy * $dy + $dz * $dz;
                    if ($d2 < $best) {
                        $best = $d2;
                        $bi = $o;
                    }
                }
            }
            $found[$i] = $bi;
            $dist[$i] = $best;
        }
        $nearest = $found;
        $distanceSq = $dist;
    }

    /**
     * For each query the nearest point nearer than the limit, and how far it is to any other: the limit at most.
     *
     * The walk of nearest() once more, bounded by the second nearest: it looks into more leaves, which plain searches need not pay for.
     *
     * @param  array<int, float>  $q  flat xyz
     * @param  array<int, int>  $nearest  (changed) offsets into `sorted`, -1 for none
     * @param  array<int, float>  $clear  (changed) no point but the nearest is nearer than this
     */
    public function nearestAndClear(array $q, float $limit, array &$nearest, array &$clear): void
    {
        $sd = $this->axis;
        $sv = $this->value;
        $ls = $this->leaf;
        $s = $this->sorted;
        $nn = $this->inner;
        $n = intdiv(count($q), 3);
        $limitSq = $limit * $limit;
        $found = array_fill(0, $n, -1);
        $free = array_fill(0, $n, 0.0);
        $stack = array_fill(0, 64, 0);
        $bound = array_fill(0, 64, 0.0);
        for ($i = 0, $j = 0; $i < $n; $i++, $j += 3) {
            $x = $q[$j];
            $y = $q[$j + 1];
            $z = $q[$j + 2];
            $best = $next = $limitSq;
            $bi = -1;
            $sp = 1;
            $stack[0] = 1;
            $bound[0] = 0.0;
            while ($sp > 0) {
                $sp--;
                if ($bound[$sp] >= $next) {
                    continue;
                }
                $v = $stack[$sp];
                while ($v < $nn) {
                    $d = $sd[$v];
                    $df = ($d === 0 ? $x : ($d === 1 ? $y : $z)) - $sv[$v];
                    $v += $v;
                    if ($df >= 0.0) {
                        $stack[$sp] = $v;
                        $v++;
                    } else {
                        $stack[$sp] = $v + 1;
                    }
                    $bound[$sp] = $df * $df;
                    $sp++;
                }
                $v -= $nn;
                for ($o = $ls[$v], $e = $ls[$v + 1]; $o < $e; $o += 3) {
                    $dx = $s[$o] - $x;
                    $dy = $s[$o + 1] - $y;
                    $dz = $s[$o + 2] - $z;
                    $d2 = $dx * $dx + $dy * $dy + $dz * $dz;
                    if ($d2 < $next) {
                        if ($d2 < $best) {
                            $next = $best;
                            $best = $d2;
                            $bi = $o;
                        } else {
                            $next = $d2;
                        }
                    }
                }
            }
            $found[$i] = $bi;
            $free[$i] = sqrt($next);
        }
        $nearest = $found;
        $clear = $free;
    }
}
