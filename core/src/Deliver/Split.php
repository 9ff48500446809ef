<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Cutting\ConstrainedTriangulation;
use Emberstone\Core\Algorithms\Cutting\PlaneCut;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\PlaneChoice;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Parts a body by a plane, the cut left open or closed flat; or into its connected pieces.
 *
 * Output    closed and sound parts of closed and sound bodies where the cut is closed; what was not cut is as it was, to the bit. Datums go with the part that they lie at.
 * Error     see Algorithms\Cutting\PlaneCut.
 *
 * @implements Operation<SplitParameters>
 */
final class Split implements MakesNew, Operation
{
    /** Where the plane meets a body so that the cut cannot be closed (it touches an edge or a corner), it is put aside by this often of what PlaneCut calls in the plane, one after the other. */
    private const ASIDE = [0.0, 4.0, -4.0, 40.0, -40.0];

    public static function about(): About
    {
        return new About('split', Stage::Deliver, 'Split', 'Parts a body by a plane, open or closed along the cut, or into its loose pieces.', 'meshes', SplitParameters::class);
    }

    /**
     * @param  SplitParameters  $parameters
     * @return list<string>|null
     */
    public static function makes(object $parameters, ?array $on): ?array
    {
        return $on === null || $parameters->by === 'pieces' ? null : array_merge(...array_map(self::names(...), $on));
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1 + 2.5e-6 * $workpiece->faceCount(), 40 + 6e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $meshes = $workpiece->meshes();
        if ($meshes === []) {
            throw UnsuitableInput::because('There is no mesh to split: fuse the passes first, or bring in a mesh.');
        }
        $plane = $parameters->plane === null ? null : PlaneChoice::of('plane', $parameters->plane, $workpiece->datums)->shifted($parameters->shift);
        $bodies = $notes = [];
        $datums = $workpiece->datums;
        $artefacts = $workpiece->artefacts;
        $parted = 0;
        foreach ($workpiece->bodies as $k => $body) {
            $mesh = $body->placed();
            $parts = ! $mesh instanceof TriangleMesh ? [] : ($plane === null ? self::pieces($body, $mesh) : self::sides($body, $mesh, $plane, $parameters, $notes));
            $progress->advance('splitting', ($k + 1) / count($workpiece->bodies));
            if ($parts === []) {
                $bodies[] = $body;

                continue;
            }
            $parted++;
            array_push($bodies, ...$parts);
            $datums = self::following($datums, $body, $parts);
            // A section of the whole goes with its first part.
            $artefacts = array_map(fn (Artefact $artefact) => $artefact->bodyId === $body->id ? $artefact->ofBody($parts[0]->id) : $artefact, $artefacts);
        }
        if ($parted === 0) {
            $what = count($meshes) === 1 ? $meshes[0]->name : 'any of the '.count($meshes).' bodies';
            throw UnsuitableInput::because($plane === null ? (count($meshes) === 1 ? "$what is one piece." : 'Each of the '.count($meshes).' bodies is one piece.') : "$plane->name does not meet $what. Move it, or choose another.");
        }
        $after = $workpiece->withBodies($bodies)->withDatums($datums)->withArtefacts($artefacts);

        return new Result(
            $after, Format::many(count($meshes), 'body', 'bodies').' → '.count($after->meshes()).($plane === null ? ' by pieces' : " at $plane->name"),
            ['bodies' => count($meshes), 'faces' => $workpiece->faceCount()], ['bodies' => count($after->meshes()), 'faces' => $after->faceCount()], $notes,
        );
    }

    /** @return array{string, string} of the part behind the plane and of that before it */
    private static function names(string $name): array
    {
        return ["$name, back part", "$name, front part"];
    }

    /**
     * @param  list<string>  $notes  (changed)
     * @return list<Body> none where the plane does not meet the body
     */
    private static function sides(Body $body, TriangleMesh $mesh, PlaneChoice $plane, SplitParameters $parameters, array &$notes): array
    {
        $wanted = match ($parameters->keep) {
            'positive' => [1],
            'negative' => [0],
            default => [0, 1],
        };
        $snap = PlaneCut::SNAP * BoundingBox::of($mesh->positions)->diagonal();
        $trouble = null;
        foreach (self::ASIDE as $aside) {
            $cut = PlaneCut::of($mesh->positions, $mesh->faces, $plane->shifted($aside * $snap)->point, $plane->normal);
            if ($cut->faces[0] === [] || $cut->faces[1] === []) {
                return [];
            }
            $parts = $parameters->cap ? self::capped($mesh, $cut, $plane->normal, $wanted, $trouble) : self::open($mesh, $cut, $wanted);
            if ($parts !== []) {
                $aside === 0.0 || $notes[] = sprintf('%s is cut %s beside the plane, which touches an edge or a corner of it.', $body->name, Format::mm(abs($aside * $snap)));

                return self::bodies($body, $parts, $plane, count($wanted) === 2);
            }
        }
        throw UnsuitableInput::because(sprintf('The cut through %s cannot be closed near (%.2f, %.2f, %.2f): its rim crosses itself or a hole there. Repair the body and fill its holes first, or leave the cut open.', $body->name, ...$trouble ?? [0.0, 0.0, 0.0]));
    }

