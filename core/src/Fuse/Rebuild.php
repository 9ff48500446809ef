<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Algorithms\Field\DualSurface;
use Emberstone\Core\Algorithms\Field\Poisson;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Makes one smooth surface from all passes, closed where nothing was seen: for patchy data that `fuse` would leave full of holes.
 *
 * Source    see Algorithms/Field/Poisson (Kazhdan & Hoppe 2013) and Algorithms/Field/DualSurface.
 * Input     placed passes; sensor origins turn the normals, else they are made consistent.
 * Gives up  sharp edges: they come out rounded by about a cell.
 * Output    an oriented manifold, watertight at support 0; where no point is within one and a half cells it is marked as closed in the volume.
 *
 * @implements Operation<RebuildParameters>
 */
final class Rebuild implements MakesNew, Operation
{
    /** More than this is refused beforehand. */
    private const MOST_MEMORY_MB = 6000.0;

    /** Length of the lattice, in reaches of the points. */
    private const ROOM = 1.25;

    /** No more than 2^10 cells along an axis, and 2^5 at least. */
    private const DEPTHS = [5, 10];

    /** Cells within which there must be a point, or surface was made up: as far as `fuse` lets points reach. */
    private const REACH = 1.5;

    public static function about(): About
    {
        return new About('rebuild', Stage::Fuse, 'Rebuild', 'Makes one smooth, closed mesh from all passes, also where data are patchy.', 'passes', RebuildParameters::class, avoid: 'Not for mechanical parts with sharp edges and good passes: Fuse keeps those.');
    }

    /**
     * @param  RebuildParameters  $parameters
     * @return array{string}
     */
    public static function makes(object $parameters, ?array $on): array
    {
        return [$parameters->name ?? sprintf('Rebuilt, %.3g mm', $parameters->detail)];
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $points = $workpiece->pointCount();
        $faces = 3.0 * MergedPasses::area($workpiece) / $parameters->detail ** 2;
        $memory = 60.0 + ($points * 450.0 + $faces * 1500.0) / 1e6;
        $refusal = null;
        if ($memory > self::MOST_MEMORY_MB) {
            $least = $parameters->detail * sqrt($memory / self::MOST_MEMORY_MB);
            $refusal = sprintf('A detail of %.3g mm would need %.0f GB of memory; the smallest that fits here is %.2g mm.', $parameters->detail, $memory / 1000.0, ceil($least * 100) / 100);
        }

        return new Estimate(0.5 + 3.0e-5 * $points + 6.0e-5 * $faces, $memory, (int) $faces, $refusal);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $points = MergedPasses::of($workpiece->passes, new PartProgress($progress, 0.0, 0.3));
        $refusal = $this->estimate($workpiece, $parameters)->refusal;
        if ($refusal !== null) {
            throw UnsuitableInput::because($refusal);
        }
        $box = BoundingBox::of($points->positions);
        $depth = max(self::DEPTHS[0], (int) ceil(log(self::ROOM * $box->longestSide() / $parameters->detail, 2)));
        if ($depth > self::DEPTHS[1]) {
            throw UnsuitableInput::because(sprintf('A detail of %.3g mm is too fine for a part of %.0f mm; the smallest is %.2g mm.', $parameters->detail, $box->longestSide(), ceil(100 * self::ROOM * $box->longestSide() / 2 ** self::DEPTHS[1]) / 100));
        }
        $half = 0.5 * $parameters->detail * 2 ** $depth;
        $corner = [0.5 * ($box->min[0] + $box->max[0]) - $half, 0.5 * ($box->min[1] + $box->max[1]) - $half, 0.5 * ($box->min[2] + $box->max[2]) - $half];
        $solving = new PartProgress($progress, 0.3, 0.8);
        $field = new Poisson($points->positions, $points->normals, $points->quality, $points->counts, $corner, $parameters->detail, $depth, fn (float $done) => $solving->advance('solving', $done));
        $surface = DualSurface::extract($field->volume());
        if ($surface['quads'] === []) {
            throw UnsuitableInput::because('The points enclose nothing at this detail; choose a smaller one, or turn normals by registering first.');
        }
        ['mesh' => $mesh, 'below' => $below] = $this->backed(Fuse::mesh($surface, $surface['positions'], new PartProgress($progress, 0.8, 0.9)), $field, $parameters, $points->positions);
        $progress->advance('surface', 1.0);
        $made = count(array_keys($mesh->origin, TriangleMesh::CLOSED, true));
        $body = Body::of(self::makes($parameters, null)[0], $mesh);

        return new Result(
            $workpiece->withBodies([...$workpiece->bodies, $body]), sprintf('%.3g mm · %s faces', $parameters->detail, Format::count($mesh->faceCount())),
            ['points' => $workpiece->pointCount()], ['faces' => $mesh->faceCount(), 'detail' => $parameters->detail, 'madeUp' => $made, 'below' => $below],
            $made === 0 ? [] : [sprintf('%.1f %% of the faces have no points near them; they are marked as closed in the volume.', 100.0 * $made / $mesh->faceCount())],
        );
    }

