<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Cutting\PlaneCut;
use Emberstone\Core\Mesh\TriangleMesh;

/** One side of a mesh that was cut, with its evidence: what is cut has that of the face it was, a vertex on the cut that of the nearer end of its edge. */
final class CutPart
{
    /** @param  list<int>  $cap  flat faces that close it, marked as made */
    public static function of(TriangleMesh $mesh, PlaneCut $cut, int $side, array $cap = []): TriangleMesh
    {
        $support = $mesh->support;
        foreach ($support === [] ? [] : $cut->between as [$a, $b, $t]) {
            $support[] = $mesh->support[$t < 0.5 ? $a : $b];
        }
        $faces = [...$cut->faces[$side], ...$cap];
        $origin = [];
        if ($mesh->origin !== [] || $cap !== []) {
            foreach ($cut->source[$side] as $t) {
                $origin[] = $mesh->origin[$t] ?? TriangleMesh::MEASURED;
            }
            $origin = [...$origin, ...array_fill(0, intdiv(count($cap), 3), TriangleMesh::MADE)];
        }
        $part = TriangleMesh::fromFlat($cut->positions, $faces, $support, $origin);

        return $part->withFaces(range(0, $part->faceCount() - 1));
    }
}
