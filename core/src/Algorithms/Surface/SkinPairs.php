<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Surface;

use Emberstone\Core\Algorithms\Linear\Symmetric3;

/**
 * Places where points of one wall lie in two layers.
 *
 * Points that face the same way are sorted into the cells of a raster. In a cell with two layers their heights along its mean normal fall into two
 * groups with a gap between them that is wide against what either group spreads, and both groups cover the same ground: at the foot of a step they would
 * stand side by side.
 *
 * @internal
 */
final class SkinPairs
{
    private const BITS = 20;

    /** Fewer points than this in a layer say nothing. */
    private const LEAST = 6;

    /** A layer with a smaller share of a cell's points is taken for strays, */
    private const LEAST_SHARE = 0.15;

    /** unless passes have this share of their own points of the cell in it: where many passes agree, one that stands off has few of all. */
    private const LEAST_OWN = 0.7;

    /** How far layers are apart, in spreads of either. */
    private const APART = 4.0;

    /** Standard deviation of a layer along its narrower way, in cells; a square covered evenly has 0.29. */
    private const COVER = 0.13;

    /** Middles of two layers of one wall lie at most so far aside from each other, in cells. */
    private const ASIDE = 0.22;

    /**
     * @param  array<int, float>  $p  flat xyz
     * @param  array<int, float>  $n  unit normals facing outwards
     * @param  array<int, int>  $of  pass of each point
     * @param  float  $least  smaller gaps are noise
     * @param  float  $shift  of the raster: two layers at either side of a border between cells show in a raster shifted by half a cell
     * @return list<array{centre: array{float, float, float}, gap: float, within: bool, passes: list<int>, off: list<int>}> one a cell; within: both layers hold points of one pass; off: the passes that the smaller layer alone holds
     */
    public static function cells(array $p, array $n, array $of, float $cell, float $least, float $shift): array
    {
        $w = 1.0 / $cell;
        $bits = (1 << self::BITS) - 1;
        $members = [];
        for ($i = 0, $o = 0, $e = count($p); $o < $e; $i++, $o += 3) {
            // Walls facing six ways are kept apart: the far side of a thin plate is no second layer.
            $ax = abs($n[$o]);
            $ay = abs($n[$o + 1]);
            $az = abs($n[$o + 2]);
            $side = $ax >= $ay && $ax >= $az ? ($n[$o] > 0.0 ? 0 : 1) : ($ay >= $az ? ($n[$o + 1] > 0.0 ? 2 : 3) : ($n[$o + 2] > 0.0 ? 4 : 5));
            $key = (((int) floor(($p[$o] + $shift) * $w) & $bits) << self::BITS | ((int) floor(($p[$o + 1] + $shift) * $w) & $bits)) << self::BITS | ((int) floor(($p[$o + 2] + $shift) * $w) & $bits);
            $members[$side][$key][] = $i;
        }
        $found = [];
        foreach ($members as $cells) {
            foreach ($cells as $inside) {
                if (count($inside) >= 2 * self::LEAST) {
                    $layers = self::layers($p, $n, $of, $inside, $cell, $least);
                    if ($layers !== null) {
                        $found[] = $layers;
                    }
                }
            }
        }

        return $found;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, float>  $n
     * @param  array<int, int>  $of
     * @param  list<int>  $inside
     * @return array{centre: array{float, float, float}, gap: float, within: bool, passes: list<int>, off: list<int>}|null
     */
    private static function layers(array $p, array $n, array $of, array $inside, float $cell, float $least): ?array
    {
        $nx = $ny = $nz = 0.0;
        foreach ($inside as $i) {
            $nx += $n[3 * $i];
            $ny += $n[3 * $i + 1];
            $nz += $n[3 * $i + 2];
        }
        $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
        if ($l < 0.9 * count($inside)) {
            // The surface bends too much here to tell.
            return null;
        }
        $heights = [];
        foreach ($inside as $k => $i) {
            $heights[$k] = ($nx * $p[3 * $i] + $ny * $p[3 * $i + 1] + $nz * $p[3 * $i + 2]) / $l;
        }
        asort($heights);
        $ranks = array_keys($heights);
        $sorted = array_values($heights);
        $many = count($sorted);
        $split = 0;
        $widest = 0.0;
        for ($k = self::LEAST; $k <= $many - self::LEAST; $k++) {
            if ($widest < $sorted[$k] - $sorted[$k - 1]) {
                $widest = $sorted[$k] - $sorted[$k - 1];
                $split = $k;
            }
        }
        $few = min($split, $many - $split);
        if ($split === 0 || ($few < self::LEAST_SHARE * $many && ! self::isOfItsOwn($of, $inside, $split === $few ? array_slice($ranks, 0, $split) : array_slice($ranks, $split)))) {
            return null;
        }
        $lower = self::layer($p, $inside, array_slice($ranks, 0, $split), array_slice($sorted, 0, $split));
        $upper = self::layer($p, $inside, array_slice($ranks, $split), array_slice($sorted, $split));
        $gap = $upper['height'] - $lower['height'];
        $aside = 0.0;
        foreach ([0, 1, 2] as $c) {
            $d = $upper['centre'][$c] - $lower['centre'][$c] - $gap * [$nx, $ny, $nz][$c] / $l;
            $aside += $d * $d;
        }
        $spread = max($lower['spread'], $upper['spread']);
        // Noise falls off evenly between one layer and its strays; between two layers hardly a point lies.
        if ($gap < $least || $gap < self::APART * $spread || $widest < 0.3 * $gap || sqrt($aside) > self::ASIDE * $cell || min($lower['cover'], $upper['cover']) < self::COVER * $cell) {
            return null;
        }
        $passes = fn (array $ranks): array => array_values(array_unique(array_map(fn (int $k) => $of[$inside[$k]], $ranks)));
        [$a, $b] = [$passes(array_slice($ranks, 0, $split)), $passes(array_slice($ranks, $split))];
        $both = array_values(array_unique([...$a, ...$b]));
        sort($both);

        return [
            'centre' => [0.5 * ($lower['centre'][0] + $upper['centre'][0]), 0.5 * ($lower['centre'][1] + $upper['centre'][1]), 0.5 * ($lower['centre'][2] + $upper['centre'][2])],
            'gap' => $gap, 'within' => array_intersect($a, $b) !== [], 'passes' => $both, 'off' => array_values($split === $few ? array_diff($a, $b) : array_diff($b, $a)),
        ];
    }

    /**
     * Have the passes in a layer most of what they have in the cell in it? Strays lie beside what else their pass saw.
     *
     * @param  array<int, int>  $of
     * @param  list<int>  $inside
     * @param  list<int>  $ranks  of $inside
     */
    private static function isOfItsOwn(array $of, array $inside, array $ranks): bool
    {
        $here = [];
        foreach ($ranks as $k) {
            $here[$of[$inside[$k]]] = true;
        }
        $theirs = 0;
        foreach ($inside as $i) {
            $theirs += isset($here[$of[$i]]) ? 1 : 0;
        }

        return count($ranks) >= self::LEAST_OWN * $theirs;
    }

    /**
     * @param  array<int, float>  $p
     * @param  list<int>  $inside
     * @param  list<int>  $ranks  of $inside
     * @param  list<float>  $heights
     * @return array{height: float, spread: float, centre: array{float, float, float}, cover: float}
     */
    private static function layer(array $p, array $inside, array $ranks, array $heights): array
    {
        $points = [];
        foreach ($ranks as $k) {
            $o = 3 * $inside[$k];
            array_push($points, $p[$o], $p[$o + 1], $p[$o + 2]);
        }
        $mean = array_sum($heights) / count($heights);
        $squares = 0.0;
        foreach ($heights as $h) {
            $squares += ($h - $mean) ** 2;
        }
        $axes = Symmetric3::ofPoints($points);

        return ['height' => $mean, 'spread' => sqrt($squares / count($heights)), 'centre' => $axes['centre'], 'cover' => sqrt(max(0.0, $axes['values'][1]))];
    }
}
