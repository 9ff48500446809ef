<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Param;

final readonly class PlaceParameters
{
    /**
     * @param  array<int, array{from: array{float, float, float}, to: array{float, float, float}}>  $pairs  in project coordinates
     * @param  array<int, string>  $with  names or ids
     * @param  array<int, string>  $locked  names or ids
     */
    public function __construct(
        #[Param('Moving', 'The body or pass that is placed; it stays a body of its own.', picks: 'names')]
        public string $moving,
        #[Param('Onto', 'What it is placed on, such as a rough scan of all parts together; it does not move.', picks: 'names')]
        public string $onto,
        #[Param('Rough placing', 'Where it starts: by picked pairs, from its shape, or where it stands.', choices: ['pairs', 'shape', 'none'])]
        public string $start = 'shape',
        #[Param('Pairs', 'The same places on both, three or more; for rough placing by pairs.', picks: 'pairs')]
        public array $pairs = [],
        #[Param('Tighten', 'Best fit after the rough placing.')]
        public bool $tighten = true,
        #[Param('Reach', 'How far apart the same place may be on both before tightening.', unit: 'mm', positive: true)]
        public ?float $maxDistance = null,
        #[Param('Together with', 'Others that move along as one group.', picks: 'group')]
        public array $with = [],
        #[Param('Locked', 'What must not move.', picks: 'locked')]
        public array $locked = [],
    ) {
        PairPointsParameters::check($pairs);
        if ($moving === $onto) {
            throw InvalidParameter::of('onto', 'is the moving body itself; choose another');
        }
        foreach ($with as $k => $name) {
            if (! is_string($name)) {
                throw InvalidParameter::of('with', 'entry '.($k + 1).' must be the name of a pass or body');
            }
        }
    }
}