    /**
     * @param  array<int, TriangleMesh>  $parts  by side
     * @return list<Body>
     */
    private static function bodies(Body $body, array $parts, PlaneChoice $plane, bool $areBoth): array
    {
        $bodies = [];
        foreach ($parts as $side => $part) {
            $places = array_values(array_filter($body->openPlaces(), fn (array $place) => (Vector3::dot(Vector3::minus($place, $plane->point), $plane->normal) > 0.0) === ($side === 1)));
            // One part alone is still the body that it was.
            $bodies[] = ($areBoth ? Body::of(self::names($body->name)[$side], $part) : $body->reshaped($part))->leavingOpen($places);
        }

        return $bodies;
    }

    /**
     * @param  list<int>  $wanted
     * @return array<int, TriangleMesh> by side
     */
    private static function open(TriangleMesh $mesh, PlaneCut $cut, array $wanted): array
    {
        $parts = [];
        foreach ($wanted as $side) {
            $parts[$side] = CutPart::of($mesh, $cut, $side);
        }

        return $parts;
    }

    /**
     * @param  array{float, float, float}  $normal
     * @param  list<int>  $wanted
     * @param  array{float, float, float}|null  $trouble  where it cannot be closed (changed)
     * @return array<int, TriangleMesh> by side; none where one of them cannot be closed
     */
    private static function capped(TriangleMesh $mesh, PlaneCut $cut, array $normal, array $wanted, ?array &$trouble): array
    {
        $parts = [];
        foreach ($wanted as $side) {
            $rim = $cut->rim($side);
            $cap = $rim === [] ? ['faces' => [], 'trouble' => null] : ConstrainedTriangulation::within($cut->positions, $rim, $side === 0 ? $normal : Vector3::scaled($normal, -1.0));
            $trouble = $cap['trouble'] ?? self::pinch($cut->positions, [...$cut->faces[$side], ...$cap['faces']]);
            if ($trouble !== null) {
                return [];
            }
            $parts[$side] = CutPart::of($mesh, $cut, $side, $cap['faces']);
        }

        return $parts;
    }

    /**
     * @param  list<float>  $positions
     * @param  list<int>  $faces
     * @return array{float, float, float}|null a place where sheets of faces hang together by a vertex
     */
    private static function pinch(array $positions, array $faces): ?array
    {
        $vertices = count($positions);
        $none = [];

        return Topology::splitFans($positions, $faces, $none) === 0 ? null : [$positions[$vertices], $positions[$vertices + 1], $positions[$vertices + 2]];
    }

    /** @return list<Body> the largest first; none where the mesh is one piece */
    private static function pieces(Body $body, TriangleMesh $mesh): array
    {
        $pieces = Topology::pieces(Topology::twins($mesh->faces));
        if ($pieces['count'] < 2) {
            return [];
        }
        $areas = array_fill(0, $pieces['count'], 0.0);
        $faces = array_fill(0, $pieces['count'], []);
        foreach (Measure::areas($mesh->positions, $mesh->faces) as $t => $area) {
            $areas[$pieces['of'][$t]] += $area;
            $faces[$pieces['of'][$t]][] = $t;
        }
        arsort($areas);
        $parts = array_map(fn (int $piece) => $mesh->withFaces($faces[$piece]), array_keys($areas));
        $middles = array_map(fn (TriangleMesh $part) => BoundingBox::of($part->positions)->centre(), $parts);
        $open = [];
        foreach ($body->openPlaces() as $place) {
            $open[self::nearest($middles, $place)][] = $place;
        }

        return array_map(fn (int $k) => Body::of("$body->name, piece ".($k + 1), $parts[$k])->leavingOpen($open[$k] ?? []), array_keys($parts));
    }

    /**
     * Datums of a body that is parted belong to the part that they are nearest to.
     *
     * @param  list<Datum>  $datums
     * @param  list<Body>  $parts
     * @return list<Datum>
     */
    private static function following(array $datums, Body $body, array $parts): array
    {
        $middles = array_map(fn (Body $part) => BoundingBox::of($part->geometry->positions)->centre(), $parts);

        return array_map(fn (Datum $datum) => $datum->bodyId === $body->id ? $datum->ofBody($parts[self::nearest($middles, $datum->origin)]->id) : $datum, $datums);
    }

    /**
     * @param  list<array{float, float, float}>  $middles
     * @param  array{float, float, float}  $place
     */
    private static function nearest(array $middles, array $place): int
    {
        $distances = array_map(fn (array $middle) => Vector3::length(Vector3::minus($middle, $place)), $middles);

        return (int) array_search(min($distances), $distances, true);
    }
}
