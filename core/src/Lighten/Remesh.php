<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Remeshing\IsotropicRemeshing;
use Emberstone\Core\Algorithms\Remeshing\MeshCleanup;
use Emberstone\Core\Algorithms\Remeshing\Untangle;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\Deviation;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Near-equilateral triangles on the same surface, even or as fine as it is curved.
 *
 * Source    Botsch & Kobbelt 2004; Dunyach et al. 2013; see Algorithms/Remeshing/IsotropicRemeshing.
 * Keeps     sharp edges, corners and rims, genus, pieces; the distance both ways, verified on vertices, edge middles and face centres: where it is too large triangles become smaller.
 *
 * @implements Operation<RemeshParameters>
 */
final class Remesh implements Operation
{
    /** Rounds at even sizes, after which curvature is known well enough to set sizes by it. */
    private const EVEN_ROUNDS = 3;

    /** Rounds after that. With five in all the shares of good angles and lengths have settled. */
    private const ROUNDS = 2;

    private const ADAPTED_ROUNDS = 4;

    /** Times that triangles are made smaller where the surface moved too far, and by how much. */
    private const TRIES = 8;

    private const FINER = 0.65;

    /** More faces than this no machine of today's takes. */
    private const MOST_FACES = 20_000_000;

    public static function about(): About
    {
        return new About('remesh', Stage::Lighten, 'Remesh', 'Equal-sided triangles: even, or finer where the surface is curved. Sharp edges stay.', 'meshes', RemeshParameters::class, avoid: 'Not to lose faces only: Decimate keeps the shape better for the same number.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $area = array_sum(BodyAreas::of($workpiece));
        $faces = $parameters->faces ?? (int) min(1e9, 4.0 / sqrt(3.0) * $area / (float) $parameters->edge ** 2);
        if ($faces > self::MOST_FACES) {
            return new Estimate(0.0, 0.0, $faces, sprintf('That would be some %s faces. Give longer edges.', Format::count($faces)));
        }

        return new Estimate(0.3 + 1.2e-5 * $workpiece->faceCount() + 6e-5 * $faces, 60 + 5e-4 * $workpiece->faceCount() + 1e-3 * $faces, $faces);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $refusal = $this->estimate($workpiece, $parameters)->refusal;
        if ($refusal !== null) {
            throw InvalidParameter::of('edge', 'is too short: '.lcfirst($refusal));
        }
        $areas = BodyAreas::of($workpiece);
        $all = array_sum($areas);
        $deviation = $lengths = $counts = 0.0;
        $notes = [];
        $after = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, $areas, $all, &$deviation, &$lengths, &$counts, &$notes): TriangleMesh {
            if ($mesh->faces === []) {
                return $mesh;
            }
            $faces = $parameters->faces === null ? null : max(4, (int) round($parameters->faces * $areas[$body->id] / max(1e-300, $all)));
            $edge = $parameters->edge ?? IsotropicRemeshing::edgeFor($areas[$body->id], (float) $faces);
            [$result, $moved, $mean, $places] = $this->remeshed($mesh, $body->name, $parameters, $edge, $faces, $progress);
            if ($places !== []) {
                $where = sprintf('at %s, one near (%.1f, %.1f, %.1f)', Format::many(intdiv(count($places), 3), 'vertex', 'vertices'), ...array_slice($places, 0, 3));
                $notes[] = $moved > $parameters->bound($edge)
                    ? sprintf('%s lies up to %s off, more than asked, or over itself %s. Allow more deviation, or repair it first.', $body->name, Format::mm($moved), $where)
                    : "$body->name lies over itself $where. Repair it.";
            }
            $deviation = max($deviation, $moved);
            $lengths += $mean * $result->faceCount();
            $counts += $result->faceCount();

            return $result;
        }, $progress);
        $mean = $counts > 0.0 ? $lengths / $counts : 0.0;

