<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Workpiece;

/** A datum fitted to the areas that spread from places on the surface, wherever the nearest body has it now. */
final class SurfaceSeed
{
    /** Degrees by which the surface may turn within an area where nothing is said. */
    public const ANGLE = 20.0;

    /**
     * @param  non-empty-list<array<int, float>>  $places  mm, in project coordinates
     * @param  string  $kind  `plane`, `cylinder`, `cone` or `sphere`
     *
     * @throws UnsuitableInput when there is no mesh, or the areas are too small or not of that kind
     */
    public static function fit(Workpiece $workpiece, array $places, string $kind, float $angleDeg, string $name, ?FitConstraint $held = null): Datum
    {
        $trees = [];
        foreach ($workpiece->meshes() as $body) {
            $mesh = $body->placedMesh();
            $trees[] = [$body, TriangleBvh::of($mesh->positions, $mesh->faces)];
        }
        $bodyId = null;
        $seen = $points = $normals = $weights = [];
        foreach ($places as $place) {
            [$body, $face] = self::faceAt($trees, $place);
            $bodyId ??= $body->id;
            if (isset($seen[$body->id][$face])) {
                continue;
            }
            $blob = OpenBlob::bytes(Blob::encode($body->geometry));
            $area = FitDatum::area($blob, self::placement($blob, $body), $face, $kind, $angleDeg);
            $seen[$body->id] = ($seen[$body->id] ?? []) + array_fill_keys($area['faces'], true);
            array_push($points, ...$area['points']);
            array_push($normals, ...$area['normals']);
            array_push($weights, ...$area['weights']);
        }

        return FitDatum::fitted($kind, $points, $normals, $weights, array_sum(array_map(count(...), $seen)), $name, 'spread', $held)->ofBody($bodyId);
    }

    /** From the blob's coordinates to the project's. */
    public static function placement(OpenBlob $blob, Body $body): Placement
    {
        return $body->placement()->from($blob->head['origin']);
    }

    /**
     * @param  list<array{Body, TriangleBvh}>  $trees
     * @param  array<int, float>  $place
     * @return array{Body, int} the body nearest to it, and the face
     */
    private static function faceAt(array $trees, array $place): array
    {
        $best = [INF, null, 0];
        foreach ($trees as [$body, $tree]) {
            $face = $distanceSq = [];
            $tree->closest($place, $face, $distanceSq);
            if ($distanceSq[0] < $best[0]) {
                $best = [$distanceSq[0], $body, $face[0]];
            }
        }
        [, $body, $face] = $best;

        return [$body ?? throw UnsuitableInput::because('There is no mesh to spread over; fuse the passes first, or pick points.'), $face];
    }
}
