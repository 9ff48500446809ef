<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Workpiece;

/** What `thin` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class ThinParameters
{
    public function __construct(
        #[Param('Spacing', 'One point is kept in each cell of this size.', unit: 'mm', positive: true, suggest: 'suggestSpacing')]
        public ?float $spacing = null,
        #[Param('Keep', 'Which point of a cell stays: the one in the middle of them, or the one nearest to the surface they make.', choices: ['middle', 'least-noisy'])]
        public string $keep = 'middle',
        #[Param('At most a cm²', 'In place of cells: points go only where more than this many lie on a square centimetre.', unit: '1/cm²', positive: true)]
        public ?float $density = null,
    ) {
    }

    /** One and a half times the median spacing: what lies closer than that says the same twice. */
    public static function suggestSpacing(Workpiece $workpiece): ?float
    {
        $spacing = $workpiece->spacingMm();

        return $spacing === null ? null : (float) sprintf('%.2g', 1.5 * $spacing);
    }
}
