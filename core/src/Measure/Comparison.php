<?php

declare(strict_types=1);

namespace Emberstone\Core\Measure;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Geometry\Vector3;

/** What many distances say together: means, the largest, shares, a histogram, and the worst places, far from each other. */
final class Comparison
{
    /** Bars of the histogram; odd, so that one stands over 0. */
    private const BARS = 31;

    /**
     * How far histograms and colours reach, in the distance within which 95 of 100 lie, and in the tolerance: what lies farther off is counted in the last bars. Not in root mean squares: a few points that do not
     * belong to the part (a table, a clamp) would take all the shades.
     */
    private const OF_95 = 1.5;

    private const OF_TOLERANCE = 3.0;

    /** Worst places that are listed. */
    private const PLACES = 10;

    /** Of how many of the farthest places they are chosen at first. */
    private const SORTED = 20_000;

    /** Of the size of what was compared: listed places lie farther from each other than this. */
    private const APART = 0.05;

    /**
     * @param  non-empty-list<float>  $distances  mm; with a sign where inside and outside are told apart
     * @param  array<int, float>  $points  flat xyz, where each was measured
     * @param  float  $size  mm, of what was compared
     * @return array{count: int, rms: float, mean: float, p95: float, max: float, within: float|null, places: list<array{point: array{float, float, float}, distance: float}>, histogram: array{from: float, to: float, counts: list<int>}}
     *                                                                                                                                                p95 and max of the distances without their sign
     */
    public static function of(array $distances, array $points, float $size, ?float $tolerance): array
    {
        $n = count($distances);
        $off = array_map(abs(...), $distances);
        $rms = sqrt(array_sum(array_map(fn (float $d) => $d * $d, $distances)) / $n);
        $p95 = Median::nth($off, min($n - 1, (int) floor(0.95 * $n)));

        return [
            'count' => $n, 'rms' => $rms, 'mean' => array_sum($distances) / $n,
            'p95' => $p95, 'max' => max($off),
            'within' => $tolerance === null ? null : count(array_filter($off, fn (float $d) => $d <= $tolerance)) / $n,
            'places' => self::worst($off, $distances, $points, self::APART * $size),
            'histogram' => self::histogram($distances, max(self::OF_95 * $p95, self::OF_TOLERANCE * ($tolerance ?? 0.0), 1e-6)),
        ];
    }

    /**
     * The worst places: those farthest off are sorted, and more of them where they lie too near each other. All of ten million would take as long as finding their distances.
     *
     * @param  non-empty-list<float>  $off  distances without their sign
     * @param  non-empty-list<float>  $distances
     * @param  array<int, float>  $points
     * @return list<array{point: array{float, float, float}, distance: float}>
     */
    private static function worst(array $off, array $distances, array $points, float $apart): array
    {
        $n = count($off);
        for ($many = self::SORTED; ; $many *= 16) {
            $least = $many >= $n ? 0.0 : Median::nth($off, $n - $many);
            $order = array_filter($off, fn (float $one) => $one >= $least);
            arsort($order);
            $places = self::places(array_keys($order), $distances, $points, $apart);
            if (count($places) === self::PLACES || $many >= $n) {
                return $places;
            }
        }
    }

    /**
     * @param  list<int>  $worst  the farthest first
     * @param  list<float>  $distances
     * @param  array<int, float>  $points
     * @return list<array{point: array{float, float, float}, distance: float}>
     */
    private static function places(array $worst, array $distances, array $points, float $apart): array
    {
        $places = [];
        foreach ($worst as $i) {
            $at = [$points[3 * $i], $points[3 * $i + 1], $points[3 * $i + 2]];
            foreach ($places as $place) {
                if (Vector3::length(Vector3::minus($place['point'], $at)) < $apart) {
                    continue 2;
                }
            }
            $places[] = ['point' => $at, 'distance' => $distances[$i]];
            if (count($places) === self::PLACES) {
                break;
            }
        }

        return $places;
    }

    /**
     * @param  list<float>  $distances
     * @return array{from: float, to: float, counts: list<int>}
     */
    private static function histogram(array $distances, float $reach): array
    {
        $counts = array_fill(0, self::BARS, 0);
        foreach ($distances as $d) {
            $bar = (int) floor(($d + $reach) / (2.0 * $reach) * self::BARS);
            $counts[max(0, min(self::BARS - 1, $bar))]++;
        }

        return ['from' => -$reach, 'to' => $reach, 'counts' => $counts];
    }
}
