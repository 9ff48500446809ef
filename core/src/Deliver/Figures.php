<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;

/** What the ready card needs to know of a mesh; computed once a revision. */
final class Figures
{
    private const SAMPLES = 20000;

    /** The widest holes are listed one by one. */
    private const HOLES = 200;

    /**
     * @param  list<Pass>  $passes  registered; their kept points are what the mesh must be faithful to
     * @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $leftOpen  the middles of rims that shall stay open
     * @return array<string, mixed>
     */
    public static function of(TriangleMesh $placed, array $passes, array $leftOpen = [], Progress $progress = new NoProgress): array
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

        return self::marked([
            'faces' => $placed->faceCount(), ...$inspection->toArray(), 'holeCount' => count($inspection->holes), 'faultCount' => $inspection->faultCount(),
            'holes' => array_slice($inspection->holes, 0, self::HOLES), 'measured' => $inspection->measured, 'madeUp' => $inspection->madeUp, 'noiseMm' => self::noise($placed), 'distance' => $distance,
        ], $leftOpen);
    }

    /** What the points of 95 of 100 vertices lie off the surface at most, root mean square; null where nobody knows. */
    private static function noise(TriangleMesh $mesh): ?float
    {
        $spreads = array_values(array_filter(array_map(Evidence::spreadMm(...), $mesh->support)));
        sort($spreads);

        return $spreads === [] ? null : $spreads[(int) (0.95 * (count($spreads) - 1))];
    }

    /**
     * The same figures for a body that was moved without changing its size.
     *
     * @param  array<string, mixed>  $figures
     * @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $leftOpen
     * @return array<string, mixed>
     */
    public static function moved(array $figures, RigidTransform $by, array $leftOpen): array
    {
        foreach ($by->isIdentity() ? [] : $figures['holes'] as $k => $hole) {
            $figures['holes'][$k] = ['centre' => $by->point($hole['centre']), 'outline' => array_map($by->point(...), $hole['outline'] ?? [])] + $hole;
        }

        return self::marked($figures, $leftOpen);
    }

    /**
     * Tells which holes are left open on purpose.
     *
     * @param  array<string, mixed>  $figures
     * @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $leftOpen
     * @return array<string, mixed>
     */
    private static function marked(array $figures, array $leftOpen): array
    {
        /** @var list<array{diameter: float, centre: array{float, float, float}}> $holes */
        $holes = $figures['holes'];
        $figures['holes'] = array_map(fn (array $hole) => ['leftOpen' => BoundaryLoops::isMeant($hole, $leftOpen)] + $hole, $holes);
        $figures['leftOpen'] = count(array_filter(array_column($figures['holes'], 'leftOpen')));

        return $figures;
    }
}
