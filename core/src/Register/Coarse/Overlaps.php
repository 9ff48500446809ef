<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Coarse;

use Emberstone\Core\Algorithms\HalfEdge\DisjointSets;

/**
 * Which passes are tightened onto which: from the share of each that lies on each other, row by row.
 *
 * @internal
 */
final class Overlaps
{
    /** Less overlap than this share ties no two passes together. */
    public const LEAST = 0.05;

    /** Other passes that one is tied to at most: all of them among a dozen. */
    public const PARTNERS = 12;

    /** How many of those are the ones with the most in common; the others are spread over the rest, for ties across a loop make it stiff. */
    private const STRONGEST = 4;

    /**
     * @param  array<int, array<int, float>>  $overlap
     * @return array<int, array<int, float>> the larger share of each two
     */
    public static function mutual(array $overlap): array
    {
        foreach ($overlap as $i => $row) {
            foreach ($row as $j => $share) {
                $overlap[$i][$j] = max($share, $overlap[$j][$i]);
            }
        }

        return $overlap;
    }

    /**
     * @param  array<int, array<int, float>>  $mutual
     * @param  list<int>  $from  passes
     * @return list<int> those that no chain of ties of so much in common leads to from these
     */
    public static function beyond(array $mutual, array $from, float $least): array
    {
        $open = $reached = array_fill_keys($from, true);
        while ($open !== []) {
            $k = array_key_first($open);
            unset($open[$k]);
            foreach ($mutual[$k] as $j => $share) {
                if ($share >= $least && ! isset($reached[$j])) {
                    $open[$j] = $reached[$j] = true;
                }
            }
        }

        return array_values(array_diff(array_keys($mutual), array_keys($reached)));
    }

    /**
     * Pairs (moving, still) to tighten, both ways where both have enough in common. Passes that hang together do so by these pairs too.
     *
     * @param  array<int, array<int, float>>  $overlap
     * @return list<array{int, int}>
     */
    public static function pairs(array $overlap): array
    {
        $kept = count($overlap) <= self::PARTNERS + 1 ? null : self::some(self::mutual($overlap));
        $pairs = [];
        foreach ($overlap as $i => $row) {
            foreach ($row as $j => $share) {
                if ($share >= self::LEAST && ($kept === null || isset($kept[min($i, $j)][max($i, $j)]))) {
                    $pairs[] = [$i, $j];
                }
            }
        }

        return $pairs;
    }

    /**
     * Where passes hang together least, and who is on either side.
     *
     * @param  list<array{int, int}>  $pairs
     * @param  list<float>  $overlaps  the share that the first of each pair has in common with the second
     * @return array{share: float, one: list<int>, other: list<int>}|null null where they do not hang together at all
     */
    public static function weakest(int $passes, array $pairs, array $overlaps): ?array
    {
        return self::partings($passes, $pairs, $overlaps)[0] ?? null;
    }

    /**
     * The ways in which passes would come apart into two if one of the ties that are needed to hold them together were cut (a maximum spanning tree, Kruskal 1956).
     *
     * @param  list<array{int, int}>  $pairs
     * @param  list<float>  $overlaps  the share that the first of each pair has in common with the second
     * @return list<array{share: float, one: list<int>, other: list<int>}> the weakest tie first; none where they do not hang together at all
     */
    public static function partings(int $passes, array $pairs, array $overlaps): array
    {
        arsort($overlaps);
        $tree = [];
        $joined = new DisjointSets(range(0, $passes - 1));
        foreach ($overlaps as $k => $share) {
            if ($joined->of($pairs[$k][0]) !== $joined->of($pairs[$k][1])) {
                $joined->join(...$pairs[$k]);
                $tree[] = [$pairs[$k], $share];
            }
        }
        if (count($tree) < max(1, $passes - 1)) {
            return [];
        }
        $partings = [];
        foreach (array_reverse($tree) as [$cut, $share]) {
            $sides = new DisjointSets(range(0, $passes - 1));
            foreach ($tree as [$pair]) {
                if ($pair !== $cut) {
                    $sides->join(...$pair);
                }
            }
            $one = array_values(array_filter(range(0, $passes - 1), fn (int $k) => $sides->of($k) === $sides->of(0)));
            $partings[] = ['share' => $share, 'one' => $one, 'other' => array_values(array_diff(range(0, $passes - 1), $one))];
        }

        return $partings;
    }

    /**
     * @param  array<int, array<int, float>>  $mutual
     * @return array<int, array<int, true>> the smaller number first
     */
    private static function some(array $mutual): array
    {
        $kept = $edges = [];
        foreach ($mutual as $i => $row) {
            $row = array_filter($row, fn (float $share) => $share >= self::LEAST);
            arsort($row);
            $others = array_keys($row);
            $spread = max(1, (count($others) - self::STRONGEST) / (self::PARTNERS - self::STRONGEST));
            for ($k = 0.0; $k < count($others); $k += $k < self::STRONGEST ? 1.0 : $spread) {
                $j = $others[(int) $k];
                $kept[min($i, $j)][max($i, $j)] = true;
            }
            foreach ($row as $j => $share) {
                if ($i < $j) {
                    $edges[] = [$share, $i, $j];
                }
            }
        }
        // A maximum spanning forest besides (Kruskal 1956).
        usort($edges, fn (array $a, array $b) => $b[0] <=> $a[0]);
        $root = array_combine(array_keys($mutual), array_keys($mutual));
        $find = function (int $i) use (&$root): int {
            while ($root[$i] !== $i) {
                $i = $root[$i] = $root[$root[$i]];
            }

            return $i;
        };
        foreach ($edges as [, $i, $j]) {
            if ($find($i) !== $find($j)) {
                $root[$find($i)] = $find($j);
                $kept[$i][$j] = true;
            }
        }

        return $kept;
    }
}
