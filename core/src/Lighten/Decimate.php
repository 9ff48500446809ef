<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Remeshing\QuadricCollapse;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\BoundingBox;
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
 * Fewer faces by share, by count, or by how far the surface may move.
 *
 * Source    Garland & Heckbert 1997; see Algorithms/Remeshing/QuadricCollapse.
 * Keeps     genus, pieces, orientation; a mesh without crossing faces and spikes stays so where the count allows it, and else that is told; with `deviation` the distance both ways, verified on vertices, edge middles and face centres.
 *
 * @implements Operation<DecimateParameters>
 */
final class Decimate implements Operation
{
    /** Of a bound on the largest distance: root mean square distance that collapses may reach. Half of it gives a third more faces, 1.4 times as much locks so much that more are left. */
    private const ROOT = 0.35;

    /** How often a mesh is collapsed to a count at most until the result has no fault: on fused scans one or two times more do. */
    private const SOUND = 4;

    /** More faces than this times what was asked for, and a few, are told: the shape allows no fewer. */
    private const MORE = 1.02;

    /** Collapses within a bound end right after 4 to 8 tries. */
    private const TRIES = 16;

    public static function about(): About
    {
        return new About('decimate', Stage::Lighten, 'Decimate', 'Fewer faces where the surface is flat; detail stays where it curves.', 'meshes', DecimateParameters::class, avoid: 'Not before closing holes and setting datums: do it last, so that nothing is measured on coarse faces.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $faces = $workpiece->faceCount();
        $each = $parameters->deviation === null ? 7e-6 : 7e-5;

        $after = $parameters->ratio === null ? $parameters->faces : max(4, (int) round($faces * $parameters->ratio));

        return new Estimate(0.2 + $each * $faces, 40 + 3e-4 * $faces, $after);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        SelectedArea::check($workpiece, $parameters->selection);
        $deviation = 0.0;
        $outcome = Outcome::Reached;
        $crossing = 0;
        $before = $workpiece->faceCount();
        $targets = $parameters->faces === null ? [] : BodyAreas::shares($workpiece, [$parameters->faces])[0];
        $after = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, $targets, &$deviation, &$outcome, &$crossing): TriangleMesh {
            $area = SelectedArea::of($mesh, $body, $parameters->selection, $parameters->finer);
            if ($parameters->deviation !== null) {
                [$result, $moved] = $this->withinDeviation($mesh, $parameters, $area, $progress);
            } else {
                $target = $targets[$body->id] ?? max(4, (int) round($mesh->faceCount() * (float) $parameters->ratio));
                [$result, $faulty] = $this->toCount($mesh, $target, $parameters->keepBoundary, $area, new PartProgress($progress, 0.0, 0.8));
                $crossing += $faulty;
                $moved = Deviation::bothWays($mesh, $result, new PartProgress($progress, 0.8, 1.0));
                if ($result->faceCount() > self::MORE * $target + 4) {
                    $outcome = Outcome::StoppedEarly;
                }
            }
            $deviation = max($deviation, $moved);

            return $result;
        }, $progress);
        $count = $after->faceCount();
        $notes = match (true) {
            $outcome === Outcome::StoppedEarly && $parameters->selection !== null => ['The selected area and the shape around it allow no fewer faces. Select less, or ask for more faces.'],
            $outcome === Outcome::StoppedEarly => ['The shape allows no fewer faces without folding over.'],
            $parameters->deviation !== null && $count === $before => ['No face can go without moving the surface farther than that. Allow more, or smooth first.'],
            default => [],
        };
        if ($crossing > 0) {
            $notes[] = Format::many($crossing, 'face').' cross or stand out with so few. Ask for more faces, or repair.';
        }

