<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Linear;

/**
 * Solves sparse symmetric positive definite systems directly.
 *
 * Source    Davis 2005, "Algorithm 849: a concise sparse Cholesky factorization package" (up-looking LDL^T); George 1973 (nested dissection),
 *           here by the places of the unknowns.
 * Cost      of the systems of a triangle mesh about n^1.5 times the square of what a row holds.
 */
final class SparseCholesky
{
    /** So few unknowns are not split any further. */
    private const LEAF = 48;

    /**
     * @param  list<array<int, float>>  $rows  a row: column => value, both halves given
     * @param  list<float>  $right  $width numbers an unknown
     * @param  list<array{float, float, float}>  $places  of the unknowns: near in space, near in the matrix
     * @param  callable(): void  $breathe  called now and then; may throw to stop
     * @return list<float>|null the unknowns, $width numbers each; null when the matrix is not positive definite
     */
    public static function solve(array $rows, array $right, int $width, array $places, callable $breathe): ?array
    {
        $n = count($rows);
        $order = self::dissected($rows, $places);
        $rank = array_flip($order);
        // The upper half of each column in the new order.
        $start = [0];
        $column = $value = [];
        foreach ($order as $k => $old) {
            foreach ($rows[$old] as $j => $v) {
                $i = $rank[$j];
                if ($i <= $k) {
                    $column[] = $i;
                    $value[] = $v;
                }
            }
            $start[] = count($column);
        }
        [$parent, $first] = self::shape($n, $start, $column);
        $factor = self::factor($n, $start, $column, $value, $parent, $first, $breathe);
        if ($factor === null) {
            return null;
        }
        [$li, $lx, $d, $many] = $factor;
        $x = array_fill(0, $n * $width, 0.0);
        for ($c = 0; $c < $width; $c++) {
            $y = [];
            foreach ($order as $old) {
                $y[] = $right[$width * $old + $c];
            }
            $y = self::substituted($y, $first, $many, $li, $lx, $d);
            foreach ($order as $k => $old) {
                $x[$width * $old + $c] = $y[$k];
            }
        }

        return $x;
    }

    /**
     * Halves first, what lies between them last.
     *
     * @param  list<array<int, float>>  $rows
     * @param  list<array{float, float, float}>  $places
     * @return list<int>
     */
    private static function dissected(array $rows, array $places): array
    {
        $order = [];
        $side = [];
        $work = [[range(0, count($rows) - 1), false]];
        while ($work !== []) {
            [$part, $isDone] = array_pop($work);
            if ($isDone || count($part) <= self::LEAF) {
                foreach ($part as $v) {
                    $order[] = $v;
                }

                continue;
            }
            $low = $high = $places[$part[0]];
            foreach ($part as $v) {
                for ($c = 0; $c < 3; $c++) {
                    $low[$c] = min($low[$c], $places[$v][$c]);
                    $high[$c] = max($high[$c], $places[$v][$c]);
                }
            }
            $lengths = [$high[0] - $low[0], $high[1] - $low[1], $high[2] - $low[2]];
            $axis = (int) array_search(max($lengths), $lengths, true);
            $along = [];
            foreach ($part as $v) {
                $along[$v] = $places[$v][$axis];
            }
            asort($along);
            $half = intdiv(count($part), 2);
            foreach (array_keys($along) as $k => $v) {
                $side[$v] = $k < $half ? 1 : 2;
            }
            $left = $rest = $between = [];
            foreach ($part as $v) {
                if ($side[$v] !== 1) {
                    $rest[] = $v;

                    continue;
                }
                $touches = false;
                foreach ($rows[$v] as $w => $_) {
                    if (($side[$w] ?? 0) === 2) {
                        $touches = true;
                        break;
                    }
                }
                $touches ? $between[] = $v : $left[] = $v;
            }
            foreach ($part as $v) {
                $side[$v] = 0;
            }
            if ($left === []) {
                // Everything touches everything: nothing is gained by splitting.
                array_push($work, [[...$rest, ...$between], true]);

                continue;
            }
            array_push($work, [$between, true], [$rest, false], [$left, false]);
        }

        return $order;
    }

