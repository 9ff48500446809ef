<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\SelectionParameters;

/** What `smooth` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class SmoothParameters
{
    /** @param  array<int, array{target: string, indices?: list<int>, ranges?: list<array{int, int}>}>|null  $selection  see SelectionParameters */
    public function __construct(
        #[Param('Strength', 'How much is evened out.', unit: 'share', min: 0.0, max: 1.0)]
        public float $strength = 0.5,
        #[Param('Keep edges', 'Edges stay; only the noise between them goes.')]
        public bool $keepEdges = true,
        #[Param('Greatest shift', 'No vertex moves farther than this; empty for no limit.', unit: 'mm', positive: true)]
        public ?float $maxShift = null,
        #[Param('Selection', 'Only the selected faces are smoothed; without one all are.', picks: 'selection')]
        public ?array $selection = null,
    ) {
        if ($selection !== null) {
            new SelectionParameters($selection);
        }
    }

    /** A byte a face, one where it may be smoothed; null when the body is not meant. */
    public function marks(string $target, int $faces): ?string
    {
        return $this->selection === null ? str_repeat("\1", $faces) : (new SelectionParameters($this->selection))->marks($target, $faces);
    }
}
