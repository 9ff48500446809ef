<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Algorithms\Fitting\Robust;
use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Geometry\Vector3;

/**
 * Fits planes, cylinders, cones, spheres and tori to points with normals: a start in closed form, then Gauss-Newton on the distances.
 *
 * Source    a point of a sphere is centre + radius * normal, which is linear in both: the same holds for a cylinder seen along its axis, for a cone once its slope is taken off, for the
 *           section of a torus beside its axis (Schnabel, Wahl & Klein 2007 take few points for this; here least squares over all). Axes from how the normals spread:
 *           Symmetric3 about zero (cylinder) or about their mean (cone).
 *           Derivatives of the distance d with normal n at x from the origin: by a shift of the shape -n, by a turn about the origin n cross x.
 *
 * @internal
 */
final class TurnedFit
{
    /** The kinds, the plainest first. */
    public const KINDS = ['plane', 'cylinder', 'sphere', 'cone', 'torus'];

    /** Below this mean square the spread of normals tells no curvature: 0.6 degrees. */
    private const FLAT = 1e-4;

    /** Of eight unknowns (shifts along u, v and the axis, turns about u and v, radius, tilt, tube) those that a kind has and that no other says already. */
    private const FREE = ['plane' => [2, 3, 4], 'cylinder' => [0, 1, 3, 4, 5], 'cone' => [0, 1, 3, 4, 5, 6], 'sphere' => [0, 1, 2, 7], 'torus' => [0, 1, 2, 3, 4, 5, 7]];

    private const STILL = [0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0];

    /** Steps after which a fit that still moves is taken as it is. */
    private const ROUNDS = 12;

    /**
     * The shape that points and normals tell in closed form.
     *
     * @param  list<float>  $p  flat xyz
     * @param  list<float>  $n  unit normals, flat
     * @param  list<array{origin: array{float, float, float}, axis: array{float, float, float}}>  $axes  on which a torus may turn
     */
    public static function start(string $kind, array $p, array $n, array $axes = []): ?TurnedShape
    {
        $mean = self::means($p);
        $lean = self::means($n);
        if ($kind === 'plane') {
            $normal = Vector3::length($lean) > 0.0 ? Vector3::unit($lean) : [0.0, 0.0, 1.0];

            return TurnedShape::plane($mean, $normal);
        }
        if ($kind === 'sphere') {
            $r = self::slope($p, $n, $mean, $lean);

            return $r === null ? null : new TurnedShape('sphere', Vector3::minus($mean, Vector3::scaled($lean, $r)), [0.0, 0.0, 1.0], 0.0, 0.0, abs($r));
        }
        if ($kind === 'torus') {
            $best = null;
            foreach ($axes as $axis) {
                $shape = self::torus($p, $n, $axis['origin'], $axis['axis']);
                $rms = $shape === null ? INF : self::rms($shape, $p);
                $best = $rms < ($best[1] ?? INF) ? [$shape, $rms] : $best;
            }

            return $best[0] ?? null;
        }
        [$values, $vectors] = self::spread($n, $kind === 'cylinder' ? [0.0, 0.0, 0.0] : $lean);
        if ($values[1] < self::FLAT) {
            return null;
        }
        $axis = $vectors[0];
        $along = $kind === 'cylinder' ? 0.0 : Vector3::dot($lean, $axis);
        if (abs($along) > 0.996) {
            return null;
        }

        return self::straight($p, $n, $mean, $axis, $along);
    }

    /**
     * Cylinder or cone of a known axis and of normals that all have the same part along it.
     *
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  array{float, float, float}  $mean
     * @param  array{float, float, float}  $axis
     */
    private static function straight(array $p, array $n, array $mean, array $axis, float $along): ?TurnedShape
    {
        $across = sqrt(1.0 - $along * $along);
        [$u, $v] = Vector3::square($axis);
        // Seen along the axis, and with the slope taken off, each point is centre + radius * direction of its normal. A normal that looks to the axis has the slope's other sign: both come out of the same sum.
        [[$ux, $uy, $uz], [$vx, $vy, $vz], [$ax, $ay, $az], [$x0, $y0, $z0]] = [$u, $v, $axis, $mean];
        $q = $m = [];
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            [$x, $y, $z] = [$p[$o] - $x0, $p[$o + 1] - $y0, $p[$o + 2] - $z0];
            $a = $n[$o] * $ux + $n[$o + 1] * $uy + $n[$o + 2] * $uz;
            $b = $n[$o] * $vx + $n[$o + 1] * $vy + $n[$o + 2] * $vz;
            $l = sqrt($a * $a + $b * $b);
            $l = $l > 0.0 ? 1.0 / $l : 1.0;
            $slope = -$along / $across * ($x * $ax + $y * $ay + $z * $az);
            $q[] = $x * $ux + $y * $uy + $z * $uz - $slope * $a * $l;
            $q[] = $x * $vx + $y * $vy + $z * $vz - $slope * $b * $l;
            $q[] = 0.0;
            $m[] = $a * $l;
            $m[] = $b * $l;
            $m[] = 0.0;
        }
        $centre = self::means($q);
        $lean = self::means($m);
        $radius = self::slope($q, $m, $centre, $lean);
        if ($radius === null) {
            return null;
        }
        [$x, $y] = [$centre[0] - $radius * $lean[0], $centre[1] - $radius * $lean[1]];
        $origin = Vector3::plus($mean, Vector3::plus(Vector3::scaled($u, $x), Vector3::scaled($v, $y)));
        if ($along === 0.0) {
            return new TurnedShape('cylinder', $origin, $axis, abs($radius));
        }
        // The axis of a cone points to its wide end: there the normals, seen from outside, look back.
        $tilt = asin(abs($along));
        $opens = $along * $radius < 0.0;

