<?php

declare(strict_types=1);

namespace Emberstone\Core\Measure;

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Mesh\TriangleMesh;

/** How far a lighter mesh lies from the one that it was made of. */
final class Deviation
{
    /** Numbers of points measured between two reports. */
    public const PORTION = 90000;

    /**
     * How far points lie from a surface at most, and which lie beyond a bound.
     *
     * @param  array<int, float>  $points  flat xyz
     * @param  array<int, int>|null  $faces  of the surface: its corners next to a point beyond the bound are told; null: the numbers of the points
     * @param  array<int, true>  $beyond  (changed)
     * @return float mm
     */
    public static function beyond(array $points, ?array $faces, TriangleBvh $tree, float $bound, array &$beyond, Progress $progress): float
    {
        $worst = 0.0;
        for ($o = 0, $n = count($points); $o < $n; $o += self::PORTION) {
            $progress->advance('verifying', $o / $n);
            $face = $distanceSq = [];
            $tree->closest(array_slice($points, $o, self::PORTION), $face, $distanceSq);
            $worst = max($worst, max($distanceSq));
            foreach ($distanceSq as $i => $d) {
                if ($d <= $bound * $bound) {
                    continue;
                }
                if ($faces === null) {
                    $beyond[intdiv($o, 3) + $i] = true;
                } else {
                    $beyond[$faces[3 * $face[$i]]] = $beyond[$faces[3 * $face[$i] + 1]] = $beyond[$faces[3 * $face[$i] + 2]] = true;
                }
            }
        }

        return sqrt($worst);
    }

    /** The largest distance between two surfaces, both ways, mm; looked for at vertices, middles of edges and of faces. */
    public static function bothWays(TriangleMesh $a, TriangleMesh $b, Progress $progress): float
    {
        if ($a->faces === [] || $b->faces === []) {
            return 0.0;
        }

        $beyond = [];

        return max(
            self::beyond(SurfaceDistance::densePoints($a), null, TriangleBvh::of($b->positions, $b->faces), INF, $beyond, new PartProgress($progress, 0.0, 0.75)),
            self::beyond(SurfaceDistance::densePoints($b), null, TriangleBvh::of($a->positions, $a->faces), INF, $beyond, new PartProgress($progress, 0.75, 1.0)),
        );
    }
}
