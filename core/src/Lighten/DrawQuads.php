<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Algorithms\Quads\CellMesh;
use Emberstone\Core\Algorithms\Quads\CellUntangling;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Search\TriangleFeet;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Makes a body of cells whose corners were put on a surface by hand.
 *
 * Output    a new body; its vertices are the nearest places on the surface, its cells look the way that the surface does, whichever way round they were named. Points that no cell names are left out.
 * Error     rounding.
 *
 * @implements Operation<DrawQuadsParameters>
 */
final class DrawQuads implements MakesNew, Operation
{
    /** Of the mean side of cells: a point that lay farther off the surface than this was hardly meant there. */
    private const FAR = 0.5;

    public static function about(): About
    {
        return new About('draw-quads', Stage::Lighten, 'Cells by hand', 'A body of cells whose corners are put on the surface by hand.', 'meshes', DrawQuadsParameters::class, avoid: 'Not for whole parts: Quads lays them by itself; draw where it matters.');
    }

    /**
     * @param  DrawQuadsParameters  $parameters
     * @return list<string>
     */
    public static function makes(object $parameters, ?array $on): array
    {
        return [$parameters->name];
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1 + 3e-6 * $workpiece->faceCount() + 1e-4 * count($parameters->points), 30 + 5e-4 * $workpiece->faceCount(), count($parameters->faces));
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $surface = self::surface($workpiece, $parameters->onto);
        $tree = TriangleBvh::of($surface->positions, $surface->faces);
        $progress->advance('putting points on the surface', 0.5);
        $asked = array_merge(...$parameters->places());
        $face = $distanceSq = [];
        $tree->closest($asked, $face, $distanceSq);
        $positions = TriangleFeet::of($asked, $face, $surface->positions, $surface->faces);
        $crosses = Measure::crosses($surface->positions, $surface->faces);
        $cells = array_map(fn (array $cell) => self::facing($cell, $positions, $face, $crosses), $parameters->cells());
        self::refuseUnfit($cells);
        $faces = $quads = [];
        $folded = 0;
        foreach ($cells as $cell) {
            $folded += CellUntangling::quality($positions, [$cell[0], $cell[1], $cell[2], $cell[3] ?? -1]) <= 0.0 ? 1 : 0;
            array_push($faces, $cell[0], $cell[1], $cell[2]);
            if (isset($cell[3])) {
                $quads[] = intdiv(count($faces), 3) - 1;
                array_push($faces, $cell[0], $cell[2], $cell[3]);
            }
        }
        $mesh = TriangleMesh::fromFlat($positions, $faces, quads: $quads);
        $mesh = NearestEvidence::carried($mesh->withFaces(array_keys(array_fill(0, $mesh->faceCount(), true))), $surface, $tree);
        $off = sqrt(max(0.0, ...$distanceSq));
        $notes = [
            ...($folded > 0 ? [sprintf('%s %s turned in at a corner: name its points in order around it.', Format::many($folded, 'cell'), $folded === 1 ? 'is' : 'are')] : []),
            ...($off > self::FAR * self::size($mesh) ? [sprintf('A point lay %s off the surface.', Format::mm($off))] : []),
        ];

        return new Result(
            $workpiece->withBodies([...$workpiece->bodies, Body::of($parameters->name, $mesh)]), sprintf('%s, %s moved at most', Format::many($mesh->cellCount(), 'cell'), Format::mm($off)),
            ['bodies' => count($workpiece->bodies)], ['bodies' => count($workpiece->bodies) + 1, 'quads' => count($quads), 'triangles' => $mesh->cellCount() - count($quads), 'moved' => round($off, 5)],
            $notes, $notes === [] ? Outcome::Reached : Outcome::NotConverged,
        );
    }

    private static function size(TriangleMesh $mesh): float
    {
        return Measure::meanEdge($mesh->positions, $mesh->faces);
    }

    /** The mesh that points cling to, in project coordinates. */
    private static function surface(Workpiece $workpiece, ?string $onto): TriangleMesh
    {
        $meshes = $workpiece->meshes();
        if ($onto === null && count($meshes) > 1) {
            throw InvalidParameter::of('onto', 'is required, as there are '.implode(', ', array_map(fn (Body $body) => $body->name, $meshes)));
        }
        $body = $onto === null ? ($meshes[0] ?? null) : $workpiece->named('onto', $onto);
        if (! $body instanceof Body || ! $body->isMesh() || $body->placedMesh()->faces === []) {
            throw UnsuitableInput::because($body === null ? 'There is no mesh to draw on: fuse the passes first, or bring in a mesh.' : "\"$body->name\" is not a mesh with faces; draw on one.");
        }

        return $body->placedMesh();
    }

    /**
     * A cell the way round that looks as the surface does under its corners.
     *
     * @param  list<int>  $cell
     * @param  array<int, float>  $P  flat xyz
     * @param  array<int, int>  $face  of the surface, under each point
     * @param  list<float>  $crosses  of its faces
     * @return list<int>
     */
    private static function facing(array $cell, array $P, array $face, array $crosses): array
    {
        $n = CellMesh::normal($P, $cell);
        $sum = 0.0;
        foreach ($cell as $v) {
            $o = 3 * $face[$v];
            $sum += ($n[0] * $crosses[$o] + $n[1] * $crosses[$o + 1] + $n[2] * $crosses[$o + 2]) / max(1e-300, sqrt($crosses[$o] ** 2 + $crosses[$o + 1] ** 2 + $crosses[$o + 2] ** 2));
        }

        return $sum < 0.0 ? array_reverse($cell) : $cell;
    }

    /**
     * @param  list<list<int>>  $cells
     *
     * @throws InvalidParameter where more than two cells share a side, or two lie over each other along one
     */
    private static function refuseUnfit(array $cells): void
    {
        $sides = [];
        foreach ($cells as $k => $cell) {
            foreach ($cell as $c => $v) {
                $side = $v.' to '.$cell[($c + 1) % count($cell)];
                if (isset($sides[$side])) {
                    throw InvalidParameter::of('faces', sprintf('cells %d and %d lie on the same side of the line from point %s; take one out, or name its points otherwise', $sides[$side] + 1, $k + 1, $side));
                }
                $sides[$side] = $k;
            }
        }
    }
}
