<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Operation\Param;

/** What `add-body`, `take-away` and `keep-common` take: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class CombineParameters
{
    /**
     * @param  string  $with  id or name of a mesh
     * @param  string|null  $body  id or name of the one body that is changed; a short way to say `on`
     * @param  array<int, string>|null  $on  ids or names of the bodies that are changed; all meshes but `with` when both are null
     */
    public function __construct(
        #[Param('With', 'The other body.', picks: 'mesh')]
        public string $with,
        #[Param('Clearance', 'The other body is grown by this first, all around, with round corners.', unit: 'mm', min: 0.0)]
        public float $clearance = 0.0,
        #[Param('Body', 'The body that is changed.', picks: 'recipe')]
        public ?string $body = null,
        #[Param('On', 'Bodies that are changed.', picks: 'works')]
        public ?array $on = null,
    ) {
        Choice::check($body, $on);
    }
}
