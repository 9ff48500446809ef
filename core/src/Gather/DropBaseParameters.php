<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\Param;

/** What `drop-base` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class DropBaseParameters
{
    public function __construct(
        #[Param('Margin', 'How far above the table points still go.', unit: 'mm', min: 0.0, max: 100.0)]
        public float $margin = 1.0,
        #[Param('Planes', 'The most that are taken out of each pass: a stand on a table has two.', min: 1, max: 5)]
        public int $planes = 1,
    ) {
    }
}
