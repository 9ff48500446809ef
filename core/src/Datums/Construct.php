<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Datum;

/**
 * Datums made of other datums. `how` names the way, `of` the parents; what comes out depends on their kinds:
 *
 *     offset         a plane, by `by` along its normal                        a plane
 *     halfway        two planes, two points                                   a plane, a point
 *     plane-through  three points or more; a line and a point; two lines      a plane
 *     square-plane   a line and a plane: through the one, square to the other a plane
 *     clock          an axis and a point: through both, turned on by `by`      a plane
 *     line-through   two points or more                                       a line
 *     square-line    a point and a plane or line: from the one square to it   a line
 *     axis           a cylinder or cone                                       a line
 *     centre         anything: its middle                                     a point
 *     copy           anything, moved by `shift`                               the same
 *     drop           a point onto a plane or line                             a point
 *     meet           two planes; a line and a plane; three planes             a line, a point
 */
final class Construct
{
    public const WAYS = ['offset', 'halfway', 'plane-through', 'square-plane', 'clock', 'line-through', 'square-line', 'axis', 'centre', 'copy', 'drop', 'meet'];

    /** Sine below which directions count as parallel. */
    private const PARALLEL = 1e-4;

    /**
     * @param  array<mixed>  $data
     *
     * @throws InvalidParameter for what is not written as it should be
     */
    public static function check(array $data): void
    {
        $unknown = array_values(array_diff(array_keys($data), ['how', 'of', 'by', 'shift']));
        if ($unknown !== []) {
            throw InvalidParameter::of('construct', 'has '.json_encode($unknown[0]).'; it knows how, of, by and shift');
        }
        if (! in_array($data['how'] ?? null, self::WAYS, true)) {
            throw InvalidParameter::of('construct', 'needs "how": one of '.implode(', ', self::WAYS));
        }
        $of = $data['of'] ?? null;
        if (! is_array($of) || $of === [] || array_filter($of, fn ($name) => ! is_string($name)) !== []) {
            throw InvalidParameter::of('construct', 'needs "of": the names of one datum or more');
        }
        $by = $data['by'] ?? 0.0;
        if ((! is_int($by) && ! is_float($by)) || ! is_finite((float) $by)) {
            throw InvalidParameter::of('construct', 'has a "by" that is no number');
        }
        $shift = $data['shift'] ?? [0.0, 0.0, 0.0];
        if (! is_array($shift) || ! array_is_list($shift) || count($shift) !== 3 || array_filter($shift, fn ($v) => (! is_int($v) && ! is_float($v)) || ! is_finite((float) $v)) !== []) {
            throw InvalidParameter::of('construct', 'has a "shift" that is not three numbers');
        }
    }

    /**
     * @param  array{how: string, of: array<int, string>, by?: float|int, shift?: array<int, float|int>}  $data
     * @param  list<Datum>  $datums
     *
     * @throws UnsuitableInput with what does not go together, in words
     */
    public static function of(array $data, array $datums, string $name): Datum
    {
        $parents = array_map(fn (string $wanted) => Datum::among($datums, 'construct', $wanted), array_values($data['of']));
        $made = self::made($data, $parents, $name);

        return $made->withError(CarriedError::of($made, $parents, fn (array $moved) => self::made($data, $moved, $name)));
    }

