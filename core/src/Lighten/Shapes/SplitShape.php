<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Shapes;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Parts a shape that find-shapes has made too large: what is selected of it becomes a shape of its own, or else each piece that hangs together.
 *
 * @implements Operation<SplitShapeParameters>
 */
final class SplitShape implements Operation
{
    public static function about(): About
    {
        return new About('split-shape', Stage::Lighten, 'Split shape', 'Makes shapes of their own of parts of one.', 'meshes', SplitShapeParameters::class, readsArtefacts: true);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1 + 4e-6 * $workpiece->faceCount(), 40 + 4e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $ids = array_values(array_unique($parameters->shapes));
        $work = ShapeCorrection::of($workpiece, $ids);
        $places = $work->places($ids);
        $progress->advance('splitting', 0.5);
        $labels = $work->map->labels;
        $next = count($work->map->entries);
        $selected = $parameters->selected();
        if ($selected !== null) {
            $faces = count($labels);
            $marks = $selected->marks($work->body->id, $faces) ?? $selected->marks($work->body->name, $faces) ?? throw InvalidParameter::of('selection', "names no face of {$work->body->name}, whose shape is to be split");
            foreach ($labels as $t => $label) {
                if ($marks[$t] === "\1" && in_array($label, $places, true)) {
                    $labels[$t] = $next;
                }
            }
        } else {
            // Neighbours of one shape hang together.
            $twins = Topology::twins($work->mesh->faces);
            $within = array_map(fn (int $g, int $h) => $g >= 0 && $labels[intdiv($g, 3)] === $labels[intdiv($h, 3)] ? $g : -1, $twins, array_keys($twins));
            $pieces = Topology::pieces($within)['of'];
            $seen = $kept = [];
            foreach ($work->map->labels as $t => $label) {
                if (in_array($label, $places, true)) {
                    $kept[$label] ??= $pieces[$t];
                    $labels[$t] = $pieces[$t] === $kept[$label] ? $label : $seen[$pieces[$t]] ??= $next + count($seen);
                }
            }
        }
        $gone = array_diff($places, array_unique($labels));
        $new = max($labels) - $next + 1;
        if ($new <= 0 || $gone !== []) {
            throw UnsuitableInput::because($gone !== [] ? 'All of a shape is selected; select only the part that is to be a shape of its own.' : ($selected === null ? 'It hangs together in one piece: select the part that is to be a shape of its own.' : 'Nothing of it is selected.'));
        }
        $refit = $work->refitted($labels, array_combine($places, $ids));

        return new Result($refit->workpiece(), sprintf('%s split off', Format::many($new, 'shape')), ['shapes' => $next], ['shapes' => count($refit->map->entries)]);
    }
}
