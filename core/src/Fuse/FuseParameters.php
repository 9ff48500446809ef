<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Workpiece;

/** What `fuse` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class FuseParameters
{
    /** How far vertices go onto the planes of the points around them, by detail. */
    public const DETAILS = ['crisp' => 1.0, 'even' => 0.5, 'soft' => 0.0];

    public function __construct(
        #[Param('Voxel', 'Edge of the cells the surface is made in: smaller keeps finer detail and takes longer.', unit: 'mm', positive: true, suggest: 'suggestVoxel')]
        public float $voxel,
        #[Param('Close holes', 'none, all, or the largest opening to close.', unit: 'mm')]
        public string|float $closeHoles = 'none',
        #[Param('Name', 'Name of the new body.')]
        public ?string $name = null,
        #[Param('Detail', 'crisp keeps edges and engraved lines as sharp as the voxel allows, soft evens out the most noise.', choices: ['crisp', 'even', 'soft'])]
        public string $detail = 'crisp',
    ) {
        if (is_string($closeHoles) && ! in_array($closeHoles, ['none', 'all'], true)) {
            throw InvalidParameter::of('closeHoles', "is \"$closeHoles\"; it must be none, all, or a diameter in mm");
        }
        if (is_float($closeHoles) && $closeHoles <= 0.0) {
            throw InvalidParameter::of('closeHoles', 'must be greater than 0');
        }
    }

    /** The largest opening to close, mm; INF when all are, null when none is. */
    public function widestGap(): ?float
    {
        return match (true) {
            is_float($this->closeHoles) => $this->closeHoles,
            $this->closeHoles === 'all' => INF,
            default => null,
        };
    }

    /** Twice the median spacing, in round figures. */
    public static function suggestVoxel(Workpiece $workpiece): ?float
    {
        $reach = $workpiece->reachMm();
        if ($reach === null) {
            return null;
        }
        $voxel = 0.2 * $reach;
        $unit = 10.0 ** floor(log10($voxel));

        return round($voxel / $unit, 1) * $unit;
    }
}
