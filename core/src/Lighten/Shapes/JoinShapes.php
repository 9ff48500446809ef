<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Shapes;

use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Makes one shape of several that find-shapes has told apart: the largest takes in the others, and is fitted to all.
 *
 * @implements Operation<JoinShapesParameters>
 */
final class JoinShapes implements Operation
{
    public static function about(): About
    {
        return new About('join-shapes', Stage::Lighten, 'Join shapes', 'Makes one shape of several that belong together.', 'meshes', JoinShapesParameters::class, readsArtefacts: true, avoid: 'Not for shapes of different size or kind: the fit says how far off it then is.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1 + 4e-6 * $workpiece->faceCount(), 40 + 4e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $work = ShapeCorrection::of($workpiece, array_values($parameters->shapes));
        $progress->advance('joining', 0.5);
        $places = $work->places(array_values($parameters->shapes));
        // They are listed in order of size.
        $into = min($places);
        $labels = array_map(fn (int $label) => in_array($label, $places, true) ? $into : $label, $work->map->labels);
        $refit = $work->refitted($labels, [$into => $work->map->entries[$into]['id']]);
        $entry = $refit->map->entryOf($work->map->entries[$into]['id']);
        if ($entry['kind'] === 'free' && $work->map->entries[$into]['kind'] !== 'free') {
            throw InvalidParameter::of('shapes', sprintf('lie on no one shape: %s together are free form. Join fewer, or split them first', implode(', ', $parameters->shapes)));
        }

        return new Result(
            $refit->workpiece(), sprintf('%s are one %s, %s off it', Format::many(count($places), 'shape'), $entry['kind'], Format::mm($entry['rms'])),
            ['shapes' => count($work->map->entries)], ['shapes' => count($refit->map->entries), 'rms' => $entry['rms']],
        );
    }
}
