<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Measure\FaultPlaces;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * All faults of the meshes, by family and place. Changes nothing.
 *
 * @implements Operation<InspectParameters>
 *
 * @phpstan-import-type Place from FaultPlaces
 */
final class Inspect implements Operation
{
    /** As many places of one family as are worth going to one by one. */
    private const LISTED = 100;

    public static function about(): About
    {
        return new About('inspect', Stage::Mend, 'Inspect', 'Finds every fault of the mesh and shows where it is. Changes nothing.', 'meshes', InspectParameters::class, looksOnly: true);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5 + 1.2e-5 * $workpiece->faceCount(), 80 + 7e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        /** @var array<string, array{count: int, places: list<Place>}> $all */
        $all = array_fill_keys(FaultPlaces::FAMILIES, ['count' => 0, 'places' => []]);
        $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use (&$all): TriangleMesh {
            foreach (FaultPlaces::of($mesh, $body->openPlaces(), $progress) as $family => $found) {
                ['count' => $count, 'places' => $places] = $all[$family];
                $all[$family] = ['count' => $count + $found['count'], 'places' => [...$places, ...$found['places']]];
            }

            return $mesh;
        }, $progress);
        $families = [];
        foreach (array_filter($all, fn (array $found) => $found['count'] > 0) as $family => $found) {
            $families[] = ['family' => $family, 'count' => $found['count'], 'more' => max(0, count($found['places']) - self::LISTED), 'places' => array_map(
                fn (array $place) => ['centre' => $place['centre'], 'sizeMm' => round($place['sizeMm'], 4), 'count' => $place['count']], array_slice($found['places'], 0, self::LISTED),
            )];
        }
        $faults = array_sum(array_column($families, 'count'));

        return new Result($workpiece, $faults === 0 ? 'no fault' : ($faults === 1 ? '1 fault' : "$faults faults"), [], ['faults' => $faults, 'families' => $families]);
    }
}