    /**
     * @param  array{how: string, of: array<int, string>, by?: float|int, shift?: array<int, float|int>}  $data
     * @param  list<Datum>  $parents
     *
     * @throws UnsuitableInput
     */
    private static function made(array $data, array $parents, string $name): Datum
    {
        if ($data['how'] === 'copy') {
            return self::copy($parents, array_map(floatval(...), $data['shift'] ?? [0.0, 0.0, 0.0]), $name);
        }
        // Planes before lines before points, whatever the order they were named in.
        $planes = array_values(array_filter($parents, fn (Datum $datum) => $datum->kind === 'plane'));
        $lines = array_values(array_filter($parents, fn (Datum $datum) => $datum->isAxial()));
        $points = array_values(array_filter($parents, fn (Datum $datum) => ! $datum->hasDirection()));
        $counts = [count($planes), count($lines), count($points)];
        $made = match ($data['how']) {
            'offset' => $counts === [1, 0, 0] ? ['plane', self::along($planes[0]->origin, $planes[0]->direction, (float) ($data['by'] ?? 0.0)), $planes[0]->direction] : null,
            'halfway' => match ($counts) {
                [2, 0, 0] => self::halfway($planes[0], $planes[1]),
                [0, 0, 2] => ['point', self::mix($points[0]->origin, $points[1]->origin), null],
                default => null,
            },
            'plane-through' => match (true) {
                $counts[0] === 0 && $counts[1] === 0 && $counts[2] >= 3 => self::throughPoints($points, $name),
                $counts === [0, 1, 1] => self::throughLineAndPoint($lines[0], $points[0]),
                $counts === [0, 2, 0] => self::throughLines($lines[0], $lines[1]),
                default => null,
            },
            'square-plane' => $counts === [1, 1, 0] ? self::squarePlane($lines[0], $planes[0]) : null,
            'clock' => $counts === [0, 1, 1] ? self::clock($lines[0], $points[0], (float) ($data['by'] ?? 0.0)) : null,
            'line-through' => $counts[0] === 0 && $counts[1] === 0 && $counts[2] >= 2 ? self::throughTwo($points, $name) : null,
            'square-line' => match ($counts) {
                [1, 0, 1] => ['line', $points[0]->origin, $planes[0]->direction],
                [0, 1, 1] => self::between($points[0]->origin, self::foot($points[0]->origin, $lines[0]), "\"{$points[0]->name}\" lies on \"{$lines[0]->name}\""),
                default => null,
            },
            'axis' => $counts === [0, 1, 0] ? ['line', $lines[0]->origin, $lines[0]->direction] : null,
            'centre' => count($parents) === 1 ? ['point', $parents[0]->origin, null] : null,
            'drop' => match ($counts) {
                [1, 0, 1] => ['point', self::along($points[0]->origin, $planes[0]->direction, -self::height($points[0]->origin, $planes[0])), null],
                [0, 1, 1] => ['point', self::foot($points[0]->origin, $lines[0]), null],
                default => null,
            },
            default => match ($counts) {
                [2, 0, 0] => self::planesMeet($planes[0], $planes[1]),
                [1, 1, 0] => self::lineMeetsPlane($lines[0], $planes[0]),
                [3, 0, 0] => self::threePlanesMeet($planes),
                default => null,
            },
        };
        if ($made === null) {
            throw UnsuitableInput::because("\"{$data['how']}\" is not made of ".implode(' and ', array_map(fn (Datum $datum) => "a $datum->kind", $parents)).'. '.self::needs($data['how']));
        }
        [$kind, $origin, $direction] = $made;
        $size = max(array_map(fn (Datum $datum) => $datum->size, $parents));

        return new Datum($name, $name, $kind, $origin, $direction ?? [0.0, 0.0, 0.0], 0.0, $kind === 'point' ? 2.0 : $size, made: $data['how'], bodyId: $parents[0]->bodyId, parents: array_map(fn (Datum $datum) => $datum->name, $parents));
    }

    /**
     * @param  list<Datum>  $parents
     * @param  array<int, float>  $shift  mm
     */
    private static function copy(array $parents, array $shift, string $name): Datum
    {
        if (count($parents) !== 1) {
            throw UnsuitableInput::because('"copy" is made of one datum, and how far it is moved.');
        }
        [$parent] = $parents;
        [$x, $y, $z] = $parent->origin;

        return new Datum($name, $name, $parent->kind, [$x + $shift[0], $y + $shift[1], $z + $shift[2]], $parent->direction, $parent->radius, $parent->size, made: 'copy', bodyId: $parent->bodyId, halfAngleDeg: $parent->halfAngleDeg, parents: [$parent->name], across: $parent->across);
    }

