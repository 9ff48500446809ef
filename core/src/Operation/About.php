<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

/** What people read about an operation. */
final readonly class About
{
    /**
     * @param  string  $needs  what it works on: `passes`, `meshes`, `bodies`, `any`, `places` (where all stands, not what it is), or `nothing`
     * @param  class-string  $parameters
     * @param  bool  $looksOnly  it changes nothing: it is carried out to be looked at, and leaves no step
     * @param  bool  $readsArtefacts  it looks into what earlier steps have found: shapes
     * @param  bool  $seesPasses  it looks at the passes as well, whatever it works on
     * @param  bool  $together  all of a project belongs together in it, what is out of sight too: a frame, a scale
     * @param  string  $avoid  when not to use it, and what to do instead; empty where there is nothing to say
     */
    public function __construct(
        public string $name,
        public Stage $stage,
        public string $label,
        public string $help,
        public string $needs,
        public string $parameters,
        public bool $together = false,
        public bool $looksOnly = false,
        public bool $readsArtefacts = false,
        public bool $seesPasses = false,
        public string $avoid = '',
    ) {
    }
}
