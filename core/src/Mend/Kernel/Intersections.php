<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend\Kernel;

use Emberstone\Core\Linear\Orientation;
use Emberstone\Core\Spatial\TriangleBvh;

/**
 * Pairs of triangles that pass through each other.
 *
 * @internal
 */
final class Intersections
{
    /**
     * Of a determinant of three differences, in cubes of the longest side of any face's box: its six products have at most 12 together, as boxes overlap, with an error of
     * 7.8e-16 of that (see Orientation); some differences here are taken of differences.
     */
    private const ROUNDING = 6e-14;

    /**
     * Pairs that share no vertex and of which an edge of one crosses the other.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  list<int>|null  $asked  only pairs with one of these faces; all when null
     * @param  (callable(float): void)|null  $breathe  told the share done; may throw to stop
     * @return list<int> two faces a pair, flat
     */
    public static function pairs(array $p, array $f, ?array $asked = null, ?callable $breathe = null): array
    {
        return $f === [] || $asked === [] ? [] : self::among($p, $f, TriangleBvh::of($p, $f), $asked, 0, intdiv(count($f), 3), $breathe);
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
                    if ($a === $d || $a === $g || $a === $h || $b === $d || $b === $g || $b === $h || $c === $d || $c === $g || $c === $h) {
                        continue;
                    }
                    if (self::crosses($p, $a, $b, $c, $d, $g, $h, $error)) {
                        $pairs[] = $order[$i];
                        $pairs[] = $order[$j];
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

    /**
     * First the sides of the planes, then the edges that pass through. What rounding could turn is decided exactly.
     *
     * Source    Möller 1997, "A Fast Triangle-Triangle Intersection Test"; Guigue & Devillers 2003 for the edges by orientations alone.
     *
     * @param  array<int, float>  $p  coordinates; the corners a, b, c of one triangle and d, e, f of the other begin at these places
     * @param  float  $error  more than rounding can have done to the determinant of three differences
     */
    private static function crosses(array $p, int $a, int $b, int $c, int $d, int $e, int $f, float $error): bool
    {
        $ax = $p[$a];
        $ay = $p[$a + 1];
        $az = $p[$a + 2];
        $ux = $p[$b] - $ax;
        $uy = $p[$b + 1] - $ay;
        $uz = $p[$b + 2] - $az;
        $vx = $p[$c] - $ax;
        $vy = $p[$c + 1] - $ay;
        $vz = $p[$c + 2] - $az;
        $nx = $uy * $vz - $uz * $vy;
        $ny = $uz * $vx - $ux * $vz;
        $nz = $ux * $vy - $uy * $vx;
        $dx = $p[$d] - $ax;
        $dy = $p[$d + 1] - $ay;
        $dz = $p[$d + 2] - $az;
        $ex = $p[$e] - $ax;
        $ey = $p[$e + 1] - $ay;
        $ez = $p[$e + 2] - $az;
        $fx = $p[$f] - $ax;
        $fy = $p[$f + 1] - $ay;
        $fz = $p[$f + 2] - $az;
        $t0 = $nx * $dx + $ny * $dy + $nz * $dz;
        $t1 = $nx * $ex + $ny * $ey + $nz * $ez;
        $t2 = $nx * $fx + $ny * $fy + $nz * $fz;
        if (($t0 > $error && $t1 > $error && $t2 > $error) || ($t0 < -$error && $t1 < -$error && $t2 < -$error)) {
            return false;
        }
        // The same the other way round, seen from d.
        $ux = $ex - $dx;
        $uy = $ey - $dy;
        $uz = $ez - $dz;
        $vx = $fx - $dx;
        $vy = $fy - $dy;
        $vz = $fz - $dz;
        $nx = $uy * $vz - $uz * $vy;
        $ny = $uz * $vx - $ux * $vz;
        $nz = $ux * $vy - $uy * $vx;
        $bx = $p[$b] - $p[$d];
        $by = $p[$b + 1] - $p[$d + 1];
        $bz = $p[$b + 2] - $p[$d + 2];
        $cx = $p[$c] - $p[$d];
        $cy = $p[$c + 1] - $p[$d + 1];
        $cz = $p[$c + 2] - $p[$d + 2];
        $s0 = -$nx * $dx - $ny * $dy - $nz * $dz;
        $s1 = $nx * $bx + $ny * $by + $nz * $bz;
        $s2 = $nx * $cx + $ny * $cy + $nz * $cz;
        if (($s0 > $error && $s1 > $error && $s2 > $error) || ($s0 < -$error && $s1 < -$error && $s2 < -$error)) {
            return false;
        }
        $d0 = $t0 > $error ? -1 : ($t0 < -$error ? 1 : Orientation::side($p, $a, $b, $c, $d));
        $e0 = $t1 > $error ? -1 : ($t1 < -$error ? 1 : Orientation::side($p, $a, $b, $c, $e));
        $f0 = $t2 > $error ? -1 : ($t2 < -$error ? 1 : Orientation::side($p, $a, $b, $c, $f));
        $a0 = $s0 > $error ? -1 : ($s0 < -$error ? 1 : Orientation::side($p, $d, $e, $f, $a));
        $b0 = $s1 > $error ? -1 : ($s1 < -$error ? 1 : Orientation::side($p, $d, $e, $f, $b));
        $c0 = $s2 > $error ? -1 : ($s2 < -$error ? 1 : Orientation::side($p, $d, $e, $f, $c));
        if (($d0 === $e0 && $e0 === $f0) || ($a0 === $b0 && $b0 === $c0)) {
            return false;
        }

        return ($a0 * $b0 < 0 && self::edge($p, $a, $b, $d, $e, $f)) || ($b0 * $c0 < 0 && self::edge($p, $b, $c, $d, $e, $f)) || ($c0 * $a0 < 0 && self::edge($p, $c, $a, $d, $e, $f))
            || ($d0 * $e0 < 0 && self::edge($p, $d, $e, $a, $b, $c)) || ($e0 * $f0 < 0 && self::edge($p, $e, $f, $a, $b, $c)) || ($f0 * $d0 < 0 && self::edge($p, $f, $d, $a, $b, $c));
    }

    /**
     * Does the segment from $a to $b, whose ends lie on both sides of the plane of the triangle with the corners at $t, $u and $v, pass through it?
     *
     * @param  array<int, float>  $p
     */
    private static function edge(array $p, int $a, int $b, int $t, int $u, int $v): bool
    {
        $x = Orientation::side($p, $a, $b, $t, $u);
        $y = Orientation::side($p, $a, $b, $u, $v);
        if ($x * $y < 0) {
            return false;
        }
        $z = Orientation::side($p, $a, $b, $v, $t);

        return $x * $z >= 0 && $y * $z >= 0 && ! self::inPlane($p, $a, $b, $t, $u, $v);
    }

    /**
     * An edge in the plane touches at most; so little slope is what rounding of coordinates leaves of that.
     *
     * @param  array<int, float>  $p
     */
    private static function inPlane(array $p, int $a, int $b, int $t, int $u, int $v): bool
    {
        $dx = $p[$b] - $p[$a];
        $dy = $p[$b + 1] - $p[$a + 1];
        $dz = $p[$b + 2] - $p[$a + 2];
        $ex = $p[$u] - $p[$t];
        $ey = $p[$u + 1] - $p[$t + 1];
        $ez = $p[$u + 2] - $p[$t + 2];
        $fx = $p[$v] - $p[$t];
        $fy = $p[$v + 1] - $p[$t + 1];
        $fz = $p[$v + 2] - $p[$t + 2];
        $det = $ex * ($dy * $fz - $dz * $fy) + $ey * ($dz * $fx - $dx * $fz) + $ez * ($dx * $fy - $dy * $fx);

        return $det * $det <= 1e-20 * ($dx * $dx + $dy * $dy + $dz * $dz) * ($ex * $ex + $ey * $ey + $ez * $ez) * ($fx * $fx + $fy * $fy + $fz * $fz);
    }
}
