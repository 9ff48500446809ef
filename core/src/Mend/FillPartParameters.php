<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Places;

/** What `fill-part` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class FillPartParameters
{
    /** @param  array<mixed>  $points  three places on one rim, mm */
    public function __construct(
        #[Param('Places', 'Three places on one rim: both ends of the part, then one on the side to close.', picks: 'points')]
        public array $points,
        #[Param('Shape', 'flat spans the part, tangent follows the slope at the rim, curved the curvature.', choices: ['flat', 'tangent', 'curved'])]
        public string $shape = 'tangent',
    ) {
        Places::checked('points', $points, 3);
    }
}
