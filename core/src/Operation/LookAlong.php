<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\Vector3;

/** The way that something is looked at, as a parameter names it: an axis of the frame, a datum, a vector, or a point and a direction. At a plane it is looked from outside. */
final class LookAlong
{
    /**
     * Whether a value may name a way, as far as that can be said without the datums.
     *
     * @param  string|array<mixed>  $value
     *
     * @throws InvalidParameter
     */
    public static function check(string $parameter, string|array $value): void
    {
        if (! is_array($value) || ! array_is_list($value)) {
            AxisChoice::check($parameter, $value);
        } elseif (count($value) !== 3 || array_filter($value, fn (mixed $v) => ! is_int($v) && ! is_float($v) || ! is_finite((float) $v)) !== [] || array_sum(array_map(fn (int|float $v) => $v * $v, $value)) < 1e-18) {
            throw InvalidParameter::of($parameter, 'must be a vector of three numbers that is not zero, an axis of the frame (X, Y, Z) or a datum');
        }
    }

    /**
     * @param  string|array<mixed>  $value
     * @param  list<Datum>  $datums
     *
     * @throws InvalidParameter when there is no such datum
     */
    public static function of(string $parameter, string|array $value, array $datums): AxisChoice
    {
        if (is_array($value) && array_is_list($value)) {
            return AxisChoice::of($parameter, ['point' => [0.0, 0.0, 0.0], 'direction' => $value], $datums);
        }
        foreach (is_string($value) ? $datums : [] as $datum) {
            if ($datum->kind === 'plane' && ($datum->name === $value || $datum->id === $value)) {
                return new AxisChoice($datum->origin, Vector3::scaled($datum->direction, -1.0), $datum->name);
            }
        }

        return AxisChoice::of($parameter, $value, $datums);
    }
}
