<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Search\LatticeKeys;

/**
 * Sews open edges together that lie on each other: slits without a width, pieces that were never joined.
 *
 * Source    Guéziec et al. 2001, "Cutting and stitching: converting sets of polygons to manifold surfaces": pairs of edges are stitched, not
 *           vertices, so that a place where surfaces only touch stays as it is.
 *
 * @internal
 */
final class Seam
{
    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f  (changed)
     * @param  array<int, int>  $origin  (changed) a mark a face; empty when there are none
     * @param  array<int, int>  $twin
     * @param  array<int, true>  $near  vertices; only edges between two of them are sewn
     * @param  float  $least  what is so near is in the same place
     * @return int how many pairs of edges were joined
     */
    public static function sewn(array $p, array &$f, array &$origin, array $twin, array $near, float $least): int
    {
        $open = self::open($f, $twin, $near);
        if (count($open) < 2) {
            return 0;
        }
        [$were, $marks] = [$f, $origin];
        [$names, $cell, $in] = self::cells($p, $f, $open);
        $place = self::places($p, $names, $in, $least);
        while (self::part($p, $f, $origin, $open, $place, $names, $cell, $in, $least)) {
            $open = self::open($f, Topology::twins($f), $near);
        }
        $pairs = self::join($f, $open, $place);
        // Where more than two sheets meet, sewing would tie them all to one edge: better open than that.
        $tied = fn (array $twin): int => count(array_keys($twin, -2, true));
        if ($pairs === 0 || $tied(Topology::twins($f)) > $tied($twin)) {
            [$f, $origin] = [$were, $marks];

            return 0;
        }

        return $pairs;
    }

    /**
     * @param  array<int, int>  $f
     * @param  array<int, int>  $twin
     * @param  array<int, true>  $near
     * @return list<int> half-edges
     */
    private static function open(array $f, array $twin, array $near): array
    {
        $open = [];
        foreach ($twin as $h => $g) {
            if ($g === -1 && isset($near[$f[$h]], $near[$f[$h % 3 === 2 ? $h - 2 : $h + 1]])) {
                $open[] = $h;
            }
        }

        return $open;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  non-empty-list<int>  $open
     * @return array{LatticeKeys, float, array<int, list<int>>} cubes about as wide as an edge is long, their width, and the vertices in them
     */
    private static function cells(array $p, array $f, array $open): array
    {
        $length = 0.0;
        $points = $ends = [];
        foreach ($open as $h) {
            [$a, $b] = [$f[$h], $f[$h % 3 === 2 ? $h - 2 : $h + 1]];
            $length += sqrt(self::apart($p, $a, $b));
            $ends[$a] = $ends[$b] = true;
        }
        foreach ($ends as $v => $_) {
            array_push($points, $p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]);
        }
        $cell = max(1e-9, $length / count($open));
        $names = LatticeKeys::of($points, $cell);
        $in = [];
        foreach ($ends as $v => $_) {
            $in[$names->at($p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2])][] = $v;
        }

