<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Search;

/**
 * Sorts questions to a tree along a curve through the cells of its box (Morton 1966): those side by side ask for the same nodes, which are then
 * still at hand.
 *
 * @internal
 */
final class CurveOrder
{
    /** The lower bits of a sorting key: the number of the question. */
    public const NUMBER = (1 << 40) - 1;

    private const CELLS = 128;

    /**
     * @param  array<int, float>  $points  flat xyz
     * @param  array<int, float>  $box  min xyz, max xyz
     * @return array<int, int> cell << 40 | number of the point
     */
    public static function ofPoints(array $points, array $box): array
    {
        [$x0, $y0, $z0, $x1, $y1, $z1] = $box;
        $most = self::CELLS - 1.0;
        $scale = $most / max($x1 - $x0, $y1 - $y0, $z1 - $z0, 1e-300);
        $spread = self::spread();
        $n = intdiv(count($points), 3);
        $keys = array_fill(0, $n, 0);
        for ($i = 0, $j = 0; $i < $n; $i++, $j += 3) {
            $x = ($points[$j] - $x0) * $scale;
            $y = ($points[$j + 1] - $y0) * $scale;
            $z = ($points[$j + 2] - $z0) * $scale;
            $keys[$i] = $spread[$x >= $most ? self::CELLS - 1 : ($x > 0.0 ? (int) $x : 0)] << 42
                | $spread[$y >= $most ? self::CELLS - 1 : ($y > 0.0 ? (int) $y : 0)] << 41
                | $spread[$z >= $most ? self::CELLS - 1 : ($z > 0.0 ? (int) $z : 0)] << 40
                | $i;
        }
        sort($keys);

        return $keys;
    }

    /**
     * Rays, by where they come into the box.
     *
     * @param  array<int, float>  $rays  six numbers a ray: origin, direction
     * @param  array<int, float>  $box  min xyz, max xyz
     * @return array<int, int> cell << 40 | number of the ray
     */
    public static function ofRays(array $rays, array $box): array
    {
        [$x0, $y0, $z0, $x1, $y1, $z1] = $box;
        $n = intdiv(count($rays), 6);
        $entries = array_fill(0, 3 * $n, 0.0);
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
            $o = 3 * $i;
            $entries[$o] = $x + $t * $dx;
            $entries[$o + 1] = $y + $t * $dy;
            $entries[$o + 2] = $z + $t * $dz;
        }

        return self::ofPoints($entries, $box);
    }

    /** @return list<int> the bits of a cell's number with two free places between them */
    private static function spread(): array
    {
        $spread = [];
        for ($c = 0; $c < self::CELLS; $c++) {
            $spread[] = ($c & 1) | ($c & 2) << 2 | ($c & 4) << 4 | ($c & 8) << 6 | ($c & 16) << 8 | ($c & 32) << 10 | ($c & 64) << 12;
        }

        return $spread;
    }
}
