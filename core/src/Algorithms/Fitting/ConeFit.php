<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Fitting;

use Emberstone\Core\Geometry\Vector3;

/**
 * A cone that dents and fillets do not pull away.
 *
 * @internal
 */
final class ConeFit
{
    /**
     * Cone: axis and angle from the normals, which all make the same angle with the axis; then Gauss-Newton on axis, place, radius there and slope
     * with Tukey's biweight.
     *
     * @param  list<float>  $p  flat xyz
     * @param  list<float>  $normals
     * @param  list<float>  $w
     * @return array{origin: array{float, float, float}, direction: array{float, float, float}, radius: float, rms: float, max: float, points: int, size: float, halfAngle: float}|null null when the area is no part of a cone; halfAngle in rad
     */
    public static function of(array $p, array $normals, array $w, ?FitConstraints $held = null): ?array
    {
        $n = count($w);
        // Tips of the normals lie in a plane square to the axis: the direction in which they spread least about their middle.
        $tips = Robust::moments($normals, $w);
        $spread = [0.0, 0.0, 0.0];
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            for ($k = 0; $k < 3; $k++) {
                $spread[$k] += $w[$i] * Robust::along($normals, $o, $tips['centre'], $tips['vectors'][$k]) ** 2;
            }
        }
        if ($n < 10 || $spread[1] < 0.01 * $spread[2] || $spread[2] <= 0.0) {
            return null;
        }
        $axis = $tips['vectors'][0];
        $lean = $tips['centre'][0] * $axis[0] + $tips['centre'][1] * $axis[1] + $tips['centre'][2] * $axis[2];
        // The same towards the wide end whether the surface is seen from outside or inside is settled below, by the slope's sign.
        $slope = -$lean / sqrt(max(1e-9, 1.0 - $lean * $lean));
        $start = CylinderFit::of($p, array_map(fn (float $v, int $i) => $v - $lean * $axis[$i % 3], $normals, array_keys($normals)), $w);
        if ($start === null) {
            return null;
        }
        [$axis, $centre, $radius] = [$held === null ? $start['direction'] : $held->turned($start['direction']), $start['origin'], $start['radius']];
        $fixed = array_keys([false, false, $held?->isFixed() === true, $held?->reference !== null, false, false], true, true);
        $same = $axis[0] * $tips['vectors'][0][0] + $axis[1] * $tips['vectors'][0][1] + $axis[2] * $tips['vectors'][0][2];
        $outwards = 0.0;
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            $t = Robust::along($p, $o, $centre, $axis);
            for ($k = 0; $k < 3; $k++) {
                $outwards += $w[$i] * $normals[$o + $k] * ($p[$o + $k] - $centre[$k] - $t * $axis[$k]);
            }
        }
        $slope *= ($same < 0.0 ? -1.0 : 1.0) * ($outwards < 0.0 ? -1.0 : 1.0);
        $use = $w;
        $e = [];
        for ($round = 0; $round < 60; $round++) {
            [$u, $v] = $held === null ? Vector3::square($axis) : $held->ways($axis);
            [$h, $g, $e] = self::equations($p, $use, $centre, $axis, $u, $v, $radius, $slope);
            $use = $round < 3 ? $w : Robust::reweight($w, $e);
            $step = Robust::step($h, $g, $fixed);
            for ($k = 0; $k < 3; $k++) {
                $centre[$k] += $step[0] * $u[$k] + $step[1] * $v[$k];
                $axis[$k] += $step[2] * $u[$k] + $step[3] * $v[$k];
            }
            $l = sqrt($axis[0] ** 2 + $axis[1] ** 2 + $axis[2] ** 2);
            $axis = [$axis[0] / $l, $axis[1] / $l, $axis[2] / $l];
            $axis = $held === null ? $axis : $held->turned($axis);
            $radius += $step[4];
            $slope += $step[5];
            if ($round > 6 && max(array_map(abs(...), $step)) < 1e-8 * max(1.0, abs($radius))) {
                break;
            }
        }
        if (! is_finite($radius) || ! is_finite($slope) || abs($slope) < 1e-3 || abs($slope) > 20.0) {
            return null;
        }
        if ($slope < 0.0) {
            $axis = [-$axis[0], -$axis[1], -$axis[2]];
        }
        $quality = Robust::quality($p, $centre, $e, $use);

        return [...$quality, 'origin' => $centre, 'direction' => $axis, 'radius' => abs($radius), 'halfAngle' => atan(abs($slope))];
    }

    /**
     * The normal equations of a round, and how far each point lies off.
     *
     * @param  list<float>  $p
     * @param  array<int, float>  $use  weights
     * @param  array{float, float, float}  $centre
     * @param  array{float, float, float}  $axis
     * @param  array{float, float, float}  $u  two ways square to the axis and to each other
     * @param  array{float, float, float}  $v
     * @return array{list<float>, list<float>, list<float>}
     */
    private static function equations(array $p, array $use, array $centre, array $axis, array $u, array $v, float $radius, float $slope): array
    {
        $h = array_fill(0, 36, 0.0);
        $g = array_fill(0, 6, 0.0);
        $e = [];
        $c = 1.0 / sqrt(1.0 + $slope * $slope);
        for ($i = 0, $o = 0, $n = count($use); $i < $n; $i++, $o += 3) {
            $x = Robust::along($p, $o, $centre, $u);
            $y = Robust::along($p, $o, $centre, $v);
            $t = Robust::along($p, $o, $centre, $axis);
            $d = sqrt($x * $x + $y * $y) ?: 1e-12;
            // Distance square to the side: what is beside the radius at that height, times the cosine of the half angle.
            $q = $d - $radius - $slope * $t;
            $e[] = $c * $q;
            [$dx, $dy] = [$x / $d, $y / $d];
            $j = [-$c * $dx, -$c * $dy, -$c * ($t * $dx + $slope * $x), -$c * ($t * $dy + $slope * $y), -$c, -$c * $t - $q * $slope * $c * $c * $c];
            for ($a = 0; $a < 6; $a++) {
                $f = $use[$i] * $j[$a];
                for ($b = $a; $b < 6; $b++) {
                    $h[6 * $a + $b] += $f * $j[$b];
                }
                $g[$a] -= $f * $e[$i];
            }
        }
        for ($a = 1; $a < 6; $a++) {
            for ($b = 0; $b < $a; $b++) {
                $h[6 * $a + $b] = $h[6 * $b + $a];
            }
        }

        return [$h, $g, $e];
    }
}
