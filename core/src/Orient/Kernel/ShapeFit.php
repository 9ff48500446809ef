<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient\Kernel;

use Emberstone\Core\Linear\Dense;
use Emberstone\Core\Linear\Median;
use Emberstone\Core\Linear\Symmetric3;
use Emberstone\Core\Linear\Vector3;

/**
 * Least squares shapes that dents and fillets do not pull away.
 *
 * @internal
 */
final class ShapeFit
{
    /** A ball of more than so many times the extent of what was seen of it is told from a plane by nothing but noise. */
    private const FLAT = 15.0;

    /**
     * Plane by reweighted total least squares (Tukey's biweight on the distances).
     *
     * @param  list<float>  $p  flat xyz
     * @param  list<float>  $w  weight a point
     * @param  Holds|null  $held  what it keeps to, here and below
     * @return array{origin: array{float, float, float}, direction: array{float, float, float}, rms: float, max: float, points: int, size: float}
     */
    public static function plane(array $p, array $w, ?Holds $held = null): array
    {
        $n = count($w);
        $use = $w;
        $centre = $normal = [0.0, 0.0, 1.0];
        $e = [];
        for ($round = 0; $round < 6; $round++) {
            ['centre' => $middle, 'vectors' => $vectors, 'moments' => $moments] = self::weighted($p, $use, $held?->through);
            $centre = $held->through ?? $middle;
            $normal = $held?->reference === null ? $vectors[0] : self::flattest($held, $vectors[0], $moments);
            $e = [];
            for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
                $e[] = self::along($p, $o, $centre, $normal);
            }
            $use = self::reweight($w, $e);
        }
        if ($held?->through !== null) {
            // Drawn around what was seen, not around the point it goes through.
            $height = Vector3::dot(Vector3::minus($middle, $centre), $normal);
            $centre = [$middle[0] - $height * $normal[0], $middle[1] - $height * $normal[1], $middle[2] - $height * $normal[2]];
        }

