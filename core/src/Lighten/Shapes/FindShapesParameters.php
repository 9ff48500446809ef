<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Shapes;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `find-shapes` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class FindShapesParameters
{
    /** @param  array<int, string>|null  $kinds */
    public function __construct(
        #[Param('Kinds', 'What is looked for; what is left out becomes free form.', picks: 'recipe', choices: ['plane', 'cylinder', 'cone', 'sphere', 'torus', 'revolved', 'free'], empty: 'all')]
        public ?array $kinds = null,
        #[Param('Tolerance', 'How far the surface may lie off a shape; empty for four times its noise.', unit: 'mm', positive: true, empty: 'by noise')]
        public ?float $tolerance = null,
        #[Param('Least area', 'Smaller areas go to the shapes beside them; empty for 0.1 % of all.', unit: 'mm²', positive: true, empty: '0.1 %')]
        public ?float $minArea = null,
    ) {
        if ($kinds === []) {
            throw InvalidParameter::of('kinds', 'is empty; name what to look for, or leave it out to look for all');
        }
    }
}
