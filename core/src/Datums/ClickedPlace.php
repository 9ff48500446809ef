<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;

/** A place that lies on the surface of a body was clicked there: it is off by what noise leaves in the surface. One that lies elsewhere was typed, and is exact. */
final class ClickedPlace
{
    /** A place lies on the surface within this share of the size of the body: coordinates come through files and windows of seven digits. */
    private const ON = 1e-5;

    /**
     * The same places with what is known of them.
     *
     * @param  list<Datum>  $places  points
     * @param  list<Body>  $bodies  meshes
     * @return list<Datum>
     */
    public static function known(array $places, array $bodies): array
    {
        foreach ($bodies as $body) {
            $mesh = $body->placedMesh();
            $box = BoundingBox::of($mesh->positions);
            $on = self::ON * $box->diagonal();
            $inside = array_filter($places, fn (Datum $place) => $place->error === null && max(array_map(fn (float $at, float $low, float $high) => max($low - $at, $at - $high), $place->origin, $box->min, $box->max)) <= $on);
            foreach ($inside === [] ? [] : self::noise($mesh, array_map(fn (Datum $place) => $place->origin, $inside), $on) as $k => $noise) {
                $places[$k] = $places[$k]->withError(['placeMm' => $noise, 'angleDeg' => 0.0, 'diameterMm' => 0.0], 'picked');
            }
        }

        return array_values($places);
    }

    /**
     * @param  array<int, array{float, float, float}>  $places
     * @param  float  $on  mm from the surface within which a place lies on it
     * @return array<int, float> one standard deviation, mm, of those that do, by their keys; none where the surface is too coarse to tell
     */
    private static function noise(TriangleMesh $mesh, array $places, float $on): array
    {
        $face = $distanceSq = $noise = [];
        TriangleBvh::of($mesh->positions, $mesh->faces)->closest(array_merge(...array_values($places)), $face, $distanceSq);
        $normals = Measure::crosses($mesh->positions, $mesh->faces);
        $surface = null;
        foreach (array_keys($places) as $n => $k) {
            if ($distanceSq[$n] <= $on * $on) {
                $surface ??= new SurfaceNoise($mesh);
                $o = 3 * $face[$n];
                $noise[$k] = $surface->at($places[$k], Vector3::unit([$normals[$o], $normals[$o + 1], $normals[$o + 2]])) ?? $surface->typical();
            }
        }

        return array_filter($noise, fn (?float $one) => $one !== null);
    }
}
