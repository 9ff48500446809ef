<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse\Kernel;

use Emberstone\Core\Mesh\Kernel\Joined;
use Emberstone\Core\Spatial\CellNames;

/**
 * Points too few and too far from all others to make a surface: strays, which would stretch the volume around everything to where they are.
 *
 * @internal
 */
final class LonePoints
{
    /** A cluster of fewer points makes no face that anybody wants. */
    private const FEWEST = 30;

    /**
     * Clusters of cells that touch, and which points lie in small ones.
     *
     * @param  array<int, float>  $p  flat xyz, mm
     * @param  float  $cell  how far apart points may be and still belong together, mm
     * @return list<int> indices of lone points, ascending
     */
    public static function of(array $p, float $cell): array
    {
        $cells = CellNames::of($p, $cell);
        $many = [];
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $key = $cells->at($p[$o], $p[$o + 1], $p[$o + 2]);
            $many[$key] = ($many[$key] ?? 0) + 1;
        }
        $place = array_flip(array_keys($many));
        $joined = new Joined(range(0, max(0, count($many) - 1)));
        foreach ($place as $key => $k) {
            foreach ([-$cells->layer, 0, $cells->layer] as $x) {
                foreach ([-$cells->row, 0, $cells->row] as $y) {
                    for ($z = -1; $z < 2; $z++) {
                        $other = $place[$key + $x + $y + $z] ?? $k;
                        if ($other < $k) {
                            $joined->join($k, $other);
                        }
                    }
                }
            }
        }
        $points = [];
        foreach ($many as $key => $count) {
            $root = $joined->of($place[$key]);
            $points[$root] = ($points[$root] ?? 0) + $count;
        }
        $lone = [];
        for ($i = 0, $o = 0, $e = count($p); $o < $e; $i++, $o += 3) {
            if ($points[$joined->of($place[$cells->at($p[$o], $p[$o + 1], $p[$o + 2])])] < self::FEWEST) {
                $lone[] = $i;
            }
        }

        return $lone;
    }
}
