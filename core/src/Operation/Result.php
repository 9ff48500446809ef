<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Geometry\Placement;

/** What an operation gives back. The input workpiece is as it was. */
final readonly class Result
{
    /**
     * @param  array<string, mixed>  $before  figures a technician would sign
     * @param  array<string, mixed>  $after
     * @param  list<string>  $notes
     * @param  list<ShadeMap>  $maps  to colour passes or bodies by
     * @param  Placement|null  $everything  the scale (first) and motion that all passes, bodies and datums went through together; null where only some did, or none
     */
    public function __construct(
        public Workpiece $workpiece,
        public string $headline,
        public array $before = [],
        public array $after = [],
        public array $notes = [],
        public Outcome $outcome = Outcome::Reached,
        public array $maps = [],
        public ?Placement $everything = null,
    ) {
    }
}
