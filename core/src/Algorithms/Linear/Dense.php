<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Linear;

/** Small dense systems. */
final class Dense
{
    /** A pivot below this share of the largest diagonal element counts as none. */
    private const SINGULAR = 1e-14;

    /**
     * Solves A x = b by Gaussian elimination with partial pivoting.
     *
     * @param  array<int, float>  $a  n*n, row-major
     * @param  array<int, float>  $b  n
     * @return list<float>|null null when no one x solves it
     */
    public static function solve(array $a, array $b, int $n): ?array
    {
        [$x, $rank] = self::eliminated($a, $b, $n);

        return $rank === $n ? $x : null;
    }

    /**
     * The same for a step of an iteration, which leaves at 0 what the system says nothing of: a motion that nothing holds is not made.
     *
     * @param  array<int, float>  $a  n*n, row-major
     * @param  array<int, float>  $b  n
     * @return list<float>
     */
    public static function step(array $a, array $b, int $n): array
    {
        return self::eliminated($a, $b, $n)[0];
    }

    /**
     * @param  array<int, float>  $a
     * @param  array<int, float>  $b
     * @return array{list<float>, int} x, 0 where there is no pivot, and how many pivots there are
     */
    private static function eliminated(array $a, array $b, int $n): array
    {
        $scale = 0.0;
        for ($i = 0; $i < $n; $i++) {
            $scale = max($scale, abs($a[$i * $n + $i]));
        }
        $pivoted = array_fill(0, $n, false);
        for ($i = 0; $i < $n; $i++) {
            $p = $i;
            for ($j = $i + 1; $j < $n; $j++) {
                if (abs($a[$j * $n + $i]) > abs($a[$p * $n + $i])) {
                    $p = $j;
                }
            }
            if (abs($a[$p * $n + $i]) <= self::SINGULAR * $scale) {
                continue;
            }
            if ($p !== $i) {
                for ($c = 0; $c < $n; $c++) {
                    [$a[$i * $n + $c], $a[$p * $n + $c]] = [$a[$p * $n + $c], $a[$i * $n + $c]];
                }
                [$b[$i], $b[$p]] = [$b[$p], $b[$i]];
            }
            $pivoted[$i] = true;
            $w = 1.0 / $a[$i * $n + $i];
            for ($j = 0; $j < $n; $j++) {
                $f = $j === $i ? 0.0 : $a[$j * $n + $i] * $w;
                if ($f === 0.0) {
                    continue;
                }
                for ($c = $i; $c < $n; $c++) {
                    $a[$j * $n + $c] -= $f * $a[$i * $n + $c];
                }
                $b[$j] -= $f * $b[$i];
            }
        }
        $x = [];
        for ($i = 0; $i < $n; $i++) {
            $x[] = $pivoted[$i] ? $b[$i] / $a[$i * $n + $i] : 0.0;
        }

        return [$x, count(array_filter($pivoted))];
    }
}
