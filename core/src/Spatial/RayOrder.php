<?php

declare(strict_types=1);

namespace Emberstone\Core\Spatial;

/**
 * Sorts rays so that those side by side ask for the same nodes of a tree.
 *
 * @internal
 */
final class RayOrder
{
    /** The lower bits of a sorting key: the ray's number. */
    public const RAY = (1 << 40) - 1;

    /**
     * The rays in the order of where they come into a box, along a curve through its cells (Morton 1966):
     * rays side by side ask for the same nodes, which are then still at hand.
     *
     * @param  array<int, float>  $rays  six numbers a ray: origin, direction
     * @param  array<int, float>  $box  min xyz, max xyz
     * @return array<int, int> cell << 40 | number of the ray
     */
    public static function byEntry(array $rays, array $box): array
    {
        [$x0, $y0, $z0, $x1, $y1, $z1] = $box;
        $scale = 127.0 / max($x1 - $x0, $y1 - $y0, $z1 - $z0, 1e-300);
        // The seven bits of a cell's number with two free places between them.
        $spread = [];
        for ($c = 0; $c < 128; $c++) {
            $spread[] = ($c & 1) | ($c & 2) << 2 | ($c & 4) << 4 | ($c & 8) << 6 | ($c & 16) << 8 | ($c & 32) << 10 | ($c & 64) << 12;
        }
        $n = intdiv(count($rays), 6);
        $keys = array_fill(0, $n, 0);
        for ($i = 0, $j = 0; $i < $n; $i++, $j += 6) {
            $x = $rays[$j];
            $y = $rays[$j + 1];
            $z = $rays[$j + 2];
            $dx = $rays[$j + 3];
            $dy = $rays[$j + 4];
            $dz = $rays[$j + 5];
            // The last of the ways to the three sides it faces; none if it begins behind them all.
            $t = 0.0;
            $a = $dx > 0.0 ? ($x0 - $x) / $dx : ($dx < 0.0 ? ($x1 - $x) / $dx : 0.0);
            if ($a > $t) {
                $t = $a;
            }
            $a = $dy > 0.0 ? ($y0 - $y) / $dy : ($dy < 0.0 ? ($y1 - $y) / $dy : 0.0);
            if ($a > $t) {
                $t = $a;
            }
            $a = $dz > 0.0 ? ($z0 - $z) / $dz : ($dz < 0.0 ? ($z1 - $z) / $dz : 0.0);
            if ($a > $t) {
                $t = $a;
            }
            $x = ($x + $t * $dx - $x0) * $scale;
            $y = ($y + $t * $dy - $y0) * $scale;
            $z = ($z + $t * $dz - $z0) * $scale;
            $keys[$i] = $spread[$x >= 127.0 ? 127 : ($x > 0.0 ? (int) $x : 0)] << 42
                | $spread[$y >= 127.0 ? 127 : ($y > 0.0 ? (int) $y : 0)] << 41
                | $spread[$z >= 127.0 ? 127 : ($z > 0.0 ? (int) $z : 0)] << 40
                | $i;
        }
        sort($keys);

        return $keys;
    }
}
