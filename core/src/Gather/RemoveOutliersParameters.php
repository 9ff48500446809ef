<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\Param;

final readonly class RemoveOutliersParameters
{
    public function __construct(
        #[Param('Neighbours', 'How many points around each one are looked at.', min: 3, max: 64)]
        public int $neighbours = 16,
        #[Param('Sensitivity', 'Points whose neighbours are farther than the mean plus this many deviations go. Smaller removes more.', min: 0.1, max: 10.0)]
        public float $deviations = 2.5,
    ) {
    }
}
