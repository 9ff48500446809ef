<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\Vector3;

/** Parameters of two triples of numbers: a place, and a direction that is not 0. */
final class Triples
{
    /**
     * @param  array<mixed>  $value
     * @param  array{string, string}  $keys  of the place and of the direction
     * @param  string  $else  what else may be given, in words
     *
     * @throws InvalidParameter
     */
    public static function check(string $parameter, array $value, array $keys, string $else): void
    {
        foreach ($keys as $key) {
            $of = $value[$key] ?? null;
            if (! is_array($of) || count($of) !== 3 || array_filter($of, fn (mixed $v) => ! (is_int($v) || is_float($v)) || ! is_finite((float) $v)) !== []) {
                throw InvalidParameter::of($parameter, "needs \"$key\": three numbers; or $else");
            }
        }
        if (array_diff(array_keys($value), $keys) !== []) {
            throw InvalidParameter::of($parameter, "knows \"$keys[0]\" and \"$keys[1]\" alone");
        }
        if (Vector3::length(self::of($value, $keys[1])) < 1e-12) {
            throw InvalidParameter::of($parameter, "has a $keys[1] of length 0");
        }
    }

    /**
     * @param  array<mixed>  $value  checked
     * @return array{float, float, float}
     */
    public static function of(array $value, string $key): array
    {
        [$x, $y, $z] = array_map(floatval(...), array_values((array) $value[$key]));

        return [$x, $y, $z];
    }
}
