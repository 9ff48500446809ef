<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Operation\Param;

/** What `set-unit` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class SetUnitParameters
{
    public function __construct(
        #[Param('Unit of the files', 'The unit in which the coordinates of the passes were written.', choices: ['mm', 'cm', 'm', 'in', 'ft'])]
        public string $unit,
        #[Param('Read so far as', 'The unit they count in now.', choices: ['mm', 'cm', 'm', 'in', 'ft'])]
        public string $was = 'mm',
    ) {
    }
}
