<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Fitting;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Geometry\Vector3;

/**
 * A circle through points in space: its plane first, then the circle in it.
 *
 * Source    Kasa 1976 for the start; Gauss-Newton on the distances from the circle, reweighted by Tukey's biweight (Robust).
 * Error     of points with independent errors s spread around: centre s sqrt(2/n) either way, radius s / sqrt(n).
 */
final class CircleFit
{
    private const ROUNDS = 10;

    /** Points that fix one. */
    private const FEWEST = 3;

    /**
     * @param  list<float>  $p  flat xyz
     * @return array{origin: array{float, float, float}, direction: array{float, float, float}, radius: float, rms: float, max: float, size: float}|null of those that are no outliers; null where they lie in a line
     */
    public static function of(array $p): ?array
    {
        $n = intdiv(count($p), 3);
        if ($n < self::FEWEST) {
            return null;
        }
        ['origin' => $middle, 'direction' => $normal] = PlaneFit::of($p, array_fill(0, $n, 1.0));
        [$u, $v] = Vector3::square($normal);
        $q = [];
        for ($o = 0; $o < 3 * $n; $o += 3) {
            $way = Vector3::minus([$p[$o], $p[$o + 1], $p[$o + 2]], $middle);
            $q[] = [Vector3::dot($way, $u), Vector3::dot($way, $v)];
        }
        $even = array_fill(0, $n, 1.0);
        // x2 + y2 = 2 a x + 2 b y + c
        $start = self::solved($q, $even, fn (float $x, float $y) => [[2.0 * $x, 2.0 * $y, 1.0], $x * $x + $y * $y]);
        if ($start === null) {
            return null;
        }
        [$a, $b, $c] = $start;
        $r = sqrt(max(0.0, $c + $a * $a + $b * $b));
        $weights = $even;
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $step = self::solved($q, $weights, function (float $x, float $y) use ($a, $b, $r): array {
                $far = max(1e-300, hypot($x - $a, $y - $b));

                return [[($x - $a) / $far, ($y - $b) / $far, 1.0], $far - $r];
            });
            if ($step === null) {
                break;
            }
            [$a, $b, $r] = [$a + $step[0], $b + $step[1], $r + $step[2]];
            $weights = Robust::reweight($even, array_map(fn (array $at) => hypot($at[0] - $a, $at[1] - $b) - $r, $q));
        }
        $origin = Vector3::plus($middle, Vector3::plus(Vector3::scaled($u, $a), Vector3::scaled($v, $b)));

        return ['origin' => $origin, 'direction' => $normal, 'radius' => $r] + Robust::quality($p, $origin, array_map(fn (array $at) => hypot($at[0] - $a, $at[1] - $b) - $r, $q), $weights);
    }

    /**
     * Weighted least squares of three unknowns.
     *
     * @param  list<array{float, float}>  $q
     * @param  list<float>  $weights
     * @param  callable(float, float): array{array{float, float, float}, float}  $row  of a point: what each unknown does, and what they should come to
     * @return list<float>|null
     */
    private static function solved(array $q, array $weights, callable $row): ?array
    {
        $a = array_fill(0, 9, 0.0);
        $b = [0.0, 0.0, 0.0];
        foreach ($q as $k => [$x, $y]) {
            [$g, $e] = $row($x, $y);
            for ($i = 0; $i < 3; $i++) {
                $b[$i] += $weights[$k] * $g[$i] * $e;
                for ($j = 0; $j < 3; $j++) {
                    $a[3 * $i + $j] += $weights[$k] * $g[$i] * $g[$j];
                }
            }
        }

        return Dense::solve($a, $b, 3);
    }
}
