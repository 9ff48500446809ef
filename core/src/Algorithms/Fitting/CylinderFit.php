<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Fitting;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Geometry\Vector3;

/**
 * A cylinder that dents and fillets do not pull away.
 *
 * @internal
 */
final class CylinderFit
{
    /**
     * Cylinder: the axis from the normals, then Gauss-Newton on axis, place and radius with Tukey's biweight.
     *
     * Source    residual |q - (q.a) a| - r; the parameters are two tilts and two shifts of the axis, and the radius.
     *
     * @param  list<float>  $p  flat xyz
     * @param  list<float>  $normals
     * @param  list<float>  $w
     * @return array{origin: array{float, float, float}, direction: array{float, float, float}, radius: float, rms: float, max: float, points: int, size: float}|null null when the area is no part of a cylinder
     */
    public static function of(array $p, array $normals, array $w, ?FitConstraints $held = null): ?array
    {
        $n = count($w);
        if ($n < 8) {
            return null;
        }
        $across = self::axisOfNormals($normals, $w);
        if ($across === null) {
            return null;
        }
        $axis = $held === null ? $across : $held->turned($across);
        $centre = Robust::moments($p, $w)['centre'];
        $circle = self::circleAlong($p, $w, $centre, $axis);
        if ($circle === null) {
            return null;
        }
        [$centre, $radius] = $circle;
        $centre = $held->through ?? $centre;
        $radius = $held->radius ?? $radius;
        // Of two shifts, two tilts and the radius, those that are held.
        $fixed = array_keys([$held?->through !== null, $held?->through !== null, $held?->isFixed() === true, $held?->reference !== null, $held?->radius !== null], true, true);
        $use = $w;
        $e = [];
        for ($round = 0; $round < 30; $round++) {
            [$u, $v] = $held === null ? Vector3::square($axis) : $held->ways($axis);
            $h = array_fill(0, 25, 0.0);
            $g = array_fill(0, 5, 0.0);
            $e = [];
            for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
                $x = Robust::along($p, $o, $centre, $u);
                $y = Robust::along($p, $o, $centre, $v);
                $t = Robust::along($p, $o, $centre, $axis);
                $d = sqrt($x * $x + $y * $y) ?: 1e-12;
                $e[] = $d - $radius;
                $j = [-$x / $d, -$y / $d, -$t * $x / $d, -$t * $y / $d, -1.0];
                for ($a = 0; $a < 5; $a++) {
                    for ($b = 0; $b < 5; $b++) {
                        $h[5 * $a + $b] += $use[$i] * $j[$a] * $j[$b];
                    }
                    $g[$a] -= $use[$i] * $j[$a] * $e[$i];
                }
            }
            $use = $round < 2 ? $w : Robust::reweight($w, $e);
            $step = Robust::step($h, $g, $fixed);
            for ($k = 0; $k < 3; $k++) {
                $centre[$k] += $step[0] * $u[$k] + $step[1] * $v[$k];
                $axis[$k] += $step[2] * $u[$k] + $step[3] * $v[$k];
            }
            $l = sqrt($axis[0] ** 2 + $axis[1] ** 2 + $axis[2] ** 2);
            $axis = [$axis[0] / $l, $axis[1] / $l, $axis[2] / $l];
            $axis = $held === null ? $axis : $held->turned($axis);
            $radius += $step[4];
            if ($round > 4 && max(array_map(abs(...), $step)) < 1e-8 * max(1.0, abs($radius))) {
                break;
            }
        }
        if (! is_finite($radius) || $radius <= 0.0) {
            return null;
        }
        $quality = Robust::quality($p, $centre, $e, $use);
        [$middle, $size] = self::span($p, $centre, $axis);

        return [...$quality, 'origin' => [$centre[0] + $middle * $axis[0], $centre[1] + $middle * $axis[1], $centre[2] + $middle * $axis[2]], 'direction' => $axis, 'radius' => $radius, 'size' => $size];
    }

    /**
     * The direction that the normals are square to.
     *
     * @param  list<float>  $normals
     * @param  list<float>  $w
     * @return array{float, float, float}|null null where they hardly turn: they belong to a plane
     */
    private static function axisOfNormals(array $normals, array $w): ?array
    {
        // All normals of a cylinder are square to its axis: the direction in which they spread least about zero.
        $xx = $xy = $xz = $yy = $yz = $zz = 0.0;
        for ($i = 0, $o = 0, $n = count($w); $i < $n; $i++, $o += 3) {
            [$a, $b, $c] = [$normals[$o], $normals[$o + 1], $normals[$o + 2]];
            $xx += $w[$i] * $a * $a;
            $xy += $w[$i] * $a * $b;
            $xz += $w[$i] * $a * $c;
            $yy += $w[$i] * $b * $b;
            $yz += $w[$i] * $b * $c;
            $zz += $w[$i] * $c * $c;
        }
        [$values, $vectors] = Symmetric3::eigen($xx, $xy, $xz, $yy, $yz, $zz);

        return $values[1] < 0.01 * $values[2] ? null : $vectors[0];
    }

    /**
     * The circle through the points as they are seen along an axis (Kåsa 1976).
     *
     * @param  list<float>  $p
     * @param  list<float>  $w
     * @param  array{float, float, float}  $centre
     * @param  array{float, float, float}  $axis
     * @return array{array{float, float, float}, float}|null its middle and radius; null where the points lie in a line
     */
    private static function circleAlong(array $p, array $w, array $centre, array $axis): ?array
    {
        [$u, $v] = Vector3::square($axis);
        $m = array_fill(0, 9, 0.0);
        $r = [0.0, 0.0, 0.0];
        for ($i = 0, $o = 0, $n = count($w); $i < $n; $i++, $o += 3) {
            $x = Robust::along($p, $o, $centre, $u);
            $y = Robust::along($p, $o, $centre, $v);
            $s = $x * $x + $y * $y;
            $row = [$x, $y, 1.0];
            for ($j = 0; $j < 3; $j++) {
                for ($k = 0; $k < 3; $k++) {
                    $m[3 * $j + $k] += $w[$i] * $row[$j] * $row[$k];
                }
                $r[$j] += $w[$i] * $row[$j] * $s;
            }
        }
        $c = Dense::solve($m, $r, 3);
        if ($c === null) {
            return null;
        }
        $radius = sqrt(max(1e-12, $c[2] + 0.25 * ($c[0] * $c[0] + $c[1] * $c[1])));
        for ($k = 0; $k < 3; $k++) {
            $centre[$k] += 0.5 * ($c[0] * $u[$k] + $c[1] * $v[$k]);
        }

        return [$centre, $radius];
    }

    /**
     * The middle of what was seen along an axis, and half of how far it reaches: mm.
     *
     * @param  list<float>  $p
     * @param  array{float, float, float}  $centre
     * @param  array{float, float, float}  $axis
     * @return array{float, float}
     */
    private static function span(array $p, array $centre, array $axis): array
    {
        $least = INF;
        $most = -INF;
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $t = Robust::along($p, $o, $centre, $axis);
            $least = min($least, $t);
            $most = max($most, $t);
        }

        return [0.5 * ($least + $most), 0.5 * ($most - $least)];
    }
}
