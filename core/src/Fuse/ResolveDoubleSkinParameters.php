<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Workpiece;

final readonly class ResolveDoubleSkinParameters
{
    public function __construct(
        #[Param('Gap at most', 'Layers farther apart than this are two walls, and stay.', unit: 'mm', positive: true, suggest: 'suggestGap')]
        public ?float $gap = null,
    ) {
    }

    /** Four spacings: what registering leaves behind lies well below, and few walls are so thin. */
    public static function suggestGap(Workpiece $workpiece): ?float
    {
        $spacing = $workpiece->spacingMm();

        return $spacing === null ? null : (float) sprintf('%.2g', 4.0 * $spacing);
    }
}
