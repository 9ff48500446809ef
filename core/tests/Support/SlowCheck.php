<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Emberstone\Core\Algorithms\Predicates\Orient3d;
use Emberstone\Core\Mesh\TriangleMesh;

/** Faults counted from their definitions, every pair of triangles that are beside each other along X looked at: shares no code with the core but the signs of volumes and areas. */
final class SlowCheck
{
    /** @return array<string, int> families without a fault are left out */
    public static function faults(TriangleMesh $mesh): array
    {
        $triangles = array_chunk($mesh->faces, 3);
        $ways = $fans = $seen = [];
        $faults = ['open' => 0, 'nonManifold' => 0, 'inconsistent' => 0, 'sheets' => 0, 'degenerate' => 0, 'duplicate' => 0, 'crossing' => 0];
        foreach ($triangles as [$a, $b, $c]) {
            foreach ([[$a, $b], [$b, $c], [$c, $a]] as [$u, $v]) {
                $ways[min($u, $v).'-'.max($u, $v)][] = $u < $v ? 1 : -1;
            }
            // The edge across from a corner links two of its neighbours.
            $fans[$a][] = [$b, $c];
            $fans[$b][] = [$c, $a];
            $fans[$c][] = [$a, $b];
            $key = [$a, $b, $c];
            sort($key);
            $faults['duplicate'] += isset($seen[implode('-', $key)]) ? 1 : 0;
            $seen[implode('-', $key)] = true;
            [$p, $q, $r] = [self::at($mesh, $a), self::at($mesh, $b), self::at($mesh, $c)];
            $faults['degenerate'] += self::norm(self::cross(self::less($q, $p), self::less($r, $p))) < 1e-12 ? 1 : 0;
        }
        foreach ($ways as $of) {
            $faults['open'] += count($of) === 1 ? 1 : 0;
            $faults['nonManifold'] += count($of) > 2 ? 1 : 0;
            $faults['inconsistent'] += count($of) === 2 && array_sum($of) !== 0 ? 1 : 0;
        }
        foreach ($fans as $links) {
            // All neighbours of a vertex hang together over its faces, or it joins two sheets.
            $reached = [$links[0][0] => true];
            for ($grew = true; $grew;) {
                $grew = false;
                foreach ($links as [$u, $v]) {
                    if (isset($reached[$u]) !== isset($reached[$v])) {
                        $reached[$u] = $reached[$v] = $grew = true;
                    }
                }
            }
            $faults['sheets'] += array_filter($links, fn (array $link) => ! isset($reached[$link[0]])) === [] ? 0 : 1;
        }
        $faults['crossing'] = self::crossings($mesh, $triangles);

        return array_filter($faults);
    }

    /** @param  list<array<int, int>>  $triangles */
    private static function crossings(TriangleMesh $mesh, array $triangles): int
    {
        $corners = array_map(fn (array $of) => array_map(fn (int $v) => self::at($mesh, $v), $of), $triangles);
        $low = array_map(fn (array $of) => [min($of[0][0], $of[1][0], $of[2][0]), min($of[0][1], $of[1][1], $of[2][1]), min($of[0][2], $of[1][2], $of[2][2])], $corners);
        $high = array_map(fn (array $of) => [max($of[0][0], $of[1][0], $of[2][0]), max($of[0][1], $of[1][1], $of[2][1]), max($of[0][2], $of[1][2], $of[2][2])], $corners);
        // In the order in which they begin along X: once one begins beyond the end of another, so do all after it.
        $order = array_keys($low);
        usort($order, fn (int $i, int $j) => $low[$i][0] <=> $low[$j][0]);
        $many = 0;
        foreach ($order as $k => $i) {
            [, $y0, $z0] = $low[$i];
            [$x1, $y1, $z1] = $high[$i];
            for ($m = $k + 1, $n = count($order); $m < $n && $low[$order[$m]][0] <= $x1; $m++) {
                $j = $order[$m];
                $l = $low[$j];
                $h = $high[$j];
                if ($l[1] > $y1 || $h[1] < $y0 || $l[2] > $z1 || $h[2] < $z0) {
                    continue;
                }
                $many += self::shareMore($corners[$i], $corners[$j]) ? 1 : 0;
            }
        }

        return $many;
    }

