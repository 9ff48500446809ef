<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Shapes;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `join-shapes` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class JoinShapesParameters
{
    /** @param  array<int, string>  $shapes */
    public function __construct(
        #[Param('Shapes', 'That are one, as find-shapes has numbered them.', picks: 'shapes')]
        public array $shapes,
    ) {
        if (count(array_unique($shapes)) < 2) {
            throw InvalidParameter::of('shapes', 'needs two shapes or more to join');
        }
    }
}
