<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Search;

/**
 * Builds what TriangleBvh asks: sorts triangles into a tree and bounds its nodes. The loops stand written out for speed.
 *
 * @internal
 */
final class TriangleTree
{
    /** Triangles a leaf at most; 4 to 6 are equally fast to ask, 6 is a fifth faster to build. */
    private const LEAF = 6;

    /** Bits of each of the three whole numbers, packed into one integer, that a centre is kept as. */
    private const BITS = 20;

    /**
     * Sorts the triangles into the tree.
     *
     * @param  array<int, float>  $P
     * @param  array<int, int>  $T
     * @return array{array<int, int>, array<int, int>} links of the nodes, order of the faces
     */
    public static function split(array $P, array $T): array
    {
        $x0 = $y0 = $z0 = INF;
        $x1 = $y1 = $z1 = -INF;
        for ($i = 0, $n = count($P); $i < $n; $i += 3) {
            $x = $P[$i];
            $y = $P[$i + 1];
            $z = $P[$i + 2];
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
        // One scale for all axes, so that the widest one can be told.
        $scale = ((1 << self::BITS) - 1) / max($x1 - $x0, $y1 - $y0, $z1 - $z0, 1e-300) / 3.0;
        $x0 *= 3.0;
        $y0 *= 3.0;
        $z0 *= 3.0;
        $nf = intdiv(count($T), 3);
        $code = array_fill(0, $nf, 0);
        $order = array_fill(0, $nf, 0);
        for ($f = 0, $j = 0; $f < $nf; $f++, $j += 3) {
            $a = 3 * $T[$j];
            $b = 3 * $T[$j + 1];
            $c = 3 * $T[$j + 2];
            $code[$f] = (int) (($P[$a] + $P[$b] + $P[$c] - $x0) * $scale) << 2 * self::BITS
                | (int) (($P[$a + 1] + $P[$b + 1] + $P[$c + 1] - $y0) * $scale) << self::BITS
                | (int) (($P[$a + 2] + $P[$b + 2] + $P[$c + 2] - $z0) * $scale);
            $order[$f] = $f;
        }
        $mask = (1 << self::BITS) - 1;
        $link = [0];
        // What is still to be split: node, range of triangles, extent of their centres, and whether that is known or only bounded.
        $node = [0];
        $from = [0];
        $to = [$nf];
        $lowX = $lowY = $lowZ = [0];
        $highX = $highY = $highZ = [$mask];
        $known = [1];
        for ($sp = 0; $sp >= 0;) {
            $v = $node[$sp];
            $i = $l = $from[$sp];
            $r = $to[$sp];
            if ($r - $l <= self::LEAF) {
                $link[$v] = -1 - ($l << 3 | $r - $l);
                $sp--;

                continue;
            }
            $a0 = $lowX[$sp];
            $b0 = $lowY[$sp];
            $c0 = $lowZ[$sp];
            $a1 = $highX[$sp];
            $b1 = $highY[$sp];
            $c1 = $highZ[$sp];
            if ($a1 - $a0 >= $b1 - $b0 && $a1 - $a0 >= $c1 - $c0) {
                $shift = 2 * self::BITS;
                $middle = ($a0 + $a1) >> 1;
            } elseif ($b1 - $b0 >= $c1 - $c0) {
                $shift = self::BITS;
                $middle = ($b0 + $b1) >> 1;
            } else {
                $shift = 0;
                $middle = ($c0 + $c1) >> 1;
            }
            if ($known[$sp] === 1) {
                // Halving a known extent needs no look at the centres: every other level only sorts.
                for ($j = $r - 1; $i <= $j;) {
                    $c = $code[$i];
                    if ((($c >> $shift) & $mask) <= $middle) {
                        $i++;
                    } else {
                        $code[$i] = $code[$j];
                        $code[$j] = $c;
                        $c = $order[$i];
                        $order[$i] = $order[$j];
                        $order[$j] = $c;
                        $j--;
                    }
                }
                if ($i === $l || $i === $r) {
                    // Only the root's extent, which is that of the corners, can be halved in vain; or all centres are in one place.
                    $known[$sp] = 0;

                    continue;
                }
                $k = count($link);
                $link[$v] = $k << 2 | ($shift === 0 ? 2 : ($shift === self::BITS ? 1 : 0));
                $link[] = 0;
                $link[] = 0;
                $node[$sp] = $k + 1;
                $from[$sp] = $i;
                $known[$sp] = 0;
                $sp++;
                $node[$sp] = $k;
                $from[$sp] = $l;
                $to[$sp] = $i;
                $lowX[$sp] = $a0;
                $lowY[$sp] = $b0;
                $lowZ[$sp] = $c0;
                $highX[$sp] = $a1;
                $highY[$sp] = $b1;
                $highZ[$sp] = $c1;
                $known[$sp] = 0;
                if ($shift === 0) {
                    $highZ[$sp] = $middle;
                    $lowZ[$sp - 1] = $middle + 1;
                } elseif ($shift === self::BITS) {
                    $highY[$sp] = $middle;
                    $lowY[$sp - 1] = $middle + 1;
                } else {
                    $highX[$sp] = $middle;
                    $lowX[$sp - 1] = $middle + 1;
                }

                continue;
            }
            $l0 = $l1 = $l2 = $r0 = $r1 = $r2 = $mask;
            $l3 = $l4 = $l5 = $r3 = $r4 = $r5 = 0;
            for ($j = $r - 1; $i <= $j;) {
                $c = $code[$i];
                $x = $c >> 2 * self::BITS;
                $y = ($c >> self::BITS) & $mask;
                $z = $c & $mask;
                if ((($c >> $shift) & $mask) <= $middle) {
                    if ($x < $l0) {
                        $l0 = $x;
                    }
                    if ($x > $l3) {
                        $l3 = $x;
                    }
                    if ($y < $l1) {
                        $l1 = $y;
                    }
                    if ($y > $l4) {
                        $l4 = $y;
                    }
                    if ($z < $l2) {
                        $l2 = $z;
                    }
                    if ($z > $l5) {
                        $l5 = $z;
                    }
                    $i++;
                } else {
                    if ($x < $r0) {
                        $r0 = $x;
                    }
                    if ($x > $r3) {
                        $r3 = $x;
                    }
                    if ($y < $r1) {
                        $r1 = $y;
                    }
                    if ($y > $r4) {
                        $r4 = $y;
                    }
                    if ($z < $r2) {
                        $r2 = $z;
                    }
                    if ($z > $r5) {
                        $r5 = $z;
                    }
                    $code[$i] = $code[$j];
                    $code[$j] = $c;
                    $c = $order[$i];
                    $order[$i] = $order[$j];
                    $order[$j] = $c;
                    $j--;
                }
            }
            if ($i === $l) {
                [$l0, $l1, $l2, $l3, $l4, $l5] = [$r0, $r1, $r2, $r3, $r4, $r5];
                $i = $r;
            }
            if ($i === $r && $l0 === $l3 && $l1 === $l4 && $l2 === $l5) {
                // All centres in one place: any half is as good.
                $i = ($l + $r) >> 1;
                [$r0, $r1, $r2, $r3, $r4, $r5] = [$l0, $l1, $l2, $l3, $l4, $l5];
            } elseif ($i === $r) {
                // All on one side of a bound that was too wide: once more with the true extent.
                [$lowX[$sp], $lowY[$sp], $lowZ[$sp], $highX[$sp], $highY[$sp], $highZ[$sp]] = [$l0, $l1, $l2, $l3, $l4, $l5];
                $known[$sp] = 1;

                continue;
            }
            $k = count($link);
            $link[$v] = $k << 2 | ($shift === 0 ? 2 : ($shift === self::BITS ? 1 : 0));
            $link[] = 0;
            $link[] = 0;
            $node[$sp] = $k + 1;
            $from[$sp] = $i;
            $to[$sp] = $r;
            $lowX[$sp] = $r0;
            $lowY[$sp] = $r1;
            $lowZ[$sp] = $r2;
            $highX[$sp] = $r3;
            $highY[$sp] = $r4;
            $highZ[$sp] = $r5;
            $known[$sp] = 1;
            $sp++;
            $node[$sp] = $k;
            $from[$sp] = $l;
            $to[$sp] = $i;
            $lowX[$sp] = $l0;
            $lowY[$sp] = $l1;
            $lowZ[$sp] = $l2;
            $highX[$sp] = $l3;
            $highY[$sp] = $l4;
            $highZ[$sp] = $l5;
            $known[$sp] = 1;
        }

        return [$link, $order];
    }

    /**
     * @param  array<int, int>  $link
     * @param  array<int, float>  $P
     * @param  array<int, int>  $corners  where the corners begin, in leaf order
     * @return array<int, float>
     */
    public static function boxes(array $link, array $P, array $corners): array
    {
        $boxes = array_fill(0, 6 * count($link), 0.0);
        // Children stand behind their parents.
        for ($v = count($link) - 1; $v >= 0; $v--) {
            $k = $link[$v];
            $o = 6 * $v;
            if ($k < 0) {
                $k = -1 - $k;
                $e = 3 * (($k >> 3) + ($k & 7));
                $k = 3 * ($k >> 3);
                $j = $corners[$k];
                $x0 = $x1 = $P[$j];
                $y0 = $y1 = $P[$j + 1];
                $z0 = $z1 = $P[$j + 2];
                for ($k++; $k < $e; $k++) {
                    $j = $corners[$k];
                    $x = $P[$j];
                    $y = $P[$j + 1];
                    $z = $P[$j + 2];
                    if ($x < $x0) {
                        $x0 = $x;
                    } elseif ($x > $x1) {
                        $x1 = $x;
                    }
                    if ($y < $y0) {
                        $y0 = $y;
                    } elseif ($y > $y1) {
                        $y1 = $y;
                    }
                    if ($z < $z0) {
                        $z0 = $z;
                    } elseif ($z > $z1) {
                        $z1 = $z;
                    }
                }
                $boxes[$o] = $x0;
                $boxes[$o + 1] = $y0;
                $boxes[$o + 2] = $z0;
                $boxes[$o + 3] = $x1;
                $boxes[$o + 4] = $y1;
                $boxes[$o + 5] = $z1;

                continue;
            }
            $k = 6 * ($k >> 2);
            for ($e = $o + 3; $o < $e; $o++, $k++) {
                $a = $boxes[$k];
                $b = $boxes[$k + 6];
                $boxes[$o] = $a < $b ? $a : $b;
                $a = $boxes[$k + 3];
                $b = $boxes[$k + 9];
                $boxes[$o + 3] = $a > $b ? $a : $b;
            }
        }

        return $boxes;
    }
}
