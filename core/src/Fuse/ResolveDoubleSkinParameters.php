<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Workpiece;

/** What `resolve-double-skin` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class ResolveDoubleSkinParameters
{
    /** @param  list<string>  $locked */
    public function __construct(
        #[Param('Gap at most', 'Layers farther apart than this are two walls, and stay.', unit: 'mm', positive: true, suggest: 'suggestGap')]
        public ?float $gap = null,
        #[Param('By', 'Dropping keeps the points of the pass that saw a place best; moving brings whole passes onto each other, which helps where one stands off as a whole.', choices: ['dropping', 'moving'])]
        public string $by = 'dropping',
        #[Param('Where they agree too', 'Dropping takes points too that lie where another pass has them, if that saw the place from much nearer or more steeply: fewer points, and none of the worst.', with: ['by' => 'dropping'])]
        public bool $agreeing = false,
        #[Param('Locked', 'Passes that moving leaves where they are, besides the first.', picks: 'locked')]
        public array $locked = [],
    ) {
    }

    /** Four spacings: what registering leaves behind lies well below, and few walls are so thin. */
    public static function suggestGap(Workpiece $workpiece): ?float
    {
        $spacing = $workpiece->spacingMm();

        return $spacing === null ? null : (float) sprintf('%.2g', 4.0 * $spacing);
    }
}
