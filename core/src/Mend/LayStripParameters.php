<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Places;

/** What `lay-strip` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class LayStripParameters
{
    /** @param  array<mixed>  $points  four places on rims, mm */
    public function __construct(
        #[Param('Places', 'Four places: both ends of a stretch of rim, then both ends of the stretch to join it with.', picks: 'points')]
        public array $points,
    ) {
        Places::checked('points', $points, 4);
    }
}
