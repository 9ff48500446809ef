<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten\Shapes;

use Emberstone\Core\Algorithms\Shapes\FoundShape;
use Emberstone\Core\Algorithms\Shapes\ShapeSearch;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * What bodies are made of: planes, cylinders, cones, spheres, tori, areas turned about an axis, and free form between them.
 *
 * Output    an artefact a body, with a shape for every face; it takes the place of one found before. The body stays as it is.
 * Error     see Algorithms\Shapes\ShapeSearch. Made-up surface tells no shape; it goes to the shape that it continues.
 *
 * @implements Operation<FindShapesParameters>
 */
final class FindShapes implements Operation
{
    /** Share of the area of a body that a shape must have where nothing is said. */
    private const LEAST = 0.001;

    public static function about(): About
    {
        return new About('find-shapes', Stage::Lighten, 'Find shapes', 'Tells the planes, cylinders and other shapes that a part is made of, to measure and to model on.', 'meshes', FindShapesParameters::class, readsArtefacts: true, avoid: 'Not on grown or carved parts: they have no shapes to find.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 2.2e-5 * $workpiece->faceCount(), 40 + 6e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $meshes = $workpiece->meshes();
        if ($meshes === []) {
            throw UnsuitableInput::because('There is no mesh to find shapes on: fuse the passes first, or bring in a mesh.');
        }
        $ids = array_column($meshes, null, 'id');
        [$before, $others] = [[], []];
        foreach ($workpiece->artefacts as $one) {
            $one->kind === ShapeMap::KIND && isset($ids[$one->bodyId ?? '']) ? $before[$one->bodyId] = $one : $others[] = $one;
        }
        $first = self::nextNumber($others);
        $found = $counts = $notes = [];
        $areas = ['free' => 0.0, 'all' => 0.0];
        $tolerance = 0.0;
        foreach ($meshes as $k => $body) {
            $mesh = $body->placedMesh();
            $area = array_sum(Measure::areas($mesh->positions, $mesh->faces));
            if ($mesh->faces === [] || $area <= 0.0) {
                $notes[] = "$body->name has no surface.";

                continue;
            }
            $part = new PartProgress($progress, $k / count($meshes), ($k + 1) / count($meshes));
            $share = $parameters->minArea === null ? self::LEAST : $parameters->minArea / $area;
            $isTold = array_map(fn (int $mark) => $mark === TriangleMesh::MEASURED || $mark === TriangleMesh::MADE || $mark === TriangleMesh::RESHAPED ? 1 : 0, $mesh->origin);
            $search = new ShapeSearch($mesh->positions, $mesh->faces, $isTold, $parameters->kinds, $parameters->tolerance, $share, fn (float $done) => $part->advance('finding shapes', $done));
            $map = ShapeMap::of($mesh, $search->labels, $search->shapes, $first);
            $first += count($map->entries);
            $found[] = $map->artefact($body, $before[$body->id] ?? null);
            $tolerance = max($tolerance, $search->tolerance);
            foreach ($search->shapes as $shape) {
                $counts[$shape->kind] = ($counts[$shape->kind] ?? 0) + 1;
                $areas['all'] += $shape->area;
                $areas['free'] += $shape->kind === FoundShape::FREE ? $shape->area : 0.0;
            }
        }
        if ($found === []) {
            throw UnsuitableInput::because('No body has any surface to find shapes on.');
        }
        $free = $areas['free'] / $areas['all'];
        $shapes = array_sum($counts) - ($counts[FoundShape::FREE] ?? 0);

        return new Result(
            $workpiece->withArtefacts([...$others, ...$found]),
            sprintf('%s: %s%s', Format::many($shapes, 'shape'), self::words($counts), $free > 0.0 ? sprintf('; %.1f %% of the area is free form', 100.0 * $free) : ''),
            [], ['shapes' => $shapes, 'free' => $free, 'tolerance' => $tolerance, 'kinds' => $counts],
            [sprintf('The surface may lie %s off a shape%s.', Format::mm($tolerance), $parameters->tolerance === null ? ', four times its noise' : ''), ...$notes],
        );
    }

    /** @param  list<Artefact>  $artefacts */
    public static function nextNumber(array $artefacts): int
    {
        $last = 0;
        foreach ($artefacts as $artefact) {
            foreach ($artefact->kind === ShapeMap::KIND ? $artefact->data['shapes'] ?? [] : [] as $shape) {
                $last = max($last, (int) substr($shape['id'], strlen('shape-')));
            }
        }

        return $last + 1;
    }

    /** @param  array<string, int>  $counts */
    private static function words(array $counts): string
    {
        $names = ['plane' => ['plane', 'planes'], 'cylinder' => ['cylinder', 'cylinders'], 'cone' => ['cone', 'cones'], 'sphere' => ['ball', 'balls'], 'torus' => ['ring', 'rings'], FoundShape::REVOLVED => ['area turned about an axis', 'areas turned about an axis']];
        $words = [];
        foreach ($names as $kind => $name) {
            if (isset($counts[$kind])) {
                $words[] = $counts[$kind].' '.$name[$counts[$kind] === 1 ? 0 : 1];
            }
        }

        return $words === [] ? 'nothing but free form' : implode(', ', $words);
    }
}
