<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend\Kernel;

use Emberstone\Core\Spatial\TriangleBvh;

/**
 * Pairs of triangles that pass through each other.
 *
 * @internal
 */
final class Intersections
{
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
        if ($f === [] || $asked === []) {
            return [];
        }
        $bvh = TriangleBvh::of($p, $f);
        $boxes = $bvh->boxes;
        $corners = $bvh->corners;
        $link = $bvh->link;
        $order = $bvh->order;
        $stack = array_fill(0, 128, 0);
        $pairs = [];
        $n = count($order);
        $isAsked = array_fill(0, $n, $asked === null ? 1 : 0);
        foreach ($asked ?? [] as $t) {
            $isAsked[$t] = 1;
        }
        for ($i = 0; $i < $n; $i++) {
            if (($i & 8191) === 0 && $breathe !== null) {
                $breathe($i / $n);
            }
            if ($isAsked[$order[$i]] === 0) {
                continue;
            }
            $o = 9 * $i;
            $x0 = $x1 = $corners[$o];
            $y0 = $y1 = $corners[$o + 1];
            $z0 = $z1 = $corners[$o + 2];
            for ($k = 3; $k < 9; $k += 3) {
                $v = $corners[$o + $k];
                if ($v < $x0) {
                    $x0 = $v;
                } elseif ($v > $x1) {
                    $x1 = $v;
                }
                $v = $corners[$o + $k + 1];
                if ($v < $y0) {
                    $y0 = $v;
                } elseif ($v > $y1) {
                    $y1 = $v;
                }
                $v = $corners[$o + $k + 2];
                if ($v < $z0) {
                    $z0 = $v;
                } elseif ($v > $z1) {
                    $z1 = $v;
                }
            }
            $t = 3 * $order[$i];
            $a = $f[$t];
            $b = $f[$t + 1];
            $c = $f[$t + 2];
            $sp = 1;
            $stack[0] = 0;
            while ($sp > 0) {
                $node = $stack[--$sp];
                $q = 6 * $node;
                if ($boxes[$q] > $x1 || $boxes[$q + 3] < $x0 || $boxes[$q + 1] > $y1 || $boxes[$q + 4] < $y0 || $boxes[$q + 2] > $z1 || $boxes[$q + 5] < $z0) {
                    continue;
                }
                $k = $link[$node];
                if ($k >= 0) {
                    $stack[$sp++] = $k;
                    $stack[$sp++] = $k + 1;

                    continue;
                }
                $k = -1 - $k;
                $e = ($k >> 3) + ($k & 7);
                for ($j = $k >> 3; $j < $e; $j++) {
                    // Each pair once.
                    if ($j <= $i && $isAsked[$order[$j]] === 1) {
                        continue;
                    }
                    $u = 3 * $order[$j];
                    $d = $f[$u];
                    $g = $f[$u + 1];
                    $h = $f[$u + 2];
                    if ($a === $d || $a === $g || $a === $h || $b === $d || $b === $g || $b === $h || $c === $d || $c === $g || $c === $h) {
                        continue;
                    }
                    if (self::crosses($corners, $o, 9 * $j)) {
                        $pairs[] = $order[$i];
                        $pairs[] = $order[$j];
                    }
                }
            }
        }