    private static function needs(string $how): string
    {
        return match ($how) {
            'offset' => 'It needs one plane, and how far.',
            'halfway' => 'It needs two planes or two points.',
            'plane-through' => 'It needs three points, a line and a point, or two lines.',
            'square-plane' => 'It needs a line and a plane.',
            'clock' => 'It needs an axis and a point.',
            'line-through' => 'It needs two points.',
            'square-line' => 'It needs a point, and a plane or a line.',
            'axis' => 'It needs one cylinder or cone.',
            'centre' => 'It needs one datum.',
            'drop' => 'It needs a point, and a plane or a line.',
            default => 'It needs two planes, three planes, or a line and a plane.',
        };
    }

    /** @return array{string, array{float, float, float}, array{float, float, float}} */
    private static function halfway(Datum $a, Datum $b): array
    {
        $sign = Vector3::dot($a->direction, $b->direction) < 0.0 ? -1.0 : 1.0;
        $sum = [$a->direction[0] + $sign * $b->direction[0], $a->direction[1] + $sign * $b->direction[1], $a->direction[2] + $sign * $b->direction[2]];

        return ['plane', self::mix($a->origin, $b->origin), Vector3::unit($sum)];
    }

    /**
     * @param  list<Datum>  $points
     * @return array{string, array{float, float, float}, array{float, float, float}}
     */
    private static function throughPoints(array $points, string $name): array
    {
        $plane = FitDatum::fromPoints(array_map(fn (Datum $point) => $point->origin, $points), 'plane', $name);

        return ['plane', $plane->origin, $plane->direction];
    }

    /**
     * @param  list<Datum>  $points
     * @return array{string, array{float, float, float}, array{float, float, float}}
     */
    private static function throughTwo(array $points, string $name): array
    {
        $line = FitDatum::fromPoints(array_map(fn (Datum $point) => $point->origin, $points), 'line', $name);

        return ['line', $line->origin, $line->direction];
    }

    /** @return array{string, array{float, float, float}, array{float, float, float}} */
    private static function throughLineAndPoint(Datum $line, Datum $point): array
    {
        $normal = Vector3::cross($line->direction, Vector3::minus($point->origin, $line->origin));
        if (Vector3::length($normal) < self::PARALLEL * max(1e-9, Vector3::length(Vector3::minus($point->origin, $line->origin)))) {
            throw UnsuitableInput::because("\"{$point->name}\" lies on \"{$line->name}\": any plane through the line passes through it. Choose a point aside.");
        }

        return ['plane', self::mix($point->origin, self::foot($point->origin, $line)), Vector3::unit($normal)];
    }

    /**
     * The plane through an axis and a point, turned on about the axis.
     *
     * @return array{string, array{float, float, float}, array{float, float, float}}
     */
    private static function clock(Datum $axis, Datum $point, float $angleDeg): array
    {
        [, , $normal] = self::throughLineAndPoint($axis, $point);

        return ['plane', $axis->origin, RigidTransform::turn($axis->direction, deg2rad($angleDeg))->direction($normal)];
    }

    /** @return array{string, array{float, float, float}, array{float, float, float}} */
    private static function throughLines(Datum $a, Datum $b): array
    {
        $normal = Vector3::cross($a->direction, $b->direction);
        $between = Vector3::minus($b->origin, $a->origin);
        if (Vector3::length($normal) < self::PARALLEL) {
            $normal = Vector3::cross($a->direction, $between);
            if (Vector3::length($normal) < self::PARALLEL * max(1e-9, Vector3::length($between))) {
                throw UnsuitableInput::because("\"{$a->name}\" and \"{$b->name}\" are the same line; choose another.");
            }
        }

        // Lines that pass each other by: the plane lies half-way.
        return ['plane', self::mix($a->origin, $b->origin), Vector3::unit($normal)];
    }

    /** @return array{string, array{float, float, float}, array{float, float, float}} */
    private static function squarePlane(Datum $line, Datum $plane): array
    {
        $normal = Vector3::cross($line->direction, $plane->direction);
        if (Vector3::length($normal) < self::PARALLEL) {
            throw UnsuitableInput::because("\"{$line->name}\" stands square on \"{$plane->name}\" itself: every plane through it is square to that. Choose a line that runs along.");
        }

        return ['plane', $line->origin, Vector3::unit($normal)];
    }

