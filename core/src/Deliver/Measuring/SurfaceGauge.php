<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Algorithms\Cutting\PlaneSection;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Datum;

/**
 * What is measured on the surface of a body: form, openings, and lengths along it.
 *
 * Error     no uncertainty is told: the extremes of a form hold the noise of the scan, and grow with the number of faces.
 */
final class SurfaceGauge
{
    /** A face belongs to a datum where it looks within this of the way that the datum looks there: the cosine of 15 degrees. */
    private const LOOKS = 0.966;

    /** And where its corners lie within this many of the largest distances that the fit left, mm. */
    private const NEAR = 2.0;

    /** Of the roundness of a cylinder: slices along its axis, and the least number of corners in one. */
    private const SLICES = 12;

    private const LEAST = 12;

    /**
     * How much the surface on a plane or a cylinder strays from the fit, from its lowest place to its highest.
     *
     * @throws InvalidParameter|UnsuitableInput
     */
    public static function form(TriangleMesh $mesh, Datum $datum, string $kind): Measurement
    {
        $wanted = $kind === 'flatness' ? 'plane' : 'cylinder';
        if ($datum->kind !== $wanted) {
            throw InvalidParameter::of('of', "names \"$datum->name\", a $datum->kind; $kind is that of a $wanted");
        }
        $points = self::points($mesh, $datum);
        if ($kind !== 'roundness') {
            [$low, $high] = self::extremes($datum, $points);

            return new Measurement($high - $low, 'mm', null);
        }
        $slices = [];
        foreach ($points as $point) {
            $height = Vector3::dot(Vector3::minus($point, $datum->origin), $datum->direction);
            $slices[(int) floor(0.5 * self::SLICES * ($height / max($datum->size, 1e-9) + 1.0))][] = $point;
        }
        $worst = 0.0;
        foreach ($slices as $slice) {
            if (count($slice) >= self::LEAST) {
                [$low, $high] = self::extremes($datum, $slice);
                $worst = max($worst, $high - $low);
            }
        }

        return $worst > 0.0 ? new Measurement($worst, 'mm', null) : throw UnsuitableInput::because("Too little of $datum->name is there to say how round it is.");
    }

    /**
     * The widest round thing that goes through, and the narrowest that holds the wall.
     *
     * @throws InvalidParameter|UnsuitableInput
     */
    public static function opening(TriangleMesh $mesh, Datum $datum): Measurement
    {
        if ($datum->kind !== 'cylinder') {
            throw InvalidParameter::of('of', "names \"$datum->name\", a $datum->kind; an opening is that of a cylinder");
        }
        [$low, $high] = self::extremes($datum, self::points($mesh, $datum));

        $across = Vector3::scaled(Vector3::square($datum->direction)[0], $datum->radius + $low);

        return new Measurement(2.0 * ($datum->radius + $low), 'mm', null, ['outer' => 2.0 * ($datum->radius + $high)], line: [Vector3::minus($datum->origin, $across), Vector3::plus($datum->origin, $across)]);
    }

    /**
     * @param  list<array{float, float, float}>  $points
     * @return array{float, float} the least and the largest distance outside the datum
     */
    private static function extremes(Datum $datum, array $points): array
    {
        $out = array_map($datum->outside(...), $points);

        return [min($out), max($out)];
    }

