<?php

declare(strict_types=1);

namespace Emberstone\Core\Measure;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Search\Clusters;
use Emberstone\Core\Algorithms\Surface\SkinPairs;
use Emberstone\Core\Cloud\PointCloud;

/**
 * Lists the places where one wall lies in two layers, slightly apart: passes that do not fit, or a part that moved during a pass.
 *
 * Finds gaps from some four times the noise up to half of a cell, on walls that are flat or bend little over six spacings.
 *
 * @phpstan-type Skin array{centre: array{float, float, float}, gapMm: float, areaMm2: float, within: bool, passes: list<string>, off: list<string>}
 *
 * within: both layers hold points of one pass; off: the passes that stand off the others, where these agree.
 */
final class DoubleSkins
{
    /** Side of a cell, in spacings: it holds some forty points of each pass. */
    private const CELL = 6.0;

    /** A place with fewer cells is chance. */
    private const LEAST_CELLS = 4;

    /**
     * @param  list<PointCloud>  $clouds  with normals, in common coordinates, mm
     * @param  list<string>  $names
     * @param  float  $noiseMm  across the surface, of a typical pass
     * @return list<Skin> largest first
     */
    public static function of(array $clouds, array $names, float $spacingMm, float $noiseMm): array
    {
        $p = $n = $of = [];
        foreach ($clouds as $k => $cloud) {
            array_push($p, ...$cloud->positions);
            array_push($n, ...$cloud->normals);
            array_push($of, ...array_fill(0, $cloud->count(), $k));
        }
        $cell = self::CELL * $spacingMm;
        $cells = $centres = [];
        foreach ([0, 1] as $raster) {
            foreach (SkinPairs::cells($p, $n, $of, $cell, max(4.0 * $noiseMm, 0.05 * $spacingMm), 0.5 * $raster * $cell) as $one) {
                $cells[] = $one + ['raster' => $raster];
                array_push($centres, ...$one['centre']);
            }
        }
        if ($cells === []) {
            return [];
        }
        // Cells that touch, a corner skipped at most.
        ['label' => $label, 'size' => $size] = Clusters::of($centres, 2.0 * $cell);
        $places = [];
        foreach ($size as $place => $both) {
            $members = array_values(array_filter($cells, fn (int $k) => $label[$k] === $place, ARRAY_FILTER_USE_KEY));
            $many = max(array_count_values(array_column($members, 'raster')));
            if ($many < self::LEAST_CELLS) {
                continue;
            }
            $passes = array_values(array_unique(array_merge(...array_column($members, 'passes'))));
            sort($passes);
            $mean = fn (int $axis): float => array_sum(array_column(array_column($members, 'centre'), $axis)) / $both;
            $places[] = [
                'centre' => [$mean(0), $mean(1), $mean(2)], 'gapMm' => round(Median::of(array_column($members, 'gap')), 4), 'areaMm2' => round($many * $cell * $cell, 1),
                'within' => count(array_filter($members, fn (array $one) => $one['within'])) * 2 > $both, 'passes' => array_map(fn (int $k) => $names[$k], $passes),
                'off' => array_map(fn (int $k) => $names[$k], self::off($members, $passes)),
            ];
        }

        usort($places, fn (array $a, array $b): int => $b['areaMm2'] <=> $a['areaMm2']);

        return $places;
    }

    /**
     * @param  list<array{passes: list<int>, off: list<int>}>  $cells  of a place
     * @param  list<int>  $passes  in them
     * @return list<int> those that stand off in most cells where they are
     */
    private static function off(array $cells, array $passes): array
    {
        $in = array_count_values(array_merge(...array_column($cells, 'passes')));
        $off = array_count_values(array_merge(...array_column($cells, 'off')));
        $odd = array_values(array_filter($passes, fn (int $k) => 2 * ($off[$k] ?? 0) > $in[$k]));

        return 2 * count($odd) < count($passes) ? $odd : [];
    }
}
