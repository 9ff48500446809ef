<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Algorithms\Search\Visibility;
use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;

/**
 * Takes off surface in space that passes have looked through: flying points, strays and what moved during the scan make such surface.
 *
 * Source    space carving after Curless & Levoy 1996, section 4, here on the finished surface: only what few passes saw is asked about.
 */
final class FreeSpace
{
    /** Passes that must have seen a place for it to be there. */
    private const BACKED = 3;

    /**
     * @param  list<Pass>  $passes  with what was cut away of them: who saw the table looked through what is before it. Those whose sensor is not known say nothing
     * @return list<int> the faces that stay
     */
    public static function backed(TriangleMesh $mesh, array $passes, float $voxel, Progress $progress): array
    {
        $asked = $points = [];
        foreach ($mesh->support as $v => $support) {
            if (Evidence::passes($support) > 0 && Evidence::passes($support) < self::BACKED) {
                $asked[] = $v;
                array_push($points, $mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]);
            }
        }
        $through = $seen = array_fill(0, count($asked), 0);
        $passes = array_filter($points === [] ? [] : $passes, fn (Pass $pass) => $pass->source->hasSensor && $pass->keptCount() >= 2);
        $tasks = array_map(fn (Pass $pass) => function () use ($pass, $points, $voxel): string {
            $cloud = $pass->allCloud();
            assert($cloud->sensorOrigin !== null);
            $spacing = PointGrid::of($cloud->positions)->medianSpacing(300);

            return Visibility::of($cloud->positions, $cloud->sensorOrigin, $spacing)->verdicts($pass->transform->inverse()->points($points), 2.0 * max($spacing, $voxel));
        }, array_values($passes));
        foreach (Fork::map($tasks, Cores::count(), $progress, 'looked through') as $verdicts) {
            foreach ($asked as $k => $_) {
                $through[$k] += $verdicts[$k] === Visibility::BEFORE ? 1 : 0;
                $seen[$k] += $verdicts[$k] === Visibility::AGREES ? 1 : 0;
            }
        }
        $gone = [];
        foreach ($asked as $k => $v) {
            if ($through[$k] > 0 && $through[$k] >= $seen[$k]) {
                $gone[$v] = true;
            }
        }
        $keep = [];
        for ($t = 0, $n = $mesh->faceCount(); $t < $n; $t++) {
            if (! isset($gone[$mesh->faces[3 * $t]], $gone[$mesh->faces[3 * $t + 1]], $gone[$mesh->faces[3 * $t + 2]])) {
                $keep[] = $t;
            }
        }

        return $keep;
    }
}
