<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Workpiece;

/** What `remove-outliers` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class RemoveOutliersParameters
{
    public function __construct(
        #[Param('Neighbours', 'How many points around each one are looked at.', min: 3, max: 64)]
        public int $neighbours = 16,
        #[Param('Sensitivity', 'Points whose neighbours are farther than the mean plus this many deviations go. Smaller removes more.', min: 0.1, max: 10.0)]
        public float $deviations = 2.5,
        #[Param('By', 'Statistics: farther from its neighbours than most. Radius: too few points around it.', choices: ['statistics', 'radius'])]
        public string $by = 'statistics',
        #[Param('Radius', 'How far around each point others are counted; by radius only.', unit: 'mm', positive: true, suggest: 'suggestRadius')]
        public ?float $radius = null,
        #[Param('Least points', 'Points with fewer others within the radius go; by radius only.', min: 1, max: 1000)]
        public int $least = 4,
    ) {
    }

    /** Three times the median spacing: inside a surface some twenty others lie within it. */
    public static function suggestRadius(Workpiece $workpiece): ?float
    {
        $spacing = $workpiece->spacingMm();

        return $spacing === null ? null : (float) sprintf('%.3g', 3.0 * $spacing);
    }
}
