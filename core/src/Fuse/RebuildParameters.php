<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Workpiece;

/** What `rebuild` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class RebuildParameters
{
    public function __construct(
        #[Param('Detail', 'Edge of the finest cells: smaller keeps finer detail and takes longer.', unit: 'mm', positive: true, suggest: 'suggestDetail')]
        public float $detail,
        #[Param('Support', 'Surface that fewer points than this share of the usual density back is taken off; at 0 the surface stays watertight.', unit: 'share', min: 0.0, max: 1.0)]
        public float $support = 0.0,
        #[Param('Name', 'Name of the new body.')]
        public ?string $name = null,
    ) {
    }

    public static function suggestDetail(Workpiece $workpiece): ?float
    {
        return FuseParameters::suggestVoxel($workpiece);
    }
}
