<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Geometry\Vector3;

/**
 * Vertices that stand up like needles, put back among their neighbours: into their middle, or, where an edge or corner of the part runs through there, onto that.
 *
 * Source    edges and corners: the least squares of the planes around, with its small eigenvalues left out (Kobbelt et al. 2001; Garland and Heckbert 1997 for the quadrics).
 *
 * @internal
 */
final class Needles
{
    private const ROUNDS = 12;

    /** Eigenvalues of the planes' normals below this share of the largest say nothing: 2 x 2 planes at 35 degrees have 0.1. */
    private const CREASED = 0.1;

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f  all faces at the vertices that may move
     * @param  callable(array<int, float> $p): list<int>  $spikes  the vertices to lay down
     * @return array<int, float>
     */
    public static function laidDown(array $p, array $f, callable $spikes): array
    {
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $found = array_flip($spikes($p));
            if ($found === []) {
                break;
            }
            $around = $opposite = [];
            foreach ($f as $h => $v) {
                if (isset($found[$v])) {
                    $next = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
                    $last = $f[$h % 3 === 0 ? $h + 2 : $h - 1];
                    $around[$v][$next] = $around[$v][$last] = true;
                    $opposite[$last << 32 | $next] = $v;
                }
            }
            foreach ($around as $v => $others) {
                for ($k = 0; $k < 3; $k++) {
                    $p[3 * $v + $k] = array_sum(array_map(fn (int $w) => $p[3 * $w + $k], array_keys($others))) / count($others);
                }
            }
            foreach (self::beyond($p, $f, $opposite) as $v => $planes) {
                // Some of the faces around it are not among those that are known.
                if (count($planes) === count($around[$v])) {
                    self::toCrease($p, $v, $planes, array_keys($around[$v]));
                }
            }
        }

        return $p;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array<int, int>  $opposite  by an edge against the sense of its face there, as (from << 32 | to): the vertex that it lies opposite of
     * @return array<int, list<array{array{float, float, float}, array{float, float, float}}>> of each vertex the planes of the faces beyond those edges: a place on them, the unit normal
     */
    private static function beyond(array $p, array $f, array $opposite): array
    {
        $planes = [];
        foreach ($f as $h => $a) {
            $v = $opposite[$a << 32 | $f[$h % 3 === 2 ? $h - 2 : $h + 1]] ?? null;
            if ($v !== null) {
                $corners = array_map(fn (int $w): array => [$p[3 * $w], $p[3 * $w + 1], $p[3 * $w + 2]], array_slice($f, $h - $h % 3, 3));
                $normal = Vector3::cross(Vector3::minus($corners[1], $corners[0]), Vector3::minus($corners[2], $corners[0]));
                if (Vector3::length($normal) > 0.0) {
                    $planes[$v][] = [$corners[0], Vector3::unit($normal)];
                }
            }
        }

        return $planes;
    }

    /**
     * Moves a vertex from the middle of its neighbours to where the planes around it meet, where these are creased; not farther than its neighbours lie.
     *
     * @param  array<int, float>  $p  (changed)
     * @param  list<array{array{float, float, float}, array{float, float, float}}>  $planes
     * @param  list<int>  $ring
     */
    private static function toCrease(array &$p, int $v, array $planes, array $ring): void
    {
        $middle = [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]];
        $xx = $xy = $xz = $yy = $yz = $zz = 0.0;
        $right = [0.0, 0.0, 0.0];
        foreach ($planes as [$at, $n]) {
            $off = Vector3::dot($n, Vector3::minus($at, $middle));
            $xx += $n[0] * $n[0];
            $xy += $n[0] * $n[1];
            $xz += $n[0] * $n[2];
            $yy += $n[1] * $n[1];
            $yz += $n[1] * $n[2];
            $zz += $n[2] * $n[2];
            $right = Vector3::plus($right, Vector3::scaled($n, $off));
        }
        [$values, $vectors] = Symmetric3::eigen($xx, $xy, $xz, $yy, $yz, $zz);
        if ($values[1] < self::CREASED * $values[2]) {
            return;
        }
        $to = $middle;
        foreach ($values as $k => $value) {
            if ($value >= self::CREASED * $values[2]) {
                $to = Vector3::plus($to, Vector3::scaled($vectors[$k], Vector3::dot($vectors[$k], $right) / $value));
            }
        }
        $reach = max(array_map(fn (int $w) => Vector3::length(Vector3::minus([$p[3 * $w], $p[3 * $w + 1], $p[3 * $w + 2]], $middle)), $ring));
        if (Vector3::length(Vector3::minus($to, $middle)) <= $reach) {
            [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]] = $to;
        }
    }
}
