<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Diagnosis;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Measure\DoubleSkins;
use Emberstone\Core\Register\PreparedPass;

/**
 * Double skins that registering leaves: a pass that stands wrong shows so, and a part that bent or moved while it was scanned.
 *
 * @internal
 *
 * @phpstan-import-type Skin from DoubleSkins
 */
final class SkinsLeft
{
    /** Points of a pass that are looked at: with 5,000 the cells were so wide that barrels bend too much in them, with 40,000 nothing more was found. */
    private const POINTS = 20_000;

    /** And of all passes. */
    private const ALL_POINTS = 240_000;

    /**
     * @param  list<PreparedPass>  $prepared
     * @return list<Skin> largest first
     */
    public static function of(array $prepared): array
    {
        $most = min(self::POINTS, intdiv(self::ALL_POINTS, count($prepared)));
        $clouds = $spacings = [];
        foreach ($prepared as $pass) {
            $count = count($pass->tree->order);
            $every = max(1, intdiv($count, $most));
            $p = $n = [];
            for ($o = 0; $o < 3 * $count; $o += 3 * $every) {
                // Rims have no normal in the tree.
                if ($pass->treeNormals[$o] !== 0.0 || $pass->treeNormals[$o + 1] !== 0.0 || $pass->treeNormals[$o + 2] !== 0.0) {
                    array_push($p, $pass->tree->sorted[$o], $pass->tree->sorted[$o + 1], $pass->tree->sorted[$o + 2]);
                    array_push($n, $pass->treeNormals[$o], $pass->treeNormals[$o + 1], $pass->treeNormals[$o + 2]);
                }
            }
            $clouds[] = PointCloud::fromFlat($p, $n)->transformed($pass->transform);
            $spacings[] = $pass->spacing * sqrt($every);
        }

        return DoubleSkins::of($clouds, array_column($prepared, 'name'), Median::of($spacings), Median::of(array_column($prepared, 'noise')));
    }

    /**
     * @param  list<Skin>  $skins
     * @return list<string> none or one
     */
    public static function inWords(array $skins): array
    {
        if ($skins === []) {
            return [];
        }
        $off = array_values(array_unique(array_merge(...array_column($skins, 'off'))));

        return [sprintf(
            'Double skins: one wall lies in two layers at %d %s, up to %s apart%s. Resolve them by moving passes, or keep what saw each place best.', count($skins), count($skins) === 1 ? 'place' : 'places',
            Format::mm(max(array_column($skins, 'gapMm'))), $off === [] ? '' : '; '.implode(', ', $off).(count($off) === 1 ? ' stands' : ' stand').' off the others',
        )];
    }
}
