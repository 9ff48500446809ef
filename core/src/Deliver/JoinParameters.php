<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `join` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class JoinParameters
{
    /** @param  array<int, string>|null  $bodies  ids or names, two or more; all meshes when null */
    public function __construct(
        #[Param('Stitch', 'Rims of different bodies that come this near are sewn to each other; empty leaves them as they are.', unit: 'mm', positive: true, empty: 'off')]
        public ?float $stitch = null,
        #[Param('Bodies', 'Bodies that become one.', picks: 'works')]
        public ?array $bodies = null,
    ) {
        if ($bodies !== null && (count($bodies) < 2 || array_filter($bodies, fn (mixed $name) => ! is_string($name)) !== [])) {
            throw InvalidParameter::of('bodies', 'must be a list of two names or more; leave it out for all bodies');
        }
    }
}
