<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Measure;

/**
 * Sews rims of different parts to each other where they come near: vertices that are each other's nearest become one in their middle; those that face an edge are put into it, and its face is
 * laid out anew with them.
 *
 * Error     a vertex moves by half the tolerance at most, an edge bends by the tolerance at most.
 * Cost      n log n in the vertices of the rims.
 *
 * @internal
 */
final class Stitching
{
    /**
     * @param  array<int, float>  $positions  flat xyz
     * @param  array<int, int>  $faces  flat
     * @param  array<int, int>  $owner  the part that each vertex belongs to
     * @param  float  $tolerance  mm
     * @return array{positions: list<float>, faces: list<int>, source: list<int>, sewn: int, trouble: array{float, float, float}|null} faces with the one that each was, or is a part of; how many vertices were
     *                                                                                                          sewn; a place where more than two faces would meet, or two that face opposite ways
     */
    public static function of(array $positions, array $faces, array $owner, float $tolerance): array
    {
        $twins = Topology::twins($faces);
        $onRim = [];
        foreach ($twins as $h => $twin) {
            if ($twin < 0) {
                $onRim[$faces[$h]] = $onRim[$faces[self::next($h)]] = true;
            }
        }
        ksort($onRim);
        $into = self::nearestPairs($positions, array_keys($onRim), $owner, $tolerance);
        foreach ($into as $from => $to) {
            for ($k = 0; $k < 3; $k++) {
                $positions[3 * $to + $k] = 0.5 * ($positions[3 * $to + $k] + $positions[3 * $from + $k]);
            }
        }
        $sewn = count($into);
        $partOf = array_map(fn (int $v) => $owner[$v], $faces);
        $faces = array_map(fn (int $v) => $into[$v] ?? $v, $faces);
        $inserts = self::facing($positions, $faces, $partOf, array_diff_key($onRim, $into, array_flip($into)), $owner, $tolerance);
        foreach ($inserts as $of) {
            $sewn += count($of);
        }
        [$out, $source, $trouble] = self::laidOut($positions, $faces, $inserts);
        $trouble ??= self::conflict($positions, $out);

        return ['positions' => array_values($positions), 'faces' => $out, 'source' => $source, 'sewn' => $sewn, 'trouble' => $trouble];
    }

    private static function next(int $h): int
    {
        return $h % 3 === 2 ? $h - 2 : $h + 1;
    }

    /**
     * Vertices of different parts that are each other's nearest.
     *
     * @param  array<int, float>  $positions
     * @param  list<int>  $rim
     * @param  array<int, int>  $owner
     * @return array<int, int> into which vertex each goes
     */
    private static function nearestPairs(array $positions, array $rim, array $owner, float $tolerance): array
    {
        $of = [];
        foreach ($rim as $v) {
            $of[$owner[$v]][] = $v;
        }
        $nearest = [];
        foreach ($of as $part => $own) {
            $others = array_values(array_filter($rim, fn (int $v) => $owner[$v] !== $part));
            if ($others === []) {
                continue;
            }
            $found = $distanceSq = [];
            $tree = KdTree::of(self::places($positions, $others));
            $tree->nearest(self::places($positions, $own), $tolerance, $found, $distanceSq);
            foreach ($own as $k => $v) {
                if ($found[$k] >= 0) {
                    $nearest[$v] = $others[$tree->order[intdiv($found[$k], 3)]];
                }
            }
        }
        $into = [];
        foreach ($nearest as $v => $other) {
            if (($nearest[$other] ?? -1) === $v && $v > $other) {
                $into[$v] = $other;
            }
        }

        return $into;
    }

    /**
     * @param  array<int, float>  $positions
     * @param  list<int>  $vertices
     * @return list<float> flat xyz
     */
    private static function places(array $positions, array $vertices): array
    {
        $places = [];
        foreach ($vertices as $v) {
            array_push($places, $positions[3 * $v], $positions[3 * $v + 1], $positions[3 * $v + 2]);
        }

        return $places;
    }