        return $pairs;
    }

    /**
     * Source    Möller 1997, "A Fast Triangle-Triangle Intersection Test": first the sides of the planes, then the edges that pass through.
     *
     * @param  array<int, float>  $c
     */
    private static function crosses(array $c, int $s, int $t): bool
    {
        $ax = $c[$s];
        $ay = $c[$s + 1];
        $az = $c[$s + 2];
        $ux = $c[$s + 3] - $ax;
        $uy = $c[$s + 4] - $ay;
        $uz = $c[$s + 5] - $az;
        $vx = $c[$s + 6] - $ax;
        $vy = $c[$s + 7] - $ay;
        $vz = $c[$s + 8] - $az;
        $nx = $uy * $vz - $uz * $vy;
        $ny = $uz * $vx - $ux * $vz;
        $nz = $ux * $vy - $uy * $vx;
        $d = $nx * $ax + $ny * $ay + $nz * $az;
        $t0 = $nx * $c[$t] + $ny * $c[$t + 1] + $nz * $c[$t + 2] - $d;
        $t1 = $nx * $c[$t + 3] + $ny * $c[$t + 4] + $nz * $c[$t + 5] - $d;
        $t2 = $nx * $c[$t + 6] + $ny * $c[$t + 7] + $nz * $c[$t + 8] - $d;
        if (($t0 > 0.0 && $t1 > 0.0 && $t2 > 0.0) || ($t0 < 0.0 && $t1 < 0.0 && $t2 < 0.0)) {
            return false;
        }
        $ax = $c[$t];
        $ay = $c[$t + 1];
        $az = $c[$t + 2];
        $ux = $c[$t + 3] - $ax;
        $uy = $c[$t + 4] - $ay;
        $uz = $c[$t + 5] - $az;
        $vx = $c[$t + 6] - $ax;
        $vy = $c[$t + 7] - $ay;
        $vz = $c[$t + 8] - $az;
        $nx = $uy * $vz - $uz * $vy;
        $ny = $uz * $vx - $ux * $vz;
        $nz = $ux * $vy - $uy * $vx;
        $d = $nx * $ax + $ny * $ay + $nz * $az;
        $s0 = $nx * $c[$s] + $ny * $c[$s + 1] + $nz * $c[$s + 2] - $d;
        $s1 = $nx * $c[$s + 3] + $ny * $c[$s + 4] + $nz * $c[$s + 5] - $d;
        $s2 = $nx * $c[$s + 6] + $ny * $c[$s + 7] + $nz * $c[$s + 8] - $d;
        if (($s0 > 0.0 && $s1 > 0.0 && $s2 > 0.0) || ($s0 < 0.0 && $s1 < 0.0 && $s2 < 0.0)) {
            return false;
        }

        return ($s0 * $s1 <= 0.0 && self::edge($c, $s, $s + 3, $t)) || ($s1 * $s2 <= 0.0 && self::edge($c, $s + 3, $s + 6, $t)) || ($s2 * $s0 <= 0.0 && self::edge($c, $s + 6, $s, $t))
            || ($t0 * $t1 <= 0.0 && self::edge($c, $t, $t + 3, $s)) || ($t1 * $t2 <= 0.0 && self::edge($c, $t + 3, $t + 6, $s)) || ($t2 * $t0 <= 0.0 && self::edge($c, $t + 6, $t, $s));
    }

    /**
     * Does the segment from $a to $b cross the triangle at $t (Möller & Trumbore 1997)?
     *
     * @param  array<int, float>  $c
     */
    private static function edge(array $c, int $a, int $b, int $t): bool
    {
        $x = $c[$a];
        $y = $c[$a + 1];
        $z = $c[$a + 2];
        $dx = $c[$b] - $x;
        $dy = $c[$b + 1] - $y;
        $dz = $c[$b + 2] - $z;
        $ax = $c[$t];
        $ay = $c[$t + 1];
        $az = $c[$t + 2];
        $ex = $c[$t + 3] - $ax;
        $ey = $c[$t + 4] - $ay;
        $ez = $c[$t + 5] - $az;
        $fx = $c[$t + 6] - $ax;
        $fy = $c[$t + 7] - $ay;
        $fz = $c[$t + 8] - $az;
        $px = $dy * $fz - $dz * $fy;
        $py = $dz * $fx - $dx * $fz;
        $pz = $dx * $fy - $dy * $fx;
        $det = $ex * $px + $ey * $py + $ez * $pz;
        // An edge in the plane touches at most; what rounding leaves of its slope decides nothing.
        if ($det * $det <= 1e-20 * ($dx * $dx + $dy * $dy + $dz * $dz) * ($ex * $ex + $ey * $ey + $ez * $ez) * ($fx * $fx + $fy * $fy + $fz * $fz)) {
            return false;
        }
        $w = 1.0 / $det;
        $x -= $ax;
        $y -= $ay;
        $z -= $az;
        $u = ($x * $px + $y * $py + $z * $pz) * $w;
        if ($u < 0.0 || $u > 1.0) {
            return false;
        }
        $qx = $y * $ez - $z * $ey;
        $qy = $z * $ex - $x * $ez;
        $qz = $x * $ey - $y * $ex;
        $v = ($dx * $qx + $dy * $qy + $dz * $qz) * $w;
        if ($v < 0.0 || $u + $v > 1.0) {
            return false;
        }
        $s = ($fx * $qx + $fy * $qy + $fz * $qz) * $w;

        return $s >= 0.0 && $s <= 1.0;
    }
}
