<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Takes passes, bodies, datums or artefacts out of the project. Undo brings them back.
 *
 * @implements Operation<ItemsParameters>
 */
final class Discard implements Operation
{
    public static function about(): About
    {
        return new About('discard', Stage::Gather, 'Discard', 'Takes passes, bodies, datums or artefacts out of the project. Undo brings them back.', 'any', ItemsParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 10);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $parameters->check($workpiece);
        $stays = fn (Pass|Body|Datum|Artefact $one) => ! $parameters->has($one);
        $left = new Workpiece(array_values(array_filter($workpiece->passes, $stays)), array_values(array_filter($workpiece->bodies, $stays)), array_values(array_filter($workpiece->datums, $stays)), array_values(array_filter($workpiece->artefacts, $stays)));
        $count = fn (Workpiece $of) => ['passes' => count($of->passes), 'bodies' => count($of->bodies), 'datums' => count($of->datums), 'artefacts' => count($of->artefacts)];
        $gone = [];
        foreach (array_filter([...$workpiece->passes, ...$workpiece->bodies, ...$workpiece->datums, ...$workpiece->artefacts], fn ($one) => ! $stays($one)) as $one) {
            $gone[] = $one->name;
        }

        $notes = [implode(', ', $gone).' '.(count($gone) === 1 ? 'was' : 'were').' taken out.'];
        $datumsGone = array_map(fn (Datum $datum) => $datum->name, array_filter($workpiece->datums, fn (Datum $datum) => ! $stays($datum)));
        $orphans = array_filter($left->datums, fn (Datum $datum) => array_intersect($datum->parents, $datumsGone) !== []);
        foreach ($orphans as $datum) {
            $notes[] = "$datum->name was made of ".implode(' and ', array_intersect($datum->parents, $datumsGone)).'; it stays where it is.';
        }

        return new Result($left, count($gone) === 1 ? "− {$gone[0]}" : '− '.count($gone).' items', $count($workpiece), $count($left), $notes);
    }
}
