<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Datums\DatumPairs;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `place` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class PlaceParameters
{
    /**
     * @param  array<int, array{from: array{float, float, float}, to: array{float, float, float}}>  $pairs  in project coordinates
     * @param  array<int, array{from: string, to: string, flip?: bool}>  $datums  names or ids
     * @param  array<int, string>  $with  names or ids
     * @param  array<int, string>  $locked  names or ids
     */
    public function __construct(
        #[Param('Moving', 'The body or pass that is placed; it stays a body of its own.', picks: 'names')]
        public string $moving,
        #[Param('Onto', 'What it is placed on, such as a rough scan of all parts together; it does not move.', picks: 'names')]
        public string $onto,
        #[Param('Rough placing', 'Where it starts: by picked pairs, from its shape, by datums laid on datums, or where it stands.', choices: ['pairs', 'shape', 'datums', 'none'])]
        public string $start = 'shape',
        #[Param('Pairs', 'The same places on both, three or more; for rough placing by pairs.', picks: 'pairs')]
        public array $pairs = [],
        #[Param('Datums', 'Up to three datums of what moves and those they come to lie on, the first deciding most; "flip" where their outsides face each other. For rough placing by datums.', picks: 'datumPairs')]
        public array $datums = [],
        #[Param('Tighten', 'Best fit after the rough placing.')]
        public bool $tighten = true,
        #[Param('Reach', 'How far apart the same place may be on both before tightening.', unit: 'mm', positive: true, empty: 'auto')]
        public ?float $maxDistance = null,
        #[Param('Together with', 'Others that move along as one group.', picks: 'group')]
        public array $with = [],
        #[Param('Locked', 'What must not move.', picks: 'locked')]
        public array $locked = [],
    ) {
        PairPointsParameters::check($pairs);
        DatumPairs::check($datums);
        if ($moving === $onto) {
            throw InvalidParameter::of('onto', 'is the moving body itself; choose another');
        }
        PairPointsParameters::checkNames('with', $with);
    }
}
