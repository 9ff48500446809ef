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

    /** See Workpiece::reachMm(). */
    public static function suggestMaxDistance(Workpiece $workpiece): ?float
    {
        return $workpiece->reachMm();
    }
}
