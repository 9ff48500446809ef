<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `compare` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class CompareParameters
{
    /** What `to` says for the points that the bodies were made of. */
    public const PASSES = 'passes';

    /** And for the shapes that were found on each body: how true its faces are. */
    public const SHAPES = 'shapes';

    /** @param  array<int, string>|null  $on  ids or names of the bodies that are looked at; all but the one that they are compared with when null */
    public function __construct(
        #[Param('With', 'The raw points of all passes, another body, or the shapes that were found on it.', picks: 'against')]
        public string $to = self::PASSES,
        #[Param('Tolerance', 'Up to this far off counts as within; empty leaves that out.', unit: 'mm', positive: true)]
        public ?float $tolerance = null,
        #[Param('Signed', 'Tells outside from inside: more than 0 lies outside the surface that it is measured from.')]
        public bool $signed = true,
        #[Param('Best fit first', 'Lays what it is compared with onto the body, as most of it says, before distances are measured; nothing is moved. Then they tell of the shape alone, not of where it stands.')]
        public bool $bestFit = false,
        #[Param('On', 'Bodies that are looked at.', picks: 'works')]
        public ?array $on = null,
    ) {
        if ($bestFit && $to === self::SHAPES) {
            throw InvalidParameter::of('bestFit', 'is of passes and bodies: the shapes were found on the body and lie on it');
        }
        if ($on === [] || ($on !== null && array_filter($on, fn (mixed $name) => ! is_string($name)) !== [])) {
            throw InvalidParameter::of('on', 'must be a list of one name or more; leave it out for all bodies');
        }
    }
}
