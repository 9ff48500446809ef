<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Gather\Kernel\Clusters;
use Emberstone\Core\Gather\Kernel\Skins;
use Emberstone\Core\Linear\Median;

/**
 * Lists the places where one wall lies in two layers, slightly apart: passes that do not fit, or a part that moved during a pass.
 *
 * Finds gaps from some four times the noise up to half of a cell, on walls that are flat or bend little over six spacings.
 */
final class DoubleSkins
{
    /** Cells of so many spacings: some forty points of each pass. */
    private const CELL = 6.0;

    /** A place with fewer cells is chance. */
    private const LEAST_CELLS = 4;

    /**
     * @param  list<PointCloud>  $clouds  with normals, in common coordinates, mm
     * @param  list<string>  $names
     * @param  float  $noiseMm  across the surface, of a typical pass
     * @return list<array{centre: array{float, float, float}, gapMm: float, areaMm2: float, within: bool, passes: list<string>}> largest first
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
        $cells = Skins::cells($p, $n, $of, $cell, max(4.0 * $noiseMm, 0.05 * $spacingMm));
        if ($cells === []) {
            return [];
        }
        $centres = [];
        foreach ($cells as $one) {
            array_push($centres, ...$one['centre']);
        }
        // Cells that touch, a corner skipped at most.
        ['label' => $label, 'size' => $size] = Clusters::of($centres, 2.0 * $cell);
        $places = [];
        foreach ($size as $place => $many) {
            if ($many < self::LEAST_CELLS) {
                continue;
            }
            $members = array_values(array_filter($cells, fn (int $k) => $label[$k] === $place, ARRAY_FILTER_USE_KEY));
            $passes = array_values(array_unique(array_merge(...array_column($members, 'passes'))));
            sort($passes);
            $mean = fn (int $axis): float => array_sum(array_column(array_column($members, 'centre'), $axis)) / $many;
            $places[] = [
                'centre' => [$mean(0), $mean(1), $mean(2)], 'gapMm' => round(Median::of(array_column($members, 'gap')), 4), 'areaMm2' => round($many * $cell * $cell, 1),
                'within' => count(array_filter($members, fn (array $one) => $one['within'])) * 2 > $many, 'passes' => array_map(fn (int $k) => $names[$k], $passes),
            ];
        }

        return $places;
    }
}
