<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\HalfEdge;

/**
 * Who touches whom in a triangle mesh.
 *
 * @internal
 */
final class Topology
{
    /** Edges at a vertex that are compared each with each. */
    private const FEW = 24;

    /** How far a vertex split off moves to the middle of its own faces, as a share. */
    private const APART = 0.1;

    /**
     * Half-edge twins by sorted keys. The half-edge 3t + c of face t leads from its corner c to the next.
     *
     * @param  array<int, int>  $f  flat faces
     * @return array<int, int> twin of each half-edge; -1 open, -2 when the edge has more than two faces or both run the same way
     */
    public static function twins(array $f): array
    {
        $n = count($f);
        $keys = array_fill(0, $n, 0);
        for ($h = 0; $h < $n; $h++) {
            $a = $f[$h];
            $b = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            // 26 bits for each end would not hold the half-edge too; so the smaller end sorts and the larger is compared.
            $keys[$h] = ($a < $b ? $a : $b) << 32 | $h;
        }
        sort($keys);
        $twin = array_fill(0, $n, -1);
        // Up to here edges at one vertex are sorted by their other end.
        $sorted = 0;
        $i = 0;
        while ($i < $n) {
            $low = $keys[$i] >> 32;
            $j = $i;
            while ($i >= $sorted && $j < $n && $low === $keys[$j] >> 32) {
                $j++;
            }
            if ($j - $i > self::FEW) {
                // Each edge is compared with all others at the vertex: of many, those with the same other end are brought together first.
                $group = [];
                for ($u = $i; $u < $j; $u++) {
                    $h = $keys[$u] & 0xFFFFFFFF;
                    $group[] = ($f[$h] + $f[$h % 3 === 2 ? $h - 2 : $h + 1] - $low) << 32 | $h;
                }
                sort($group);
                foreach ($group as $u => $key) {
                    $keys[$i + $u] = $low << 32 | $key & 0xFFFFFFFF;
                }
                $sorted = $j;
            }
            if ($i < $sorted) {
                $h = $keys[$i] & 0xFFFFFFFF;
                $high = $f[$h] + $f[$h % 3 === 2 ? $h - 2 : $h + 1];
                for ($j = $i + 1; $j < $sorted; $j++) {
                    $h = $keys[$j] & 0xFFFFFFFF;
                    if ($high !== $f[$h] + $f[$h % 3 === 2 ? $h - 2 : $h + 1]) {
                        break;
                    }
                }
            }
            for ($u = $i; $u < $j; $u++) {
                $h = $keys[$u] & 0xFFFFFFFF;
                if ($twin[$h] !== -1) {
                    continue;
                }
                $a = $f[$h];
                $b = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
                $high = $a + $b - $low;
                $mates = 0;
                $mate = -1;
                $same = false;
                for ($v = $u + 1; $v < $j; $v++) {
                    $g = $keys[$v] & 0xFFFFFFFF;
                    $c = $f[$g];
                    $d = $f[$g % 3 === 2 ? $g - 2 : $g + 1];
                    if ($c + $d - $low !== $high) {
                        continue;
                    }
                    $mates++;
                    $mate = $g;
                    $same = $same || $c === $a;
                }
                if ($mates === 1 && ! $same) {
                    $twin[$h] = $mate;
                    $twin[$mate] = $h;
                } elseif ($mates > 0) {
                    $twin[$h] = -2;
                    for ($v = $u + 1; $v < $j; $v++) {
                        $g = $keys[$v] & 0xFFFFFFFF;
                        if ($high === $f[$g] + $f[$g % 3 === 2 ? $g - 2 : $g + 1] - $low) {
                            $twin[$g] = -2;
                        }
                    }
                }
            }
            $i = $j;
        }

        return $twin;
    }

    /**
     * Connected pieces over shared edges.
     *
     * @param  array<int, int>  $twin
     * @return array{of: array<int, int>, count: int} piece of each face
     */
    public static function pieces(array $twin): array
    {
        $faces = intdiv(count($twin), 3);
        $of = array_fill(0, $faces, -1);
        $count = 0;
        for ($s = 0; $s < $faces; $s++) {
            if ($of[$s] >= 0) {
                continue;
            }
            $of[$s] = $count;
            $stack = [$s];
            while ($stack !== []) {
                $t = array_pop($stack);
                for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                    if ($twin[$h] >= 0 && $of[$g = intdiv($twin[$h], 3)] < 0) {
                        $of[$g] = $count;
                        $stack[] = $g;
                    }
                }
            }
            $count++;
        }

