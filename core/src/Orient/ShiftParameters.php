<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Operation\Param;

/** What `shift` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class ShiftParameters
{
    public function __construct(
        #[Param('Along X', '', unit: 'mm', min: -1e6, max: 1e6)]
        public float $x = 0.0,
        #[Param('Along Y', '', unit: 'mm', min: -1e6, max: 1e6)]
        public float $y = 0.0,
        #[Param('Along Z', '', unit: 'mm', min: -1e6, max: 1e6)]
        public float $z = 0.0,
    ) {
    }
}