        return new Result($after, sprintf('%s → %s faces, %s off at most', Format::count($before), Format::count($count), Format::mm($deviation)), ['faces' => $before], ['faces' => $count, 'deviation' => round($deviation, 5)], $notes, $outcome);
    }

    /**
     * Collapses to a count of faces; where the result has faults that the mesh had not, the mesh is locked as it was and all is collapsed anew.
     *
     * @return array{TriangleMesh, int} the result, and how many of its faces are faulty all the same
     */
    private function toCount(TriangleMesh $mesh, int $target, bool $keepBoundary, SelectedArea $area, Progress $progress): array
    {
        $best = $isSound = null;
        $least = INF;
        $locked = [];
        for ($try = 0; $try < self::SOUND; $try++) {
            $part = new PartProgress($progress, 1.0 - 0.4 ** $try, 1.0 - 0.4 ** ($try + 1));
            $result = $this->collapse($mesh, $target, INF, $keepBoundary, $area, new PartProgress($part, 0.0, 0.9), array_keys($locked));
            $faulty = self::faulty($result, new PartProgress($part, 0.9, 1.0));
            // Where walls are about as thin as faces are large nothing could go: fewer faces that cross are what was asked for then.
            if ($best !== null && $result->faceCount() > self::MORE * $target + 4) {
                break;
            }
            if (count($faulty) < $least) {
                [$best, $least] = [$result, count($faulty)];
            }
            $isSound ??= $faulty === [] || self::faulty($mesh, new PartProgress($part, 1.0, 1.0)) === [];
            if ($faulty === [] || ! $isSound) {
                break;
            }
            $locked += self::within($mesh, $faulty);
        }
        $progress->advance('collapsing edges', 1.0);

        return [$best ?? $mesh, ($isSound ?? true) && is_finite($least) ? (int) $least : 0];
    }

    /** @return list<BoundingBox> of faces that cross others, and of those around spikes: what is locked within less than the whole faces takes more tries, and leaves more faces */
    private static function faulty(TriangleMesh $mesh, Progress $progress): array
    {
        $boxOf = fn (int $t): BoundingBox => BoundingBox::of(array_merge(...array_map(fn (int $v) => array_slice($mesh->positions, 3 * $v, 3), array_slice($mesh->faces, 3 * $t, 3))));
        $places = [];
        foreach (array_unique(Intersections::pairs($mesh->positions, $mesh->faces, null, fn (float $done) => $progress->advance('verifying', $done))) as $t) {
            $places[] = $boxOf($t);
        }
        $spikes = array_flip(Inspection::spikes($mesh->positions, $mesh->faces, $mesh->vertexCount()));
        foreach ($spikes === [] ? [] : $mesh->faces as $h => $v) {
            if (isset($spikes[$v])) {
                $places[] = $boxOf(intdiv($h, 3));
            }
        }

        return $places;
    }

    /**
     * @param  list<BoundingBox>  $places
     * @return array<int, true> the vertices of the mesh within the places, and one ring about them
     */
    private static function within(TriangleMesh $mesh, array $places): array
    {
        if ($places === []) {
            return [];
        }
        // Places by the cells of a lattice as wide as the largest: a vertex looks at those of its cell alone.
        $cell = max(array_map(fn (BoundingBox $box) => $box->longestSide(), $places)) + 1e-9;
        $in = [];
        foreach ($places as $k => $box) {
            [$from, $to] = [array_map(fn (float $c) => (int) floor($c / $cell), $box->min), array_map(fn (float $c) => (int) floor($c / $cell), $box->max)];
            for ($x = $from[0]; $x <= $to[0]; $x++) {
                for ($y = $from[1]; $y <= $to[1]; $y++) {
                    for ($z = $from[2]; $z <= $to[2]; $z++) {
                        $in["$x $y $z"][] = $k;
                    }
                }
            }
        }
        $within = [];
        for ($v = 0, $n = $mesh->vertexCount(); $v < $n; $v++) {
            [$x, $y, $z] = [$mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]];
            foreach ($in[(int) floor($x / $cell).' '.(int) floor($y / $cell).' '.(int) floor($z / $cell)] ?? [] as $k) {
                [$least, $most] = [$places[$k]->min, $places[$k]->max];
                if ($x >= $least[0] && $x <= $most[0] && $y >= $least[1] && $y <= $most[1] && $z >= $least[2] && $z <= $most[2]) {
                    $within[$v] = true;
                    break;
                }
            }
        }

        return Topology::withNeighbours($mesh->faces, $within);
    }

    /** @param  list<int>  $locked  vertices that stay */
    private function collapse(TriangleMesh $mesh, int $target, float $limit, bool $keepBoundary, SelectedArea $area, Progress $progress, array $locked = []): TriangleMesh
    {
        if ($target >= $mesh->faceCount() && $limit === INF) {
            return $mesh;
        }
        $result = QuadricCollapse::run($mesh->positions, $mesh->faces, $mesh->support, $mesh->origin, $target, $limit, QuadricCollapse::rimWeight($keepBoundary), fn (float $done) => $progress->advance('collapsing edges', $done), [...$locked, ...$area->locked()], $area->weighted(), $area->weight());

        return TriangleMesh::fromFlat($result['positions'], $result['faces'], $mesh->support === [] ? [] : $result['support'], $mesh->origin === [] ? [] : $result['origin']);
    }

    /**
     * Collapses within a limit; where the surface then lies beyond the bound the mesh is locked as it was, and all is collapsed anew.
     *
     * @return array{TriangleMesh, float} the result, and the largest distance found, mm
     */
    private function withinDeviation(TriangleMesh $mesh, DecimateParameters $parameters, SelectedArea $area, Progress $progress): array
    {
        if ($mesh->faces === []) {
            return [$mesh, 0.0];
        }
        $bound = (float) $parameters->deviation;
        $root = self::ROOT * $bound;
        $tree = TriangleBvh::of($mesh->positions, $mesh->faces);
        $locked = [];
        $isSound = null;
        for ($try = 0; $try < self::TRIES; $try++) {
            $part = new PartProgress($progress, 1.0 - 0.75 ** $try, 1.0 - 0.75 ** ($try + 1));
            $result = $this->collapse($mesh, 4, $root * $root, $parameters->keepBoundary, $area, new PartProgress($part, 0.0, 0.4), array_keys($locked));
            // What can be told from few places first; all of them only where these are right.
            $resultTree = TriangleBvh::of($result->positions, $result->faces);
            $beyond = [];
            $moved = max(
                Deviation::beyond($mesh->positions, null, $resultTree, $bound, $beyond, new PartProgress($part, 0.4, 0.6)),
                Deviation::beyond(SurfaceDistance::densePoints($result), $mesh->faces, $tree, $bound, $beyond, new PartProgress($part, 0.6, 0.8)),
            );
            if ($beyond === []) {
                $faceOf = [];
                $points = array_slice(SurfaceDistance::densePoints($mesh, $faceOf), count($mesh->positions));
                $far = [];
                $moved = max($moved, Deviation::beyond($points, null, $resultTree, $bound, $far, new PartProgress($part, 0.8, 1.0)));
                foreach (array_keys($far) as $k) {
                    foreach ([0, 1, 2] as $c) {
                        $beyond[$mesh->faces[3 * $faceOf[$k] + $c]] = true;
                    }
                }
            }
            if ($beyond === []) {
                $faulty = self::faulty($result, new PartProgress($part, 1.0, 1.0));
                $isSound ??= $faulty === [] || self::faulty($mesh, new PartProgress($part, 1.0, 1.0)) === [];
                $beyond = $isSound ? self::within($mesh, $faulty) : [];
            }
            if ($beyond === []) {
                $progress->advance('verifying', 1.0);

                return [$result, $moved];
            }
            // Wider from try to try: what is left lies at the edges of what is locked.
            for ($ring = 0; $ring < 1 + intdiv($try, 2); $ring++) {
                $beyond = Topology::withNeighbours($mesh->faces, $beyond);
            }
            $locked += $beyond;
        }

        return [$mesh, 0.0];
    }
}
