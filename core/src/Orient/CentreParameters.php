<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Operation\Param;

/** What `centre` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class CentreParameters
{
    public function __construct(
        #[Param('Origin', 'The centre of mass (of the volume where a mesh is closed, else of its surface), or the middle of the box around everything.', choices: ['mass', 'box'])]
        public string $at = 'mass',
        #[Param('Along main axes', 'The longest way becomes X, the shortest Z.', with: ['smallestBox' => false])]
        public bool $axes = true,
        #[Param('Along the smallest box', 'In place of the main axes, the sides of the smallest box around everything, the longest along X.')]
        public bool $smallestBox = false,
    ) {
    }
}
