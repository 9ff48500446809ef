<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Mesh\TriangleMesh;
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

    /**
     * Shares a count of faces out over the meshes by area: where one holds fewer than its share, the others get what it leaves.
     *
     * @param  list<int>  $counts  of faces of all together
     * @return list<array<int|string, int>> of each count the shares by the id of the body, four at least
     */
    public static function shares(Workpiece $workpiece, array $counts): array
    {
        $areas = array_map(fn (float $area) => max(1e-300, $area), self::of($workpiece));
        $have = [];
        foreach ($workpiece->meshes() as $body) {
            $have[$body->id] = $body->geometry instanceof TriangleMesh ? $body->geometry->faceCount() : 0;
        }

        return array_map(fn (int $faces) => self::sharesOf($faces, $areas, $have), $counts);
    }

    /**
     * @param  array<int|string, float>  $areas
     * @param  array<int|string, int>  $have
     * @return array<int|string, int>
     */
    private static function sharesOf(int $faces, array $areas, array $have): array
    {
        $shares = [];
        while ($areas !== []) {
            $each = $faces / array_sum($areas);
            $full = array_filter($areas, fn (float $area, int|string $id) => $have[$id] <= $area * $each, ARRAY_FILTER_USE_BOTH);
            if ($full === []) {
                return $shares + array_map(fn (float $area) => max(4, (int) round($area * $each)), $areas);
            }
            foreach ($full as $id => $area) {
                $shares[$id] = $have[$id];
                $faces -= $have[$id];
                unset($areas[$id]);
            }
        }

        return $shares;
    }
}
