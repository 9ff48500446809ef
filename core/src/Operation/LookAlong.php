<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\Vector3;

/** The way that something is looked at, as a parameter names it: along an axis of the frame or against it, a datum, a vector, or a point and a direction. At a plane it is looked from outside. */
final class LookAlong
{
    /** Along the axes of the frame, in words: Z is up, and the front is what is seen along Y. */
    public const OF_FRAME = ['-Z' => 'from above', 'Z' => 'from below', 'Y' => 'from the front', '-Y' => 'from behind', 'X' => 'from the left', '-X' => 'from the right'];

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
            throw InvalidParameter::of($parameter, 'must be a vector of three numbers that is not zero, an axis of the frame (X, Y, Z, -X, -Y, -Z) or a datum');
        }
    }

    /**
     * @param  string|array<mixed>  $value
     * @param  list<Datum>  $datums
     * @return AxisChoice named as "seen ..." goes on
     *
     * @throws InvalidParameter when there is no such datum
     */
    public static function of(string $parameter, string|array $value, array $datums): AxisChoice
    {
        if (is_array($value) && array_is_list($value)) {
            $value = ['point' => [0.0, 0.0, 0.0], 'direction' => $value];
        }
        if (is_string($value) && isset(self::OF_FRAME[$value])) {
            return new AxisChoice([0.0, 0.0, 0.0], Vector3::scaled(AxisChoice::OF_FRAME[ltrim($value, '-')], $value[0] === '-' ? -1.0 : 1.0), self::OF_FRAME[$value]);
        }
        foreach (is_string($value) ? $datums : [] as $datum) {
            if ($datum->kind === 'plane' && ($datum->name === $value || $datum->id === $value)) {
                return new AxisChoice($datum->origin, Vector3::scaled($datum->direction, -1.0), "at $datum->name");
            }
        }

        $axis = AxisChoice::of($parameter, $value, $datums);

        return new AxisChoice($axis->point, $axis->direction, "along $axis->name");
    }

    /**
     * What is at the right hand of whoever looks that way, with Z of the frame upwards; Y, where it is looked along Z.
     *
     * @param  array{float, float, float}  $direction  of length 1
     * @return array{float, float, float} of length 1
     */
    public static function right(array $direction): array
    {
        return Vector3::unit(Vector3::cross($direction, abs($direction[2]) < 0.999 ? [0.0, 0.0, 1.0] : [0.0, 1.0, 0.0]));
    }
}
