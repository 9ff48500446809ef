<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Operation\Param;

final readonly class RepairParameters
{
    /** The families in the order in which they are dealt with: each leaves work for the later ones at most. */
    public const FAULTS = ['duplicateFaces', 'degenerateFaces', 'inconsistentEdges', 'nonManifoldEdges', 'nonManifoldVertices', 'necks', 'pieces', 'spikes', 'selfIntersections', 'openEdges'];

    /** @param  list<string>|null  $faults */
    public function __construct(
        #[Param('Faults', 'Which families to remove; all unless some are named.', choices: self::FAULTS)]
        public ?array $faults = null,
    ) {
    }

    public function wants(string $fault): bool
    {
        return $this->faults === null || in_array($fault, $this->faults, true);
    }
}
