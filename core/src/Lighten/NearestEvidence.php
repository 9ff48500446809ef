<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Search\TriangleFeet;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Mesh\TriangleMesh;

/** Carries evidence over to a mesh that was laid anew on another: what backed the nearest place backs the new one. */
final class NearestEvidence
{
    /** @param  TriangleBvh  $tree  of the mesh that was there */
    public static function carried(TriangleMesh $result, TriangleMesh $mesh, TriangleBvh $tree): TriangleMesh
    {
        $support = $origin = $face = $distanceSq = $corner = [];
        if ($mesh->support !== []) {
            $tree->closest($result->positions, $face, $distanceSq);
            TriangleFeet::of($result->positions, $face, $mesh->positions, $mesh->faces, $corner);
            foreach ($face as $v => $t) {
                $support[] = $mesh->support[$mesh->faces[3 * $t + $corner[$v]]];
            }
        }
        if ($mesh->origin !== []) {
            $tree->closest(Measure::centres($result->positions, $result->faces), $face, $distanceSq);
            foreach ($face as $t) {
                $origin[] = $mesh->origin[$t];
            }
            // A cell has one mark: where one half was made up, all of it is told as that.
            foreach ($result->quads as $t) {
                $origin[$t] = $origin[$t + 1] = max($origin[$t], $origin[$t + 1]);
            }
        }

        return TriangleMesh::fromFlat($result->positions, $result->faces, $support, $origin, $result->quads);
    }
}
