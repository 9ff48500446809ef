<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Fitting;

use Emberstone\Core\Geometry\Vector3;

/**
 * A plane that dents and fillets do not pull away.
 *
 * @internal
 */
final class PlaneFit
{
    /**
     * Plane by reweighted total least squares (Tukey's biweight on the distances).
     *
     * @param  list<float>  $p  flat xyz
     * @param  list<float>  $w  weight a point
     * @param  FitConstraints|null  $held  what it keeps to
     * @return array{origin: array{float, float, float}, direction: array{float, float, float}, rms: float, max: float, points: int, size: float}
     */
    public static function of(array $p, array $w, ?FitConstraints $held = null): array
    {
        $n = count($w);
        $use = $w;
        $centre = $normal = [0.0, 0.0, 1.0];
        $e = [];
        for ($round = 0; $round < 6; $round++) {
            ['centre' => $middle, 'vectors' => $vectors, 'moments' => $moments] = Robust::moments($p, $use, $held?->through);
            $centre = $held->through ?? $middle;
            $normal = $held?->reference === null ? $vectors[0] : self::flattest($held, $vectors[0], $moments);
            $e = [];
            for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
                $e[] = Robust::along($p, $o, $centre, $normal);
            }
            $use = Robust::reweight($w, $e);
        }
        if ($held?->through !== null) {
            // Drawn around what was seen, not around the point it goes through.
            $height = Vector3::dot(Vector3::minus($middle, $centre), $normal);
            $centre = [$middle[0] - $height * $normal[0], $middle[1] - $height * $normal[1], $middle[2] - $height * $normal[2]];
        }

        return ['origin' => $centre, 'direction' => $normal, ...Robust::quality($p, $centre, $e, $use)];
    }

    /**
     * Of the normals that keep to an angle, the one with the least sum of squares: the best of a coarse round, then by golden section.
     *
     * @param  array{float, float, float}  $start
     * @param  array{float, float, float, float, float, float}  $m  xx, xy, xz, yy, yz, zz
     * @return array{float, float, float}
     */
    private static function flattest(FitConstraints $held, array $start, array $m): array
    {
        $first = $held->turned($start);
        $r = $held->reference;
        if ($held->isFixed() || $r === null) {
            return $first;
        }
        $c = Vector3::dot($first, $r);
        $u = [$first[0] - $c * $r[0], $first[1] - $c * $r[1], $first[2] - $c * $r[2]];
        $v = Vector3::cross($r, $u);
        $at = function (float $turn) use ($c, $r, $u, $v): array {
            [$a, $b] = [cos($turn), sin($turn)];

            return [$c * $r[0] + $a * $u[0] + $b * $v[0], $c * $r[1] + $a * $u[1] + $b * $v[1], $c * $r[2] + $a * $u[2] + $b * $v[2]];
        };
        $sum = function (float $turn) use ($at, $m): float {
            [$x, $y, $z] = $at($turn);

            return $x * ($m[0] * $x + 2.0 * ($m[1] * $y + $m[2] * $z)) + $y * ($m[3] * $y + 2.0 * $m[4] * $z) + $m[5] * $z * $z;
        };
        $best = 0.0;
        for ($k = 1; $k < 72; $k++) {
            $best = $sum($k * M_PI / 36) < $sum($best) ? $k * M_PI / 36 : $best;
        }
        [$low, $high] = [$best - M_PI / 36, $best + M_PI / 36];
        $golden = 0.5 * (sqrt(5.0) - 1.0);
        while ($high - $low > 1e-9) {
            $a = $high - $golden * ($high - $low);
            $b = $low + $golden * ($high - $low);
            [$low, $high] = $sum($a) < $sum($b) ? [$low, $b] : [$a, $high];
        }

        return Vector3::unit($at(0.5 * ($low + $high)));
    }
}
