<?php

declare(strict_types=1);

namespace Emberstone\Core\Linear;

/** Small dense systems. */
final class Dense
{
    /**
     * Solves A x = b by Gaussian elimination with partial pivoting; rows without a pivot give 0.
     *
     * @param  array<int, float>  $a  n*n, row-major
     * @param  array<int, float>  $b  n
     * @return list<float>
     */
    public static function solve(array $a, array $b, int $n): array
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
            if (abs($a[$p * $n + $i]) <= 1e-14 * $scale) {
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

        return $x;
    }
}
