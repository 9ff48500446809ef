<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Operation\Param;

/** What `despike` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class DespikeParameters
{
    /** Least lean of what is caught, degrees, at no and at full sensitivity. */
    private const LEANS = [70.0, 20.0];

    public function __construct(
        #[Param('Sensitivity', 'More catches lower spikes.', unit: 'share', min: 0.0, max: 1.0)]
        public float $sensitivity = 0.5,
    ) {
    }

    /** Radians. */
    public function lean(): float
    {
        return deg2rad(self::LEANS[0] + $this->sensitivity * (self::LEANS[1] - self::LEANS[0]));
    }
}
