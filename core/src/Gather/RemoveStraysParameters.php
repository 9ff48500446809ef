<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Workpiece;

final readonly class RemoveStraysParameters
{
    public function __construct(
        #[Param('Gap', 'Points farther apart than this do not hang together.', unit: 'mm', positive: true, suggest: 'suggestGap')]
        public ?float $gap = null,
        #[Param('Least share', 'Clusters with fewer of the points of their pass go.', unit: 'share', min: 0.0, max: 1.0)]
        public float $share = 0.002,
    ) {
    }

    /** Eight times the median spacing: a thin place is no gap yet. */
    public static function suggestGap(Workpiece $workpiece): ?float
    {
        $spacing = $workpiece->spacingMm();

        return $spacing === null ? null : (float) sprintf('%.3g', 8.0 * $spacing);
    }
}
