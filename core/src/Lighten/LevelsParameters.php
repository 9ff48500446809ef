<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Operation\Param;

/** What `levels` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class LevelsParameters
{
    public function __construct(
        #[Param('Keep rims', 'Open rims keep their shape.')]
        public bool $keepBoundary = true,
    ) {
    }
}
