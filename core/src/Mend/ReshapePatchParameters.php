<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\SelectionParameters;

/** What `reshape-patch` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class ReshapePatchParameters
{
    /** @param  array<int, array{target: string, indices?: list<int>, ranges?: list<array{int, int}>}>  $selection  see SelectionParameters */
    public function __construct(
        #[Param('Selection', 'The area that is replaced.', picks: 'selection')]
        public array $selection,
        #[Param('By', 'cover spans what is around it, as if the area had never been; the others are the shape that fits the area itself.', choices: ['cover', 'plane', 'cylinder', 'cone', 'sphere'])]
        public string $shape = 'cover',
        #[Param('Blend', 'Over this width the shape passes into what is around it; empty for two edges.', unit: 'mm', min: 0.0, empty: '2 edges')]
        public ?float $blend = null,
    ) {
        new SelectionParameters($selection);
    }

    /** A byte a face, one where selected; null when the body is not meant. */
    public function marks(string $target, int $faces): ?string
    {
        return (new SelectionParameters($this->selection))->marks($target, $faces);
    }
}
