<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Datums\Uncertainty;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Datum;

/**
 * Distances, steps, angles, positions and diameters of datums.
 *
 * Error     standard deviations of the fits (Datums\Uncertainty), carried to the place where a distance is taken: a plane that may lean by an angle is off by that angle times how far away it is asked.
 *           What is typed is exact. What the scan and its scale add is told by ScanError.
 */
final class DatumGauge
{
    /** Two directions are taken for parallel up to this, degrees. */
    private const PARALLEL = 5.0;

    /**
     * What is likely to be asked of what was picked: a diameter of what is round, how flat a plane is, how thick the wall at a place; of two that have directions their distance where they are parallel, and
     * their angle where not; of others their distance.
     *
     * @param  non-empty-list<Datum>  $of  one or two
     * @return non-empty-list<string> kinds of measurements that can be taken of them, the likely one first
     */
    public static function offered(array $of): array
    {
        [$one, $two] = [$of[0], $of[1] ?? null];
        if ($two === null) {
            return $one->made === RimGauge::MADE ? ['opening', 'diameter', 'radius'] : match ($one->kind) {
                'plane' => ['flatness'], 'cylinder' => ['diameter', 'radius', 'roundness', 'cylindricity', 'opening'], 'sphere', 'cone' => ['diameter', 'radius'], default => ['wall'],
            };
        }
        if (! $one->hasDirection() || ! $two->hasDirection()) {
            return $one->kind === 'point' && $two->kind === 'point' ? ['distance', 'length'] : ['distance'];
        }
        $turn = rad2deg(atan2(Vector3::length(Vector3::cross($one->direction, $two->direction)), abs(Vector3::dot($one->direction, $two->direction))));
        $isParallel = ($one->kind === 'plane') === ($two->kind === 'plane') ? $turn <= self::PARALLEL : $turn >= 90.0 - self::PARALLEL;

        if ($isParallel && $one->kind === 'plane' && $two->kind === 'plane') {
            return ['distance', 'step', 'angle'];
        }

        // Axes that pass each other have a distance too.
        return $isParallel ? ['distance', ...($one->isAxial() && $two->isAxial() ? ['position'] : []), 'angle'] : ['angle', ...($one->kind === 'plane' || $two->kind === 'plane' ? [] : ['distance'])];
    }

    /**
     * @param  array{float, float, float}|null  $along  of length 1: only this part counts
     * @param  ScanError|null  $scan  what the scan adds to the error; null for that of the fits alone
     *
     * @throws InvalidParameter when the two have no distance
     */
    public static function distance(Datum $one, Datum $two, ?array $along, ?ScanError $scan = null): Measurement
    {
        $deviation = self::with(self::joined(self::at($one, $two->origin), self::at($two, $one->origin)), $scan?->ofDistance($one, $two));
        if ($along !== null) {
            $value = Vector3::dot(Vector3::minus($two->origin, $one->origin), $along);

            return new Measurement(abs($value), 'mm', $deviation, line: [$one->origin, Vector3::plus($one->origin, Vector3::scaled($along, $value))]);
        }
        // Planes first, then what has an axis, then points and balls.
        if (self::rank($two) < self::rank($one)) {
            [$one, $two] = [$two, $one];
        }
        $way = Vector3::minus($two->origin, $one->origin);
        if ($one->kind === 'plane') {
            self::rank($two) < 2 && self::checkParallel($one, $two);
            // Between two planes, at the middle of either: their mean where they lean.
            $height = Vector3::dot($way, $one->direction);
            $value = $two->kind === 'plane' ? 0.5 * (abs($height) + abs(Vector3::dot($way, $two->direction))) : abs($height);

            return new Measurement($value, 'mm', $deviation, line: [Vector3::minus($two->origin, Vector3::scaled($one->direction, $height)), $two->origin]);
        }
        if (self::rank($one) === 1) {
            [$from, $to] = self::nearest($one, $two);

            return new Measurement(Vector3::length(Vector3::minus($to, $from)), 'mm', $deviation, line: [$from, $to]);
        }

        return new Measurement(Vector3::length($way), 'mm', $deviation, line: [$one->origin, $two->origin]);
    }

    /**
     * Where an axis and another, or a point, are nearest to each other; of axes side by side, at the middle of the second.
     *
     * @return array{array{float, float, float}, array{float, float, float}}
     */
    private static function nearest(Datum $axis, Datum $other): array
    {
        $way = Vector3::minus($other->origin, $axis->origin);
        $along = Vector3::dot($way, $axis->direction);
        $normal = Vector3::cross($axis->direction, $other->direction);
        if (self::rank($other) === 1 && Vector3::length($normal) > sin(deg2rad(self::PARALLEL))) {
            $square = Vector3::dot($normal, $normal);
            $from = Vector3::plus($axis->origin, Vector3::scaled($axis->direction, Vector3::dot(Vector3::cross($way, $other->direction), $normal) / $square));

            return [$from, Vector3::plus($other->origin, Vector3::scaled($other->direction, Vector3::dot(Vector3::cross($way, $axis->direction), $normal) / $square))];
        }

        return [Vector3::plus($axis->origin, Vector3::scaled($axis->direction, $along)), $other->origin];
    }

