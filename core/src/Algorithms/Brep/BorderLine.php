<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Brep;

use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Algorithms\Shapes\TurnedShape;
use Emberstone\Core\Geometry\Vector3;

/**
 * The border between shapes, out of the teeth that triangles make of it: smoothed, then drawn onto the curve in which the shapes cut each other (Gauss-Newton on their distances, along those directions alone
 * that their normals tell).
 *
 * @internal
 *
 * @phpstan-import-type Point from EdgeCurve
 */
final class BorderLine
{
    /** Share of the larger eigenvalue of the normals that meet: below it they are one normal, and nothing is solved across them. Two normals at 20 degrees to each other have 0.031. */
    private const ONE_NORMAL = 0.03;

    /** Rounds in which a border is smoothed: enough to take the teeth of triangles out of it, and small against its bends. */
    private const ROUNDS = 6;

    /**
     * The border between shapes: smoothed, and drawn onto them. A rim is not smoothed: it has no teeth.
     *
     * @param  non-empty-list<Point>  $points  of a closed one the first is the last
     * @param  list<TurnedShape>  $shapes  on both sides, or the one beside a rim
     * @param  float  $reach  mm that a place may move
     * @return non-empty-list<Point>
     */
    public static function drawn(array $points, array $shapes, bool $isClosed, float $reach): array
    {
        $last = count($points) - 1;
        for ($round = count($shapes) === 1 ? self::ROUNDS : 0; $round < self::ROUNDS; $round++) {
            $before = $points;
            for ($k = $isClosed ? 0 : 1; $k < $last; $k++) {
                $a = $before[$k === 0 ? $last - 1 : $k - 1];
                $b = $before[$k + 1];
                $points[$k] = [0.5 * $before[$k][0] + 0.25 * ($a[0] + $b[0]), 0.5 * $before[$k][1] + 0.25 * ($a[1] + $b[1]), 0.5 * $before[$k][2] + 0.25 * ($a[2] + $b[2])];
            }
            if ($isClosed) {
                $points[$last] = $points[0];
            }
        }

        return array_map(fn (array $point) => self::onto($point, $shapes, $reach), $points);
    }

    /**
     * A point moved the least way to where it lies on all of some shapes, or, where these do not meet at an angle, half-way between them.
     *
     * @param  Point  $point
     * @param  list<TurnedShape>  $shapes
     * @param  float  $reach  mm that it may move; where it would have to move farther it stays
     * @return Point
     */
    public static function onto(array $point, array $shapes, float $reach): array
    {
        $x = $point;
        for ($round = 0; $round < 12; $round++) {
            $m = [0.0, 0.0, 0.0, 0.0, 0.0, 0.0];
            $right = [0.0, 0.0, 0.0];
            foreach ($shapes as $shape) {
                [$d] = $shape->distances($x);
                [$a, $b, $c] = $shape->normal($x[0], $x[1], $x[2]);
                $m = [$m[0] + $a * $a, $m[1] + $a * $b, $m[2] + $a * $c, $m[3] + $b * $b, $m[4] + $b * $c, $m[5] + $c * $c];
                $right = [$right[0] - $d * $a, $right[1] - $d * $b, $right[2] - $d * $c];
            }
            [$values, $ways] = Symmetric3::eigen(...$m);
            $step = [0.0, 0.0, 0.0];
            foreach ($values as $k => $value) {
                if ($value > self::ONE_NORMAL * $values[2]) {
                    $step = Vector3::plus($step, Vector3::scaled($ways[$k], Vector3::dot($ways[$k], $right) / $value));
                }
            }
            $x = Vector3::plus($x, $step);
            if (Vector3::length(Vector3::minus($x, $point)) > $reach) {
                return $point;
            }
            if (Vector3::length($step) < 1e-12 * (1.0 + $reach)) {
                break;
            }
        }

        return $x;
    }

    /**
     * Without points that lie on the one before, and without those from which the way would go back: drawn onto a curve, the teeth of a border come to lie on it out of order.
     *
     * @param  list<Point>  $points
     * @return list<Point>
     */
    public static function inOrder(array $points): array
    {
        $last = count($points) - 1;
        $long = 0.0;
        for ($k = 0; $k < $last; $k++) {
            $long += Vector3::length(Vector3::minus($points[$k + 1], $points[$k]));
        }
        $least = 0.2 * $long / max(1, $last);
        $kept = [$points[0]];
        for ($k = 1; $k < $last; $k++) {
            $from = $kept[count($kept) - 1];
            $way = Vector3::minus($points[$k], $from);
            $onward = Vector3::minus($points[min($last, $k + 2)], $from);
            if (Vector3::length($way) >= $least && Vector3::dot($way, $onward) > 0.0) {
                $kept[] = $points[$k];
            }
        }
        while (count($kept) > 1 && Vector3::length(Vector3::minus($points[$last], $kept[count($kept) - 1])) < $least) {
            array_pop($kept);
        }
        if ($long > 1e-9 * (1.0 + Vector3::length($points[0]))) {
            $kept[] = $points[$last];
        }

        return $kept;
    }
}
