<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\InvalidParameter;

/** Places in a recipe: lists of three numbers, project coordinates, mm. */
final class Places
{
    /**
     * @return list<array{float, float, float}>
     *
     * @throws InvalidParameter
     */
    public static function checked(string $parameter, mixed $places, ?int $exactly = null): array
    {
        if (! is_array($places) || ! array_is_list($places)) {
            throw InvalidParameter::of($parameter, 'must be a list of places, each of three numbers');
        }
        if ($exactly !== null && count($places) !== $exactly) {
            throw InvalidParameter::of($parameter, 'holds '.count($places)." places; it needs $exactly");
        }
        $checked = [];
        foreach ($places as $k => $at) {
            $at = self::numbers($parameter, $k, $at, 3, 'three');
            $checked[] = [$at[0], $at[1], $at[2]];
        }

        return $checked;
    }

    /**
     * Places that were picked on rims, each alone or with how wide the rim was then: {"at": [x, y, z], "diameter": mm}.
     *
     * @return list<array{at: array{float, float, float}, diameter: float|null}>
     *
     * @throws InvalidParameter
     */
    public static function onRims(string $parameter, mixed $picks): array
    {
        if (! is_array($picks) || ! array_is_list($picks)) {
            throw InvalidParameter::of($parameter, 'must be a list of places, each of three numbers');
        }
        $checked = [];
        foreach ($picks as $k => $pick) {
            $diameter = is_array($pick) && ! array_is_list($pick) ? $pick['diameter'] ?? null : null;
            if ($diameter !== null && ((! is_int($diameter) && ! is_float($diameter)) || ! is_finite((float) $diameter) || $diameter <= 0)) {
                throw InvalidParameter::of($parameter, 'entry '.($k + 1).' has a diameter that is not more than 0');
            }
            [$at] = self::checked($parameter, [is_array($pick) && ! array_is_list($pick) ? $pick['at'] ?? null : $pick]);
            $checked[] = ['at' => $at, 'diameter' => $diameter === null ? null : (float) $diameter];
        }

        return $checked;
    }

    /**
     * Stretches of rims, each from one place to another, the shorter way where no place on its side is said: {"from": [x, y, z], "to": [x, y, z], "side": [x, y, z], "diameter": mm}. The
     * diameter is how wide the rim was when it was picked.
     *
     * @return list<array{from: array{float, float, float}, to: array{float, float, float}, side: array{float, float, float}|null, diameter: float|null}>
     *
     * @throws InvalidParameter
     */
    public static function stretches(string $parameter, mixed $stretches, bool $withSide): array
    {
        if (! is_array($stretches) || ! array_is_list($stretches)) {
            throw InvalidParameter::of($parameter, 'must be a list of stretches, each with "from" and "to"');
        }
        $checked = [];
        foreach ($stretches as $k => $stretch) {
            $names = $withSide ? ['from', 'to', 'side'] : ['from', 'to'];
            if (! is_array($stretch) || array_diff($names, array_keys($stretch)) !== []) {
                throw InvalidParameter::of($parameter, 'entry '.($k + 1).' needs "'.implode('", "', $names).'", each a place of three numbers');
            }
            $places = self::checked($parameter, array_map(fn (string $name) => $stretch[$name], $names), count($names));
            [['diameter' => $diameter]] = self::onRims($parameter, [['at' => $places[0], 'diameter' => $stretch['diameter'] ?? null]]);
            $checked[] = ['from' => $places[0], 'to' => $places[1], 'side' => $places[2] ?? null, 'diameter' => $diameter];
        }

        return $checked;
    }

    /**
     * Places with a direction each.
     *
     * @return list<array{float, float, float, float, float, float}>
     *
     * @throws InvalidParameter
     */
    public static function oriented(string $parameter, mixed $places): array
    {
        if (! is_array($places) || ! array_is_list($places)) {
            throw InvalidParameter::of($parameter, 'must be a list of places with a direction, each of six numbers');
        }
        $checked = [];
        foreach ($places as $k => $at) {
            $at = self::numbers($parameter, $k, $at, 6, 'six');
            $checked[] = [$at[0], $at[1], $at[2], $at[3], $at[4], $at[5]];
        }

        return $checked;
    }

    /** @return list<float> */
    private static function numbers(string $parameter, int $k, mixed $at, int $many, string $inWords): array
    {
        if (! is_array($at) || ! array_is_list($at) || count($at) !== $many || array_filter($at, fn ($v) => (! is_int($v) && ! is_float($v)) || ! is_finite((float) $v)) !== []) {
            throw InvalidParameter::of($parameter, 'entry '.($k + 1)." must be $inWords numbers");
        }

        return array_map(floatval(...), $at);
    }
}
