<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;

/** What `copy` and `discard` take: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class ItemsParameters
{
    /** @param  array<int, string>  $on  ids or names of passes, bodies, datums or artefacts */
    public function __construct(
        #[Param('On', 'Chosen in the tray.', picks: 'items')]
        public array $on,
    ) {
        if ($on === []) {
            throw InvalidParameter::of('on', 'names nothing');
        }
        foreach ($on as $k => $item) {
            if (! is_string($item)) {
                throw InvalidParameter::of('on', "entry $k must be the name of a pass, body or datum");
            }
        }
    }

    public function has(Pass|Body|Datum|Artefact $one): bool
    {
        return in_array($one->id, $this->on, true) || in_array($one->name, $this->on, true);
    }

    /** @throws UnsuitableInput when one of them is not there */
    public function check(Workpiece $workpiece): void
    {
        $all = [...$workpiece->passes, ...$workpiece->bodies, ...$workpiece->datums, ...$workpiece->artefacts];
        $known = [...array_map(fn (Pass|Body|Datum|Artefact $one) => $one->id, $all), ...array_map(fn (Pass|Body|Datum|Artefact $one) => $one->name, $all)];
        foreach ($this->on as $item) {
            if (! in_array($item, $known, true)) {
                throw UnsuitableInput::because("There is no pass, body, datum or artefact \"$item\"; it may have gone meanwhile.");
            }
        }
    }
}