    /**
     * The faces that data back, those without marked as made up, and those below the wanted support taken off.
     *
     * @param  list<float>  $points  flat xyz
     * @return array{mesh: TriangleMesh, below: list<float>} the share of all faces that a support of 0, 0.01, ... 1 takes off
     */
    private function backed(TriangleMesh $mesh, Poisson $field, RebuildParameters $parameters, array $points): array
    {
        $steps = array_fill(0, 101, 0);
        $backing = $nearest = $distanceSq = [];
        $reach = self::REACH * $parameters->detail;
        KdTree::of($points)->nearest($mesh->positions, $reach, $nearest, $distanceSq);
        for ($o = 0, $e = count($mesh->positions); $o < $e; $o += 3) {
            $backing[] = $field->backing($mesh->positions[$o], $mesh->positions[$o + 1], $mesh->positions[$o + 2]);
        }
        // Bubbles far from all points are no part of it.
        $pieces = Topology::pieces(Topology::twins($mesh->faces))['of'];
        $real = $origin = $keep = $seen = [];
        foreach ($backing as $v => $share) {
            $seen[] = Evidence::of($nearest[$v] < 0 ? 0 : $mesh->support[$v], 0.0, $share);
        }
        for ($t = 0, $n = $mesh->faceCount(); $t < $n; $t++) {
            $least = min($backing[$mesh->faces[3 * $t]], $backing[$mesh->faces[3 * $t + 1]], $backing[$mesh->faces[3 * $t + 2]]);
            $isSeen = min($nearest[$mesh->faces[3 * $t]], $nearest[$mesh->faces[3 * $t + 1]], $nearest[$mesh->faces[3 * $t + 2]]) >= 0;
            $origin[] = $isSeen ? TriangleMesh::MEASURED : TriangleMesh::CLOSED;
            if ($isSeen) {
                $real[$pieces[$t]] = true;
            }
            if ($least >= $parameters->support) {
                $keep[] = $t;
            }
            $steps[min(100, (int) (100.0 * $least) + 1)] += $least < 1.0 ? 1 : 0;
        }
        $keep = array_values(array_filter($keep, fn (int $t) => isset($real[$pieces[$t]])));
        if ($keep === []) {
            throw UnsuitableInput::because(sprintf('No surface has %.0f %% of the usual density behind it; choose less support.', 100.0 * $parameters->support));
        }
        $marked = TriangleMesh::fromFlat($mesh->positions, $mesh->faces, $seen, $origin);

        $below = [];
        foreach ($steps as $k => $many) {
            $below[] = round(($below[$k - 1] ?? 0.0) + $many / $n, 5);
        }

        return ['mesh' => count($keep) === $n ? $marked : $marked->withFaces($keep), 'below' => $below];
    }
}
