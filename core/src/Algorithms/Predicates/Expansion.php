<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Predicates;

/**
 * Exact arithmetic on expansions: sums of doubles that do not overlap, the smallest first. The sign of the last is that of the sum; the empty list is 0.
 *
 * Source    Shewchuk 1997, "Adaptive Precision Floating-Point Arithmetic and Fast Robust Geometric Predicates": Two-Diff, Two-Product after Dekker and Veltkamp, Grow-Expansion, Compress.
 * Limits    no overflow or underflow on the way.
 *
 * @internal
 */
final class Expansion
{
    /** 2^27 + 1: splits a double into two halves of its digits. */
    private const SPLITTER = 134217729.0;

    /** Terms above which a product is compressed before the next row is added: more digits than the factors have stand in fewer doubles. */
    private const LONG = 12;

    /** @param  list<float>  $e */
    public static function sign(array $e): int
    {
        return $e === [] ? 0 : $e[count($e) - 1] <=> 0.0;
    }

    /**
     * The nearest double, but for its last digit.
     *
     * @param  list<float>  $e
     */
    public static function value(array $e): float
    {
        return array_sum($e) + 0.0;
    }

    /** @return list<float> the expansion of $a - $b (Two-Diff) */
    public static function difference(float $a, float $b): array
    {
        $x = $a - $b;
        $bVirtual = $a - $x;
        $aVirtual = $x + $bVirtual;

        return self::without0([($a - $aVirtual) + ($bVirtual - $b), $x]);
    }

    /**
     * @param  list<float>  $e
     * @return list<float>
     */
    public static function minus(array $e): array
    {
        return array_map(fn (float $x) => -$x, $e);
    }

    /**
     * Sum of two expansions, term by term of the second (Expansion-Sum by Grow-Expansion).
     *
     * @param  list<float>  $e
     * @param  list<float>  $f
     * @return list<float>
     */
    public static function plus(array $e, array $f): array
    {
        foreach ($f as $term) {
            $grown = [];
            foreach ($e as $x) {
                $sum = $term + $x;
                $xVirtual = $sum - $term;
                $termVirtual = $sum - $xVirtual;
                $low = ($term - $termVirtual) + ($x - $xVirtual);
                if ($low !== 0.0) {
                    $grown[] = $low;
                }
                $term = $sum;
            }
            if ($term !== 0.0) {
                $grown[] = $term;
            }
            $e = $grown;
        }

        return $e;
    }

    /**
     * Product of two expansions: each product of two terms as two doubles (Two-Product after Dekker and Veltkamp).
     *
     * @param  list<float>  $e
     * @param  list<float>  $f
     * @return list<float>
     */
    public static function times(array $e, array $f): array
    {
        $sum = [];
        foreach ($e as $x) {
            $c = self::SPLITTER * $x;
            $xHigh = $c - ($c - $x);
            $xLow = $x - $xHigh;
            foreach ($f as $y) {
                $product = $x * $y;
                $c = self::SPLITTER * $y;
                $yHigh = $c - ($c - $y);
                $yLow = $y - $yHigh;
                $sum = self::plus($sum, self::without0([$xLow * $yLow - ((($product - $xHigh * $yHigh) - $xLow * $yHigh) - $xHigh * $yLow), $product]));
            }
            if (count($sum) > self::LONG) {
                $sum = self::compressed($sum);
            }
        }

        return $sum;
    }

    /**
     * The same sum in as few terms as its digits need (Compress).
     *
     * @param  list<float>  $e
     * @return list<float>
     */
    public static function compressed(array $e): array
    {
        if (count($e) < 2) {
            return $e;
        }
        $sum = $e[count($e) - 1];
        $down = [];
        for ($k = count($e) - 2; $k >= 0; $k--) {
            $x = $sum + $e[$k];
            $low = $e[$k] - ($x - $sum);
            if ($low !== 0.0) {
                $down[] = $x;
                $sum = $low;
            } else {
                $sum = $x;
            }
        }
        $up = [];
        for ($k = count($down) - 1; $k >= 0; $k--) {
            $x = $down[$k] + $sum;
            $low = $sum - ($x - $down[$k]);
            if ($low !== 0.0) {
                $up[] = $low;
            }
            $sum = $x;
        }
        $up[] = $sum;

        return self::without0($up);
    }

    /**
     * @param  list<float>  $e
     * @return list<float>
     */
    private static function without0(array $e): array
    {
        return array_values(array_filter($e, fn (float $x) => $x !== 0.0));
    }
}
