<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\ShadeMap;

/**
 * How far the points of registered passes lie off the surface of the passes they overlap: as a map to colour them by, and as a histogram.
 *
 * @internal
 */
final class ResidualMaps
{
    /** Passes that each is compared with, those with the most in common first. */
    private const ASKED = 3;

    /** Spacings within which a point has a partner. */
    private const REACH = 3.0;

    /** Where the maps and the histogram end, in medians of the distance. */
    private const SCALE = 5.0;

    private const BINS = 20;

    /** Points of a pass from which on neighbours share a height. */
    private const MANY = 250_000;

    /** Heights that the histogram counts, about: more say nothing else. */
    private const COUNTED = 2_000_000;

    /**
     * @param  list<Pass>  $passes  as captured
     * @param  list<PreparedPass>  $prepared  where they stand now
     * @param  list<array{int, int}>  $pairs
     * @param  list<float>  $overlaps  a pair
     * @return array{maps: list<ShadeMap>, histogram: array{fromMm: float, toMm: float, shares: list<float>, within50Mm: float, within95Mm: float}|null} residuals before (above 0) and behind the surface;
     *                                                                                                                                               null where no pass overlaps another
     */
    public static function of(array $passes, array $prepared, array $pairs, array $overlaps, Progress $progress): array
    {
        $partners = array_fill(0, count($passes), []);
        foreach ($pairs as $k => [$i, $j]) {
            $partners[$i][$j] = max($partners[$i][$j] ?? 0.0, $overlaps[$k]);
            $partners[$j][$i] = max($partners[$j][$i] ?? 0.0, $overlaps[$k]);
        }
        $tasks = [];
        foreach ($passes as $k => $pass) {
            arsort($partners[$k]);
            $asked = array_slice(array_keys($partners[$k]), 0, self::ASKED);
            $tasks[] = fn (): string => Packed::singles(self::heights($pass, $prepared[$k]->transform, array_map(fn (int $j) => $prepared[$j], $asked)));
        }
        $heights = Fork::map($tasks, Cores::count(), $progress, 'residuals');
        $away = [];
        $step = intdiv(array_sum(array_map(fn (Pass $pass) => $pass->keptCount(), $passes)), self::COUNTED) + 1;
        foreach ($heights as $packed) {
            foreach (Packed::toSingles($packed) as $i => $h) {
                if ($i % $step === 0 && is_finite($h)) {
                    $away[] = abs($h);
                }
            }
        }
        if ($away === []) {
            return ['maps' => [], 'histogram' => null];
        }
        $half = Median::of($away);
        $most = self::SCALE * max($half, 1e-9);
        $maps = [];
        $bins = array_fill(0, self::BINS, 0);
        foreach ($passes as $k => $pass) {
            $of = Packed::toSingles($heights[$k]);
            $kept = ShadeMap::shades(array_map(abs(...), $of), 0.0, $most);
            foreach ($of as $i => $h) {
                if ($i % $step === 0 && is_finite($h)) {
                    $bin = (int) (self::BINS * (0.5 + 0.5 * $h / $most));
                    $bins[$bin < 0 ? 0 : ($bin < self::BINS ? $bin : self::BINS - 1)]++;
                }
            }
            $maps[] = ShadeMap::ofBytes($pass->id, 'Residual', 'mm', $pass->spread($kept), 0.0, $most);
        }

        return ['maps' => $maps, 'histogram' => [
            'fromMm' => round(-$most, 5), 'toMm' => round($most, 5), 'shares' => array_map(fn (int $n) => round($n / count($away), 5), $bins),
            'within50Mm' => round($half, 5), 'within95Mm' => round(Median::nth($away, (int) (0.95 * (count($away) - 1))), 5),
        ]];
    }

    /**
     * The height of each kept point over the surface of the nearest pass that it overlaps; NAN where there is none within reach. Of many points those in a cell as large as the spacing of the
     * surface that they are held against share the height of the first.
     *
     * @param  list<PreparedPass>  $others
     * @return list<float> mm
     */
    private static function heights(Pass $pass, RigidTransform $at, array $others): array
    {
        $all = $pass->keptCloud()->positions;
        [$some, $of] = self::asked($all, min([INF, ...array_map(fn (PreparedPass $other) => $other->spacing, $others)]));
        $heights = array_fill(0, intdiv(count($some), 3), NAN);
        $best = array_fill(0, count($heights), INF);
        foreach ($others as $other) {
            $p = $at->then($other->transform->inverse())->points($some);
            $nearest = $distanceSq = [];
            $other->tree->nearest($p, self::REACH * $other->spacing, $nearest, $distanceSq);
            $q = $other->tree->sorted;
            $n = $other->treeNormals;
            foreach ($nearest as $i => $k) {
                // A point at a rim has no normal, and nothing lies over or under it.
                if ($k >= 0 && ($n[$k] !== 0.0 || $n[$k + 1] !== 0.0 || $n[$k + 2] !== 0.0) && $distanceSq[$i] < $best[$i]) {
                    $o = 3 * $i;
                    $best[$i] = $distanceSq[$i];
                    $heights[$i] = ($p[$o] - $q[$k]) * $n[$k] + ($p[$o + 1] - $q[$k + 1]) * $n[$k + 1] + ($p[$o + 2] - $q[$k + 2]) * $n[$k + 2];
                }
            }
        }

        return $of === null ? $heights : array_map(fn (int $k) => $heights[$k], $of);
    }

    /**
     * @param  list<float>  $all  flat xyz
     * @return array{list<float>, list<int>|null} the first point of each cell, flat, and which of them stands for each point; null where each stands for itself
     */
    private static function asked(array $all, float $cell): array
    {
        if (count($all) < 3 * self::MANY || ! is_finite($cell)) {
            return [$all, null];
        }
        $keys = LatticeKeys::of($all, $cell);
        $some = $of = $first = [];
        for ($o = 0, $e = count($all); $o < $e; $o += 3) {
            $key = $keys->at($all[$o], $all[$o + 1], $all[$o + 2]);
            $k = $first[$key] ?? -1;
            if ($k < 0) {
                $k = $first[$key] = count($first);
                $some[] = $all[$o];
                $some[] = $all[$o + 1];
                $some[] = $all[$o + 2];
            }
            $of[] = $k;
        }

        return [$some, $of];
    }
}
