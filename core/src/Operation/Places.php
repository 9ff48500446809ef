<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

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
            if (! is_array($at) || ! array_is_list($at) || count($at) !== 3 || array_filter($at, fn ($v) => (! is_int($v) && ! is_float($v)) || ! is_finite((float) $v)) !== []) {
                throw InvalidParameter::of($parameter, 'entry '.($k + 1).' must be three numbers');
            }
            $checked[] = [(float) $at[0], (float) $at[1], (float) $at[2]];
        }

        return $checked;
    }
}
