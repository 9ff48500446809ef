<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Linear\SparseCholesky;

/**
 * Moves the inner vertices of a patch so that it becomes as smooth as wanted; what is around it stays.
 *
 * Source    Kobbelt et al. 1998, "Interactive multi-resolution modeling"; Botsch & Kobbelt 2004: the k-th power of the Laplacian is 0 at the
 *           free vertices, the k rings around them given. Order 1 is a membrane (flat), 2 keeps the slope at the rim, 3 the curvature.
 *           Weights are cotangents (Pinkall & Polthier 1993), which alone leave a plane flat where triangles grow from edge to edge; those
 *           of a membrane are alike. Solved directly: conjugate gradients end far from the solution.
 *
 * @internal
 */
final class Fair
{
    /** Bounds of a weight: slivers would hold the surface fast, or let go of it. */
    private const LEAST = 0.01;

    private const MOST = 20.0;

    /** Weights are of the surface as it lies before solving; so it is solved again with those of the outcome. */
    public const AGAIN = 2;

    /**
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, list<int>>  $ring  neighbours of the free vertices and of $order rings around them
     * @param  list<int>  $free  vertices to move
     * @param  callable(): void  $breathe  called now and then; may throw to stop
     * @param  array<int, float>|null  $stands  where the vertices are, when what is faired is something else of them
     * @param  int  $times  how often an order above 1 is solved; AGAIN unless a rough outcome will do
     * @return bool false when a system could not be solved: what was solved before it stands, a plainer surface than was asked for
     */
    public static function run(array &$p, array $ring, array $free, int $order, callable $breathe, ?array $stands = null, int $times = self::AGAIN): bool
    {
        $free = array_values(array_filter($free, fn (int $v) => ($ring[$v] ?? []) !== []));
        if ($free === []) {
            return true;
        }
        if ($stands !== null) {
            return self::solve($p, $stands, $ring, $free, $order, $breathe);
        }
        $isSolved = self::solve($p, $p, $ring, $free, 1, $breathe);
        for ($k = 0; $order > 1 && $k < $times; $k++) {
            $isSolved = self::solve($p, $p, $ring, $free, $k === 0 ? 2 : $order, $breathe) && $isSolved;
        }

        return $isSolved;
    }

    /**
     * @param  array<int, float>  $x  (changed)
     * @param  array<int, float>  $p  where the vertices are
     * @param  array<int, list<int>>  $ring
     * @param  list<int>  $free
     */
    private static function solve(array &$x, array $p, array $ring, array $free, int $order, callable $breathe): bool
    {
        [$weights, $mass] = $order === 1 ? self::even($ring) : self::cotangents($p, $ring);
        $index = array_flip($free);
        $rows = $places = [];
        $right = array_fill(0, 3 * count($free), 0.0);
        foreach ($free as $i => $v) {
            $places[] = [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]];
            $row = [];
            foreach (self::row($weights, $mass, $v, $order) as $w => $value) {
                $j = $index[$w] ?? -1;
                if ($j >= 0) {
                    $row[$j] = $value;
                } else {
                    $right[3 * $i] -= $value * $x[3 * $w];
                    $right[3 * $i + 1] -= $value * $x[3 * $w + 1];
                    $right[3 * $i + 2] -= $value * $x[3 * $w + 2];
                }
            }
            $rows[] = $row;
        }
        $solved = SparseCholesky::solve($rows, $right, 3, $places, $breathe);
        if ($solved === null) {
            return false;
        }
        foreach ($free as $i => $v) {
            $x[3 * $v] = $solved[3 * $i];
            $x[3 * $v + 1] = $solved[3 * $i + 1];
            $x[3 * $v + 2] = $solved[3 * $i + 2];
        }

        return true;
    }

    /**
     * All weights alike.
     *
     * @param  array<int, list<int>>  $ring
     * @return array{array<int, array<int, float>>, array<int, float>}
     */
    private static function even(array $ring): array
    {
        return [array_map(fn (array $others) => array_fill_keys($others, 1.0), $ring), array_map(fn (array $others) => (float) count($others), $ring)];
    }

    /**
     * Half the sum of the cotangents across each edge, and the area around each vertex.
     *
     * @param  array<int, float>  $p
     * @param  array<int, list<int>>  $ring
     * @return array{array<int, array<int, float>>, array<int, float>} by vertex and neighbour, and by vertex
     */
    private static function cotangents(array $p, array $ring): array
    {
        $beside = array_map(fn (array $others) => array_fill_keys($others, true), $ring);
        $weights = $mass = [];
        foreach ($ring as $v => $others) {
            $area = 0.0;
            foreach ($others as $w) {
                $x = $p[3 * $v] - $p[3 * $w];
                $y = $p[3 * $v + 1] - $p[3 * $w + 1];
                $z = $p[3 * $v + 2] - $p[3 * $w + 2];
                $l = $x * $x + $y * $y + $z * $z;
                if (! isset($weights[$w][$v])) {
                    $sum = 0.0;
                    $across = 0;
                    // The corners of the two faces at an edge are neighbours of both its ends.
                    foreach ($others as $u) {
                        if (! isset($beside[$w][$u]) && ! isset($beside[$u][$w])) {
                            continue;
                        }
                        $ax = $p[3 * $v] - $p[3 * $u];
                        $ay = $p[3 * $v + 1] - $p[3 * $u + 1];
                        $az = $p[3 * $v + 2] - $p[3 * $u + 2];
                        $bx = $p[3 * $w] - $p[3 * $u];
                        $by = $p[3 * $w + 1] - $p[3 * $u + 1];
                        $bz = $p[3 * $w + 2] - $p[3 * $u + 2];
                        $cx = $ay * $bz - $az * $by;
                        $cy = $az * $bx - $ax * $bz;
                        $cz = $ax * $by - $ay * $bx;
                        $sum += ($ax * $bx + $ay * $by + $az * $bz) / max(1e-300, sqrt($cx * $cx + $cy * $cy + $cz * $cz));
                        $across++;
                    }
                    $weights[$v][$w] = max(self::LEAST, min(self::MOST, $across === 0 ? 0.5 : $sum / $across));
                } else {
                    $weights[$v][$w] = $weights[$w][$v];
                }
                $area += 0.25 * $weights[$v][$w] * $l;
            }
            $mass[$v] = $area;
        }
        $least = max(1e-300, 1e-3 * Median::of(array_values($mass)));

        return [$weights, array_map(fn (float $area) => max($area, $least), $mass)];
    }

    /**
     * One row of W (M^-1 W)^(order - 1), with W the weighted Laplacian of the graph and M the masses of its vertices: symmetric.
     *
     * @param  array<int, array<int, float>>  $weights  by vertex and neighbour
     * @param  array<int, float>  $mass  by vertex
     * @return array<int, float> by vertex
     */
    private static function row(array $weights, array $mass, int $v, int $order): array
    {
        $row = [$v => array_sum($weights[$v])];
        foreach ($weights[$v] as $w => $value) {
            $row[$w] = -$value;
        }
        for ($k = 1; $k < $order; $k++) {
            $next = [];
            foreach ($row as $w => $value) {
                // A vertex whose neighbours are not at hand lies beyond what the rim needs.
                if (! isset($weights[$w])) {
                    continue;
                }
                $share = $value / $mass[$w];
                foreach ($weights[$w] as $u => $weight) {
                    $next[$u] = ($next[$u] ?? 0.0) - $share * $weight;
                    $next[$w] = ($next[$w] ?? 0.0) + $share * $weight;
                }
            }
            $row = $next;
        }

        return $row;
    }
}
