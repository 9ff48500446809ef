<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\Param;

/** What `noise-report` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class NoiseReportParameters
{
    public function __construct(
        #[Param('Neighbours', 'How many points around each one are looked at.', min: 8, max: 64)]
        public int $neighbours = 16,
        #[Param('Sensitivity', 'As for removing outliers: points whose neighbours are farther than the mean plus this many deviations count.', min: 0.1, max: 10.0)]
        public float $deviations = 2.5,
        #[Param('Grazing from', 'Points seen more flatly than this, from the surface\'s normal, count as grazing.', unit: 'deg', min: 30.0, max: 89.0)]
        public float $grazing = 75.0,
    ) {
    }
}
