<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Quads\CellMesh;
use Emberstone\Core\Algorithms\Quads\CellRelaxation;
use Emberstone\Core\Algorithms\Quads\CellUntangling;
use Emberstone\Core\Algorithms\Quads\QuadLayout;
use Emberstone\Core\Algorithms\Remeshing\MeshCleanup;
use Emberstone\Core\Algorithms\Remeshing\Untangle;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Measure\Deviation;
use Emberstone\Core\Measure\SurfaceDistance;
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
 * Makes a body of four-sided cells that follow the shape; the body that it is laid on stays.
 *
 * Source    see Algorithms/Quads/QuadLayout. Cells of quads alone: a layout of cells twice as large, each cut into four, or three of a triangle.
 * Output    a new body: closed and of the genus of the old one where that is closed, its cells without folds unless the notes say where.
 * Error     vertices lie on the input; how far the flat cells leave it at most is measured.
 *
 * @implements Operation<QuadRemeshParameters>
 */
final class QuadRemesh implements MakesNew, Operation
{
    /** Share by which the number of cells may miss what was asked for before cells are placed anew. */
    private const NEAR = 0.02;

    /** Times that cells are placed anew for their number, and for the deviation. */
    private const COUNTS = 2;

    private const TRIES = 5;

    /** Of the deviation asked for: what cells are laid for anew, as chords leave the surface with the square of their length. */
    private const AIM = 0.8;

    /** By how much sides become shorter in one try: no less, as the distance may hang on one place, and no more, as it falls. */
    private const LONGEST = 0.85;

    private const SHORTEST = 0.35;

    /** How much shorter than asked for sides may become for the sake of the deviation: 64 times the cells. */
    private const FINEST = 8.0;

    /** Rounds of moving vertices: of the layout, so that cells are cut in good places, and of the result. */
    private const LAYOUT_ROUNDS = 10;

    private const RESULT_ROUNDS = 15;

    /** Times that folds are taken out, and crossings after them. */
    private const TURNS = 5;

    /** Of them those in which vertices on lines of the shape stay. */
    private const HELD_TURNS = 2;

    /** More cells than this would take hours. */
    private const MOST_CELLS = 2_000_000;

    public static function about(): About
    {
        return new About('quad-remesh', Stage::Lighten, 'Quads', 'A new body of four-sided cells whose sides follow the shape: sharp edges, rims, lines of curvature. The old one stays.', 'meshes', QuadRemeshParameters::class, avoid: 'Not for printing: triangles print as well, and sharp edges are truer in them.');
    }

    /**
     * @param  QuadRemeshParameters  $parameters
     * @return list<string>|null
     */
    public static function makes(object $parameters, ?array $on): ?array
    {
        return $on === null ? null : array_map(fn (string $name) => self::nameOf($name, $parameters), $on);
    }

    private static function nameOf(string $body, QuadRemeshParameters $parameters): string
    {
        return "$body, ".($parameters->cells === 'triangles' ? 'following triangles' : 'quads');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $area = array_sum(BodyAreas::of($workpiece));
        $cells = $parameters->faces ?? (int) min(1e12, ($parameters->cells === 'triangles' ? 2.0 : 1.0) * $area / (float) $parameters->edge ** 2);
        if ($cells > self::MOST_CELLS) {
            return new Estimate(0.0, 0.0, $cells, sprintf('That would be some %s cells. Give longer sides.', Format::count($cells)));
        }
        // The even mesh has nine vertices a cell of the layout; that of quads alone has a quarter of the cells.
        $layout = match ($parameters->cells) {
            'quads' => 0.25 * $cells, 'mostly-quads' => (float) $cells, default => 0.5 * $cells,
        };

        return new Estimate(1.0 + 3.5e-5 * $workpiece->faceCount() + 6.5e-3 * $layout + 2e-4 * $cells, 60 + 1.1e-3 * $workpiece->faceCount() + 3e-2 * $layout + 2e-3 * $cells, $cells);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $refusal = $this->estimate($workpiece, $parameters)->refusal;
        if ($refusal !== null) {
            throw InvalidParameter::of('edge', 'is too short: '.lcfirst($refusal));
        }
        $areas = BodyAreas::of($workpiece);
        $all = array_sum($areas);
        $made = $notes = [];
        $cells = $quads = 0;
        $off = 0.0;
        $done = 0;
        foreach ($workpiece->bodies as $body) {
            $mesh = $body->placed();
            if (! $mesh instanceof TriangleMesh || $mesh->faces === []) {
                continue;
            }
            $edge = $parameters->edge ?? $parameters->edgeFor($all, (float) $parameters->faces);
            [$result, $distance] = $this->laid($mesh, $body->name, $parameters, $edge, new PartProgress($progress, $done / count($areas), ($done + 1) / count($areas)), $notes);
            $made[] = Body::of(self::nameOf($body->name, $parameters), $result)->leavingOpen($body->openPlaces());
            $cells += $result->cellCount();
            $quads += count($result->quads);
            $off = max($off, $distance);
            $done++;
        }
        if ($made === []) {
            throw UnsuitableInput::because('There is no mesh to work on: fuse the passes first, or bring in a mesh.');
        }
        $kinds = implode(' and ', array_filter([$quads > 0 ? Format::many($quads, 'quad') : '', $cells > $quads ? Format::many($cells - $quads, 'triangle') : '']));

        return new Result(
            $workpiece->withBodies([...$workpiece->bodies, ...$made]),
            sprintf('%s, sides of %s, %s off at most', $kinds, Format::mm(sqrt(($parameters->cells === 'triangles' ? 2.0 : 1.0) * $all / max(1, $cells))), Format::mm($off)),
            ['bodies' => count($workpiece->bodies), 'faces' => $workpiece->faceCount()],
            ['bodies' => count($workpiece->bodies) + count($made), 'quads' => $quads, 'triangles' => $cells - $quads, 'deviation' => round($off, 5)],
            $notes, $notes === [] ? Outcome::Reached : Outcome::NotConverged,
        );
    }

