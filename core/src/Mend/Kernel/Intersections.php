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
                    // Each pair once.
                    if ($j <= $i && $isAsked[$order[$j]] === 1) {
                        continue;
                    }
                    $u = 3 * $j;
                    $d = $corners[$u];
                    $g = $corners[$u + 1];
                    $h = $corners[$u + 2];
                    if ($a === $d || $a === $g || $a === $h || $b === $d || $b === $g || $b === $h || $c === $d || $c === $g || $c === $h) {
                        continue;
                    }
                    if (self::crosses($p, $a, $b, $c, $d, $g, $h)) {
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
     * @param  array<int, float>  $p  coordinates; the corners a, b, c of one triangle and d, e, f of the other begin at these places
     */
    private static function crosses(array $p, int $a, int $b, int $c, int $d, int $e, int $f): bool
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
        $w = $nx * $ax + $ny * $ay + $nz * $az;
        $t0 = $nx * $p[$d] + $ny * $p[$d + 1] + $nz * $p[$d + 2] - $w;
        $t1 = $nx * $p[$e] + $ny * $p[$e + 1] + $nz * $p[$e + 2] - $w;
        $t2 = $nx * $p[$f] + $ny * $p[$f + 1] + $nz * $p[$f + 2] - $w;
        if (($t0 > 0.0 && $t1 > 0.0 && $t2 > 0.0) || ($t0 < 0.0 && $t1 < 0.0 && $t2 < 0.0)) {
            return false;
        }
        $ax = $p[$d];
        $ay = $p[$d + 1];
        $az = $p[$d + 2];
        $ux = $p[$e] - $ax;
        $uy = $p[$e + 1] - $ay;
        $uz = $p[$e + 2] - $az;
        $vx = $p[$f] - $ax;
        $vy = $p[$f + 1] - $ay;
        $vz = $p[$f + 2] - $az;
        $nx = $uy * $vz - $uz * $vy;
        $ny = $uz * $vx - $ux * $vz;
        $nz = $ux * $vy - $uy * $vx;
        $w = $nx * $ax + $ny * $ay + $nz * $az;
        $s0 = $nx * $p[$a] + $ny * $p[$a + 1] + $nz * $p[$a + 2] - $w;
        $s1 = $nx * $p[$b] + $ny * $p[$b + 1] + $nz * $p[$b + 2] - $w;
        $s2 = $nx * $p[$c] + $ny * $p[$c + 1] + $nz * $p[$c + 2] - $w;
        if (($s0 > 0.0 && $s1 > 0.0 && $s2 > 0.0) || ($s0 < 0.0 && $s1 < 0.0 && $s2 < 0.0)) {
            return false;
        }

        return ($s0 * $s1 <= 0.0 && self::edge($p, $a, $b, $d, $e, $f)) || ($s1 * $s2 <= 0.0 && self::edge($p, $b, $c, $d, $e, $f)) || ($s2 * $s0 <= 0.0 && self::edge($p, $c, $a, $d, $e, $f))
            || ($t0 * $t1 <= 0.0 && self::edge($p, $d, $e, $a, $b, $c)) || ($t1 * $t2 <= 0.0 && self::edge($p, $e, $f, $a, $b, $c)) || ($t2 * $t0 <= 0.0 && self::edge($p, $f, $d, $a, $b, $c));
    }

    /**
     * Does the segment from $a to $b cross the triangle with the corners at $t, $u and $v (Möller & Trumbore 1997)?
     *
     * @param  array<int, float>  $c
     */
    private static function edge(array $c, int $a, int $b, int $t, int $u, int $v): bool
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
        $ex = $c[$u] - $ax;
        $ey = $c[$u + 1] - $ay;
        $ez = $c[$u + 2] - $az;
        $fx = $c[$v] - $ax;
        $fy = $c[$v + 1] - $ay;
        $fz = $c[$v + 2] - $az;
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
