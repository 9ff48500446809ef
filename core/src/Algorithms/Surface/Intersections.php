<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Surface;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Predicates\TrianglePair;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Foundation\Breath;

/**
 * Pairs of triangles that have more in common than the corner or edge that they share: they pass through each other, touch, or lie on each other.
 *
 * @internal
 */
final class Intersections
{
    /**
     * Of a determinant of three differences, in cubes of the longest side of any face's box: its six products have at most 12 together, as boxes overlap, with an error of
     * 7.8e-16 of that (see Orient3d); some differences here are taken of differences.
     */
    private const ROUNDING = 6e-14;

    /** The same for the product of a way with the normal turned into the plane: two more factors, with room. */
    private const DOUBT = 1e-14;

    /** How far behind a corner is beyond doubt, as a share of lengths. */
    private const BEHIND = 1e-9;

    /** Numbers of corners, of all faces or of those asked for, from which on the work is spread over the cores: some 2 s of it. */
    private const SPREAD = 900_000;

    /** No more pairs than this are told, of each part of the work: that many are past counting, and all of n faces through each other would be n squared. */
    private const MOST = 500_000;

    /**
     * Pairs that have more in common than what they share (TrianglePair).
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  list<int>|null  $asked  only pairs with one of these faces; all when null
     * @param  (callable(float): void)|null  $breathe  told the share done; may throw to stop
     * @return list<int> two faces a pair, flat
     */
    public static function pairs(array $p, array $f, ?array $asked = null, ?callable $breathe = null): array
    {
        if ($f === [] || $asked === []) {
            return [];
        }
        $n = intdiv(count($f), 3);
        $bvh = TriangleBvh::of($p, $f);
        if (count($asked ?? $f) < self::SPREAD || Cores::count() < 2) {
            return self::among($p, $f, $bvh, $asked, 0, $n, $breathe);
        }
        $parts = 4 * Cores::count();
        $tasks = [];
        for ($k = 0; $k < $parts; $k++) {
            $tasks[] = fn (): string => Packed::ints(self::among($p, $f, $bvh, $asked, intdiv($k * $n, $parts), intdiv(($k + 1) * $n, $parts)));
        }
        $pairs = Fork::map($tasks, Cores::count(), $breathe === null ? null : Breath::of($breathe), 'crossings');

        return Packed::toInts(implode('', $pairs));
    }

