<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `remesh` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class RemeshParameters
{
    /** Of the length of an edge: how far the surface may move if nothing is said. */
    private const DEVIATION = 0.1;

    public function __construct(
        #[Param('Edge', 'Mean length of the edges of the result.', unit: 'mm', positive: true)]
        public ?float $edge = null,
        #[Param('Faces', 'Faces of the result, of all bodies together.', min: 20, max: 20_000_000)]
        public ?int $faces = null,
        #[Param('Adapt', 'From 0, even triangles everywhere, to 1, as fine or coarse as the surface is curved.', unit: 'share', min: 0.0, max: 1.0)]
        public float $adapt = 0.0,
        #[Param('Deviation', 'How far the surface may move; a tenth of the edge if left out. Where it would move farther, triangles become smaller. Verified afterwards.', unit: 'mm', positive: true, empty: 'edge / 10')]
        public ?float $deviation = null,
        #[Param('Sharp', 'Edges where the surface turns by more stay where they are.', unit: 'deg', min: 5.0, max: 180.0)]
        public float $sharp = 40.0,
        #[Param('Keep rims', 'Open rims keep their shape.')]
        public bool $keepBoundary = true,
    ) {
        if (($edge === null) === ($faces === null)) {
            throw InvalidParameter::of('edge', $edge === null ? 'or faces is required: one of the two' : 'is given together with faces; give one of the two');
        }
    }

    /** mm that the surface may move, of edges of a length. */
    public function bound(float $edge): float
    {
        return $this->deviation ?? self::DEVIATION * $edge;
    }
}
