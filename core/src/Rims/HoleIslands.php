<?php

declare(strict_types=1);

namespace Emberstone\Core\Rims;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;

/**
 * Ties the rims of pieces that lie loose inside a hole to the rim around them, so that one patch takes in both.
 *
 * Source    a bridge there and back makes one ring of two, as where polygons with holes are cut into triangles (de Berg et al., Computational Geometry, ch. 3).
 */
final class HoleIslands
{
    /** An island lies no farther above or below the hole than this share of its width. */
    private const HEIGHT = 0.5;

    /**
     * @param  list<list<int>>  $rims
     * @param  array<int, true>  $chosen  rims that are to be closed, by number
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return array<int, array{ring: list<int>, islands: list<int>}> by the number of the rim around them: the ring, in which the ends of a bridge stand twice, and the numbers of the islands' rims
     */
    public static function joined(array $rims, array $chosen, array $p, array $f): array
    {
        if (count($chosen) < 2) {
            return [];
        }
        $pieces = Topology::pieces(Topology::twins($f))['of'];
        $pieceOf = [];
        foreach ($f as $h => $v) {
            $pieceOf[$v] = $pieces[intdiv($h, 3)];
        }
        $sizes = array_count_values($pieces);
        $of = array_map(fn (array $rim): int => $pieceOf[$rim[0]], $rims);
        $rimsOf = array_count_values($of);
        $shapes = array_map(fn (array $rim): array => self::shape($rim, $p), $rims);
        $inside = [];
        foreach (array_keys($chosen) as $island) {
            $around = null;
            foreach ($rimsOf[$of[$island]] === 1 ? array_keys($chosen) : [] as $k) {
                if ($of[$k] !== $of[$island] && $sizes[$of[$k]] > $sizes[$of[$island]] && ($around === null || $shapes[$k]['width'] < $shapes[$around]['width']) && self::isIn($shapes[$island], $shapes[$k], $rims[$k], $p)) {
                    $around = $k;
                }
            }
            if ($around !== null) {
                $inside[$around][] = $island;
            }
        }
        // What is itself an island is filled by its own rim, or a ring would have to wait for another.
        $inside = array_diff_key($inside, array_flip(array_merge(...array_values($inside))));
        $rings = [];
        foreach ($inside as $k => $islands) {
            $rings[$k] = ['ring' => array_reduce($islands, fn (array $ring, int $island): array => self::bridged($ring, $rims[$island], $p), $rims[$k]), 'islands' => $islands];
        }

        return $rings;
    }

    /**
     * @param  list<int>  $rim
     * @param  array<int, float>  $p
     * @return array{middle: array{float, float, float}, normal: array{float, float, float}, width: float} the normal by Newell's method, not of unit length
     */
    private static function shape(array $rim, array $p): array
    {
        $normal = [0.0, 0.0, 0.0];
        $points = [];
        $n = count($rim);
        foreach ($rim as $k => $v) {
            $w = $rim[($k + 1) % $n];
            for ($c = 0; $c < 3; $c++) {
                [$a, $b] = [($c + 1) % 3, ($c + 2) % 3];
                $normal[$c] += ($p[3 * $v + $a] - $p[3 * $w + $a]) * ($p[3 * $v + $b] + $p[3 * $w + $b]);
            }
            array_push($points, $p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]);
        }
        $box = BoundingBox::of($points);

        return ['middle' => [0.5 * ($box->min[0] + $box->max[0]), 0.5 * ($box->min[1] + $box->max[1]), 0.5 * ($box->min[2] + $box->max[2])], 'normal' => $normal, 'width' => $box->diagonal()];
    }

    /**
     * Does an island lie in a hole: seen along the hole's normal within its rim, near its plane, and running the other way round?
     *
     * @param  array{middle: array{float, float, float}, normal: array{float, float, float}, width: float}  $island
     * @param  array{middle: array{float, float, float}, normal: array{float, float, float}, width: float}  $hole
     * @param  list<int>  $rim  of the hole
     * @param  array<int, float>  $p
     */
    private static function isIn(array $island, array $hole, array $rim, array $p): bool
    {
        $length = Vector3::length($hole['normal']);
        if ($length <= 0.0 || $island['width'] >= $hole['width'] || Vector3::dot($island['normal'], $hole['normal']) >= 0.0) {
            return false;
        }
        $n = Vector3::scaled($hole['normal'], 1.0 / $length);
        if (abs(Vector3::dot(Vector3::minus($island['middle'], $hole['middle']), $n)) > self::HEIGHT * $hole['width']) {
            return false;
        }
        // Two axes across the normal; a ray along the first is crossed an odd number of times from within.
        $u = Vector3::cross($n, abs($n[0]) < 0.7 ? [1.0, 0.0, 0.0] : [0.0, 1.0, 0.0]);
        $v = Vector3::cross($n, $u);
        $flat = array_map(function (int $corner) use ($p, $u, $v, $island): array {
            $d = Vector3::minus([$p[3 * $corner], $p[3 * $corner + 1], $p[3 * $corner + 2]], $island['middle']);

            return [Vector3::dot($d, $u), Vector3::dot($d, $v)];
        }, $rim);
        $isIn = false;
        foreach ($flat as $k => [$x, $y]) {
            [$s, $t] = $flat[($k + 1) % count($flat)];
            if (($y > 0.0) !== ($t > 0.0) && $x + ($s - $x) * $y / ($y - $t) > 0.0) {
                $isIn = ! $isIn;
            }
        }

        return $isIn;
    }

    /**
     * One ring of two, by the shortest bridge between vertices that carry none yet.
     *
     * @param  list<int>  $ring
     * @param  list<int>  $island
     * @param  array<int, float>  $p
     * @return list<int>
     */
    private static function bridged(array $ring, array $island, array $p): array
    {
        $times = array_count_values($ring);
        $least = INF;
        $from = $to = 0;
        foreach ($ring as $i => $v) {
            foreach ($times[$v] === 1 ? $island : [] as $j => $w) {
                $d = ($p[3 * $v] - $p[3 * $w]) ** 2 + ($p[3 * $v + 1] - $p[3 * $w + 1]) ** 2 + ($p[3 * $v + 2] - $p[3 * $w + 2]) ** 2;
                if ($d < $least) {
                    [$least, $from, $to] = [$d, $i, $j];
                }
            }
        }

        return [...array_slice($ring, 0, $from + 1), ...array_slice($island, $to), ...array_slice($island, 0, $to + 1), ...array_slice($ring, $from)];
    }
}