    /**
     * The elimination tree, and where each column of the factor begins.
     *
     * @param  list<int>  $start
     * @param  list<int>  $column
     * @return array{array<int, int>, list<int>}
     */
    private static function shape(int $n, array $start, array $column): array
    {
        $parent = $flag = array_fill(0, $n, -1);
        $many = array_fill(0, $n, 0);
        for ($k = 0; $k < $n; $k++) {
            $flag[$k] = $k;
            for ($p = $start[$k], $e = $start[$k + 1]; $p < $e; $p++) {
                for ($i = $column[$p]; $flag[$i] !== $k; $i = $parent[$i]) {
                    if ($parent[$i] < 0) {
                        $parent[$i] = $k;
                    }
                    $many[$i]++;
                    $flag[$i] = $k;
                }
            }
        }
        $first = [0];
        foreach ($many as $k => $count) {
            $first[] = $first[$k] + $count;
        }

        return [$parent, $first];
    }

    /**
     * @param  list<int>  $start
     * @param  list<int>  $column
     * @param  list<float>  $value
     * @param  array<int, int>  $parent
     * @param  list<int>  $first
     * @return array{array<int, int>, array<int, float>, array<int, float>, array<int, int>}|null rows and values of the factor by column, diagonal, entries a column
     */
    private static function factor(int $n, array $start, array $column, array $value, array $parent, array $first, callable $breathe): ?array
    {
        $li = array_fill(0, max(1, $first[$n]), 0);
        $lx = array_fill(0, max(1, $first[$n]), 0.0);
        $d = $y = array_fill(0, $n, 0.0);
        $many = $pattern = array_fill(0, $n, 0);
        $flag = array_fill(0, $n, -1);
        for ($k = 0; $k < $n; $k++) {
            if (($k & 127) === 0) {
                $breathe();
            }
            $top = $n;
            $flag[$k] = $k;
            $dk = 0.0;
            for ($p = $start[$k], $e = $start[$k + 1]; $p < $e; $p++) {
                $i = $column[$p];
                if ($i === $k) {
                    $dk += $value[$p];

                    continue;
                }
                $y[$i] += $value[$p];
                $len = 0;
                for (; $flag[$i] !== $k; $i = $parent[$i]) {
                    $pattern[$len++] = $i;
                    $flag[$i] = $k;
                }
                while ($len > 0) {
                    $pattern[--$top] = $pattern[--$len];
                }
            }
            for (; $top < $n; $top++) {
                $i = $pattern[$top];
                $yi = $y[$i];
                $y[$i] = 0.0;
                $from = $first[$i];
                $to = $from + $many[$i];
                for ($p = $from; $p < $to; $p++) {
                    $y[$li[$p]] -= $lx[$p] * $yi;
                }
                $l = $yi / $d[$i];
                $dk -= $l * $yi;
                $li[$to] = $k;
                $lx[$to] = $l;
                $many[$i]++;
            }
            if ($dk <= 0.0) {
                return null;
            }
            $d[$k] = $dk;
        }

        return [$li, $lx, $d, $many];
    }

    /**
     * @param  list<float>  $y
     * @param  list<int>  $first
     * @param  array<int, int>  $many
     * @param  array<int, int>  $li
     * @param  array<int, float>  $lx
     * @param  array<int, float>  $d
     * @return list<float>
     */
    private static function substituted(array $y, array $first, array $many, array $li, array $lx, array $d): array
    {
        $n = count($y);
        for ($k = 0; $k < $n; $k++) {
            $yk = $y[$k];
            for ($p = $first[$k], $e = $p + $many[$k]; $p < $e; $p++) {
                $y[$li[$p]] -= $lx[$p] * $yk;
            }
        }
        for ($k = $n - 1; $k >= 0; $k--) {
            $sum = $y[$k] / $d[$k];
            for ($p = $first[$k], $e = $p + $many[$k]; $p < $e; $p++) {
                $sum -= $lx[$p] * $y[$li[$p]];
            }
            $y[$k] = $sum;
        }

        return $y;
    }
}
