<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\SelectionParameters;

/** What `levels` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class LevelsParameters
{
    /** @param  array<int, array{target: string, indices?: list<int>, ranges?: list<array{int, int}>}>|null  $selection  see SelectionParameters */
    public function __construct(
        #[Param('Keep rims', 'Open rims keep their shape.')]
        public bool $keepBoundary = true,
        #[Param('Selection', SelectedArea::SELECTION, picks: 'selection')]
        public ?array $selection = null,
        #[Param('Finer there', SelectedArea::FINER, min: 1.0, max: SelectedArea::FINEST, empty: 'left alone')]
        public ?float $finer = null,
    ) {
        if ($selection !== null) {
            new SelectionParameters($selection);
        }
    }
}
