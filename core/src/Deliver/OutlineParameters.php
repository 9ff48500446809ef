<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\LookAlong;
use Emberstone\Core\Operation\Param;

/** What `outline` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class OutlineParameters
{
    /** @param  string|array<mixed>  $along  X, Y, Z, -X, -Y or -Z, the name of a datum, a vector of three numbers, or {"point", "direction"} in mm */
    public function __construct(
        #[Param('Seen', 'The way it is looked at the part.', picks: 'look')]
        public string|array $along = '-Z',
        #[Param('From', 'What lies before this depth is left out. Depths are counted the way it is looked, from where the axis or datum begins.', unit: 'mm', empty: 'all')]
        public ?float $from = null,
        #[Param('To', 'What lies behind this depth is left out.', unit: 'mm', empty: 'all')]
        public ?float $to = null,
        #[Param('Lines and arcs', 'Curves become as few straight lines and arcs as pass no point farther than this; empty leaves every point.', unit: 'mm', positive: true, empty: 'off')]
        public ?float $fit = null,
    ) {
        LookAlong::check('along', $along);
        if ($from !== null && $to !== null && $from >= $to) {
            throw InvalidParameter::of('to', sprintf('must lie behind "from" (%g mm), the way it is looked', $from));
        }
    }
}
