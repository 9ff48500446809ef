<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Operation\LookAlong;
use Emberstone\Core\Operation\Param;

/** What `height-map` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class HeightMapParameters
{
    /** @param  string|array<mixed>  $along  X, Y, Z, -X, -Y or -Z, the name of a datum, a vector of three numbers, or {"point", "direction"} in mm */
    public function __construct(
        #[Param('Seen', 'The way it is looked at the part: the front is what is met first.', picks: 'look')]
        public string|array $along = '-Z',
        #[Param('Pixel', 'How far apart the heights are.', unit: 'mm', positive: true, empty: 'by size')]
        public ?float $pixel = null,
        #[Param('Side', 'The front, the back, or both.', choices: ['front', 'back', 'both'])]
        public string $side = 'front',
    ) {
        LookAlong::check('along', $along);
    }
}
