<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Operation\Param;

/** What `clearance-cut` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class ClearanceCutParameters
{
    /**
     * @param  string  $around  id or name of a mesh
     * @param  string|null  $body  id or name of the one body that is changed; a short way to say `on`
     * @param  array<int, string>|null  $on  ids or names of the bodies that are changed; all meshes but `around` when both are null
     */
    public function __construct(
        #[Param('Around', 'The body that needs room.', picks: 'mesh')]
        public string $around,
        #[Param('Distance', 'Room on all sides of it.', unit: 'mm', positive: true)]
        public float $distance,
        #[Param('Body', 'The body that is changed.', picks: 'recipe')]
        public ?string $body = null,
        #[Param('On', 'Bodies that are changed.', picks: 'works')]
        public ?array $on = null,
    ) {
        Choice::check($body, $on);
    }
}
