<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Handover;

use Emberstone\Core\Deliver\Brief;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Mesh\Look;
use Emberstone\Core\Operation\Param;

/** What `deliver` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class DeliverParameters
{
    public const FORMATS = ['stl', 'obj', 'ply', '3mf', 'glb', 'off', 'step'];

    /**
     * @param  array<int, string>  $formats  of FORMATS; clouds come as PLY whatever is said
     * @param  string  $for  who gets it
     * @param  bool  $package  on the command line: one zip of all beside the files
     * @param  array<int, string>|null  $bodies  ids or names of what is handed over; a short way to say `on`
     * @param  array<int, string>|null  $on  the same; all bodies when both are null
     * @param  array<string, mixed>|null  $brief  what was asked for (see Brief::fromArray), the `title` of the project, who confirmed its `scale` (`by`, `at`), and `names` and `looks` given by hand, by id; millimetres
     *                                          with Z up when null
     * @param  array<string, mixed>|null  $looks  colours and materials by names or ids of bodies, see Look::from
     */
    public function __construct(
        #[Param('Formats', 'Every body comes as a file of each; as STEP with its shapes, datums and sections.', choices: self::FORMATS)]
        public array $formats = ['stl'],
        #[Param('For', 'Who gets it; it stands on the report.')]
        public string $for = '',
        #[Param('Package', 'One zip with the files, the report and their sums.', picks: 'recipe')]
        public bool $package = false,
        #[Param('Bodies', 'Bodies that are handed over.', picks: 'recipe')]
        public ?array $bodies = null,
        #[Param('On', 'Bodies that are handed over.', picks: 'works')]
        public ?array $on = null,
        #[Param('Brief', 'Unit, axis that is up, and bounds.', picks: 'recipe')]
        public ?array $brief = null,
        #[Param('Looks', 'Colour and material of bodies: {"Cap": {"colour": "#8a8f94", "material": "cast iron"}}. 3MF and GLB hold them, and the report shows them.', picks: 'recipe')]
        public ?array $looks = null,
    ) {
        if ($formats === [] || array_diff($formats, self::FORMATS) !== []) {
            throw InvalidParameter::of('formats', 'must be one or more of '.implode(', ', self::FORMATS));
        }
        if ($bodies !== null && $on !== null) {
            throw InvalidParameter::of('bodies', 'and "on" say the same; leave one out');
        }
        Brief::fromArray($brief ?? []);
        array_map(Look::from(...), [...array_values($looks ?? []), ...array_values($brief['looks'] ?? [])]);
    }

    /** What a body or drawing is called on the report and in the names of files. */
    public function nameOf(string $id, string $name): string
    {
        $given = $this->brief['names'][$id] ?? null;

        return is_string($given) && $given !== '' ? $given : $name;
    }

    /** What somebody says that a body looks like. */
    public function lookOf(string $id, string $name): Look
    {
        $look = $this->looks[$id] ?? $this->looks[$name] ?? $this->brief['looks'][$id] ?? null;

        return $look === null ? Look::none() : Look::from($look);
    }

    /** What was asked for: unit, axis that is up, bounds. */
    public function brief(): Brief
    {
        return Brief::fromArray($this->brief ?? []);
    }
}
