<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Brep;

use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Geometry\Vector3;

/**
 * The curve from one corner to the next: a straight line, straight lines from point to point, an arc or a whole circle, or a smooth curve through points.
 *
 * @phpstan-type Point array{float, float, float}
 */
final readonly class EdgeCurve
{
    /** Least turn of an arc, in radians: a flatter one would hang on the last digits of its points. */
    private const LEAST_TURN = 0.02;

    /**
     * @param  'line'|'polyline'|'circle'|'spline'  $kind
     * @param  list<Point>  $points  mm: of a line both ends; of a circle where it begins and ends (once when it is whole); of the others all that they pass, a closed one ends where it began
     * @param  Point  $centre  mm, of a circle
     * @param  Point  $axis  unit, of a circle: it runs against the clock seen from where this points
     * @param  float  $radius  mm, of a circle
     */
    private function __construct(public string $kind, public array $points, public array $centre = [0.0, 0.0, 0.0], public array $axis = [0.0, 0.0, 0.0], public float $radius = 0.0)
    {
    }

    /**
     * @param  Point  $from
     * @param  Point  $to
     */
    public static function line(array $from, array $to): self
    {
        return new self('line', [$from, $to]);
    }

    /** @param  list<Point>  $points */
    public static function polyline(array $points): self
    {
        return count($points) === 2 ? self::line($points[0], $points[1]) : new self('polyline', $points);
    }

    /**
     * An arc of a plane as drawings tell it.
     *
     * @param  Point  $from
     * @param  Point  $to
     * @param  Point  $normal  unit, of the plane
     * @param  float  $bulge  tangent of a quarter of its turn, positive against the clock seen from where the normal points; not 0
     */
    public static function arc(array $from, array $to, array $normal, float $bulge): self
    {
        $chord = Vector3::minus($to, $from);
        $left = Vector3::cross($normal, $chord);
        $centre = Vector3::plus(Vector3::plus($from, Vector3::scaled($chord, 0.5)), Vector3::scaled($left, (1.0 - $bulge * $bulge) / (4.0 * $bulge)));

        return new self('circle', [$from, $to], $centre, $bulge > 0.0 ? $normal : Vector3::scaled($normal, -1.0), Vector3::length(Vector3::minus($from, $centre)));
    }

    /**
     * @param  Point  $centre
     * @param  Point  $axis  unit
     * @param  Point  $from  a place on it, where it begins and ends
     */
    public static function wholeCircle(array $centre, array $axis, array $from): self
    {
        return new self('circle', [$from], $centre, $axis, Vector3::length(Vector3::minus($from, $centre)));
    }

    /**
     * The simplest curve that keeps within a tolerance of points in their order: a line, an arc or circle, or else the points themselves, passed smoothly.
     *
     * @param  list<Point>  $points  from end to end, two at least; of a closed curve the first is the last, too
     * @param  float  $tolerance  mm
     */
    public static function through(array $points, bool $isClosed, float $tolerance): self
    {
        if ($isClosed) {
            return self::circleThrough($points, $tolerance) ?? new self('spline', $points);
        }
        $first = $points[0];
        $last = $points[count($points) - 1];

        return self::isStraight($points, $tolerance) ? self::line($first, $last) : self::arcThrough($points, $tolerance) ?? new self('spline', $points);
    }

    /** @param  list<Point>  $points */
    private static function isStraight(array $points, float $tolerance): bool
    {
        $from = $points[0];
        $way = Vector3::minus($points[count($points) - 1], $from);
        $long = Vector3::length($way);
        if ($long === 0.0) {
            return false;
        }
        $way = Vector3::scaled($way, 1.0 / $long);
        foreach ($points as $point) {
            $r = Vector3::minus($point, $from);
            $along = Vector3::dot($r, $way);
            if ($along < -$tolerance || $along > $long + $tolerance || Vector3::length(Vector3::minus($r, Vector3::scaled($way, $along))) > $tolerance) {
                return false;
            }
        }

        return true;
    }

    /**
     * Through both ends and the point half-way.
     *
     * @param  list<Point>  $points
     */
    private static function arcThrough(array $points, float $tolerance): ?self
    {
        $n = count($points);
        if ($n < 4) {
            return null;
        }
        [$a, $b, $c] = [$points[0], $points[intdiv($n, 2)], $points[$n - 1]];
        $ab = Vector3::minus($b, $a);
        $ac = Vector3::minus($c, $a);
        $normal = Vector3::cross($ab, $ac);
        $square = Vector3::dot($normal, $normal);
        if ($square <= 1e-20) {
            return null;
        }
        // The circle around a triangle: see any book of coordinates, with a as the origin.
        $to = Vector3::plus(Vector3::scaled(Vector3::cross($normal, $ab), Vector3::dot($ac, $ac)), Vector3::scaled(Vector3::cross($ac, $normal), Vector3::dot($ab, $ab)));
        $centre = Vector3::plus($a, Vector3::scaled($to, 0.5 / $square));
        $radius = Vector3::length(Vector3::minus($a, $centre));
        $axis = Vector3::unit($normal);
        $turn = self::turned($points, $centre, $axis);
        if ($turn < self::LEAST_TURN || $turn > 2.0 * M_PI - self::LEAST_TURN || self::offCircle($points, $centre, $axis, $radius) > $tolerance) {
            return null;
        }

        return new self('circle', [$a, $c], $centre, $axis, $radius);
    }

    /** @param  list<Point>  $points */
    private static function circleThrough(array $points, float $tolerance): ?self
    {
        if (count($points) < 6) {
            return null;
        }
        $flat = array_merge(...array_slice($points, 1));
        $middle = Symmetric3::ofPoints($flat);
        $axis = $middle['vectors'][0];
        [$u, $v] = Vector3::square($axis);
        // Least squares of x2 + y2 = 2 cx x + 2 cy y + k (Kasa 1976), about the middle: sums of x and y vanish.
        $xx = $xy = $yy = $xz = $yz = $z = 0.0;
        foreach (array_slice($points, 1) as $point) {
            $r = Vector3::minus($point, $middle['centre']);
            [$x, $y] = [Vector3::dot($r, $u), Vector3::dot($r, $v)];
            $xx += $x * $x;
            $xy += $x * $y;
            $yy += $y * $y;
            $xz += $x * ($x * $x + $y * $y);
            $yz += $y * ($x * $x + $y * $y);
            $z += $x * $x + $y * $y;
        }
        $det = $xx * $yy - $xy * $xy;
        if ($det <= 1e-12 * $z * $z) {
            return null;
        }
        $cx = 0.5 * ($xz * $yy - $yz * $xy) / $det;
        $cy = 0.5 * ($yz * $xx - $xz * $xy) / $det;
        $radius = sqrt($z / (count($points) - 1) + $cx * $cx + $cy * $cy);
        $centre = Vector3::plus($middle['centre'], Vector3::plus(Vector3::scaled($u, $cx), Vector3::scaled($v, $cy)));
        $turn = self::turned($points, $centre, $axis);
        if (self::offCircle($points, $centre, $axis, $radius) > $tolerance || abs(abs($turn) - 2.0 * M_PI) > 1e-6) {
            return null;
        }
        $axis = $turn > 0.0 ? $axis : Vector3::scaled($axis, -1.0);
        $out = Vector3::minus($points[0], $centre);
        $out = Vector3::unit(Vector3::minus($out, Vector3::scaled($axis, Vector3::dot($out, $axis))));

        return new self('circle', [Vector3::plus($centre, Vector3::scaled($out, $radius))], $centre, $axis, $radius);
    }

    /**
     * How far points in their order turn about an axis, in radians, against the clock.
     *
     * @param  list<Point>  $points
     * @param  Point  $centre
     * @param  Point  $axis
     */
    private static function turned(array $points, array $centre, array $axis): float
    {
        $turn = 0.0;
        $a = Vector3::minus($points[0], $centre);
        foreach ($points as $point) {
            $b = Vector3::minus($point, $centre);
            $turn += atan2(Vector3::dot(Vector3::cross($a, $b), $axis), Vector3::dot($a, $b) - Vector3::dot($a, $axis) * Vector3::dot($b, $axis));
            $a = $b;
        }

        return $turn;
    }

    /**
     * @param  list<Point>  $points
     * @param  Point  $centre
     * @param  Point  $axis
     */
    private static function offCircle(array $points, array $centre, array $axis, float $radius): float
    {
        $most = 0.0;
        foreach ($points as $point) {
            $r = Vector3::minus($point, $centre);
            $h = Vector3::dot($r, $axis);
            $most = max($most, hypot($h, sqrt(max(0.0, Vector3::dot($r, $r) - $h * $h)) - $radius));
        }

        return $most;
    }

    /**
     * A spline as cubic pieces that meet with one tangent (Hermite, with the tangents of a parabola through three points): control points and knots of a B-spline whose inner knots are double.
     *
     * @return array{control: list<Point>, knots: list<float>, multiplicities: list<int>}
     */
    public function bSpline(): array
    {
        $p = $this->points;
        $last = count($p) - 1;
        $isClosed = $p[0] === $p[$last];
        $knots = [0.0];
        for ($k = 0; $k < $last; $k++) {
            $knots[] = $knots[$k] + Vector3::length(Vector3::minus($p[$k + 1], $p[$k]));
        }
        $slopes = [];
        for ($k = 0; $k < $last; $k++) {
            $slopes[] = Vector3::scaled(Vector3::minus($p[$k + 1], $p[$k]), 1.0 / ($knots[$k + 1] - $knots[$k]));
        }
        $tangents = [];
        for ($k = 0; $k <= $last; $k++) {
            $before = $k > 0 ? $k - 1 : ($isClosed ? $last - 1 : null);
            $after = $k < $last ? $k : ($isClosed ? 0 : null);
            if ($before === null || $after === null) {
                $tangents[] = $slopes[$before ?? $after ?? 0];

                continue;
            }
            $long = [$knots[$before + 1] - $knots[$before], $knots[$after + 1] - $knots[$after]];
            $tangents[] = Vector3::scaled(Vector3::plus(Vector3::scaled($slopes[$before], $long[1]), Vector3::scaled($slopes[$after], $long[0])), 1.0 / ($long[0] + $long[1]));
        }
        $control = [$p[0]];
        for ($k = 0; $k < $last; $k++) {
            $third = ($knots[$k + 1] - $knots[$k]) / 3.0;
            $control[] = Vector3::plus($p[$k], Vector3::scaled($tangents[$k], $third));
            $control[] = Vector3::minus($p[$k + 1], Vector3::scaled($tangents[$k + 1], $third));
        }
        $control[] = $p[$last];

        return ['control' => $control, 'knots' => $knots, 'multiplicities' => [4, ...($last > 1 ? array_fill(0, $last - 1, 2) : []), 4]];
    }
}
