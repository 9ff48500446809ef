<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Datums\Uncertainty;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Datum;

/** A length of the real part that somebody measured, between two places or datums of the mesh. */
final readonly class KnownLength
{
    /** Directions that differ by less count as parallel: fits of noisy surface do not agree better. */
    private const PARALLEL_DEG = 2.0;

    /**
     * @param  string|array{float, float, float}  $from  name of a datum, or a place
     * @param  string|array{float, float, float}  $to
     * @param  float  $actual  mm
     */
    private function __construct(private string|array $from, private string|array $to, public float $actual)
    {
    }

    /** mm; what a caliper of good make may be off over lengths of up to 200 mm (ISO 13385-1). */
    public const CALIPER = 0.03;

    /**
     * @param  array<mixed>  $lengths  list of {from, to, actual}
     * @return list<self>
     *
     * @throws InvalidParameter
     */
    public static function all(array $lengths): array
    {
        return array_map(self::fromArray(...), array_values($lengths), $lengths === [] ? [] : range(1, count($lengths)));
    }

    /** @throws InvalidParameter */
    private static function fromArray(mixed $data, int $number): self
    {
        $unknown = is_array($data) ? array_values(array_diff(array_keys($data), ['from', 'to', 'actual'])) : [];
        if (! is_array($data) || $unknown !== []) {
            throw InvalidParameter::of('lengths', "entry $number ".($unknown === [] ? 'needs "from", "to" and "actual"' : 'has '.json_encode($unknown[0]).'; it knows from, to and actual'));
        }
        $actual = $data['actual'] ?? null;
        if ((! is_int($actual) && ! is_float($actual)) || ! is_finite((float) $actual) || $actual <= 0) {
            throw InvalidParameter::of('lengths', "entry $number needs \"actual\": the length on the real part, more than 0 mm");
        }
        $ends = [];
        foreach (['from', 'to'] as $end) {
            $at = $data[$end] ?? null;
            $isPlace = is_array($at) && array_is_list($at) && count($at) === 3 && array_filter($at, fn ($v) => ! is_int($v) && ! is_float($v) || ! is_finite((float) $v)) === [];
            if (! is_string($at) && ! $isPlace) {
                throw InvalidParameter::of('lengths', "entry $number needs \"$end\": the name of a datum, or three numbers");
            }
            $ends[] = is_array($at) ? [(float) $at[0], (float) $at[1], (float) $at[2]] : $at;
        }

        return new self($ends[0], $ends[1], (float) $actual);
    }

    /**
     * How long it is on the mesh: between places their distance; from a plane or axis square to it.
     *
     * @param  list<Datum>  $datums
     * @return float mm
     *
     * @throws UnsuitableInput when there is no distance between the two, or none to speak of
     */
    public function measured(array $datums): float
    {
        [$a, $b] = [self::end($this->from, $datums), self::end($this->to, $datums)];
        if ($a->hasDirection() && $b->hasDirection()) {
            // Two planes or two axes must run the same way, an axis must lie along a plane.
            $cos = abs(Vector3::dot($a->direction, $b->direction));
            $off = rad2deg($a->isAxial() === $b->isAxial() ? acos(min(1.0, $cos)) : asin(min(1.0, $cos)));
            if ($off > self::PARALLEL_DEG) {
                throw UnsuitableInput::because(sprintf('"%s" and "%s" are %.1f degrees from parallel: there is no one distance between them.', $a->name, $b->name, $off));
            }
        }
        $between = Vector3::minus($b->origin, $a->origin);
        $plane = $a->kind === 'plane' ? $a : ($b->kind === 'plane' ? $b : null);
        $axis = $a->isAxial() ? $a : ($b->isAxial() ? $b : null);
        $length = match (true) {
            $plane !== null => abs(Vector3::dot($between, $plane->direction)),
            $axis !== null => Vector3::length(Vector3::cross($between, $axis->direction)),
            default => Vector3::length($between),
        };
        if ($length < 1e-6) {
            throw UnsuitableInput::because("Both ends of the length of $this->actual mm lie in one place; pick them apart.");
        }

        return $length;
    }

    /**
     * How well the fits of its datums fix that length, one standard deviation; null where it ends at a clicked place, of which that is not known.
     *
     * @param  list<Datum>  $datums
     */
    public function deviation(array $datums): ?float
    {
        $deviations = array_map(function (string|array $end) use ($datums): ?float {
            $datum = self::end($end, $datums);

            return is_string($end) && $datum->made === 'typed' ? 0.0 : Uncertainty::of($datum)->placeMm;
        }, [$this->from, $this->to]);

        return in_array(null, $deviations, true) ? null : hypot(...$deviations);
    }

    /**
     * @param  string|array{float, float, float}  $at
     * @param  list<Datum>  $datums
     */
    private static function end(string|array $at, array $datums): Datum
    {
        if (is_array($at)) {
            return new Datum('', 'the place', 'point', $at);
        }

        return Datum::among($datums, 'lengths', $at);
    }
}
