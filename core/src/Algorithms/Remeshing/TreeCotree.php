<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

/**
 * Where the handles of a surface are. A spanning tree of the vertices, and one of the faces that crosses none of its edges, leave over two edges a handle; with the
 * farthest edges first in the faces' tree they lie where two shortest ways around the handle meet.
 *
 * Source    Eppstein 2003, "Dynamic generators of topologically embedded graphs"; Erickson & Whittlesey 2005, "Greedy optimal homotopy and homology generators".
 *
 * @internal
 */
final class TreeCotree
{
    /**
     * @param  array<int, int>  $f
     * @param  array<int, int>  $twin
     * @return list<int> an end of each edge that both trees leave over
     */
    public static function ends(array $f, array $twin, int $vertices): array
    {
        $n = count($f);
        // Half-edges by the vertex they leave, as one list with a start for each.
        $start = array_fill(0, $vertices + 1, 0);
        foreach ($f as $v) {
            $start[$v + 1]++;
        }
        for ($v = 0; $v < $vertices; $v++) {
            $start[$v + 1] += $start[$v];
        }
        $at = $start;
        $out = array_fill(0, $n, 0);
        for ($h = 0; $h < $n; $h++) {
            $out[$at[$f[$h]]++] = $h;
        }
        $inTree = array_fill(0, $n, 0);
        $rank = array_fill(0, $vertices, -1);
        $order = [];
        for ($root = 0; $root < $vertices; $root++) {
            if ($rank[$root] >= 0) {
                continue;
            }
            $rank[$root] = count($order);
            $order[] = $root;
            for ($head = $rank[$root]; $head < count($order); $head++) {
                $v = $order[$head];
                for ($k = $start[$v], $end = $start[$v + 1]; $k < $end; $k++) {
                    // The edge that leaves the vertex and the one that comes to it, as on a rim there is only one of them.
                    foreach ([$out[$k], $out[$k] % 3 === 0 ? $out[$k] + 2 : $out[$k] - 1] as $h) {
                        $w = $f[$h] === $v ? $f[$h % 3 === 2 ? $h - 2 : $h + 1] : $f[$h];
                        if ($rank[$w] < 0) {
                            $rank[$w] = count($order);
                            $order[] = $w;
                            $inTree[$h] = 1;
                            if ($twin[$h] >= 0) {
                                $inTree[$twin[$h]] = 1;
                            }
                        }
                    }
                }
            }
        }
        // Faces and, behind them, the vertices of rims: each rim is closed by one face more, found by any of its vertices.
        $faces = intdiv($n, 3);
        $parent = range(0, $faces + $vertices - 1);
        for ($h = 0; $h < $n; $h++) {
            if ($twin[$h] < 0) {
                self::union($parent, $faces + $f[$h], $faces + $f[$h % 3 === 2 ? $h - 2 : $h + 1]);
            }
        }
        $places = [];
        for ($r = count($order) - 1; $r >= 0; $r--) {
            $v = $order[$r];
            for ($k = $start[$v], $end = $start[$v + 1]; $k < $end; $k++) {
                foreach ([$out[$k], $out[$k] % 3 === 0 ? $out[$k] + 2 : $out[$k] - 1] as $h) {
                    $w = $f[$h] === $v ? $f[$h % 3 === 2 ? $h - 2 : $h + 1] : $f[$h];
                    // Each edge from its farther end, once.
                    if ($rank[$w] > $r || $inTree[$h] === 1 || ($twin[$h] >= 0 && $twin[$h] < $h)) {
                        continue;
                    }
                    if (! self::union($parent, intdiv($h, 3), $twin[$h] >= 0 ? intdiv($twin[$h], 3) : $faces + $v)) {
                        $places[] = $v;
                    }
                }
            }
        }

        return $places;
    }

    /**
     * Joins two sets that are kept as trees.
     *
     * @param  array<int, int>  $parent  (changed)
     * @return bool false when they were one already
     */
    public static function union(array &$parent, int $a, int $b): bool
    {
        while ($parent[$a] !== $a) {
            $a = $parent[$a] = $parent[$parent[$a]];
        }
        while ($parent[$b] !== $b) {
            $b = $parent[$b] = $parent[$parent[$b]];
        }
        $parent[$a] = $b;

        return $a !== $b;
    }
}
