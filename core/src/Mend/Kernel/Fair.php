<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend\Kernel;

/**
 * Moves the inner vertices of a patch so that it becomes as smooth as wanted; what is around it stays.
 *
 * Source    Kobbelt et al. 1998, "Interactive multi-resolution modeling"; Botsch & Kobbelt 2004: least squares of the k-th
 *           Laplacian with uniform weights. Order 1 is a membrane (flat), 2 keeps the slope at the rim, 3 the curvature.
 *
 * @internal
 */
final class Fair
{
    /**
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, list<int>>  $ring  neighbours of every vertex that takes part: free ones, and $order - 1 rings around them
     * @param  list<int>  $free  vertices to move
     * @param  callable(): void  $breathe  called now and then; may throw to stop
     */
    public static function run(array &$p, array $ring, array $free, int $order, callable $breathe): void
    {
        if ($free === []) {
            return;
        }
        self::solve($p, $ring, $free, 1, $breathe);
        if ($order > 1) {
            self::solve($p, $ring, $free, $order, $breathe);
        }
    }

    /**
     * Conjugate gradients on the normal equations M^T M x = 0 with M the Laplacian applied $order times where it is known, fixed vertices moved to the right side.
     *
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, list<int>>  $ring
     * @param  list<int>  $free
     */
    private static function solve(array &$p, array $ring, array $free, int $order, callable $breathe): void
    {
        $isFree = array_fill_keys($free, true);
        // Rows: vertices whose value of the operator depends on a free one and can be computed (all their rings are at hand).
        $index = array_flip(array_keys($ring));
        $ids = array_keys($ring);
        $n = count($ids);
        $lists = [];
        foreach ($ids as $v) {
            $lists[] = array_map(fn (int $w) => $index[$w] ?? -1, $ring[$v]);
        }
        $complete = array_map(fn (array $list) => ! in_array(-1, $list, true), $lists);
        $rows = array_map(fn (int $v) => isset($isFree[$v]), $ids);
        if ($order > 1) {
            // One ring around the free ones takes part: the rim, where patch and surroundings meet.
            $wide = $rows;
            foreach ($lists as $i => $list) {
                if ($rows[$i]) {
                    foreach ($list as $j) {
                        if ($complete[$j]) {
                            $wide[$j] = true;
                        }
                    }
                }
            }
            $rows = $wide;
        }
        for ($axis = 0; $axis < 3; $axis++) {
            $x = [];
            foreach ($ids as $v) {
                $x[] = $p[3 * $v + $axis];
            }
            $mask = array_map(fn (int $v) => isset($isFree[$v]) ? 1.0 : 0.0, $ids);
            $r = self::normal($x, $lists, $rows, $complete, $order, $mask);
            for ($i = 0; $i < $n; $i++) {
                $r[$i] = -$r[$i];
            }
            $d = $r;
            $rho = $start = self::dot($r, $r);
            $most = $order === 1 ? 400 : 600;
            for ($step = 0; $step < $most && $rho > 1e-12 * $start && $rho > 1e-24; $step++) {
                $q = self::normal($d, $lists, $rows, $complete, $order, $mask);
                $alpha = $rho / (self::dot($d, $q) ?: INF);
                for ($i = 0; $i < $n; $i++) {
                    $x[$i] += $alpha * $d[$i];
                    $r[$i] -= $alpha * $q[$i];
                }
                $next = self::dot($r, $r);
                $beta = $next / $rho;
                $rho = $next;
                for ($i = 0; $i < $n; $i++) {
                    $d[$i] = $r[$i] + $beta * $d[$i];
                }
                if (($step & 15) === 0) {
                    $breathe();
                }
            }
            foreach ($ids as $i => $v) {
                if (isset($isFree[$v])) {
                    $p[3 * $v + $axis] = $x[$i];
                }
            }
        }
    }

    /**
     * M^T M x on the free vertices. For order 1 and 2 M is the Laplacian L on the rows; for order 3 it is L after L.
     *
     * @param  array<int, float>  $x
     * @param  list<list<int>>  $lists
     * @param  list<bool>  $rows
     * @param  list<bool>  $complete
     * @param  list<float>  $mask
     * @return array<int, float>
     */
    private static function normal(array $x, array $lists, array $rows, array $complete, int $order, array $mask): array
    {
        $all = $order === 3 ? $complete : $rows;
        $y = self::laplace($x, $lists, $all);
        if ($order === 3) {
            $y = self::transpose(self::laplace($y, $lists, $rows), $lists, $rows);
        }
        $z = self::transpose($y, $lists, $all);
        for ($i = 0, $n = count($z); $i < $n; $i++) {
            $z[$i] *= $mask[$i];
        }

        return $z;
    }

    /**
     * @param  array<int, float>  $x
     * @param  list<list<int>>  $lists
     * @param  list<bool>  $rows
     * @return array<int, float>
     */
    private static function laplace(array $x, array $lists, array $rows): array
    {
        $y = array_fill(0, count($x), 0.0);
        foreach ($lists as $i => $list) {
            if (! $rows[$i]) {
                continue;
            }
            $sum = 0.0;
            foreach ($list as $j) {
                $sum += $x[$j];
            }
            $y[$i] = $sum / count($list) - $x[$i];
        }

        return $y;
    }

    /**
     * @param  array<int, float>  $y
     * @param  list<list<int>>  $lists
     * @param  list<bool>  $rows
     * @return array<int, float>
     */
    private static function transpose(array $y, array $lists, array $rows): array
    {
        $x = array_fill(0, count($y), 0.0);
        foreach ($lists as $i => $list) {
            if (! $rows[$i]) {
                continue;
            }
            $v = $y[$i];
            $x[$i] -= $v;
            $v /= count($list);
            foreach ($list as $j) {
                $x[$j] += $v;
            }
        }

        return $x;
    }

    /**
     * @param  array<int, float>  $a
     * @param  array<int, float>  $b
     */
    private static function dot(array $a, array $b): float
    {
        $sum = 0.0;
        for ($i = 0, $n = count($a); $i < $n; $i++) {
            $sum += $a[$i] * $b[$i];
        }

        return $sum;
    }
}