    /**
     * Vertices of rims that have met no other, and lie beside an open edge of another part.
     *
     * @param  array<int, float>  $positions
     * @param  array<int, int>  $faces
     * @param  array<int, int>  $partOf  the part of each half-edge, whatever its ends have been sewn to
     * @param  array<int, true>  $free
     * @param  array<int, int>  $owner
     * @return array<int, array<int, float>> by the half-edge: the vertices, with how far along it they lie, 0 to 1
     */
    private static function facing(array $positions, array $faces, array $partOf, array $free, array $owner, float $tolerance): array
    {
        $open = [];
        foreach (Topology::twins($faces) as $h => $twin) {
            if ($twin < 0) {
                $open[$partOf[$h]][] = $h;
            }
        }
        $inserts = [];
        foreach (array_keys($open) as $part) {
            $vertices = array_values(array_filter(array_keys($free), fn (int $v) => $owner[$v] === $part));
            $edges = array_merge(...array_values(array_diff_key($open, [$part => 0])) ?: [[]]);
            if ($vertices === [] || $edges === []) {
                continue;
            }
            // An edge as a triangle without width.
            $lines = [];
            foreach ($edges as $h) {
                array_push($lines, $faces[$h], $faces[self::next($h)], $faces[self::next($h)]);
            }
            $face = $distanceSq = [];
            TriangleBvh::of($positions, $lines)->closest(self::places($positions, $vertices), $face, $distanceSq);
            foreach ($vertices as $k => $v) {
                $h = $edges[$face[$k]];
                [$a, $b] = [$faces[$h], $faces[self::next($h)]];
                $along = $length = 0.0;
                for ($c = 0; $c < 3; $c++) {
                    $d = $positions[3 * $b + $c] - $positions[3 * $a + $c];
                    $along += $d * ($positions[3 * $v + $c] - $positions[3 * $a + $c]);
                    $length += $d * $d;
                }
                $t = $length > 0.0 ? $along / $length : 0.0;
                if ($distanceSq[$k] <= $tolerance * $tolerance && $t > 0.0 && $t < 1.0 && $a !== $v && $b !== $v) {
                    $inserts[$h][$v] = $t;
                }
            }
        }

        return $inserts;
    }

    /**
     * @param  array<int, float>  $positions
     * @param  array<int, int>  $faces
     * @param  array<int, array<int, float>>  $inserts
     * @return array{list<int>, list<int>, array{float, float, float}|null} faces, the one that each was, and a place where one cannot be laid out
     */
    private static function laidOut(array $positions, array $faces, array $inserts): array
    {
        $out = $source = [];
        $crosses = Measure::crosses($positions, $faces);
        for ($o = 0, $n = count($faces); $o < $n; $o += 3) {
            [$a, $b, $c] = [$faces[$o], $faces[$o + 1], $faces[$o + 2]];
            if ($a === $b || $b === $c || $c === $a) {
                continue;
            }
            if (! isset($inserts[$o]) && ! isset($inserts[$o + 1]) && ! isset($inserts[$o + 2])) {
                array_push($out, $a, $b, $c);
                $source[] = intdiv($o, 3);

                continue;
            }
            $around = [];
            for ($h = $o; $h < $o + 3; $h++) {
                $along = $inserts[$h] ?? [];
                asort($along);
                array_push($around, $faces[$h], ...array_keys($along));
            }
            $edges = [];
            foreach ($around as $k => $v) {
                $edges[] = [$v, $around[($k + 1) % count($around)]];
            }
            $laid = ConstrainedTriangulation::within($positions, $edges, [$crosses[$o], $crosses[$o + 1], $crosses[$o + 2]]);
            if ($laid['trouble'] !== null) {
                return [[], [], $laid['trouble']];
            }
            array_push($out, ...$laid['faces']);
            array_push($source, ...array_fill(0, intdiv(count($laid['faces']), 3), intdiv($o, 3)));
        }

        return [$out, $source, null];
    }

    /**
     * @param  array<int, float>  $positions
     * @param  list<int>  $faces
     * @return array{float, float, float}|null a place where an edge has more than two faces, or two that run the same way
     */
    private static function conflict(array $positions, array $faces): ?array
    {
        $h = array_search(-2, Topology::twins($faces), true);

        return $h === false ? null : [$positions[3 * $faces[$h]], $positions[3 * $faces[$h] + 1], $positions[3 * $faces[$h] + 2]];
    }
}
