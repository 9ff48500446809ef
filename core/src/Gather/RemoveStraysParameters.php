<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Workpiece;

/** What `remove-strays` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class RemoveStraysParameters
{
    /** @param  array<int, array{float, float, float}>  $keep  mm */
    public function __construct(
        #[Param('Gap', 'Points farther apart than this do not hang together.', unit: 'mm', positive: true, suggest: 'suggestGap')]
        public ?float $gap = null,
        #[Param('Least share', 'Clusters with fewer of the points of their pass go.', unit: 'share', min: 0.0, max: 1.0)]
        public float $share = 0.002,
        #[Param('Distance', 'Only clusters that lie farther than this from the largest of their pass go.', unit: 'mm', min: 0.0)]
        public float $distance = 0.0,
        #[Param('Clusters that stay', 'Places (x, y, z) of clusters to leave, from the list of a trial.', picks: 'clusters')]
        public array $keep = [],
    ) {
        foreach ($keep as $k => $place) {
            if (! is_array($place) || count($place) !== 3 || count(array_filter($place, fn ($v) => is_int($v) || is_float($v))) !== 3) {
                throw InvalidParameter::of('keep', "entry $k is not a place: three numbers are expected");
            }
        }
    }

    /** Eight times the median spacing: a thin place is no gap yet. */
    public static function suggestGap(Workpiece $workpiece): ?float
    {
        $spacing = $workpiece->spacingMm();

        return $spacing === null ? null : (float) sprintf('%.3g', 8.0 * $spacing);
    }
}
