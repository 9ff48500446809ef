<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Fixture;

use Emberstone\Core\Operation\Param;

/** What `apply-fixture` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class ApplyFixtureParameters
{
    /**
     * @param  array<string, mixed>  $fixture  as the file has it
     * @param  bool  $later  for whoever brings in passes (StandingFixture): the step itself places what is there
     */
    public function __construct(
        #[Param('Fixture', 'The poses that solving a fixture found, or a fixture\'s file.', picks: 'fixture')]
        public array $fixture,
        #[Param('Later captures too', 'What these heads capture from now on is placed as it comes in.')]
        public bool $later = false,
    ) {
        Fixture::fromArray($fixture);
    }
}
