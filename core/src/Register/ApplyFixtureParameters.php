<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Operation\Param;

final readonly class ApplyFixtureParameters
{
    /** @param  array<string, mixed>  $fixture  as the file has it */
    public function __construct(
        #[Param('Fixture', 'The poses that solving a fixture found, or a fixture\'s file.', picks: 'fixture')]
        public array $fixture,
    ) {
        Fixture::fromArray($fixture);
    }
}
