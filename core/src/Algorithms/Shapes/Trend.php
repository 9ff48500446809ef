<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Geometry\Vector3;

/**
 * Whether distances from a fitted shape are noise or follow the surface: on free form they rise and fall slowly across the area.
 *
 * Source    coefficient of determination of a polynomial of second order in two coordinates along the area (least squares).
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
        $m = array_fill(0, 36, 0.0);
        $g = array_fill(0, 6, 0.0);
        $rows = [];
        $all = $left = 0.0;
        foreach ($d as $i => $distance) {
            $r = Vector3::minus([$p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]], $centre);
            [$a, $b] = [$scale * Vector3::dot($r, $u), $scale * Vector3::dot($r, $v)];
            $rows[] = $row = [1.0, $a, $b, $a * $a, $a * $b, $b * $b];
            for ($j = 0; $j < 6; $j++) {
                for ($k = 0; $k < 6; $k++) {
                    $m[6 * $j + $k] += $row[$j] * $row[$k];
                }
                $g[$j] += $row[$j] * $distance;
            }
            $all += ($distance - $middle) ** 2;
        }
        $x = Dense::solve($m, $g, 6);
        if ($x === null || $all <= 0.0) {
            return 0.0;
        }
        foreach ($rows as $i => $row) {
            $left += ($d[$i] - $x[0] - $x[1] * $row[1] - $x[2] * $row[2] - $x[3] * $row[3] - $x[4] * $row[4] - $x[5] * $row[5]) ** 2;
        }

        return 1.0 - $left / $all;
    }
}
