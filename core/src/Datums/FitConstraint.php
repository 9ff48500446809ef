<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Algorithms\Fitting\FitConstraints;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\Datum;

/**
 * What a datum keeps to while it is fitted: a direction that makes an angle with another datum, a point it goes through, a diameter.
 *
 * Angles are those between the features themselves: a plane parallel to an axis contains its direction, one square to it has it as normal.
 */
final readonly class FitConstraint
{
    public const HOW = ['parallel', 'square', 'angle'];

    /** @param  list<string>  $parents  names of the datums it is held by */
    private function __construct(public FitConstraints $by, public array $parents)
    {
    }

    /**
     * @param  array<mixed>  $data
     *
     * @throws InvalidParameter for what is not written as it should be
     */
    public static function check(array $data): void
    {
        $unknown = array_values(array_diff(array_keys($data), ['how', 'to', 'angle', 'through', 'diameter']));
        if ($unknown !== []) {
            throw InvalidParameter::of('hold', 'has '.json_encode($unknown[0]).'; it knows how, to, angle, through and diameter');
        }
        if ($data === []) {
            throw InvalidParameter::of('hold', 'is empty; give how and to, through, or diameter');
        }
        if (isset($data['how']) !== isset($data['to']) || (isset($data['how']) && ! in_array($data['how'], self::HOW, true)) || (isset($data['to']) && ! is_string($data['to']))) {
            throw InvalidParameter::of('hold', 'needs "how" (one of '.implode(', ', self::HOW).') together with "to", the name of a datum');
        }
        foreach (['angle' => 90.0, 'diameter' => INF] as $key => $most) {
            $value = $data[$key] ?? null;
            if ($value !== null && ((! is_int($value) && ! is_float($value)) || ! is_finite((float) $value) || $value < 0.0 || $value > $most || ($key === 'diameter' && $value <= 0.0))) {
                throw InvalidParameter::of('hold', $key === 'angle' ? 'has an "angle" that is not between 0 and 90 degrees' : 'has a "diameter" that is not a length above 0');
            }
        }
        if ((($data['how'] ?? null) === 'angle') !== isset($data['angle'])) {
            throw InvalidParameter::of('hold', 'needs "angle", in degrees, with "how": "angle", and only there');
        }
        if (isset($data['through']) && ! is_string($data['through'])) {
            throw InvalidParameter::of('hold', 'has a "through" that is not the name of a point');
        }
    }

    /**
     * @param  array{how?: string, to?: string, angle?: float|int, through?: string, diameter?: float|int}  $data
     * @param  list<Datum>  $datums
     * @param  string  $kind  of the datum that is fitted
     *
     * @throws UnsuitableInput with what does not go together, in words
     */
    public static function of(array $data, array $datums, string $kind): self
    {
        $reference = $through = null;
        $cosine = 1.0;
        if (isset($data['to'], $data['how'])) {
            $to = Datum::among($datums, 'hold', $data['to']);
            if (! $to->hasDirection()) {
                throw UnsuitableInput::because("\"$to->name\" is a $to->kind and has no direction; hold the new datum by a plane or an axis.");
            }
            if ($kind === 'sphere') {
                throw UnsuitableInput::because('A sphere has no direction to be held; leave that out.');
            }
            $reference = $to->direction;
            $between = deg2rad(match ($data['how']) {
                'parallel' => 0.0,
                'square' => 90.0,
                default => (float) ($data['angle'] ?? 0.0),
            });
            // Of a plane the direction is the normal: what runs along the plane is square to that.
            $cosine = ($kind === 'plane') === ($to->kind === 'plane') ? cos($between) : sin($between);
        }
        if (isset($data['through'])) {
            $point = Datum::among($datums, 'hold', $data['through']);
            if ($point->hasDirection()) {
                throw UnsuitableInput::because("\"$point->name\" is a $point->kind; a point or the centre of a sphere is what a datum goes through.");
            }
            if ($kind !== 'plane' && $kind !== 'cylinder') {
                throw UnsuitableInput::because("A $kind is not held by a point; only planes and axes of cylinders go through one.");
            }
            $through = $point->origin;
        }
        if (isset($data['diameter']) && $kind !== 'cylinder' && $kind !== 'sphere') {
            throw UnsuitableInput::because("A $kind has no one diameter to be held; leave that out.");
        }

        return new self(new FitConstraints($reference, $cosine, $through, isset($data['diameter']) ? 0.5 * (float) $data['diameter'] : null), array_values(array_filter([$data['to'] ?? null, $data['through'] ?? null])));
    }
}