    /**
     * Corners of the faces that lie on a datum.
     *
     * @return non-empty-list<array{float, float, float}>
     */
    private static function points(TriangleMesh $mesh, Datum $datum): array
    {
        $normals = Measure::crosses($mesh->positions, $mesh->faces);
        $near = self::NEAR * max($datum->max, 1e-6);
        $found = [];
        foreach (array_chunk($mesh->faces, 3) as $t => $corners) {
            $normal = [$normals[3 * $t], $normals[3 * $t + 1], $normals[3 * $t + 2]];
            $places = array_map(fn (int $v) => [$mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]], $corners);
            foreach ($places as $k => $place) {
                $way = Vector3::minus($place, $datum->origin);
                $height = Vector3::dot($way, $datum->direction);
                $out = Vector3::minus($way, Vector3::scaled($datum->direction, $height));
                [$looks, $reach] = $datum->kind === 'plane' ? [$datum->direction, Vector3::length($out)] : [$out, abs($height)];
                if ($reach > $datum->size || abs($datum->outside($place)) > $near || abs(Vector3::dot($looks, $normal)) < self::LOOKS * Vector3::length($looks) * Vector3::length($normal)) {
                    continue 2;
                }
            }
            foreach ($corners as $k => $v) {
                $found[$v] = $places[$k];
            }
        }

        return $found !== [] ? array_values($found) : throw UnsuitableInput::because("No surface lies on $datum->name any more: fit it anew.");
    }

    /**
     * The way along the surface between two places, in the plane through both that stands upright on it: the shorter one.
     *
     * @param  array{float, float, float}  $from
     * @param  array{float, float, float}  $to
     *
     * @throws UnsuitableInput when no piece of surface leads from one to the other in that plane
     */
    public static function length(TriangleMesh $mesh, array $from, array $to): Measurement
    {
        $face = $distanceSq = [];
        TriangleBvh::of($mesh->positions, $mesh->faces)->closest([...$from, ...$to], $face, $distanceSq);
        $normals = Measure::crosses($mesh->positions, $mesh->faces);
        $up = [0.0, 0.0, 0.0];
        foreach ($face as $t) {
            $up = Vector3::plus($up, Vector3::unit([$normals[3 * $t], $normals[3 * $t + 1], $normals[3 * $t + 2]]));
        }
        $across = Vector3::cross(Vector3::minus($to, $from), $up);
        if (Vector3::length($across) < 1e-9) {
            throw UnsuitableInput::because('The two places stand above each other: there is no one way along the surface between them.');
        }
        $best = INF;
        $normal = Vector3::unit($across);
        foreach ((new PlaneSection($mesh->positions, $mesh->faces, $normal))->at([Vector3::dot($from, $normal)])[0] as $curve) {
            $best = min($best, self::between($curve['points'], $curve['closed'], $from, $to, BoundingBox::of($mesh->positions)->diagonal()));
        }

        return is_finite($best) ? new Measurement($best, 'mm', null, line: [$from, $to]) : throw UnsuitableInput::because('No way along the surface leads straight from one place to the other; choose places nearer to each other.');
    }

    /**
     * @param  list<float>  $points  flat xyz of a curve
     * @param  array{float, float, float}  $from
     * @param  array{float, float, float}  $to
     * @return float the shorter length along it between its places next to two; INF where it does not come near both
     */
    private static function between(array $points, bool $isClosed, array $from, array $to, float $diagonal): float
    {
        $places = array_chunk($points, 3);
        $isClosed && $places[] = $places[0];
        $at = [[INF, 0.0], [INF, 0.0]];
        $length = 0.0;
        for ($k = 1, $n = count($places); $k < $n; $k++) {
            $step = Vector3::minus($places[$k], $places[$k - 1]);
            $size = Vector3::length($step);
            foreach ([$from, $to] as $which => $place) {
                $t = $size > 0.0 ? max(0.0, min(1.0, Vector3::dot(Vector3::minus($place, $places[$k - 1]), $step) / $size ** 2)) : 0.0;
                $off = Vector3::length(Vector3::minus($place, Vector3::plus($places[$k - 1], Vector3::scaled($step, $t))));
                $at[$which] = $off < $at[$which][0] ? [$off, $length + $t * $size] : $at[$which];
            }
            $length += $size;
        }
        // Picked places lie on the surface but for rounding of what was picked.
        if (max($at[0][0], $at[1][0]) > 0.01 * $diagonal) {
            return INF;
        }
        $way = abs($at[1][1] - $at[0][1]);

        return $isClosed ? min($way, $length - $way) : $way;
    }
}
