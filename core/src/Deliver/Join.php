<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Cutting\Stitching;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Makes one body of several, as they lie; with rims that meet sewn to each other if asked.
 *
 * Output    one body in place of them, with the evidence of all; what is not sewn is as it was, to the bit. Datums and sections of them go with it.
 * Error     sewn vertices move by half the tolerance at most, see Algorithms\Cutting\Stitching.
 *
 * @implements Operation<JoinParameters>
 */
final class Join implements MakesNew, Operation
{
    public static function about(): About
    {
        return new About('join', Stage::Deliver, 'Join', 'Makes one body of several, with rims that meet sewn together if asked.', 'meshes', JoinParameters::class, avoid: 'Not for bodies that cross each other: add one to the other instead.');
    }

    /**
     * @param  JoinParameters  $parameters
     * @return list<string>|null
     */
    public static function makes(object $parameters, ?array $on): ?array
    {
        return $parameters->bodies === null ? null : [self::nameOf($parameters->bodies)];
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1 + 2e-6 * $workpiece->faceCount(), 40 + 5e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $bodies = self::named($workpiece, $parameters->bodies);
        if (count($bodies) < 2) {
            throw UnsuitableInput::because('Two bodies at least are needed to join them.');
        }
        $meshes = array_map(fn (Body $body) => $body->placedMesh(), $bodies);
        $mesh = TriangleMesh::joined($meshes);
        $sewn = 0;
        if ($parameters->stitch !== null) {
            $progress->advance('sewing rims', 0.2);
            $owner = array_merge(...array_map(fn (TriangleMesh $one, int $k) => array_fill(0, $one->vertexCount(), $k), $meshes, array_keys($meshes)));
            $stitched = Stitching::of($mesh->positions, $mesh->faces, $owner, $parameters->stitch);
            if ($stitched['trouble'] !== null) {
                throw UnsuitableInput::because(sprintf('The rims cannot be sewn near (%.2f, %.2f, %.2f): more than two faces would meet, or bodies face opposite ways there. Choose a smaller tolerance, or repair the bodies first.', ...$stitched['trouble']));
            }
            $sewn = $stitched['sewn'];
            if ($sewn === 0) {
                throw UnsuitableInput::because('No rims come within '.Format::mm($parameters->stitch).' of each other. Move the bodies together, or choose a larger tolerance.');
            }
            $origin = $mesh->origin === [] ? [] : array_map(fn (int $t) => $mesh->origin[$t], $stitched['source']);
            $mesh = TriangleMesh::fromFlat($stitched['positions'], $stitched['faces'], $mesh->support, $origin);
            $mesh = $mesh->withFaces(range(0, $mesh->faceCount() - 1));
        }
        $progress->advance('joining', 1.0);
        $name = self::nameOf(array_map(fn (Body $body) => $body->name, $bodies));
        $joined = Body::of($name, $mesh)->leavingOpen(array_merge(...array_map(fn (Body $body) => $body->openPlaces(), $bodies)));
        $gone = array_fill_keys(array_map(fn (Body $body) => $body->id, $bodies), true);
        $left = array_values(array_filter($workpiece->bodies, fn (Body $body) => ! isset($gone[$body->id])));
        $after = $workpiece->withBodies([...$left, $joined])
            ->withDatums(array_map(fn (Datum $datum) => isset($gone[$datum->bodyId ?? '']) ? $datum->ofBody($joined->id) : $datum, $workpiece->datums))
            ->withArtefacts(array_map(fn (Artefact $artefact) => isset($gone[$artefact->bodyId ?? '']) ? $artefact->ofBody($joined->id) : $artefact, $workpiece->artefacts));
        $open = count(Topology::rims($mesh->faces, Topology::twins($mesh->faces)));

        return new Result(
            $after, count($bodies).' bodies joined'.($parameters->stitch === null ? '' : ', '.Format::many($sewn, 'place').' sewn'),
            ['bodies' => count($workpiece->bodies)], ['bodies' => count($after->bodies), 'faces' => $mesh->faceCount(), 'sewn' => $sewn],
            $parameters->stitch === null || $open === 0 ? [] : [Format::many($open, 'rim').' stay open: nothing else comes within '.Format::mm($parameters->stitch).' of them.'],
        );
    }

    /**
     * @param  array<int, string>|null  $names
     * @return list<Body>
     */
    private static function named(Workpiece $workpiece, ?array $names): array
    {
        if ($names === null) {
            return $workpiece->meshes();
        }
        $bodies = [];
        foreach ($names as $name) {
            $body = $workpiece->named('bodies', $name);
            if (! $body instanceof Body || ! $body->isMesh()) {
                throw InvalidParameter::of('bodies', "names \"$body->name\", which is no mesh");
            }
            $bodies[$body->id] = $body;
        }

        return array_values($bodies);
    }

    /** @param  array<int, string>  $names */
    private static function nameOf(array $names): string
    {
        // The same whatever their order.
        sort($names, SORT_NATURAL);

        return count($names) === 2 ? "$names[0] and $names[1]" : sprintf('%s and %d more', $names[0], count($names) - 1);
    }
}
