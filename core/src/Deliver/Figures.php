<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Mend\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\NoProgress;
use Emberstone\Core\Operation\PartProgress;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Progress;

/** What the ready card needs to know of a mesh; computed once a revision. */
final class Figures
{
    private const SAMPLES = 20000;

    /**
     * @param  list<Pass>  $passes  registered; their kept points are what the mesh must be faithful to
     * @return array<string, mixed>
     */
    public static function of(TriangleMesh $placed, array $passes, Progress $progress = new NoProgress): array
    {
        $inspection = Inspection::of($placed, new PartProgress($progress, 0.0, 0.8));
        $points = [];
        $all = array_sum(array_map(fn (Pass $pass) => $pass->keptCount(), $passes));
        foreach ($passes as $pass) {
            $cloud = $pass->placed();
            $n = $cloud->count();
            $many = (int) round(self::SAMPLES * $n / max(1, $all));
            for ($k = 0; $k < $many; $k++) {
                $o = 3 * intdiv($k * $n, $many);
                array_push($points, $cloud->positions[$o], $cloud->positions[$o + 1], $cloud->positions[$o + 2]);
            }
        }
        $distance = $points === [] || $placed->faces === [] ? null : SurfaceDistance::compare(PointCloud::fromFlat($points), $placed);

        return [
            'faces' => $placed->faceCount(), ...$inspection->toArray(), 'holeCount' => count($inspection->holes), 'faultCount' => $inspection->faultCount(),
            'holes' => array_slice($inspection->holes, 0, 200), 'measured' => $inspection->measured, 'distance' => $distance,
        ];
    }
}
