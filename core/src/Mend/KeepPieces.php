<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Mesh\Kernel\Measure;
use Emberstone\Core\Mesh\Kernel\Topology;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;

/**
 * Drops all connected pieces but the largest.
 *
 * @implements Operation<KeepPiecesParameters>
 */
final class KeepPieces implements Operation
{
    public static function about(): About
    {
        return new About('keep-pieces', Stage::Mend, 'Keep pieces', 'Keeps the largest connected pieces and drops the loose ones.', 'meshes', KeepPiecesParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1 + 2e-6 * $workpiece->faceCount(), 40 + 2e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $before = $after = 0;
        $result = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, &$before, &$after): TriangleMesh {
            $pieces = Topology::pieces(Topology::twins($mesh->faces));
            $progress->advance('pieces', 0.5);
            $areas = array_fill(0, $pieces['count'], 0.0);
            foreach (Measure::areas($mesh->positions, $mesh->faces) as $t => $area) {
                $areas[$pieces['of'][$t]] += $area;
            }
            arsort($areas);
            $kept = $parameters->largest !== null
                ? array_slice($areas, 0, $parameters->largest, true)
                : array_filter($areas, fn (float $area) => $area >= $parameters->minArea);
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
}