    /** @return array{string, array{float, float, float}, array{float, float, float}} */
    private static function planesMeet(Datum $a, Datum $b): array
    {
        $d = Vector3::cross($a->direction, $b->direction);
        if (Vector3::length($d) < self::PARALLEL) {
            throw UnsuitableInput::because("\"{$a->name}\" and \"{$b->name}\" are parallel and do not meet; choose planes that run across each other.");
        }
        $d = Vector3::unit($d);
        $middle = self::mix($a->origin, $b->origin);
        $at = Dense::solve([...$a->direction, ...$b->direction, ...$d], [Vector3::dot($a->direction, $a->origin), Vector3::dot($b->direction, $b->origin), Vector3::dot($d, $middle)], 3) ?? throw UnsuitableInput::because("\"{$a->name}\" and \"{$b->name}\" do not meet in one line; choose planes that run across each other.");

        return ['line', [$at[0], $at[1], $at[2]], $d];
    }

    /** @return array{string, array{float, float, float}, null} */
    private static function lineMeetsPlane(Datum $line, Datum $plane): array
    {
        $rise = Vector3::dot($line->direction, $plane->direction);
        if (abs($rise) < self::PARALLEL) {
            throw UnsuitableInput::because("\"{$line->name}\" runs along \"{$plane->name}\" and does not meet it; choose another.");
        }

        return ['point', self::along($line->origin, $line->direction, -self::height($line->origin, $plane) / $rise), null];
    }

    /**
     * @param  list<Datum>  $planes
     * @return array{string, array{float, float, float}, null}
     */
    private static function threePlanesMeet(array $planes): array
    {
        [$a, $b, $c] = $planes;
        if (abs(Vector3::dot($a->direction, Vector3::cross($b->direction, $c->direction))) < self::PARALLEL) {
            throw UnsuitableInput::because("\"{$a->name}\", \"{$b->name}\" and \"{$c->name}\" have no one place in common: two are parallel, or all run along one line.");
        }
        $at = Dense::solve([...$a->direction, ...$b->direction, ...$c->direction], array_map(fn (Datum $plane) => Vector3::dot($plane->direction, $plane->origin), $planes), 3) ?? throw UnsuitableInput::because("\"{$a->name}\", \"{$b->name}\" and \"{$c->name}\" have no one place in common.");

        return ['point', [$at[0], $at[1], $at[2]], null];
    }

    /**
     * @param  array{float, float, float}  $from
     * @param  array{float, float, float}  $to
     * @return array{string, array{float, float, float}, array{float, float, float}}
     */
    private static function between(array $from, array $to, string $problem): array
    {
        $d = Vector3::minus($to, $from);
        if (Vector3::length($d) < 1e-9) {
            throw UnsuitableInput::because("$problem: there is no way between them to be square. Choose a point aside.");
        }

        return ['line', self::mix($from, $to), Vector3::unit($d)];
    }

    /**
     * @param  array{float, float, float}  $point
     * @return array{float, float, float} the place of a line nearest to a point
     */
    private static function foot(array $point, Datum $line): array
    {
        return self::along($line->origin, $line->direction, Vector3::dot(Vector3::minus($point, $line->origin), $line->direction));
    }

    /** @param  array{float, float, float}  $point */
    private static function height(array $point, Datum $plane): float
    {
        return Vector3::dot(Vector3::minus($point, $plane->origin), $plane->direction);
    }

    /**
     * @param  array{float, float, float}  $at
     * @param  array{float, float, float}  $d
     * @return array{float, float, float}
     */
    private static function along(array $at, array $d, float $by): array
    {
        return [$at[0] + $by * $d[0], $at[1] + $by * $d[1], $at[2] + $by * $d[2]];
    }

    /**
     * @param  array{float, float, float}  $a
     * @param  array{float, float, float}  $b
     * @return array{float, float, float}
     */
    private static function mix(array $a, array $b): array
    {
        return [0.5 * ($a[0] + $b[0]), 0.5 * ($a[1] + $b[1]), 0.5 * ($a[2] + $b[2])];
    }
}
