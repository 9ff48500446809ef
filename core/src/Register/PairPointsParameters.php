<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `pair-points` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class PairPointsParameters
{
    /**
     * @param  array<int, array{from: array{float, float, float}, to: array{float, float, float}}>  $pairs in project coordinates
     * @param  array<int, string>  $with  names or ids
     */
    public function __construct(
        #[Param('Moving pass', 'The pass that is brought to the others.', picks: 'names')]
        public string $moving,
        #[Param('Pairs', 'The same places on both, three or more, spread wide.', picks: 'pairs')]
        public array $pairs,
        #[Param('Together with', 'Others that lie on it already and move along.', picks: 'group')]
        public array $with = [],
    ) {
        self::check($pairs);
        self::checkNames('with', $with);
    }

    /**
     * @param  array<mixed>  $names
     *
     * @throws InvalidParameter
     */
    public static function checkNames(string $parameter, array $names): void
    {
        foreach (array_values($names) as $k => $name) {
            if (! is_string($name)) {
                throw InvalidParameter::of($parameter, 'entry '.($k + 1).' must be the name of a pass or body');
            }
        }
    }

    /**
     * @param  array<mixed>  $pairs
     *
     * @throws InvalidParameter
     */
    public static function check(array $pairs): void
    {
        foreach ($pairs as $k => $pair) {
            foreach (['from', 'to'] as $end) {
                $point = is_array($pair) ? $pair[$end] ?? null : null;
                if (! is_array($point) || count($point) !== 3 || array_filter($point, fn ($v) => ! is_int($v) && ! is_float($v) || ! is_finite((float) $v)) !== []) {
                    throw InvalidParameter::of('pairs', 'entry '.($k + 1)." needs \"$end\" with three numbers");
                }
            }
        }
    }
}
