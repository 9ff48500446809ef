<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Shapes;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\SelectionParameters;

/** What `split-shape` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class SplitShapeParameters
{
    /**
     * @param  array<int, string>  $shapes
     * @param  array<int, array{target: string, indices?: list<int>, ranges?: list<array{int, int}>}>|null  $selection
     */
    public function __construct(
        #[Param('Shapes', 'To split, as find-shapes has numbered them.', picks: 'shapes')]
        public array $shapes,
        #[Param('Selection', 'Faces that become a shape of their own; without it each piece that hangs together does.', picks: 'selection', empty: 'piece by piece')]
        public ?array $selection = null,
    ) {
        if ($shapes === []) {
            throw InvalidParameter::of('shapes', 'is empty; name the shape to split');
        }
        $selection === null || $this->selected();
    }

    public function selected(): ?SelectionParameters
    {
        return $this->selection === null ? null : new SelectionParameters($this->selection);
    }
}
