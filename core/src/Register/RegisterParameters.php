<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Workpiece;

/** What `register` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class RegisterParameters
{
    /** @param  array<int, mixed>  $locked  names or ids */
    public function __construct(
        #[Param('Rough placing', 'Where passes start: where the scanner put them, and those that do not fit there wherever their shape says (auto); or where the scanner put them alone (none).', choices: ['none', 'auto'])]
        public string $coarse = 'none',
        #[Param('Reach', 'How far apart the same place may be on two passes before tightening.', unit: 'mm', positive: true, suggest: 'suggestMaxDistance')]
        public ?float $maxDistance = null,
        #[Param('Reference', 'The pass that stays where it is; the first one unless named.')]
        public ?string $reference = null,
        #[Param('Locked', 'Passes that stay where they are, besides the reference.', picks: 'locked')]
        public array $locked = [],
    ) {
    }

    /** Ten times the median spacing of the points. */
    public static function suggestMaxDistance(Workpiece $workpiece): ?float
    {
        $spacing = $workpiece->spacingMm();
        if ($spacing === null) {
            return null;
        }
        $reach = 10.0 * $spacing;
        // Three figures are all that a median is worth.
        $unit = 10.0 ** (floor(log10($reach)) - 2.0);

        return round($reach / $unit) * $unit;
    }
}
