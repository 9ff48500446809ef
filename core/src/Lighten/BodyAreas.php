<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Operation\Workpiece;

/** How large the surfaces of the meshes are, by which what is asked for of all is shared out. */
final class BodyAreas
{
    /** @return array<int|string, float> mm2 by the id of the body */
    public static function of(Workpiece $workpiece): array
    {
        $areas = [];
        foreach ($workpiece->meshes() as $body) {
            $mesh = $body->placedMesh();
            $areas[$body->id] = array_sum(Measure::areas($mesh->positions, $mesh->faces));
        }

        return $areas;
    }
}