        return ['of' => $of, 'count' => $count];
    }

    /**
     * Boundary loops of open edges, as vertex rings in the direction of the open half-edges (the hole on their right).
     *
     * @param  array<int, int>  $f
     * @param  array<int, int>  $twin
     * @return list<list<int>>
     */
    public static function rims(array $f, array $twin): array
    {
        $next = [];
        foreach ($twin as $h => $t) {
            if ($t === -1) {
                $next[$f[$h]][] = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            }
        }
        $rims = [];
        foreach (array_keys($next) as $start) {
            while (isset($next[$start]) && $next[$start] !== []) {
                // Where rims touch in a vertex, the walk closes a ring as soon as it comes back to a vertex it has seen.
                $path = [];
                $at = [];
                $v = $start;
                while (isset($next[$v]) && $next[$v] !== []) {
                    if (isset($at[$v])) {
                        $ring = array_slice($path, $at[$v]);
                        $rims[] = $ring;
                        foreach ($ring as $u) {
                            unset($at[$u]);
                        }
                        $path = array_slice($path, 0, count($path) - count($ring));
                    }
                    $at[$v] = count($path);
                    $path[] = $v;
                    $v = array_pop($next[$v]);
                }
                if (isset($at[$v])) {
                    $rims[] = array_slice($path, $at[$v]);
                }
            }
        }

        return array_values(array_filter($rims, fn (array $rim) => count($rim) > 2));
    }

    /**
     * Gives every fan of faces around a vertex a vertex of its own, so that no vertex joins two sheets. Edges with more than two faces come apart.
     * A new vertex stands a tenth of the way to the middle of its fan.
     *
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, int>  $f  (changed)
     * @param  array<int, int>  $support  (changed)
     * @param  array<int, int>|null  $twin  to come apart along edges that are unlinked in it
     * @return int how many vertices were added
     */
    public static function splitFans(array &$p, array &$f, array &$support, ?array $twin = null): int
    {
        $twin ??= self::twins($f);
        $n = intdiv(count($p), 3);
        $owner = array_fill(0, $n, -1);
        $seen = array_fill(0, count($f), 0);
        $added = 0;
        for ($h = 0, $m = count($f); $h < $m; $h++) {
            if ($seen[$h] !== 0) {
                continue;
            }
            $v = $f[$h];
            $corners = self::fan($twin, $h);
            foreach ($corners as $c) {
                $seen[$c] = 1;
            }
            if ($owner[$v] < 0) {
                $owner[$v] = $h;

                continue;
            }
            $w = intdiv(count($p), 3);
            // A little towards its own faces: two vertices in one place would be joined again by whoever welds.
            $around = [];
            foreach ($corners as $c) {
                $around[] = $f[$c % 3 === 2 ? $c - 2 : $c + 1];
                $around[] = $f[$c % 3 === 0 ? $c + 2 : $c - 1];
            }
            for ($k = 0; $k < 3; $k++) {
                $mean = array_sum(array_map(fn (int $w) => $p[3 * $w + $k], $around)) / count($around);
                $p[] = $p[3 * $v + $k] + self::APART * ($mean - $p[3 * $v + $k]);
            }
            if ($support !== []) {
                $support[] = $support[$v];
            }
            foreach ($corners as $c) {
                $f[$c] = $w;
            }
            $added++;
        }

        return $added;
    }

    /**
     * The corners (half-edges that start there) reached from a corner by crossing shared edges around its vertex.
     *
     * @param  array<int, int>  $twin
     * @return list<int>
     */
    public static function fan(array $twin, int $h): array
    {
        $corners = [$h];
        for ($g = $h; ;) {
            // Across the edge that leaves the vertex: the twin ends here, so the next half-edge of its face starts here.
            $t = $twin[$g];
            if ($t < 0) {
                break;
            }
            $g = $t % 3 === 2 ? $t - 2 : $t + 1;
            if ($g === $h) {
                return $corners;
            }
            $corners[] = $g;
        }
        for ($g = $h; ;) {
            $t = $twin[$g % 3 === 0 ? $g + 2 : $g - 1];
            if ($t < 0) {
                break;
            }
            $g = $t;
            $corners[] = $g;
        }

        return $corners;
    }

    /**
     * Turns the edge between two faces: from abc and bad, where half-edge $h leads from a to b, to adc and dbc. Origins and the like stay with the face.
     *
     * @param  array<int, int>  $f  (changed)
     * @param  array<int, int>  $twin  (changed)
     * @param  int  $h  a half-edge with a twin
     */
    public static function flip(array &$f, array &$twin, int $h): void
    {
        $g = $twin[$h];
        $o = $h - $h % 3;
        $u = $g - $g % 3;
        $bc = $o + ($h - $o + 1) % 3;
        $ca = $o + ($h - $o + 2) % 3;
        $ad = $u + ($g - $u + 1) % 3;
        $db = $u + ($g - $u + 2) % 3;
        [$a, $b, $c, $d] = [$f[$h], $f[$g], $f[$ca], $f[$db]];
        $outside = [$twin[$ad], $twin[$ca], $twin[$db], $twin[$bc]];
        [$f[$o], $f[$o + 1], $f[$o + 2], $f[$u], $f[$u + 1], $f[$u + 2]] = [$a, $d, $c, $d, $b, $c];
        $twin[$o + 1] = $u + 2;
        $twin[$u + 2] = $o + 1;
        foreach ([$o, $o + 2, $u, $u + 1] as $k => $side) {
            $twin[$side] = $outside[$k];
            if ($outside[$k] >= 0) {
                $twin[$outside[$k]] = $side;
            }
        }
    }

    /**
     * Vertices and all that share a face with them.
     *
     * @param  array<int, int>  $faces  flat
     * @param  array<int, true>  $vertices  by vertex
     * @return array<int, true>
     */
    public static function withNeighbours(array $faces, array $vertices): array
    {
        $all = $vertices;
        for ($t = 0, $n = count($faces); $t < $n; $t += 3) {
            if (isset($vertices[$faces[$t]]) || isset($vertices[$faces[$t + 1]]) || isset($vertices[$faces[$t + 2]])) {
                $all[$faces[$t]] = $all[$faces[$t + 1]] = $all[$faces[$t + 2]] = true;
            }
        }

        return $all;
    }
}
