<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Linear;

/** Eigenvectors of symmetric 3x3 matrices. */
final class Symmetric3
{
    /**
     * All three by Jacobi rotations (Golub & Van Loan 8.5), eigenvalues ascending.
     *
     * @return array{0: list<float>, 1: list<array{float, float, float}>} values and unit vectors
     */
    public static function eigen(float $xx, float $xy, float $xz, float $yy, float $yz, float $zz): array
    {
        $a = [[$xx, $xy, $xz], [$xy, $yy, $yz], [$xz, $yz, $zz]];
        $v = [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]];
        for ($sweep = 0; $sweep < 50; $sweep++) {
            $off = $a[0][1] ** 2 + $a[0][2] ** 2 + $a[1][2] ** 2;
            if ($off <= 1e-32 * ($a[0][0] ** 2 + $a[1][1] ** 2 + $a[2][2] ** 2) || $off === 0.0) {
                break;
            }
            foreach ([[0, 1], [0, 2], [1, 2]] as [$p, $q]) {
                if ($a[$p][$q] === 0.0) {
                    continue;
                }
                $theta = ($a[$q][$q] - $a[$p][$p]) / (2.0 * $a[$p][$q]);
                $t = ($theta >= 0.0 ? 1.0 : -1.0) / (abs($theta) + sqrt($theta * $theta + 1.0));
                $c = 1.0 / sqrt($t * $t + 1.0);
                $s = $t * $c;
                for ($k = 0; $k < 3; $k++) {
                    [$x, $y] = [$a[$k][$p], $a[$k][$q]];
                    $a[$k][$p] = $c * $x - $s * $y;
                    $a[$k][$q] = $s * $x + $c * $y;
                }
                for ($k = 0; $k < 3; $k++) {
                    [$x, $y] = [$a[$p][$k], $a[$q][$k]];
                    $a[$p][$k] = $c * $x - $s * $y;
                    $a[$q][$k] = $s * $x + $c * $y;
                    [$x, $y] = [$v[$k][$p], $v[$k][$q]];
                    $v[$k][$p] = $c * $x - $s * $y;
                    $v[$k][$q] = $s * $x + $c * $y;
                }
            }
        }
        $order = [0, 1, 2];
        usort($order, fn (int $i, int $j) => $a[$i][$i] <=> $a[$j][$j]);

        return [
            array_map(fn (int $i) => $a[$i][$i], $order),
            array_map(fn (int $i) => [$v[0][$i], $v[1][$i], $v[2][$i]], $order),
        ];
    }

    /**
     * Mean and covariance eigenvectors of points.
     *
     * @param  array<int, float>  $p  flat xyz
     * @return array{centre: array{float, float, float}, values: list<float>, vectors: list<array{float, float, float}>} values are mean squared extents, ascending
     */
    public static function ofPoints(array $p): array
    {
        $n = intdiv(count($p), 3);
        $x = $y = $z = 0.0;
        for ($o = 0, $e = 3 * $n; $o < $e; $o += 3) {
            $x += $p[$o];
            $y += $p[$o + 1];
            $z += $p[$o + 2];
        }
        $w = 1.0 / max(1, $n);
        $x *= $w;
        $y *= $w;
        $z *= $w;
        $xx = $xy = $xz = $yy = $yz = $zz = 0.0;
        for ($o = 0; $o < $e; $o += 3) {
            $a = $p[$o] - $x;
            $b = $p[$o + 1] - $y;
            $c = $p[$o + 2] - $z;
            $xx += $a * $a;
            $xy += $a * $b;
            $xz += $a * $c;
            $yy += $b * $b;
            $yz += $b * $c;
            $zz += $c * $c;
        }
        [$values, $vectors] = self::eigen($xx * $w, $xy * $w, $xz * $w, $yy * $w, $yz * $w, $zz * $w);

        return ['centre' => [$x, $y, $z], 'values' => $values, 'vectors' => $vectors];
    }
}