        return ['origin' => $centre, 'direction' => $normal, ...self::quality($p, $centre, $e, $use)];
    }

    /**
     * Of the normals that keep to an angle, the one with the least sum of squares: the best of a coarse round, then by golden section.
     *
     * @param  array{float, float, float}  $start
     * @param  array{float, float, float, float, float, float}  $m  xx, xy, xz, yy, yz, zz
     * @return array{float, float, float}
     */
    private static function flattest(Holds $held, array $start, array $m): array
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
    public static function cylinder(array $p, array $normals, array $w, ?Holds $held = null): ?array
    {
        $n = count($w);
        if ($n < 8) {
            return null;
        }
        // All normals of a cylinder are square to its axis: the direction in which they spread least about zero.
        $xx = $xy = $xz = $yy = $yz = $zz = 0.0;
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            [$a, $b, $c] = [$normals[$o], $normals[$o + 1], $normals[$o + 2]];
            $xx += $w[$i] * $a * $a;
            $xy += $w[$i] * $a * $b;
            $xz += $w[$i] * $a * $c;
            $yy += $w[$i] * $b * $b;
            $yz += $w[$i] * $b * $c;
            $zz += $w[$i] * $c * $c;
        }
        [$values, $vectors] = Symmetric3::eigen($xx, $xy, $xz, $yy, $yz, $zz);
        // Normals that hardly turn belong to a plane.
        if ($values[1] < 0.01 * $values[2]) {
            return null;
        }
        $axis = $held === null ? $vectors[0] : $held->turned($vectors[0]);
        $fit = self::weighted($p, $w);
        $centre = $fit['centre'];
        [$u, $v] = Vector3::square($axis);
        // Start: the circle through the points seen along the axis (Kåsa 1976).
        $m = array_fill(0, 9, 0.0);
        $r = [0.0, 0.0, 0.0];
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            $x = self::along($p, $o, $centre, $u);
            $y = self::along($p, $o, $centre, $v);
            $s = $x * $x + $y * $y;
            $row = [$x, $y, 1.0];
            for ($j = 0; $j < 3; $j++) {
                for ($k = 0; $k < 3; $k++) {
                    $m[3 * $j + $k] += $w[$i] * $row[$j] * $row[$k];
                } $r[$j] += $w[$i] * $row[$j] * $s;
            }
        }
        $c = Dense::solve($m, $r, 3);
        $radius = sqrt(max(1e-12, $c[2] + 0.25 * ($c[0] * $c[0] + $c[1] * $c[1])));
        for ($k = 0; $k < 3; $k++) {
            $centre[$k] += 0.5 * ($c[0] * $u[$k] + $c[1] * $v[$k]);
        }
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
                $x = self::along($p, $o, $centre, $u);
                $y = self::along($p, $o, $centre, $v);
                $t = self::along($p, $o, $centre, $axis);
                $d = sqrt($x * $x + $y * $y) ?: 1e-12;
                $e[] = $d - $radius;
                $j = [-$x / $d, -$y / $d, -$t * $x / $d, -$t * $y / $d, -1.0];
                for ($a = 0; $a < 5; $a++) {
                    for ($b = 0; $b < 5; $b++) {
                        $h[5 * $a + $b] += $use[$i] * $j[$a] * $j[$b];
                    } $g[$a] -= $use[$i] * $j[$a] * $e[$i];
                }
            }
            $use = $round < 2 ? $w : self::reweight($w, $e);
            $step = self::step($h, $g, $fixed);
            for ($k = 0; $k < 3; $k++) {
                $centre[$k] += $step[0] * $u[$k] + $step[1] * $v[$k];
                $axis[$k] += $step[2] * $u[$k] + $step[3] * $v[$k];
            }
            $l = sqrt($axis[0] ** 2 + $axis[1] ** 2 + $axis[2] ** 2);
            $axis = [$axis[0] / $l, $axis[1] / $l, $axis[2] / $l];
            $axis = $held === null ? $axis : $held->turned($axis);
            $radius += $step[4];
            if ($round > 4 && max(array_map(abs(...), $step)) < 1e-10 * max(1.0, abs($radius))) {
                break;
            }
        }
        if (! is_finite($radius) || $radius <= 0.0) {
            return null;
        }
        $quality = self::quality($p, $centre, $e, $use);
        // The middle of what was seen, on the axis.
        $least = INF;
        $most = -INF;
        for ($o = 0; $o < 3 * $n; $o += 3) {
            $t = self::along($p, $o, $centre, $axis);
            $least = min($least, $t);
            $most = max($most, $t);
        }
        $middle = 0.5 * ($least + $most);

        return [...$quality, 'origin' => [$centre[0] + $middle * $axis[0], $centre[1] + $middle * $axis[1], $centre[2] + $middle * $axis[2]], 'direction' => $axis, 'radius' => $radius, 'size' => 0.5 * ($most - $least)];
    }

    /**
     * Sphere: an algebraic start (Coope 1993), then Gauss-Newton on centre and radius with Tukey's biweight.
     *
     * @param  list<float>  $p  flat xyz
     * @param  list<float>  $w
     * @return array{origin: array{float, float, float}, direction: array{float, float, float}, radius: float, rms: float, max: float, points: int, size: float}|null null when the area is flat
     */
    public static function sphere(array $p, array $w, ?Holds $held = null): ?array
    {
        $n = count($w);
        $middle = self::weighted($p, $w)['centre'];
        $m = array_fill(0, 16, 0.0);
        $r = [0.0, 0.0, 0.0, 0.0];
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            [$x, $y, $z] = [$p[$o] - $middle[0], $p[$o + 1] - $middle[1], $p[$o + 2] - $middle[2]];
            $row = [$x, $y, $z, 1.0];
            for ($j = 0; $j < 4; $j++) {
                for ($k = 0; $k < 4; $k++) {
                    $m[4 * $j + $k] += $w[$i] * $row[$j] * $row[$k];
                }
                $r[$j] += $w[$i] * $row[$j] * ($x * $x + $y * $y + $z * $z);
            }
        }
        $c = Dense::solve($m, $r, 4);
        $centre = [$middle[0] + 0.5 * $c[0], $middle[1] + 0.5 * $c[1], $middle[2] + 0.5 * $c[2]];
        $radius = sqrt(max(1e-12, $c[3] + 0.25 * ($c[0] ** 2 + $c[1] ** 2 + $c[2] ** 2)));
        $radius = $held->radius ?? $radius;
        $fixed = $held?->radius === null ? [] : [3];
        $use = $w;
        $e = [];
        for ($round = 0; $round < 30; $round++) {
            $h = array_fill(0, 16, 0.0);
            $g = [0.0, 0.0, 0.0, 0.0];
            $e = [];
            for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
                [$x, $y, $z] = [$p[$o] - $centre[0], $p[$o + 1] - $centre[1], $p[$o + 2] - $centre[2]];
                $d = sqrt($x * $x + $y * $y + $z * $z) ?: 1e-12;
                $e[] = $d - $radius;
                $j = [-$x / $d, -$y / $d, -$z / $d, -1.0];
                for ($a = 0; $a < 4; $a++) {
                    for ($b = 0; $b < 4; $b++) {
                        $h[4 * $a + $b] += $use[$i] * $j[$a] * $j[$b];
                    }
                    $g[$a] -= $use[$i] * $j[$a] * $e[$i];
                }
            }
            $use = $round < 2 ? $w : self::reweight($w, $e);
            $step = self::step($h, $g, $fixed);
            $centre = [$centre[0] + $step[0], $centre[1] + $step[1], $centre[2] + $step[2]];
            $radius += $step[3];
            if ($round > 4 && max(array_map(abs(...), $step)) < 1e-10 * max(1.0, abs($radius))) {
                break;
            }
        }
        $quality = self::quality($p, $centre, $e, $use);
        $extent = self::quality($p, $middle, $e, $use)['size'];
        // A cap lower than its own roughness is flat: any large ball fits it.
        if (! is_finite($radius) || $radius <= 0.0 || $radius > self::FLAT * $extent) {
            return null;
        }

        return [...$quality, 'origin' => $centre, 'direction' => [0.0, 0.0, 0.0], 'radius' => $radius, 'size' => $radius];
    }

    /**
     * Cone: axis and angle from the normals, which all make the same angle with the axis; then Gauss-Newton on axis, place, radius there and slope
     * with Tukey's biweight.
     *
     * @param  list<float>  $p  flat xyz
     * @param  list<float>  $normals
     * @param  list<float>  $w
     * @return array{origin: array{float, float, float}, direction: array{float, float, float}, radius: float, rms: float, max: float, points: int, size: float, halfAngle: float}|null null when the area is no part of a cone; halfAngle in rad
     */
    public static function cone(array $p, array $normals, array $w, ?Holds $held = null): ?array
    {
        $n = count($w);
        // Tips of the normals lie in a plane square to the axis: the direction in which they spread least about their middle.
        $tips = self::weighted($normals, $w);
        $spread = [0.0, 0.0, 0.0];
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            for ($k = 0; $k < 3; $k++) {
                $spread[$k] += $w[$i] * self::along($normals, $o, $tips['centre'], $tips['vectors'][$k]) ** 2;
            }
        }
        if ($n < 10 || $spread[1] < 0.01 * $spread[2] || $spread[2] <= 0.0) {
            return null;
        }
        $axis = $tips['vectors'][0];
        $lean = $tips['centre'][0] * $axis[0] + $tips['centre'][1] * $axis[1] + $tips['centre'][2] * $axis[2];
        // The same towards the wide end whether the surface is seen from outside or inside is settled below, by the slope's sign.
        $slope = -$lean / sqrt(max(1e-9, 1.0 - $lean * $lean));
        $start = self::cylinder($p, array_map(fn (float $v, int $i) => $v - $lean * $axis[$i % 3], $normals, array_keys($normals)), $w);
        if ($start === null) {
            return null;
        }
        [$axis, $centre, $radius] = [$held === null ? $start['direction'] : $held->turned($start['direction']), $start['origin'], $start['radius']];
        $fixed = array_keys([false, false, $held?->isFixed() === true, $held?->reference !== null, false, false], true, true);
        $same = $axis[0] * $tips['vectors'][0][0] + $axis[1] * $tips['vectors'][0][1] + $axis[2] * $tips['vectors'][0][2];
        $outwards = 0.0;
        for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
            $t = self::along($p, $o, $centre, $axis);
            for ($k = 0; $k < 3; $k++) {
                $outwards += $w[$i] * $normals[$o + $k] * ($p[$o + $k] - $centre[$k] - $t * $axis[$k]);
            }
        }
        $slope *= ($same < 0.0 ? -1.0 : 1.0) * ($outwards < 0.0 ? -1.0 : 1.0);
        $use = $w;
        $e = [];
        for ($round = 0; $round < 60; $round++) {
            [$u, $v] = $held === null ? Vector3::square($axis) : $held->ways($axis);
            $h = array_fill(0, 36, 0.0);
            $g = array_fill(0, 6, 0.0);
            $e = [];
            $c = 1.0 / sqrt(1.0 + $slope * $slope);
            for ($i = 0, $o = 0; $i < $n; $i++, $o += 3) {
                $x = self::along($p, $o, $centre, $u);
                $y = self::along($p, $o, $centre, $v);
                $t = self::along($p, $o, $centre, $axis);
                $d = sqrt($x * $x + $y * $y) ?: 1e-12;
                // Distance square to the side: what is beside the radius at that height, times the cosine of the half angle.
                $q = $d - $radius - $slope * $t;
                $e[] = $c * $q;
                [$dx, $dy] = [$x / $d, $y / $d];
                $j = [-$c * $dx, -$c * $dy, -$c * ($t * $dx + $slope * $x), -$c * ($t * $dy + $slope * $y), -$c, -$c * $t - $q * $slope * $c * $c * $c];
                for ($a = 0; $a < 6; $a++) {
                    for ($b = 0; $b < 6; $b++) {
                        $h[6 * $a + $b] += $use[$i] * $j[$a] * $j[$b];
                    }
                    $g[$a] -= $use[$i] * $j[$a] * $e[$i];
                }
            }
            $use = $round < 3 ? $w : self::reweight($w, $e);
            $step = self::step($h, $g, $fixed);
            for ($k = 0; $k < 3; $k++) {
                $centre[$k] += $step[0] * $u[$k] + $step[1] * $v[$k];
                $axis[$k] += $step[2] * $u[$k] + $step[3] * $v[$k];
            }
            $l = sqrt($axis[0] ** 2 + $axis[1] ** 2 + $axis[2] ** 2);
            $axis = [$axis[0] / $l, $axis[1] / $l, $axis[2] / $l];
            $axis = $held === null ? $axis : $held->turned($axis);
            $radius += $step[4];
            $slope += $step[5];
            if ($round > 6 && max(array_map(abs(...), $step)) < 1e-10 * max(1.0, abs($radius))) {
                break;
            }
        }
        if (! is_finite($radius) || ! is_finite($slope) || abs($slope) < 1e-3 || abs($slope) > 20.0) {
            return null;
        }
        if ($slope < 0.0) {
            $axis = [-$axis[0], -$axis[1], -$axis[2]];
        }
        $quality = self::quality($p, $centre, $e, $use);

        return [...$quality, 'origin' => $centre, 'direction' => $axis, 'radius' => abs($radius), 'halfAngle' => atan(abs($slope))];
    }

    /**
     * A step of Gauss-Newton that leaves some of the parameters as they are.
     *
     * @param  list<float>  $h  square, row by row
     * @param  list<float>  $g
     * @param  list<int>  $fixed
     * @return list<float>
     */
    private static function step(array $h, array $g, array $fixed): array
    {
        $n = count($g);
        foreach ($fixed as $a) {
            for ($b = 0; $b < $n; $b++) {
                $h[$n * $a + $b] = $h[$n * $b + $a] = 0.0;
            }
            $h[$n * $a + $a] = 1.0;
            $g[$a] = 0.0;
        }

        return Dense::solve($h, $g, $n);
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, float>  $centre
     * @param  array<int, float>  $direction
     */
    private static function along(array $p, int $o, array $centre, array $direction): float
    {
        return ($p[$o] - $centre[0]) * $direction[0] + ($p[$o + 1] - $centre[1]) * $direction[1] + ($p[$o + 2] - $centre[2]) * $direction[2];
    }

    /**
     * @param  list<float>  $p
     * @param  list<float>  $w
     * @param  array{float, float, float}|null  $about  the moments are those about this; about the centre when null
     * @return array{centre: array{float, float, float}, vectors: list<array{float, float, float}>, moments: array{float, float, float, float, float, float}} vectors by rising moment
     */
    private static function weighted(array $p, array $w, ?array $about = null): array
    {
        $sum = array_sum($w) ?: 1.0;
        $c = [0.0, 0.0, 0.0];
        foreach ($w as $i => $k) {
            $c[0] += $k * $p[3 * $i] / $sum;
            $c[1] += $k * $p[3 * $i + 1] / $sum;
            $c[2] += $k * $p[3 * $i + 2] / $sum;
        }
        [$x0, $y0, $z0] = $about ?? $c;
        $xx = $xy = $xz = $yy = $yz = $zz = 0.0;
        foreach ($w as $i => $k) {
            $x = $p[3 * $i] - $x0;
            $y = $p[3 * $i + 1] - $y0;
            $z = $p[3 * $i + 2] - $z0;
            $xx += $k * $x * $x;
            $xy += $k * $x * $y;
            $xz += $k * $x * $z;
            $yy += $k * $y * $y;
            $yz += $k * $y * $z;
            $zz += $k * $z * $z;
        }

        return ['centre' => $c, 'vectors' => Symmetric3::eigen($xx, $xy, $xz, $yy, $yz, $zz)[1], 'moments' => [$xx, $xy, $xz, $yy, $yz, $zz]];
    }

    /**
     * @param  list<float>  $w
     * @param  list<float>  $e
     * @return list<float>
     */
    private static function reweight(array $w, array $e): array
    {
        $cut = 4.685 * max(1e-9, 1.4826 * Median::of(array_map(abs(...), $e)));

        return array_map(fn (float $k, float $v) => abs($v) < $cut ? $k * (1.0 - ($v / $cut) ** 2) ** 2 : 0.0, $w, $e);
    }

    /**
     * @param  list<float>  $p
     * @param  array<int, float>  $centre
     * @param  list<float>  $e
     * @param  list<float>  $use
     * @return array{rms: float, max: float, points: int, size: float}
     */
    private static function quality(array $p, array $centre, array $e, array $use): array
    {
        $squares = $sum = $most = $size = 0.0;
        $count = 0;
        foreach ($use as $i => $k) {
            $size = max($size, ($p[3 * $i] - $centre[0]) ** 2 + ($p[3 * $i + 1] - $centre[1]) ** 2 + ($p[3 * $i + 2] - $centre[2]) ** 2);
            if ($k <= 0.0) {
                continue;
            }
            $squares += $k * $e[$i] * $e[$i];
            $sum += $k;
            $most = max($most, abs($e[$i]));
            $count++;
        }

        return ['rms' => sqrt($squares / ($sum ?: 1.0)), 'max' => $most, 'points' => $count, 'size' => sqrt($size)];
    }
}
