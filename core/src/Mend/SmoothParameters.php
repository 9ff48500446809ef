<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Operation\Param;

final readonly class SmoothParameters
{
    public function __construct(
        #[Param('Strength', 'How much is evened out.', unit: 'share', min: 0.0, max: 1.0)]
        public float $strength = 0.5,
        #[Param('Keep edges', 'Edges stay; only the noise between them goes.')]
        public bool $keepEdges = true,
        #[Param('Greatest shift', 'No vertex moves farther than this; empty for no limit.', unit: 'mm', positive: true)]
        public ?float $maxShift = null,
    ) {
    }
}
