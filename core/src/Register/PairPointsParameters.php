<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Param;

final readonly class PairPointsParameters
{
    /** @param  array<int, array{from: array{float, float, float}, to: array{float, float, float}}>  $pairs in project coordinates */
    public function __construct(
        #[Param('Moving pass', 'The pass that is brought to the others.', picks: 'names')]
        public string $moving,
        #[Param('Pairs', 'The same places on both, three or more, spread wide.', picks: 'pairs')]
        public array $pairs,
    ) {
        self::check($pairs);
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
