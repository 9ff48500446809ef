<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `repair` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class RepairParameters
{
    /** The families in the order in which they are dealt with: each leaves work for the later ones at most. */
    public const FAULTS = ['duplicateFaces', 'degenerateFaces', 'inconsistentEdges', 'nonManifoldEdges', 'nonManifoldVertices', 'necks', 'tunnels', 'doubleSkins', 'pieces', 'spikes', 'selfIntersections', 'openEdges'];

    /** @param  list<string>|null  $faults */
    public function __construct(
        #[Param('Faults', 'Which families to remove; all but tunnels, which may be meant, unless some are named.', choices: self::FAULTS)]
        public ?array $faults = null,
        #[Param('Tunnel up to', 'The way around a tunnel or under a bridge that is closed when tunnels are named; eight typical edges unless told.', unit: 'mm', min: 0.0)]
        public ?float $longest = null,
        #[Param('Close holes', 'none, all, or the largest opening that is closed as a fault.', unit: 'mm')]
        public string|float $holes = 'all',
    ) {
        if (is_string($holes) && ! in_array($holes, ['none', 'all'], true)) {
            throw InvalidParameter::of('holes', "is \"$holes\"; it must be none, all, or a diameter in mm");
        }
        if (is_float($holes) && $holes <= 0.0) {
            throw InvalidParameter::of('holes', 'must be greater than 0');
        }
    }

    /** Whether an opening of that diameter (mm) is a fault. */
    public function closes(float $diameter): bool
    {
        return $this->wants('openEdges') && ($this->holes === 'all' || (is_float($this->holes) && $diameter <= $this->holes));
    }

    public function wants(string $fault): bool
    {
        return $this->faults === null ? $fault !== 'tunnels' : in_array($fault, $this->faults, true);
    }
}