    /**
     * @param  float  $edge  mm, of the sides of cells
     * @param  list<string>  $notes  (changed)
     * @return array{TriangleMesh, float} and how far its surface lies off at most, mm
     */
    private function laid(TriangleMesh $mesh, string $name, QuadRemeshParameters $parameters, float $edge, Progress $progress, array &$notes): array
    {
        $ground = self::ground($mesh, $name);
        $tree = TriangleBvh::of($ground->positions, $ground->faces);
        $tries = $parameters->deviation === null ? 1 : self::TRIES;
        $asked = $edge;
        for ($try = 0; ; $try++) {
            $part = new PartProgress($progress, 1.0 - 0.5 ** $try, $try + 1 === $tries ? 1.0 : 1.0 - 0.5 ** ($try + 1));
            [$cells, $relaxation] = $this->cells($ground, $tree, $parameters, $edge, $part);
            [$faces, $quads, $crossings] = self::untangled($cells, $relaxation, $part);
            $result = TriangleMesh::fromFlat($cells->positions, $faces, quads: $parameters->cells === 'triangles' ? [] : $quads);
            $distance = $parameters->deviation === null ? self::distance($result, $tree, $part) : Deviation::bothWays($result, $ground, new PartProgress($part, 0.95, 1.0));
            if ($parameters->deviation === null || $distance <= $parameters->deviation || $try + 1 >= $tries) {
                break;
            }
            $shorter = $edge * max(self::SHORTEST, min(self::LONGEST, sqrt(self::AIM * $parameters->deviation / $distance)));
            if ($shorter < $asked / self::FINEST || array_sum(Measure::areas($ground->positions, $ground->faces)) / $shorter ** 2 > self::MOST_CELLS) {
                break;
            }
            $edge = $shorter;
        }
        if ($parameters->deviation !== null && $distance > $parameters->deviation) {
            $notes[] = sprintf('%s lies up to %s off, more than asked. Give shorter sides, or allow more deviation.', $name, Format::mm($distance));
        }
        $folded = array_values(array_filter($cells->cells, fn (array $cell) => CellUntangling::quality($result->positions, $cell) <= 0.0));
        $left = [
            ...($folded === [] ? [] : [Format::many(count($folded), 'cell').vsprintf(' folded, one at (%.1f, %.1f, %.1f)', array_slice($result->positions, 3 * $folded[0][0], 3))]),
            ...($crossings === 0 ? [] : [Format::many($crossings, 'crossing').' left']),
        ];
        if ($left !== []) {
            $notes[] = sprintf('%s: %s. Give shorter sides, or repair the body first.', $name, implode('; ', $left));
        }
        $progress->advance('verifying', 1.0);

        return [NearestEvidence::carried($result, $ground, $tree), $distance];
    }

    /**
     * The mesh without faces that have no area, which would be sharp edges of no use.
     *
     * @throws UnsuitableInput when it is not manifold
     */
    private static function ground(TriangleMesh $mesh, string $name): TriangleMesh
    {
        $faces = $mesh->faces;
        $keep = MeshCleanup::withoutDegenerates($mesh->positions, $faces, MeshCleanup::NOTHING * BoundingBox::of($mesh->positions)->diagonal());
        $clean = TriangleMesh::fromFlat($mesh->positions, $faces, $mesh->support, $mesh->origin)->withFaces($keep);
        foreach ([$clean, $mesh] as $one) {
            if (EditableMesh::takes($one->vertexCount(), $one->faces, Topology::twins($one->faces))) {
                return $one;
            }
        }
        throw UnsuitableInput::because(sprintf('"%s" has edges of more than two faces, faces that look against each other, or places where it hangs by a point. Repair it first.', $name));
    }

