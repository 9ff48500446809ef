<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Markers;

use Emberstone\Core\Operation\Param;

/** What `match-markers` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class MatchMarkersParameters
{
    /** @param  array<int, mixed>  $locked  names or ids */
    public function __construct(
        #[Param('Diameter of a dot', 'Of the white disc.', unit: 'mm', positive: true, max: 200.0)]
        public float $diameter = 6.0,
        #[Param('Tolerance', 'How far apart the same dot may lie in two passes once they are placed.', unit: 'mm', positive: true, max: 50.0)]
        public float $tolerance = 0.6,
        #[Param('Reference', 'The pass that stays where it is; the first one unless named.')]
        public ?string $reference = null,
        #[Param('Locked', 'Passes that stay where they are, besides the reference.', picks: 'locked')]
        public array $locked = [],
    ) {
    }
}
