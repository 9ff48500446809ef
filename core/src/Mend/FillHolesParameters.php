<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Operation\Param;

final readonly class FillHolesParameters
{
    public function __construct(
        #[Param('Shape', 'flat spans the rim, tangent follows the slope there, curved the curvature.', choices: ['flat', 'tangent', 'curved'])]
        public string $shape = 'tangent',
        #[Param('Largest opening', 'Rims wider than this stay open; empty fills all.', unit: 'mm', positive: true)]
        public ?float $maxDiameter = null,
    ) {
    }
}