        return new TurnedShape('cone', $origin, $opens ? $axis : Vector3::scaled($axis, -1.0), abs($radius), $tilt);
    }

    /**
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  array{float, float, float}  $origin
     * @param  array{float, float, float}  $axis
     */
    private static function torus(array $p, array $n, array $origin, array $axis): ?TurnedShape
    {
        $q = $m = [];
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $r = Vector3::minus([$p[$o], $p[$o + 1], $p[$o + 2]], $origin);
            $h = Vector3::dot($r, $axis);
            $out = Vector3::minus($r, Vector3::scaled($axis, $h));
            $rho = Vector3::length($out) ?: 1e-12;
            $normal = [$n[$o], $n[$o + 1], $n[$o + 2]];
            array_push($q, $rho, $h, 0.0);
            array_push($m, Vector3::dot($normal, $out) / $rho, Vector3::dot($normal, $axis), 0.0);
        }
        $centre = self::means($q);
        $lean = self::means($m);
        $tube = self::slope($q, $m, $centre, $lean);
        if ($tube === null) {
            return null;
        }
        $ring = $centre[0] - $tube * $lean[0];

        return $ring < 1e-3 * abs($tube) ? null : new TurnedShape('torus', Vector3::plus($origin, Vector3::scaled($axis, $centre[1] - $tube * $lean[1])), $axis, $ring, 0.0, abs($tube));
    }

    /**
     * Least squares of the distances from a start, with Tukey's biweight from the second round on.
     *
     * @param  list<float>  $p  flat xyz
     * @param  list<float>  $w  weight a point
     * @param  float  $close  mm, and radians: a step that is smaller ends the fit
     * @return TurnedShape|null null where it runs away
     */
    public static function refined(TurnedShape $shape, array $p, array $w, float $close, int $rounds = self::ROUNDS): ?TurnedShape
    {
        $use = $w;
        $free = self::FREE[$shape->kind];
        for ($round = 0; $round < $rounds; $round++) {
            [$h, $g, $distances] = self::equations($shape, $p, $use, $free);
            $step = array_replace(self::STILL, array_combine($free, Dense::step($h, $g, count($free))));
            $shape = self::moved($shape, $step);
            $size = max($shape->radius, $shape->tube);
            if (! is_finite($size) || $size > 1e7 || $shape->radius < 0.0 || $shape->tube < 0.0) {
                return null;
            }
            if ($round > 1 && max(array_map(abs(...), $step)) < $close) {
                break;
            }
            // By what they were off before the step: near enough once the steps are small.
            $use = Robust::reweight($w, $distances);
        }
        if ($shape->kind === 'cone' && ($shape->tilt < 5e-3 || $shape->tilt > 1.52)) {
            return null;
        }

        return $shape;
    }

    /**
     * @param  list<float>  $p
     * @param  list<float>  $w
     * @param  list<int>  $free  see FREE
     * @return array{list<float>, list<float>, list<float>} the normal matrix of the free unknowns, row by row, the right side, and the distances
     */
    private static function equations(TurnedShape $shape, array $p, array $w, array $free): array
    {
        [$x0, $y0, $z0] = $shape->origin;
        [$ax, $ay, $az] = $shape->axis;
        [[$ux, $uy, $uz], [$vx, $vy, $vz]] = Vector3::square($shape->axis);
        [$radius, $tube, $round] = [$shape->radius, $shape->tube, $shape->isRound()];
        $cos = $shape->kind === 'plane' ? 0.0 : cos($shape->tilt);
        $sin = sin($shape->tilt);
        $n = count($free);
        $m = array_fill(0, $n * $n, 0.0);
        $g = array_fill(0, $n, 0.0);
        $j = self::STILL;
        $distances = [];
        foreach ($w as $i => $weight) {
            $o = 3 * $i;
            $x = $p[$o] - $x0;
            $y = $p[$o + 1] - $y0;
            $z = $p[$o + 2] - $z0;
            $a = $x * $ux + $y * $uy + $z * $uz;
            $b = $x * $vx + $y * $vy + $z * $vz;
            $h = $x * $ax + $y * $ay + $z * $az;
            $rho = sqrt($a * $a + $b * $b);
            $rho = $rho > 1e-12 ? $rho : 1e-12;
            $q = $rho - $radius;
            // The normal along u, v and the axis.
            if ($round) {
                $s = sqrt($q * $q + $h * $h);
                $s = $s > 1e-12 ? $s : 1e-12;
                $d = $s - $tube;
                $nr = $q / $s;
                $nh = $h / $s;
                $j[5] = -$nr;
                $j[6] = 0.0;
                $j[7] = -1.0;
            } else {
                $d = $cos * $q - $sin * $h;
                $nr = $cos;
                $nh = -$sin;
                $j[5] = -$cos;
                $j[6] = -$sin * $q - $cos * $h;
                $j[7] = 0.0;
            }
            $distances[] = $d;
            if ($weight <= 0.0) {
                continue;
            }
            $nu = $nr * $a / $rho;
            $nv = $nr * $b / $rho;
            $j[0] = -$nu;
            $j[1] = -$nv;
            $j[2] = -$nh;
            // Turns about u and v: the parts of n cross x along them.
            $j[3] = $h * $nv - $b * $nh;
            $j[4] = $a * $nh - $h * $nu;
            for ($r = 0; $r < $n; $r++) {
                $f = $weight * $j[$free[$r]];
                for ($c = $r; $c < $n; $c++) {
                    $m[$n * $r + $c] += $f * $j[$free[$c]];
                }
                $g[$r] -= $f * $d;
            }
        }
        for ($r = 1; $r < $n; $r++) {
            for ($c = 0; $c < $r; $c++) {
                $m[$n * $r + $c] = $m[$n * $c + $r];
            }
        }

        return [$m, $g, $distances];
    }

    /** @param  list<float>  $step  of the eight unknowns */
    private static function moved(TurnedShape $shape, array $step): TurnedShape
    {
        [$u, $v] = Vector3::square($shape->axis);
        $shift = Vector3::plus(Vector3::plus(Vector3::scaled($u, $step[0]), Vector3::scaled($v, $step[1])), Vector3::scaled($shape->axis, $step[2]));
        // A turn of the shape by w moves its axis by w cross axis: u cross axis = -v, v cross axis = u.
        $axis = Vector3::unit(Vector3::plus($shape->axis, Vector3::minus(Vector3::scaled($u, $step[4]), Vector3::scaled($v, $step[3]))));

        return new TurnedShape($shape->kind, Vector3::plus($shape->origin, $shift), $axis, $shape->radius + $step[5], $shape->tilt + $step[6], $shape->tube + $step[7]);
    }

    /**
     * How far points lie off their plane, root mean square, mm.
     *
     * @param  list<float>  $p
     */
    public static function offPlane(array $p): float
    {
        return sqrt(max(0.0, Symmetric3::ofPoints($p)['values'][0]));
    }

    /** @param  list<float>  $p */
    public static function rms(TurnedShape $shape, array $p): float
    {
        $squares = 0.0;
        $distances = $shape->distances($p);
        foreach ($distances as $d) {
            $squares += $d * $d;
        }

        return sqrt($squares / max(1, count($distances)));
    }

    /**
     * @param  list<float>  $p
     * @return array{float, float, float}
     */
    private static function means(array $p): array
    {
        $x = $y = $z = 0.0;
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $x += $p[$o];
            $y += $p[$o + 1];
            $z += $p[$o + 2];
        }
        $k = 3.0 / max(3, $e);

        return [$k * $x, $k * $y, $k * $z];
    }

    /**
     * The number r for which p - r n is most nearly one point; null where the normals hardly turn.
     *
     * @param  list<float>  $p
     * @param  list<float>  $n
     * @param  array{float, float, float}  $mean
     * @param  array{float, float, float}  $lean
     */
    private static function slope(array $p, array $n, array $mean, array $lean): ?float
    {
        $both = $turn = 0.0;
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            for ($k = 0; $k < 3; $k++) {
                $b = $n[$o + $k] - $lean[$k];
                $both += ($p[$o + $k] - $mean[$k]) * $b;
                $turn += $b * $b;
            }
        }

        return $turn < self::FLAT * $e / 3 || $both === 0.0 ? null : $both / $turn;
    }

    /**
     * @param  list<float>  $n
     * @param  array{float, float, float}  $about
     * @return array{list<float>, list<array{float, float, float}>} mean squares, ascending, and their directions
     */
    private static function spread(array $n, array $about): array
    {
        $xx = $xy = $xz = $yy = $yz = $zz = 0.0;
        for ($o = 0, $e = count($n); $o < $e; $o += 3) {
            $a = $n[$o] - $about[0];
            $b = $n[$o + 1] - $about[1];
            $c = $n[$o + 2] - $about[2];
            $xx += $a * $a;
            $xy += $a * $b;
            $xz += $a * $c;
            $yy += $b * $b;
            $yz += $b * $c;
            $zz += $c * $c;
        }
        $k = 3.0 / max(3, $e);

        return Symmetric3::eigen($k * $xx, $k * $xy, $k * $xz, $k * $yy, $k * $yz, $k * $zz);
    }
}
