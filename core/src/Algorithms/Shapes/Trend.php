<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Geometry\Vector3;

/**
 * Whether distances from a fitted shape are noise or follow the surface: on free form they rise and fall slowly across the area.
 *
 * Source    coefficient of determination of a polynomial in two coordinates along the area (SecondOrder).
 *
 * @internal
 */
final class Trend
{
    /** Mean length of unit normals below which an area bends so much that its shape is beyond doubt, and that two coordinates do not tell its places apart. */
    private const BENT = 0.93;

    /**
     * The share of the squares of distances that a slow trend explains: 0 for noise, near 1 for a shape that the surface is not. 0 too for what bends much.
     *
     * @param  list<float>  $d  mm
     * @param  list<float>  $p  flat xyz, where they were measured
     * @param  list<float>  $n  unit normals there
     */
    public static function share(array $d, array $p, array $n): float
    {
        $count = count($d);
        $mean = [0.0, 0.0, 0.0];
        foreach ($n as $k => $value) {
            $mean[$k % 3] += $value / $count;
        }
        if ($count < 12 || Vector3::length($mean) < self::BENT) {
            return 0.0;
        }
        ['centre' => $centre, 'vectors' => [, $v, $u], 'values' => [, , $extent]] = Symmetric3::ofPoints($p);
        $scale = 1.0 / (sqrt($extent) ?: 1.0);
        $middle = array_sum($d) / $count;
        $x = $y = [];
        $all = 0.0;
        foreach ($d as $i => $distance) {
            $r = Vector3::minus([$p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]], $centre);
            $x[] = $scale * Vector3::dot($r, $u);
            $y[] = $scale * Vector3::dot($r, $v);
            $all += ($distance - $middle) ** 2;
        }
        $left = SecondOrder::left($x, $y, $d);
        if ($left === null || $all <= 0.0) {
            return 0.0;
        }

        return 1.0 - $left / $all;
    }
}
