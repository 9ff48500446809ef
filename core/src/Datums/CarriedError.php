<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Datum;

/**
 * How well a datum is known that is made of others: what their errors make of it.
 *
 * Source    propagation of uncertainty (JCGM 100:2008, 5.1.2) with derivatives by differences: each parent is moved by one standard deviation in each of its freedoms, the datum is made anew, and what it moves by is
 *           added up in squares. Parents are taken for independent.
 */
final class CarriedError
{
    /**
     * @param  list<Datum>  $parents
     * @param  callable(list<Datum>): Datum  $make  the datum, of such parents
     * @return array{placeMm: float, angleDeg: float, diameterMm: float}|null null where nothing is known of a parent, or where one that is moved makes no datum
     */
    public static function of(Datum $made, array $parents, callable $make): ?array
    {
        $place = $angle = $diameter = 0.0;
        foreach ($parents as $k => $parent) {
            $moved = self::moved($parent);
            if ($moved === null) {
                return null;
            }
            foreach ($moved as $one) {
                try {
                    $other = $make(array_replace($parents, [$k => $one]));
                } catch (UnsuitableInput) {
                    return null;
                }
                $place += self::between($made, $other) ** 2;
                $angle += rad2deg(atan2(Vector3::length(Vector3::cross($made->direction, $other->direction)), abs(Vector3::dot($made->direction, $other->direction)))) ** 2;
                $diameter += (2.0 * ($other->radius - $made->radius)) ** 2;
            }
        }

        return ['placeMm' => sqrt($place), 'angleDeg' => sqrt($angle), 'diameterMm' => sqrt($diameter)];
    }

    /** How far one lies from the other, as far as that is a matter of such a datum: along the normal of a plane, across an axis. */
    private static function between(Datum $one, Datum $other): float
    {
        $way = Vector3::minus($other->origin, $one->origin);
        $along = Vector3::dot($way, $one->direction);

        return match (true) {
            $one->kind === 'plane' => abs($along),
            $one->isAxial() => sqrt(max(0.0, Vector3::dot($way, $way) - $along ** 2)),
            default => Vector3::length($way),
        };
    }

    /** @return list<Datum>|null the datum, off by one standard deviation in each of its freedoms; none where it is exact; null where nothing is known of it */
    private static function moved(Datum $datum): ?array
    {
        $open = Uncertainty::of($datum);
        if ($open->placeMm === null) {
            return $datum->made === 'typed' ? [] : null;
        }
        if (! $datum->hasDirection()) {
            $ways = [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]];
            $turns = [];
        } else {
            $turns = Vector3::square($datum->direction);
            $ways = $datum->kind === 'plane' ? [$datum->direction] : $turns;
        }
        $moved = array_map(fn (array $way) => $datum->moved(RigidTransform::shift(...Vector3::scaled($way, $open->placeMm))), $ways);
        foreach ($turns as $axis) {
            $lean = Vector3::unit(Vector3::plus($datum->direction, Vector3::scaled(Vector3::cross($axis, $datum->direction), tan(deg2rad($open->angleDeg ?? 0.0)))));
            $moved[] = Datum::fromArray(['direction' => $lean] + $datum->toArray());
        }
        if ($datum->radius > 0.0) {
            $moved[] = Datum::fromArray(['radius' => $datum->radius + 0.5 * ($open->diameterMm ?? 0.0)] + $datum->toArray());
        }

        return $moved;
    }
}