    /**
     * Cells of a side, about as many as the area holds.
     *
     * @return array{CellMesh, CellRelaxation}
     */
    private function cells(TriangleMesh $ground, TriangleBvh $tree, QuadRemeshParameters $parameters, float $edge, Progress $progress): array
    {
        $isSplit = $parameters->cells === 'quads';
        $side = $isSplit ? 2.0 * $edge : $edge;
        $asked = array_sum(Measure::areas($ground->positions, $ground->faces)) / $edge ** 2;
        $tell = fn (float $from, float $to) => fn (string $what, float $share) => $progress->advance($what, $from + ($to - $from) * $share);
        $layout = new QuadLayout($ground->positions, $ground->faces, Topology::twins($ground->faces), $parameters->sharp, $side, $parameters->strokes(), $tell(0.0, 0.5));
        $best = null;
        for ($k = 0; $k <= self::COUNTS; $k++) {
            $cells = $layout->cells($side, $tell(0.5 + 0.1 * $k, 0.6 + 0.1 * $k));
            $triangles = count(array_filter($cells->cells, fn (array $cell) => $cell[3] < 0));
            $quads = count($cells->cells) - $triangles;
            // A triangle covers half of what a quad does, and is cut into three.
            $share = ($isSplit ? 4.0 * $quads + 3.0 * $triangles : $quads + 0.5 * $triangles) / $asked;
            if ($best === null || abs(log($share)) < $best[0]) {
                $best = [abs(log($share)), $cells];
            }
            if (abs($share - 1.0) < self::NEAR) {
                break;
            }
            $side *= max(0.8, min(1.25, sqrt($share)));
        }
        $cells = $best[1];
        $relaxation = new CellRelaxation($ground->positions, $ground->faces, $layout->lines(), $parameters->strokes(), $side, $tree);
        $relaxation->run($cells, self::LAYOUT_ROUNDS, fn (float $share) => $progress->advance('squaring cells', 0.8 + 0.03 * $share));
        if ($isSplit) {
            CellUntangling::run($cells, $relaxation);
            $cells = $cells->split();
        }
        $relaxation->run($cells, self::RESULT_ROUNDS, fn (float $share) => $progress->advance('squaring cells', 0.83 + 0.07 * $share));

        return [$cells, $relaxation];
    }

    /**
     * Takes folds and crossings out by turns, as taking out one may leave some of the other. Vertices on lines of the shape stay, unless crossings are left that way.
     *
     * @return array{list<int>, list<int>, int} flat faces and quads, see TriangleMesh, and pairs of faces that still cross
     */
    private static function untangled(CellMesh $cells, CellRelaxation $relaxation, Progress $progress): array
    {
        $held = array_keys(array_filter($cells->lines));
        $order = [...$held, ...array_keys(array_filter($cells->lines, fn (int $line) => $line === 0))];
        $at = array_flip($order);
        for ($turn = 0; ; $turn++) {
            CellUntangling::run($cells, $relaxation);
            [$faces, $quads] = $cells->triangles();
            $positions = array_merge(...array_map(fn (int $v) => array_slice($cells->positions, 3 * $v, 3), $order));
            $ordered = array_map(fn (int $v) => $at[$v], $faces);
            ['found' => $found, 'left' => $left] = Untangle::run($positions, $ordered, $turn < self::HELD_TURNS ? count($held) : 0, breathe: fn (float $share) => $progress->advance('verifying', 0.9 + 0.05 * ($turn + $share) / self::TURNS));
            if ($found === 0) {
                return [$faces, $quads, 0];
            }
            foreach ($order as $k => $v) {
                for ($c = 0; $c < 3; $c++) {
                    $cells->positions[3 * $v + $c] = $positions[3 * $k + $c];
                }
            }
            if ($turn + 1 >= self::TURNS) {
                return [$faces, $quads, $left];
            }
        }
    }

    /** How far the cells leave the surface at most, mm. */
    private static function distance(TriangleMesh $result, TriangleBvh $tree, Progress $progress): float
    {
        $beyond = [];

        return Deviation::beyond(SurfaceDistance::densePoints($result), null, $tree, INF, $beyond, new PartProgress($progress, 0.95, 1.0));
    }
}