    /** Whether two triangles have more in common than their common corners: by signs of volumes and areas. */
    private static function shareMore(array $one, array $other): bool
    {
        if (self::flatAxes($one) === null || self::flatAxes($other) === null) {
            return false;
        }
        $common = array_values(array_filter($one, fn (array $v) => in_array($v, $other, true)));
        $here = array_values(array_filter($one, fn (array $v) => ! in_array($v, $common, true)));
        $there = array_values(array_filter($other, fn (array $v) => ! in_array($v, $common, true)));
        if (count($common) > 1) {
            [$i, $j] = self::flatAxes($one) ?? [0, 1];

            return count($common) === 2 && self::volume($one[0], $one[1], $one[2], $there[0]) === 0
                && self::area($common[0], $common[1], $here[0], $i, $j) === self::area($common[0], $common[1], $there[0], $i, $j);
        }
        if ($common !== []) {
            return self::meets($here[0], $here[1], $other) || self::meets($there[0], $there[1], $one);
        }
        foreach ([[$one, $other], [$other, $one]] as [$edges, $triangle]) {
            for ($k = 0; $k < 3; $k++) {
                if (self::meets($edges[$k], $edges[($k + 1) % 3], $triangle)) {
                    return true;
                }
            }
        }

        return false;
    }

    private static function meets(array $p, array $q, array $triangle): bool
    {
        [$s, $t] = [self::volume(...$triangle, ...[$p]), self::volume(...$triangle, ...[$q])];
        if ($s * $t > 0) {
            return false;
        }
        if ($s !== 0 || $t !== 0) {
            $sides = array_map(fn (int $k) => self::volume($p, $q, $triangle[$k], $triangle[($k + 1) % 3]), [0, 1, 2]);

            return min($sides) >= 0 || max($sides) <= 0;
        }
        // In the plane: an end inside, or a crossing of two edges.
        [$i, $j] = self::flatAxes($triangle) ?? [0, 1];
        foreach ([$p, $q] as $end) {
            $sides = array_map(fn (int $k) => self::area($triangle[$k], $triangle[($k + 1) % 3], $end, $i, $j), [0, 1, 2]);
            if (min($sides) >= 0 || max($sides) <= 0) {
                return true;
            }
        }
        for ($k = 0; $k < 3; $k++) {
            [$a, $b] = [$triangle[$k], $triangle[($k + 1) % 3]];
            if (self::area($p, $q, $a, $i, $j) * self::area($p, $q, $b, $i, $j) <= 0 && self::area($a, $b, $p, $i, $j) * self::area($a, $b, $q, $i, $j) <= 0 && self::area($p, $q, $a, $i, $j) !== self::area($p, $q, $b, $i, $j)) {
                return true;
            }
        }

        return false;
    }

    /** @return array{int, int}|null two coordinates in which a triangle has area */
    private static function flatAxes(array $triangle): ?array
    {
        foreach ([[0, 1], [1, 2], [2, 0]] as [$i, $j]) {
            if (self::area($triangle[0], $triangle[1], $triangle[2], $i, $j) !== 0) {
                return [$i, $j];
            }
        }

        return null;
    }

    private static function area(array $a, array $b, array $c, int $i, int $j): int
    {
        return Orient3d::turn([...$a, ...$b, ...$c], 0, 3, 6, $i, $j);
    }

    /** The sign of the volume, exactly: a corner may stand in another face up to rounding. */
    private static function volume(array ...$corners): int
    {
        return Orient3d::side(array_merge(...$corners), 0, 3, 6, 9);
    }

    private static function at(TriangleMesh $mesh, int $v): array
    {
        return [$mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]];
    }

    private static function less(array $a, array $b): array
    {
        return [$a[0] - $b[0], $a[1] - $b[1], $a[2] - $b[2]];
    }

    private static function cross(array $a, array $b): array
    {
        return [$a[1] * $b[2] - $a[2] * $b[1], $a[2] * $b[0] - $a[0] * $b[2], $a[0] * $b[1] - $a[1] * $b[0]];
    }

    private static function norm(array $a): float
    {
        return sqrt($a[0] ** 2 + $a[1] ** 2 + $a[2] ** 2);
    }
}
