<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Linear;

/** Eigenvalues and vectors of small symmetric matrices of any size. */
final class SymmetricEigen
{
    /**
     * By cyclic Jacobi rotations (Golub & Van Loan, 8.5), ascending.
     *
     * @param  array<int, float>  $a  n*n, row-major
     * @return array{values: list<float>, vectors: list<list<float>>} unit vectors, one a value
     */
    public static function of(array $a, int $n): array
    {
        $v = array_fill(0, $n * $n, 0.0);
        for ($i = 0; $i < $n; $i++) {
            $v[$i * $n + $i] = 1.0;
        }
        for ($sweep = 0; $sweep < 60; $sweep++) {
            $off = $all = 0.0;
            for ($i = 0; $i < $n; $i++) {
                $all += $a[$i * $n + $i] ** 2;
                for ($j = $i + 1; $j < $n; $j++) {
                    $off += $a[$i * $n + $j] ** 2;
                }
            }
            if ($off <= 1e-30 * $all || $off === 0.0) {
                break;
            }
            for ($p = 0; $p < $n; $p++) {
                for ($q = $p + 1; $q < $n; $q++) {
                    self::rotate($a, $v, $n, $p, $q);
                }
            }
        }
        $values = $order = [];
        for ($i = 0; $i < $n; $i++) {
            $values[$i] = $a[$i * $n + $i];
            $order[] = $i;
        }
        usort($order, fn (int $i, int $j) => $values[$i] <=> $values[$j]);

        return [
            'values' => array_map(fn (int $i) => $values[$i], $order),
            'vectors' => array_map(fn (int $i) => array_map(fn (int $row) => $v[$row * $n + $i], range(0, $n - 1)), $order),
        ];
    }

    /**
     * @param  array<int, float>  $a  (changed)
     * @param  array<int, float>  $v  (changed)
     */
    private static function rotate(array &$a, array &$v, int $n, int $p, int $q): void
    {
        if ($a[$p * $n + $q] === 0.0) {
            return;
        }
        $theta = ($a[$q * $n + $q] - $a[$p * $n + $p]) / (2.0 * $a[$p * $n + $q]);
        $t = ($theta >= 0.0 ? 1.0 : -1.0) / (abs($theta) + sqrt($theta * $theta + 1.0));
        $c = 1.0 / sqrt($t * $t + 1.0);
        $s = $t * $c;
        for ($i = $p, $j = $q, $e = $n * $n; $i < $e; $i += $n, $j += $n) {
            $x = $a[$i];
            $y = $a[$j];
            $a[$i] = $c * $x - $s * $y;
            $a[$j] = $s * $x + $c * $y;
            $x = $v[$i];
            $y = $v[$j];
            $v[$i] = $c * $x - $s * $y;
            $v[$j] = $s * $x + $c * $y;
        }
        for ($i = $p * $n, $j = $q * $n, $e = $i + $n; $i < $e; $i++, $j++) {
            $x = $a[$i];
            $y = $a[$j];
            $a[$i] = $c * $x - $s * $y;
            $a[$j] = $s * $x + $c * $y;
        }
    }
}