        return new Result(
            $after, sprintf('%s → %s faces, edges of %s, %s off at most', Format::count($workpiece->faceCount()), Format::count($after->faceCount()), Format::mm($mean), Format::mm($deviation)),
            ['faces' => $workpiece->faceCount()], ['faces' => $after->faceCount(), 'deviation' => round($deviation, 5), 'edge' => round($mean, 5)], $notes, $notes === [] ? Outcome::Reached : Outcome::NotConverged,
        );
    }

    /**
     * @param  float  $edge  mm
     * @param  int|null  $faces  to be reached; null: the mean length of the edges is
     * @return array{TriangleMesh, float, float, list<float>} the result, how far it lies off at most and the mean length of its edges, mm; and where it lies farther off than asked, or over itself, flat xyz
     */
    private function remeshed(TriangleMesh $mesh, string $name, RemeshParameters $parameters, float $edge, ?int $faces, Progress $progress): array
    {
        $twins = Topology::twins($mesh->faces);
        if (! EditableMesh::takes($mesh->vertexCount(), $mesh->faces, $twins)) {
            throw UnsuitableInput::because(sprintf('"%s" has edges of more than two faces, faces that look against each other, or places where it hangs by a point. Repair it first.', $name));
        }
        $bound = $parameters->bound($edge);
        $tree = TriangleBvh::of($mesh->positions, $mesh->faces);
        $remeshing = new IsotropicRemeshing($mesh->positions, $mesh->faces, $twins, $parameters->sharp, $parameters->keepBoundary, $edge);
        $this->lay($remeshing, $parameters, $edge, $faces, $bound, new PartProgress($progress, 0.0, 0.6));
        [$result, $moved, $places] = $this->verified($mesh, $tree, $remeshing, $bound, new PartProgress($progress, 0.6, 1.0));

        return [NearestEvidence::carried($result, $mesh, $tree), $moved, Measure::meanEdge($result->positions, $result->faces), $places];
    }

    /**
     * Rounds at even sizes, then at those that curvature asks for.
     *
     * @param  int|null  $faces  to be reached
     */
    private function lay(IsotropicRemeshing $remeshing, RemeshParameters $parameters, float $edge, ?int $faces, float $bound, Progress $progress): void
    {
        $rounds = self::EVEN_ROUNDS + ($parameters->adapt > 0.0 ? self::ADAPTED_ROUNDS : self::ROUNDS);
        for ($round = 0; $round < $rounds; $round++) {
            $part = new PartProgress($progress, $round / $rounds, ($round + 1) / $rounds);
            $remeshing->round(fn (float $done) => $part->advance('laying triangles', $done));
            [$mean, $count] = $remeshing->measure();
            if ($round === self::EVEN_ROUNDS - 1 && $parameters->adapt > 0.0) {
                $remeshing->sizeByCurvature($edge, $bound, $parameters->adapt);
            } else {
                $remeshing->resize(max(0.8, min(1.25, $faces === null ? $edge / $mean : sqrt($count / $faces))));
            }
        }
    }

    /**
     * Measures the result both ways; where it lies beyond the bound it is made finer and what it missed is put in, and it is measured again: around there, and at the end everywhere.
     *
     * @return array{TriangleMesh, float, list<float>} the result, how far it lies off at most, mm, and the places where it could not be brought within the bound or lies over itself, flat xyz
     */
    private function verified(TriangleMesh $mesh, TriangleBvh $tree, IsotropicRemeshing $remeshing, float $bound, Progress $progress): array
    {
        $best = null;
        $isWhole = true;
        for ($try = 0; ; $try++) {
            $part = new PartProgress($progress, 1.0 - 0.6 ** $try, 1.0 - 0.6 ** ($try + 1));
            $taken = $remeshing->taken();
            $scope = $isWhole ? null : $remeshing->changing($taken['vertices']);
            ['positions' => $positions, 'moved' => $moved, 'beyond' => $beyond, 'missed' => $missed, 'folded' => $folded] = $this->judged($mesh, $tree, $taken, $scope, $bound, $part);
            $remeshing->place($taken['vertices'], $positions);
            $bad = array_keys($beyond + $missed + $folded);
            // What is too far counts before what is folded, and of either the less; a later try may spoil what an earlier one had.
            $rank = [$moved > $bound ? $moved : 0.0, count($bad)];
            if ($best === null || $rank < $best[0] || ($isWhole && $bad === [])) {
                $best = [$rank, $positions, $taken['faces'], $moved, $bad];
            }
            if (($bad === [] && $isWhole) || $try >= self::TRIES) {
                $progress->advance('verifying', 1.0);

                return self::cleaned(...array_slice($best, 1));
            }
            $isWhole = $bad === [];
            if ($isWhole) {
                continue;
            }
            foreach ($missed as $v => [$x, $y, $z]) {
                $beyond[$v] = true;
                $remeshing->pin($taken['vertices'][$v], $x, $y, $z);
            }
            $here = fn (array $vertices): array => array_map(fn (int $v) => $taken['vertices'][$v], array_keys($vertices));
            $remeshing->refine($here($beyond), self::FINER, $here($folded));
            for ($round = 0; $round < 2; $round++) {
                $remeshing->round(fn (float $done) => $part->advance('laying triangles more finely', 1.0));
            }
        }
    }

    /**
     * Takes crossing triangles apart, and measures.
     *
     * @param  array{positions: list<float>, faces: list<int>, labels: list<int>, vertices: list<int>}  $taken
     * @param  array<int, true>|null  $scope  only what lies at these vertices; elsewhere it is known to lie within the bound
     * @return array{positions: array<int, float>, moved: float, beyond: array<int, true>, missed: array<int, array{float, float, float}>, folded: array<int, true>} vertices that lie too far off,
     *                                                                       that have to go to places passed by, and around which faces lie over each other
     */
    private function judged(TriangleMesh $mesh, TriangleBvh $tree, array $taken, ?array $scope, float $bound, Progress $progress): array
    {
        [$positions, $faces] = [$taken['positions'], $taken['faces']];
        $looked = $scope === null ? null : self::facesAt($faces, $scope);
        $untangled = Untangle::run($positions, $faces, asked: $looked, breathe: fn (float $done) => $progress->advance('verifying', 0.2 * $done));
        $result = TriangleMesh::fromFlat($positions, $faces);
        $seen = $looked === null ? $result : TriangleMesh::fromFlat($positions, array_merge(...array_map(fn (int $t) => array_slice($faces, 3 * $t, 3), $looked)));
        $beyond = $far = $faceOf = $folded = [];
        $moved = Deviation::beyond(array_slice(SurfaceDistance::densePoints($seen, $faceOf), count($positions)), null, $tree, $bound, $far, new PartProgress($progress, 0.2, 0.5));
        foreach (array_keys($far) as $k) {
            self::add($beyond, $seen->faces, $faceOf[$k]);
        }
        // Of an input finer than the result its vertices say it all.
        $points = $mesh->faceCount() > 2 * $result->faceCount() ? $mesh->positions : SurfaceDistance::densePoints($mesh);
        $points = $looked === null ? $points : self::near($points, $seen);
        [$missed, $most] = $this->missed($points, $result, TriangleBvh::of($positions, $faces), $bound, new PartProgress($progress, 0.5, 1.0));
        foreach (Inspection::degenerate($faces, Measure::areas($positions, $faces), BoundingBox::of($positions)->diagonal()) as $face) {
            self::add($folded, $faces, $face);
        }
        foreach ($untangled['left'] === 0 ? [] : Intersections::pairs($positions, $faces, $looked) as $face) {
            self::add($folded, $faces, $face);
        }
        $folded += array_fill_keys(Inspection::spikes($positions, $faces, count($taken['vertices'])), true);

        return ['positions' => $positions, 'moved' => max($moved, $most, $scope === null ? 0.0 : $bound), 'beyond' => $beyond, 'missed' => $missed, 'folded' => $folded];
    }

    /**
     * @param  list<int>  $faces  flat
     * @param  array<int, true>  $vertices
     * @return list<int> the faces with one of them
     */
    private static function facesAt(array $faces, array $vertices): array
    {
        $at = [];
        for ($o = 0, $n = count($faces); $o < $n; $o += 3) {
            if (isset($vertices[$faces[$o]]) || isset($vertices[$faces[$o + 1]]) || isset($vertices[$faces[$o + 2]])) {
                $at[] = intdiv($o, 3);
            }
        }

        return $at;
    }

    /**
     * The points that lie no farther from a vertex of some faces than the longest of their edges.
     *
     * @param  array<int, float>  $points  flat xyz
     * @return list<float> flat xyz
     */
    private static function near(array $points, TriangleMesh $seen): array
    {
        $corners = [];
        foreach (array_unique($seen->faces) as $v) {
            array_push($corners, $seen->positions[3 * $v], $seen->positions[3 * $v + 1], $seen->positions[3 * $v + 2]);
        }
        $nearest = $distanceSq = $near = [];
        KdTree::of($corners)->nearest($points, Measure::longestEdge($seen->positions, $seen->faces), $nearest, $distanceSq);
        foreach ($nearest as $k => $found) {
            if ($found >= 0) {
                array_push($near, $points[3 * $k], $points[3 * $k + 1], $points[3 * $k + 2]);
            }
        }

        return $near;
    }

    /**
     * Without faces that have no area, where that leaves the mesh a manifold, and closed if it was.
     *
     * @param  list<float>  $positions  flat xyz
     * @param  list<int>  $faces  flat
     * @param  list<int>  $bad  vertices
     * @return array{TriangleMesh, float, list<float>} see verified()
     */
    private static function cleaned(array $positions, array $faces, float $moved, array $bad): array
    {
        $places = [];
        foreach ($bad as $v) {
            array_push($places, $positions[3 * $v], $positions[3 * $v + 1], $positions[3 * $v + 2]);
        }
        $merged = $faces;
        $keep = MeshCleanup::withoutDegenerates($positions, $merged, MeshCleanup::NOTHING * BoundingBox::of($positions)->diagonal());
        $clean = TriangleMesh::fromFlat($positions, $merged)->withFaces($keep);
        // Where faces lie over each other, merging their corners may join what must stay apart.
        $twins = Topology::twins($clean->faces);
        $isWhole = EditableMesh::takes($clean->vertexCount(), $clean->faces, $twins) && (in_array(-1, Topology::twins($faces), true) || ! in_array(-1, $twins, true));

        return [$isWhole ? $clean : TriangleMesh::fromFlat($positions, $faces), $moved, $places];
    }

    /**
     * Places of the input that the result passes by: those that lie farthest from it, one a vertex next to them.
     *
     * @param  array<int, float>  $points  flat xyz, of the input
     * @return array{array<int, array{float, float, float}>, float} by vertex of the result, and the largest distance, mm
     */
    private function missed(array $points, TriangleMesh $result, TriangleBvh $tree, float $bound, Progress $progress): array
    {
        $far = [];
        $most = 0.0;
        for ($o = 0, $n = count($points); $o < $n; $o += Deviation::PORTION) {
            $progress->advance('verifying', $o / $n);
            $face = $distanceSq = [];
            $tree->closest(array_slice($points, $o, Deviation::PORTION), $face, $distanceSq);
            $most = max($most, max($distanceSq));
            foreach ($distanceSq as $k => $d) {
                if ($d > $bound * $bound) {
                    $far[] = [$d, intdiv($o, 3) + $k, $face[$k]];
                }
            }
        }
        rsort($far);
        $missed = [];
        foreach ($far as [, $k, $t]) {
            $place = [$points[3 * $k], $points[3 * $k + 1], $points[3 * $k + 2]];
            $corners = array_slice($result->faces, 3 * $t, 3);
            if (array_filter($corners, fn (int $v) => isset($missed[$v])) === []) {
                $near = array_map(fn (int $v) => Vector3::length(Vector3::minus($place, array_slice($result->positions, 3 * $v, 3))), $corners);
                $missed[$corners[(int) array_search(min($near), $near, true)]] = $place;
            }
        }

        return [$missed, sqrt($most)];
    }

    /**
     * @param  array<int, true>  $vertices  (changed)
     * @param  array<int, int>  $faces  flat
     */
    private static function add(array &$vertices, array $faces, int $face): void
    {
        $vertices[$faces[3 * $face]] = $vertices[$faces[3 * $face + 1]] = $vertices[$faces[3 * $face + 2]] = true;
    }
}