        return [$names, $cell, $in];
    }

    /**
     * The vertices in and beside the cube of a place.
     *
     * @param  array<int, list<int>>  $in
     * @return list<int>
     */
    private static function around(float $x, float $y, float $z, LatticeKeys $names, array $in): array
    {
        $found = [];
        $middle = $names->at($x, $y, $z);
        for ($i = -$names->layer; $i <= $names->layer; $i += $names->layer) {
            for ($j = -$names->row; $j <= $names->row; $j += $names->row) {
                for ($k = $middle + $i + $j - 1, $last = $k + 2; $k <= $last; $k++) {
                    foreach ($in[$k] ?? [] as $v) {
                        $found[] = $v;
                    }
                }
            }
        }

        return $found;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, list<int>>  $in
     * @return array<int, int> the first vertex in the same place, by vertex
     */
    private static function places(array $p, LatticeKeys $names, array $in, float $least): array
    {
        $place = [];
        foreach ($in as $some) {
            foreach ($some as $v) {
                $place[$v] ??= $v;
                foreach (self::around($p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2], $names, $in) as $w) {
                    if (! isset($place[$w]) && self::apart($p, $v, $w) <= $least * $least) {
                        $place[$w] = $place[$v];
                    }
                }
            }
        }

        return $place;
    }

    /**
     * Parts faces at vertices that lie on their open edge; one edge a face.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f  (changed)
     * @param  array<int, int>  $origin  (changed)
     * @param  list<int>  $open
     * @param  array<int, int>  $place
     * @param  array<int, list<int>>  $in
     * @return bool whether any was
     */
    private static function part(array $p, array &$f, array &$origin, array $open, array $place, LatticeKeys $names, float $cell, array $in, float $least): bool
    {
        $parted = [];
        foreach ($open as $h) {
            $t = intdiv($h, 3);
            [$a, $b, $c] = [$f[$h], $f[$h % 3 === 2 ? $h - 2 : $h + 1], $f[$h % 3 === 0 ? $h + 2 : $h - 1]];
            if (isset($parted[$t]) || $place[$a] === $place[$b]) {
                continue;
            }
            [$dx, $dy, $dz] = [$p[3 * $b] - $p[3 * $a], $p[3 * $b + 1] - $p[3 * $a + 1], $p[3 * $b + 2] - $p[3 * $a + 2]];
            $length = $dx * $dx + $dy * $dy + $dz * $dz;
            $between = [];
            for ($s = 0, $steps = max(1, (int) ceil(sqrt($length) / $cell)); $s <= $steps; $s++) {
                foreach (self::around($p[3 * $a] + $dx * $s / $steps, $p[3 * $a + 1] + $dy * $s / $steps, $p[3 * $a + 2] + $dz * $s / $steps, $names, $in) as $v) {
                    if (in_array($place[$v], [$place[$a], $place[$b], $place[$c] ?? $c], true)) {
                        continue;
                    }
                    [$x, $y, $z] = [$p[3 * $v] - $p[3 * $a], $p[3 * $v + 1] - $p[3 * $a + 1], $p[3 * $v + 2] - $p[3 * $a + 2]];
                    $share = ($x * $dx + $y * $dy + $z * $dz) / $length;
                    if ($share > 0.0 && $share < 1.0 && ($x - $share * $dx) ** 2 + ($y - $share * $dy) ** 2 + ($z - $share * $dz) ** 2 <= $least * $least) {
                        $between[$place[$v]] = $share;
                    }
                }
            }
            if ($between === []) {
                continue;
            }
            $parted[$t] = true;
            asort($between);
            $way = [...array_keys($between), $b];
            $f[$h % 3 === 2 ? $h - 2 : $h + 1] = $way[0];
            for ($k = 1; $k < count($way); $k++) {
                array_push($f, $way[$k - 1], $way[$k], $c);
                if ($origin !== []) {
                    $origin[] = $origin[$t];
                }
            }
        }

        return $parted !== [];
    }

    /**
     * Joins the ends of edges that lie on each other, where exactly one runs each way.
     *
     * @param  array<int, int>  $f  (changed)
     * @param  list<int>  $open
     * @param  array<int, int>  $place
     */
    private static function join(array &$f, array $open, array $place): int
    {
        $edges = [];
        foreach ($open as $h) {
            $edges[$place[$f[$h]] << 32 | $place[$f[$h % 3 === 2 ? $h - 2 : $h + 1]]][] = $h;
        }
        $joined = [];
        $pairs = 0;
        foreach ($edges as $key => $one) {
            [$a, $b] = [$key >> 32, $key & 0xFFFFFFFF];
            $other = $edges[$b << 32 | $a] ?? [];
            if ($a < $b && count($one) === 1 && count($other) === 1) {
                foreach ([[$one[0], $other[0] % 3 === 2 ? $other[0] - 2 : $other[0] + 1], [$one[0] % 3 === 2 ? $one[0] - 2 : $one[0] + 1, $other[0]]] as [$g, $h]) {
                    [$v, $w] = [MeshCleanup::root($joined, $f[$g]), MeshCleanup::root($joined, $f[$h])];
                    if ($v !== $w) {
                        $joined[max($v, $w)] = min($v, $w);
                    }
                }
                $pairs++;
            }
        }
        foreach ($joined === [] ? [] : $f as $h => $v) {
            $f[$h] = MeshCleanup::root($joined, $v);
        }

        return $pairs;
    }

    /** @param  array<int, float>  $p */
    private static function apart(array $p, int $a, int $b): float
    {
        return ($p[3 * $a] - $p[3 * $b]) ** 2 + ($p[3 * $a + 1] - $p[3 * $b + 1]) ** 2 + ($p[3 * $a + 2] - $p[3 * $b + 2]) ** 2;
    }
}