    /**
     * The pairs whose first face stands in some of the slots of the tree, for work that is spread over the cores.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  list<int>|null  $asked  see pairs()
     * @param  (callable(float): void)|null  $breathe
     * @return list<int>
     */
    public static function among(array $p, array $f, TriangleBvh $bvh, ?array $asked, int $from, int $to, ?callable $breathe = null): array
    {
        $boxes = $bvh->boxes;
        $corners = $bvh->corners;
        $link = $bvh->link;
        $order = $bvh->order;
        $error = self::ROUNDING * self::longest($p, $f) ** 3;
        $last = self::last($link);
        $stack = array_fill(0, 128, 0);
        $pairs = [];
        $n = count($order);
        $isAsked = array_fill(0, $n, $asked === null ? 1 : 0);
        foreach ($asked ?? [] as $t) {
            $isAsked[$t] = 1;
        }
        for ($i = $from; $i < $to; $i++) {
            if (($i & 8191) === 0 && $breathe !== null) {
                $breathe(($i - $from) / ($to - $from));
            }
            if ($isAsked[$order[$i]] === 0) {
                continue;
            }
            $o = 3 * $i;
            $k = $corners[$o];
            $x0 = $x1 = $p[$k];
            $y0 = $y1 = $p[$k + 1];
            $z0 = $z1 = $p[$k + 2];
            for ($c = 1; $c < 3; $c++) {
                $k = $corners[$o + $c];
                $v = $p[$k];
                if ($v < $x0) {
                    $x0 = $v;
                } elseif ($v > $x1) {
                    $x1 = $v;
                }
                $v = $p[$k + 1];
                if ($v < $y0) {
                    $y0 = $v;
                } elseif ($v > $y1) {
                    $y1 = $v;
                }
                $v = $p[$k + 2];
                if ($v < $z0) {
                    $z0 = $v;
                } elseif ($v > $z1) {
                    $z1 = $v;
                }
            }
            $a = $corners[$o];
            $b = $corners[$o + 1];
            $c = $corners[$o + 2];
            // The normal; square to it and to each edge, inwards; and from each corner inwards.
            $ax = $p[$a];
            $ay = $p[$a + 1];
            $az = $p[$a + 2];
            $ux = $p[$b] - $ax;
            $uy = $p[$b + 1] - $ay;
            $uz = $p[$b + 2] - $az;
            $vx = $p[$c] - $ax;
            $vy = $p[$c + 1] - $ay;
            $vz = $p[$c + 2] - $az;
            $wx = $vx - $ux;
            $wy = $vy - $uy;
            $wz = $vz - $uz;
            $nx = $uy * $vz - $uz * $vy;
            $ny = $uz * $vx - $ux * $vz;
            $nz = $ux * $vy - $uy * $vx;
            $abx = $ny * $uz - $nz * $uy;
            $aby = $nz * $ux - $nx * $uz;
            $abz = $nx * $uy - $ny * $ux;
            $bcx = $ny * $wz - $nz * $wy;
            $bcy = $nz * $wx - $nx * $wz;
            $bcz = $nx * $wy - $ny * $wx;
            $cax = $nz * $vy - $ny * $vz;
            $cay = $nx * $vz - $nz * $vx;
            $caz = $ny * $vx - $nx * $vy;
            $lu = sqrt($ux * $ux + $uy * $uy + $uz * $uz);
            $lv = sqrt($vx * $vx + $vy * $vy + $vz * $vz);
            $lw = sqrt($wx * $wx + $wy * $wy + $wz * $wz);
            // More than rounding does to a product of one of these with a way of length 1.
            $doubt = self::DOUBT * $lu * $lv * ($lu + $lv);
            $iu = $lu > 0.0 ? 1.0 / $lu : 0.0;
            $iv = $lv > 0.0 ? 1.0 / $lv : 0.0;
            $iw = $lw > 0.0 ? 1.0 / $lw : 0.0;
            $sp = 1;
            $stack[0] = 0;
            while ($sp > 0) {
                $node = $stack[--$sp];
                // Each pair once: where all are asked for, those before this face have asked.
                if ($last[$node] <= $i && $asked === null) {
                    continue;
                }
                $q = 6 * $node;
                if ($boxes[$q] > $x1 || $boxes[$q + 3] < $x0 || $boxes[$q + 1] > $y1 || $boxes[$q + 4] < $y0 || $boxes[$q + 2] > $z1 || $boxes[$q + 5] < $z0) {
                    continue;
                }
                $k = $link[$node];
                if ($k >= 0) {
                    $k >>= 2;
                    $stack[$sp++] = $k;
                    $stack[$sp++] = $k + 1;

                    continue;
                }
                $k = -1 - $k;
                $e = ($k >> 3) + ($k & 7);
                for ($j = $k >> 3; $j < $e; $j++) {
                    if ($j <= $i && $isAsked[$order[$j]] === 1) {
                        continue;
                    }
                    $u = 3 * $j;
                    $d = $corners[$u];
                    $g = $corners[$u + 1];
                    $h = $corners[$u + 2];
                    if (($p[$d] > $x1 && $p[$g] > $x1 && $p[$h] > $x1) || ($p[$d] < $x0 && $p[$g] < $x0 && $p[$h] < $x0)
                        || ($p[$d + 1] > $y1 && $p[$g + 1] > $y1 && $p[$h + 1] > $y1) || ($p[$d + 1] < $y0 && $p[$g + 1] < $y0 && $p[$h + 1] < $y0)
                        || ($p[$d + 2] > $z1 && $p[$g + 2] > $z1 && $p[$h + 2] > $z1) || ($p[$d + 2] < $z0 && $p[$g + 2] < $z0 && $p[$h + 2] < $z0)) {
                        continue;
                    }
                    $atA = $a === $d || $a === $g || $a === $h;
                    $atB = $b === $d || $b === $g || $b === $h;
                    $atC = $c === $d || $c === $g || $c === $h;
                    if ($atA && $atB || $atB && $atC || $atC && $atA) {
                        if ($atA && $atB && $atC) {
                            continue;
                        }
                        // An edge in common: not folded where the other third corner lies beyond it, seen along the normal.
                        $corner = $atB ? $b : $a;
                        $third = $d !== $a && $d !== $b && $d !== $c ? $d : ($g !== $a && $g !== $b && $g !== $c ? $g : $h);
                        $dx = $p[$third] - $p[$corner];
                        $dy = $p[$third + 1] - $p[$corner + 1];
                        $dz = $p[$third + 2] - $p[$corner + 2];
                        $side = ! $atC ? $abx * $dx + $aby * $dy + $abz * $dz : (! $atA ? $bcx * $dx + $bcy * $dy + $bcz * $dz : $cax * $dx + $cay * $dy + $caz * $dz);
                        if ($side < -$doubt * (($dx < 0.0 ? -$dx : $dx) + ($dy < 0.0 ? -$dy : $dy) + ($dz < 0.0 ? -$dz : $dz))) {
                            continue;
                        }
                    } elseif ($atA || $atB || $atC) {
                        // A corner in common: apart where both other corners lie beyond an edge at it, or behind it.
                        $corner = $atA ? $a : ($atB ? $b : $c);
                        $one = $d === $corner ? $g : $d;
                        $two = $h === $corner ? $g : $h;
                        $dx = $p[$one] - $p[$corner];
                        $dy = $p[$one + 1] - $p[$corner + 1];
                        $dz = $p[$one + 2] - $p[$corner + 2];
                        $ex = $p[$two] - $p[$corner];
                        $ey = $p[$two + 1] - $p[$corner + 1];
                        $ez = $p[$two + 2] - $p[$corner + 2];
                        $dLimit = -$doubt * (($dx < 0.0 ? -$dx : $dx) + ($dy < 0.0 ? -$dy : $dy) + ($dz < 0.0 ? -$dz : $dz));
                        $eLimit = -$doubt * (($ex < 0.0 ? -$ex : $ex) + ($ey < 0.0 ? -$ey : $ey) + ($ez < 0.0 ? -$ez : $ez));
                        if (! $atC && $abx * $dx + $aby * $dy + $abz * $dz < $dLimit && $abx * $ex + $aby * $ey + $abz * $ez < $eLimit) {
                            continue;
                        }
                        if (! $atA && $bcx * $dx + $bcy * $dy + $bcz * $dz < $dLimit && $bcx * $ex + $bcy * $ey + $bcz * $ez < $eLimit) {
                            continue;
                        }
                        if (! $atB && $cax * $dx + $cay * $dy + $caz * $dz < $dLimit && $cax * $ex + $cay * $ey + $caz * $ez < $eLimit) {
                            continue;
                        }
                        // Halfway between both edges at the corner.
                        if ($atA) {
                            $hx = $ux * $iu + $vx * $iv;
                            $hy = $uy * $iu + $vy * $iv;
                            $hz = $uz * $iu + $vz * $iv;
                        } elseif ($atB) {
                            $hx = $wx * $iw - $ux * $iu;
                            $hy = $wy * $iw - $uy * $iu;
                            $hz = $wz * $iw - $uz * $iu;
                        } else {
                            $hx = -$vx * $iv - $wx * $iw;
                            $hy = -$vy * $iv - $wy * $iw;
                            $hz = -$vz * $iv - $wz * $iw;
                        }
                        if ($hx * $dx + $hy * $dy + $hz * $dz < -self::BEHIND * ($dx * $dx + $dy * $dy + $dz * $dz) * $iu && $hx * $ex + $hy * $ey + $hz * $ez < -self::BEHIND * ($ex * $ex + $ey * $ey + $ez * $ez) * $iu
                            && $hx * $hx + $hy * $hy + $hz * $hz > self::BEHIND) {
                            continue;
                        }
                    }
                    if (TrianglePair::overlaps($p, $a, $b, $c, $d, $g, $h, $error)) {
                        $pairs[] = $order[$i];
                        $pairs[] = $order[$j];
                        if (count($pairs) >= 2 * self::MOST) {
                            return $pairs;
                        }
                    }
                }
            }
        }

        return $pairs;
    }

    /**
     * The last slot under each node of the tree.
     *
     * @param  array<int, int>  $link
     * @return array<int, int>
     */
    private static function last(array $link): array
    {
        $last = array_fill(0, count($link), 0);
        for ($node = count($link) - 1; $node >= 0; $node--) {
            $k = $link[$node];
            // The children of a node come after it.
            $last[$node] = $k < 0 ? ((-1 - $k) >> 3) + ((-1 - $k) & 7) - 1 : max($last[$k >> 2], $last[($k >> 2) + 1]);
        }

        return $last;
    }

    /**
     * The longest way along an axis from one corner of a face to the next.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     */
    private static function longest(array $p, array $f): float
    {
        $longest = 0.0;
        for ($h = 0, $n = count($f); $h < $n; $h++) {
            $a = 3 * $f[$h];
            $b = 3 * $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            for ($k = 0; $k < 3; $k++) {
                $way = abs($p[$a + $k] - $p[$b + $k]);
                if ($way > $longest) {
                    $longest = $way;
                }
            }
        }

        return $longest;
    }
}