    /**
     * How far a plane stands out over another: more than 0 where the second lies on the side to which the first looks.
     *
     * @throws InvalidParameter when they are no parallel planes
     */
    public static function step(Datum $one, Datum $two, ?ScanError $scan = null): Measurement
    {
        foreach ([$one, $two] as $datum) {
            $datum->kind === 'plane' || throw InvalidParameter::of('of', "names \"$datum->name\", a $datum->kind; a step is that of two planes");
        }
        $distance = self::distance($one, $two, null, $scan);
        $height = Vector3::dot(Vector3::minus($two->origin, $one->origin), $one->direction);

        return new Measurement($height < 0.0 ? -$distance->value : $distance->value, 'mm', $distance->deviation, line: $distance->line);
    }

    /**
     * The diameter of the zone about a true axis that holds an axis from end to end; of a ball or a place, about a true place.
     *
     * Source    ISO 1101, position with a cylindrical tolerance zone. About a place that has no direction the true axis runs along that of X, Y and Z which is nearest to the one that is there.
     *
     * @throws InvalidParameter when it has no axis and no middle
     */
    public static function position(Datum $one, Datum $true, ?ScanError $scan = null): Measurement
    {
        foreach ([$one, $true] as $datum) {
            in_array($datum->kind, ['plane', 'frame'], true) && throw InvalidParameter::of('of', "names \"$datum->name\", a $datum->kind; a position is that of an axis, a ball or a place");
        }
        $deviation = self::with(self::joined(self::uncertainty($one)['place'] ?? null, self::uncertainty($true)['place'] ?? null), $scan?->ofDistance($one, $true));
        if (! $one->hasDirection()) {
            $way = Vector3::minus($one->origin, $true->origin);

            return new Measurement(2.0 * Vector3::length($true->hasDirection() ? self::aside($way, $true->direction) : $way), 'mm', $deviation === null ? null : 2.0 * $deviation, line: [$true->origin, $one->origin]);
        }
        $along = $true->hasDirection() ? $true->direction : self::nearestAxis($one->direction);
        $worst = 0.0;
        $line = [$true->origin, $one->origin];
        foreach ([-$one->size, $one->size] as $at) {
            $end = Vector3::plus($one->origin, Vector3::scaled($one->direction, $at));
            $aside = self::aside(Vector3::minus($end, $true->origin), $along);
            if (Vector3::length($aside) >= $worst) {
                $worst = Vector3::length($aside);
                $line = [Vector3::minus($end, $aside), $end];
            }
        }
        // At its end an axis is off by its lean besides.
        $lean = self::uncertainty($one);
        $deviation = $deviation === null || $lean === null ? null : hypot($deviation, deg2rad($lean['angle']) * $one->size);

        return new Measurement(2.0 * $worst, 'mm', $deviation === null ? null : 2.0 * $deviation, line: $line);
    }

    /**
     * @param  array{float, float, float}  $way
     * @param  array{float, float, float}  $axis  of length 1
     * @return array{float, float, float}
     */
    private static function aside(array $way, array $axis): array
    {
        return Vector3::minus($way, Vector3::scaled($axis, Vector3::dot($way, $axis)));
    }

    /**
     * @param  array{float, float, float}  $direction
     * @return array{float, float, float}
     */
    private static function nearestAxis(array $direction): array
    {
        [$x, $y, $z] = array_map(abs(...), $direction);

        return match (max($x, $y, $z)) {
            $x => [1.0, 0.0, 0.0], $y => [0.0, 1.0, 0.0], default => [0.0, 0.0, 1.0],
        };
    }

    /** @throws InvalidParameter when one of the two has no direction */
    public static function angle(Datum $one, Datum $two, ?ScanError $scan = null): Measurement
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

        return new Measurement($value, 'deg', self::with(self::joined($a === null ? null : $a['angle'], $b === null ? null : $b['angle']), $scan?->ofAngle($one, $two)), line: [$one->origin, $two->origin]);
    }

    /** @throws InvalidParameter when it has no diameter */
    public static function diameter(Datum $datum, ?ScanError $scan = null): Measurement
    {
        if (! in_array($datum->kind, ['cylinder', 'sphere', 'cone'], true)) {
            throw InvalidParameter::of('of', "names \"$datum->name\", a $datum->kind; a diameter is that of a cylinder, a sphere, or a cone at its middle");
        }
        $u = self::uncertainty($datum);

        $across = Vector3::scaled($datum->hasDirection() ? Vector3::square($datum->direction)[0] : [1.0, 0.0, 0.0], $datum->radius);

        return new Measurement(2.0 * $datum->radius, 'mm', self::with($u === null ? null : $u['diameter'], $scan?->ofDiameter($datum)), line: [Vector3::minus($datum->origin, $across), Vector3::plus($datum->origin, $across)]);
    }

    /** @throws InvalidParameter when it has no radius */
    public static function radius(Datum $datum, ?ScanError $scan = null): Measurement
    {
        $diameter = self::diameter($datum, $scan);

        return new Measurement(0.5 * $diameter->value, 'mm', $diameter->deviation === null ? null : 0.5 * $diameter->deviation, line: $diameter->line === [] ? [] : [$datum->origin, $diameter->line[1]]);
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

    private static function with(?float $deviation, ?float $variance): ?float
    {
        return $deviation === null ? null : sqrt($deviation ** 2 + ($variance ?? 0.0));
    }

    private static function joined(?float $one, ?float $two): ?float
    {
        return $one === null || $two === null ? null : hypot($one, $two);
    }
}
