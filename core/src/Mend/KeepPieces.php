<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Places;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Drops all connected pieces but the largest, or those that were picked. A body without a pick stays as it is.
 *
 * @implements Operation<KeepPiecesParameters>
 */
final class KeepPieces implements Operation
{
    public static function about(): About
    {
        return new About('keep-pieces', Stage::Mend, 'Keep pieces', 'Keeps the largest connected pieces and drops the loose ones.', 'meshes', KeepPiecesParameters::class, avoid: 'Not where several bodies were scanned at once and all are wanted: split them instead.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1 + 2e-6 * $workpiece->faceCount(), 40 + 2e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $before = $after = 0;
        $picked = $parameters->at === null ? [] : self::picked($workpiece, Places::checked('at', $parameters->at));
        $result = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, $picked, &$before, &$after): TriangleMesh {
            if ($parameters->at !== null && ! isset($picked[$body->id])) {
                return $mesh;
            }
            $pieces = Topology::pieces(Topology::twins($mesh->faces));
            $progress->advance('pieces', 0.5);
            $areas = array_fill(0, $pieces['count'], 0.0);
            foreach (Measure::areas($mesh->positions, $mesh->faces) as $t => $area) {
                $areas[$pieces['of'][$t]] += $area;
            }
            arsort($areas);
            $kept = match (true) {
                $parameters->at !== null => array_intersect_key($areas, array_flip(array_map(fn (int $face) => $pieces['of'][$face], $picked[$body->id]))),
                $parameters->largest !== null => array_slice($areas, 0, $parameters->largest, true),
                default => array_filter($areas, fn (float $area) => $area >= $parameters->minArea),
            };
            $before += $pieces['count'];
            $after += count($kept);
            if (count($kept) === $pieces['count']) {
                return $mesh;
            }
            $keep = [];
            foreach ($pieces['of'] as $t => $piece) {
                if (isset($kept[$piece])) {
                    $keep[] = $t;
                }
            }
            if ($keep === []) {
                throw UnsuitableInput::because("No piece of {$body->name} is that large; the largest has ".number_format(max($areas), 1).' mm². Choose a smaller least area.');
            }

            return $mesh->withFaces($keep);
        }, $progress);

        return new Result($result, "$before → $after pieces", ['pieces' => $before, 'faces' => $workpiece->faceCount()], ['pieces' => $after, 'faces' => $result->faceCount()]);
    }

    /**
     * Each place belongs to the body it is nearest to.
     *
     * @param  list<array{float, float, float}>  $places
     * @return array<string, list<int>> faces by id of the body
     */
    private static function picked(Workpiece $workpiece, array $places): array
    {
        $least = array_fill(0, count($places), INF);
        $of = $at = [];
        foreach ($workpiece->meshes() as $body) {
            $mesh = $body->placed();
            assert($mesh instanceof TriangleMesh);
            if ($mesh->faces === []) {
                continue;
            }
            $face = $distanceSq = [];
            TriangleBvh::of($mesh->positions, $mesh->faces)->closest(array_merge(...$places), $face, $distanceSq);
            foreach ($distanceSq as $k => $d) {
                if ($d < $least[$k]) {
                    [$least[$k], $of[$k], $at[$k]] = [$d, $body->id, $face[$k]];
                }
            }
        }
        $picked = [];
        foreach ($of as $k => $id) {
            $picked[$id][] = $at[$k];
        }

        return $picked;
    }
}
