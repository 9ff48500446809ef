<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/**
 * Signed distances of plain shapes about the origin; unions are min, cuts are max with the negative.
 *
 * Source    Hart 1996, "Sphere Tracing", appendix; Quilez, distance functions, for polygons.
 *
 * @internal
 */
final class Sdf
{
    /** Signed distance of (x, y, z) from a box about the origin with half sides hx, hy, hz, mm; negative inside. */
    public static function box(float $x, float $y, float $z, float $hx, float $hy, float $hz): float
    {
        $a = ($x < 0.0 ? -$x : $x) - $hx;
        $b = ($y < 0.0 ? -$y : $y) - $hy;
        $c = ($z < 0.0 ? -$z : $z) - $hz;
        $m = $a > $b ? $a : $b;
        if ($c > $m) {
            $m = $c;
        }
        if ($m <= 0.0) {
            return $m;
        }
        $a = $a > 0.0 ? $a : 0.0;
        $b = $b > 0.0 ? $b : 0.0;
        $c = $c > 0.0 ? $c : 0.0;

        return sqrt($a * $a + $b * $b + $c * $c);
    }

    /** A cylinder along the last coordinate. */
    public static function cylinder(float $u, float $v, float $along, float $radius, float $half): float
    {
        $a = sqrt($u * $u + $v * $v) - $radius;
        $b = ($along < 0.0 ? -$along : $along) - $half;
        $m = $a > $b ? $a : $b;
        if ($m <= 0.0) {
            return $m;
        }
        $a = $a > 0.0 ? $a : 0.0;
        $b = $b > 0.0 ? $b : 0.0;

        return sqrt($a * $a + $b * $b);
    }

    /**
     * A polygon in the plane.
     *
     * @param  list<array{float, float}>  $corners  counter-clockwise or clockwise
     */
    public static function polygon(float $x, float $y, array $corners): float
    {
        $n = count($corners);
        $nearest = 1e300;
        $inside = false;
        for ($i = 0, $j = $n - 1; $i < $n; $j = $i++) {
            [$ax, $ay] = $corners[$j];
            [$bx, $by] = $corners[$i];
            $dx = $bx - $ax;
            $dy = $by - $ay;
            $t = (($x - $ax) * $dx + ($y - $ay) * $dy) / ($dx * $dx + $dy * $dy);
            $t = $t < 0.0 ? 0.0 : ($t > 1.0 ? 1.0 : $t);
            $ex = $x - $ax - $t * $dx;
            $ey = $y - $ay - $t * $dy;
            $d = $ex * $ex + $ey * $ey;
            if ($d < $nearest) {
                $nearest = $d;
            }
            if (($ay > $y) !== ($by > $y) && $x < $ax + $dx * ($y - $ay) / $dy) {
                $inside = ! $inside;
            }
        }

        return $inside ? -sqrt($nearest) : sqrt($nearest);
    }
}
