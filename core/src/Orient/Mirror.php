<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\PlaneChoice;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Makes the mirror image of bodies: the left-hand part of the right-hand one. The bodies stay.
 *
 * Output    a new body for each, its faces turned so that they look outwards; evidence, marks of made-up faces and rims left open go along.
 * Error     rounding: a few units in the last place of the coordinates.
 *
 * @implements Operation<MirrorParameters>
 */
final class Mirror implements MakesNew, Operation
{
    public static function about(): About
    {
        return new About('mirror', Stage::Orient, 'Mirror', 'Makes a new body that is the mirror image of one in a plane.', 'bodies', MirrorParameters::class, avoid: 'Not to complete a part that is not symmetrical: compare both halves first.');
    }

    /** @return list<string>|null */
    public static function makes(object $parameters, ?array $on): ?array
    {
        return $on === null ? null : array_map(fn (string $name) => "$name, mirrored", $on);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 1e-6 * $workpiece->faceCount(), 50 + 3e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        if ($workpiece->bodies === []) {
            throw UnsuitableInput::because('There is no body to mirror: fuse the passes first, or bring in a mesh.');
        }
        $plane = PlaneChoice::of('plane', $parameters->plane, $workpiece->datums);
        $images = [];
        foreach ($workpiece->bodies as $k => $body) {
            $images[] = Body::of("$body->name, mirrored", self::image($body->placed(), $plane))->leavingOpen(array_map(fn (array $place) => [...$plane->mirrored($place), ...array_slice($place, 3)], $body->openPlaces()));
            $progress->advance('mirroring', ($k + 1) / count($workpiece->bodies));
        }

        return new Result($workpiece->withBodies([...$workpiece->bodies, ...$images]), count($images) === 1 ? "{$images[0]->name} in $plane->name" : count($images)." bodies in $plane->name", ['bodies' => count($workpiece->bodies)], ['bodies' => count($workpiece->bodies) + count($images)]);
    }

    private static function image(TriangleMesh|PointCloud $geometry, PlaneChoice $plane): TriangleMesh|PointCloud
    {
        $positions = self::reflected($geometry->positions, $plane->point, $plane->normal);
        if ($geometry instanceof PointCloud) {
            // A capture's raster goes: its rays would run the other way round.
            return PointCloud::fromFlat($positions, self::reflected($geometry->normals, [0.0, 0.0, 0.0], $plane->normal), $geometry->colours, $geometry->sensorOrigin === null ? null : $plane->mirrored($geometry->sensorOrigin), $geometry->confidence);
        }
        $faces = $geometry->faces;
        for ($o = 0, $n = count($faces); $o < $n; $o += 3) {
            [$faces[$o + 1], $faces[$o + 2]] = [$faces[$o + 2], $faces[$o + 1]];
        }

        return TriangleMesh::fromFlat($positions, $faces, $geometry->support, $geometry->origin);
    }

    /**
     * @param  list<float>  $flat  xyz
     * @param  array{float, float, float}  $point  of the plane
     * @param  array{float, float, float}  $normal  unit
     * @return list<float>
     */
    private static function reflected(array $flat, array $point, array $normal): array
    {
        [$px, $py, $pz] = $point;
        [$nx, $ny, $nz] = $normal;
        for ($o = 0, $n = count($flat); $o < $n; $o += 3) {
            $twice = 2.0 * (($flat[$o] - $px) * $nx + ($flat[$o + 1] - $py) * $ny + ($flat[$o + 2] - $pz) * $nz);
            $flat[$o] -= $twice * $nx;
            $flat[$o + 1] -= $twice * $ny;
            $flat[$o + 2] -= $twice * $nz;
        }

        return $flat;
    }
}
