<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\Param;

/** What `remove-grazing` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class RemoveGrazingParameters
{
    public function __construct(
        #[Param('Angle', 'Points seen more flatly than this, from the surface\'s normal, go: 90 is along the surface.', unit: 'deg', min: 30.0, max: 89.0)]
        public float $angle = 75.0,
    ) {
    }
}
