<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Operation\Param;

/** What `match` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class MatchParameters
{
    /** @param  array<int, mixed>  $locked  names or ids */
    public function __construct(
        #[Param('Reference', 'The pass that stays where it is; the first one unless named.')]
        public ?string $reference = null,
        #[Param('Locked', 'Passes that stay where they are, besides the reference.', picks: 'locked')]
        public array $locked = [],
    ) {
    }
}
