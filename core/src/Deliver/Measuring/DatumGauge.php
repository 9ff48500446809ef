<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Datums\Uncertainty;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Datum;

/**
 * Distances, angles and diameters of datums.
 *
 * Error     standard deviations of the fits (Datums\Uncertainty), carried to the place where a distance is taken: a plane that may lean by an angle is off by that angle times how far away it is asked.
 *           What is typed is exact; of what is constructed from others nothing is known. Scale and registration are not in it.
 */
final class DatumGauge
{
    /** Two directions are taken for parallel up to this, degrees. */
    private const PARALLEL = 5.0;

    /**
     * @param  array{float, float, float}|null  $along  of length 1: only this part counts
     *
     * @throws InvalidParameter when the two have no distance
     */
    public static function distance(Datum $one, Datum $two, ?array $along): Measurement
    {
        if ($along !== null) {
            $way = Vector3::minus($two->origin, $one->origin);

            return new Measurement(abs(Vector3::dot($way, $along)), 'mm', self::joined(self::at($one, $two->origin), self::at($two, $one->origin)));
        }
        // Planes first, then what has an axis, then points and balls.
        if (self::rank($two) < self::rank($one)) {
            [$one, $two] = [$two, $one];
        }
        if ($one->kind === 'plane') {
            self::rank($two) < 2 && self::checkParallel($one, $two);
            // Between two planes, at the middle of either: their mean where they lean.
            $value = abs(Vector3::dot(Vector3::minus($two->origin, $one->origin), $one->direction));
            $value = $two->kind === 'plane' ? 0.5 * ($value + abs(Vector3::dot(Vector3::minus($two->origin, $one->origin), $two->direction))) : $value;

            return new Measurement($value, 'mm', self::joined(self::at($one, $two->origin), self::at($two, $one->origin)));
        }
        $way = Vector3::minus($two->origin, $one->origin);
        if (self::rank($one) === 1) {
            $across = Vector3::minus($way, Vector3::scaled($one->direction, Vector3::dot($way, $one->direction)));
            if (self::rank($two) === 1) {
                $normal = Vector3::cross($one->direction, $two->direction);
                // Axes that cross are nearest along the normal of both.
                if (Vector3::length($normal) > sin(deg2rad(self::PARALLEL))) {
                    return new Measurement(abs(Vector3::dot($way, Vector3::unit($normal))), 'mm', self::joined(self::at($one, $two->origin), self::at($two, $one->origin)));
                }
            }

            return new Measurement(Vector3::length($across), 'mm', self::joined(self::at($one, $two->origin), self::at($two, $one->origin)));
        }

        return new Measurement(Vector3::length($way), 'mm', self::joined(self::at($one, $two->origin), self::at($two, $one->origin)));
    }

    /** @throws InvalidParameter when one of the two has no direction */
    public static function angle(Datum $one, Datum $two): Measurement
    {
        foreach ([$one, $two] as $datum) {
            if (! $datum->hasDirection()) {
                throw InvalidParameter::of('of', "names \"$datum->name\", a $datum->kind, which has no direction; name planes or axes");
            }
        }
        // Of directions: of a plane, its normal. The acute angle, also between a plane and an axis.
        $between = rad2deg(atan2(Vector3::length(Vector3::cross($one->direction, $two->direction)), abs(Vector3::dot($one->direction, $two->direction))));
        $value = ($one->kind === 'plane') === ($two->kind === 'plane') ? $between : 90.0 - $between;
        [$a, $b] = [self::uncertainty($one), self::uncertainty($two)];

        return new Measurement($value, 'deg', self::joined($a === null ? null : $a['angle'], $b === null ? null : $b['angle']));
    }

    /** @throws InvalidParameter when it has no diameter */
    public static function diameter(Datum $datum): Measurement
    {
        if (! in_array($datum->kind, ['cylinder', 'sphere', 'cone'], true)) {
            throw InvalidParameter::of('of', "names \"$datum->name\", a $datum->kind; a diameter is that of a cylinder, a sphere, or a cone at its middle");
        }
        $u = self::uncertainty($datum);

        return new Measurement(2.0 * $datum->radius, 'mm', $u === null ? null : $u['diameter']);
    }

    /** Planes 0, things with an axis 1, points and balls 2. */
    private static function rank(Datum $datum): int
    {
        return $datum->kind === 'plane' ? 0 : ($datum->hasDirection() ? 1 : 2);
    }

    private static function checkParallel(Datum $plane, Datum $other): void
    {
        $lean = rad2deg(asin(min(1.0, $other->kind === 'plane' ? Vector3::length(Vector3::cross($plane->direction, $other->direction)) : abs(Vector3::dot($plane->direction, $other->direction)))));
        if ($lean > self::PARALLEL) {
            throw InvalidParameter::of('of', sprintf('names "%s" and "%s", which lean %.1f degrees to each other: they meet, and have no distance. Measure their angle, or from a point', $plane->name, $other->name, $lean));
        }
    }

    /**
     * Standard deviation of where a datum is, asked at a place beside its middle.
     *
     * @param  array{float, float, float}  $place
     */
    private static function at(Datum $datum, array $place): ?float
    {
        $u = self::uncertainty($datum);
        if ($u === null) {
            return null;
        }
        $way = Vector3::minus($place, $datum->origin);
        $height = Vector3::dot($way, $datum->direction);
        // Beside the middle of a plane, or along an axis.
        $beside = $datum->kind === 'plane' ? sqrt(max(0.0, Vector3::dot($way, $way) - $height ** 2)) : abs($height);

        return hypot($u['place'], deg2rad($u['angle']) * $beside);
    }

    /** @return array{place: float, angle: float, diameter: float}|null standard deviations; null where nothing is known of them */
    private static function uncertainty(Datum $datum): ?array
    {
        if ($datum->made === 'typed') {
            return ['place' => 0.0, 'angle' => 0.0, 'diameter' => 0.0];
        }
        $u = Uncertainty::of($datum);

        return $u->placeMm === null ? null : ['place' => $u->placeMm, 'angle' => $u->angleDeg ?? 0.0, 'diameter' => $u->diameterMm ?? 0.0];
    }

    private static function joined(?float $one, ?float $two): ?float
    {
        return $one === null || $two === null ? null : hypot($one, $two);
    }
}
