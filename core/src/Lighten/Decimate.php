<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Deliver\SurfaceDistance;
use Emberstone\Core\Lighten\Kernel\QuadricCollapse;
use Emberstone\Core\Mesh\Kernel\Measure;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Format;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\PartProgress;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Spatial\TriangleBvh;

/**
 * Fewer faces by share, by count, or by how far the surface may move.
 *
 * Source    Garland & Heckbert 1997; see Kernel/QuadricCollapse.
 * Keeps     genus, pieces, orientation; with `deviation` the distance both ways, verified on vertices, edge middles and face centres.
 *
 * @implements Operation<DecimateParameters>
 */
final class Decimate implements Operation
{
    /** Numbers of points measured between two reports. */
    private const PORTION = 90000;

    private const TRIES = 7;

    public static function about(): About
    {
        return new About('decimate', Stage::Lighten, 'Decimate', 'Fewer faces where the surface is flat; detail stays where it curves.', 'meshes', DecimateParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $faces = $workpiece->faceCount();
        $each = $parameters->deviation === null ? 7e-6 : 4e-5;

        $after = $parameters->ratio === null ? $parameters->faces : max(4, (int) round($faces * $parameters->ratio));

        return new Estimate(0.2 + $each * $faces, 40 + 3e-4 * $faces, $after);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $deviation = 0.0;
        $outcome = Outcome::Reached;
        $before = $workpiece->faceCount();
        $targets = $parameters->faces === null ? [] : self::shares($workpiece, $parameters->faces);
        $after = $workpiece->reshapedMeshes(function (TriangleMesh $mesh, Body $body, Progress $progress) use ($parameters, $targets, &$deviation, &$outcome): TriangleMesh {
            if ($parameters->deviation !== null) {
                [$result, $moved] = $this->withinDeviation($mesh, $parameters, $progress);
            } else {
                $target = $targets[$body->id] ?? max(4, (int) round($mesh->faceCount() * (float) $parameters->ratio));
                $result = $this->collapse($mesh, $target, INF, $parameters->keepBoundary, new PartProgress($progress, 0.0, 0.8));
                $moved = self::distance($mesh, $result, new PartProgress($progress, 0.8, 1.0));
                if ($result->faceCount() > 1.02 * $target + 4) {
                    $outcome = Outcome::StoppedEarly;
                }
            }
            $deviation = max($deviation, $moved);

            return $result;
        }, $progress);
        $count = $after->faceCount();
        $notes = $outcome === Outcome::StoppedEarly ? ['The shape allows no fewer faces without folding over.'] : [];

        return new Result($after, sprintf('%s → %s faces', Format::count($before), Format::count($count)), ['faces' => $before], ['faces' => $count, 'deviation' => round($deviation, 5)], $notes, $outcome);
    }

    /**
     * Shares a count of faces out over the meshes by area: where one holds fewer than its share, the others get what it leaves.
     *
     * @return array<int|string, int> by the id of the body, four at least
     */
    private static function shares(Workpiece $workpiece, int $faces): array
    {
        $areas = $have = $shares = [];
        foreach ($workpiece->bodies as $body) {
            $mesh = $body->placed();
            if ($mesh instanceof TriangleMesh) {
                $areas[$body->id] = max(1e-300, array_sum(Measure::areas($mesh->positions, $mesh->faces)));
                $have[$body->id] = $mesh->faceCount();
            }
        }
        while ($areas !== []) {
            $each = $faces / array_sum($areas);
            $full = array_filter($areas, fn (float $area, int|string $id) => $have[$id] <= $area * $each, ARRAY_FILTER_USE_BOTH);
            if ($full === []) {
                return $shares + array_map(fn (float $area) => max(4, (int) round($area * $each)), $areas);
            }
            foreach ($full as $id => $area) {
                $shares[$id] = $have[$id];
                $faces -= $have[$id];
                unset($areas[$id]);
            }
        }

        return $shares;
    }

    private function collapse(TriangleMesh $mesh, int $target, float $limit, bool $keepBoundary, Progress $progress): TriangleMesh
    {
        if ($target >= $mesh->faceCount() && $limit === INF) {
            return $mesh;
        }
        $result = QuadricCollapse::run($mesh->positions, $mesh->faces, $mesh->support, $mesh->origin, $target, $limit, $keepBoundary ? 100.0 : 0.0, fn (float $done) => $progress->advance('collapsing edges', $done));

        return TriangleMesh::fromFlat($result['positions'], $result['faces'], $mesh->support === [] ? [] : $result['support'], $mesh->origin === [] ? [] : $result['origin']);
    }

    /**
     * The lightest of a few tries whose verified distance stays within the bound.
     *
     * @return array{TriangleMesh, float}
     */
    private function withinDeviation(TriangleMesh $mesh, DecimateParameters $parameters, Progress $progress): array
    {
        $bound = (float) $parameters->deviation;
        $best = [$mesh, 0.0];
        $low = 0.0;
        $high = null;
        $root = 0.35 * $bound;
        for ($try = 0; $try < self::TRIES; $try++) {
            $part = new PartProgress($progress, $try / self::TRIES, ($try + 1) / self::TRIES);
            $result = $this->collapse($mesh, 4, $root * $root, $parameters->keepBoundary, new PartProgress($part, 0.0, 0.4));
            $moved = self::distance($mesh, $result, new PartProgress($part, 0.4, 1.0));
            if ($moved <= $bound) {
                if ($result->faceCount() < $best[0]->faceCount()) {
                    $best = [$result, $moved];
                }
                $low = $root;
                if ($high === null) {
                    $root *= min(2.0, max(1.15, 0.9 * $bound / max($moved, 1e-9)));
                }
            } else {
                $high = $root;
                if ($low === 0.0) {
                    $root *= min(0.8, max(0.1, 0.8 * $bound / $moved));
                }
            }
            if ($high !== null && $low > 0.0) {
                if ($high < 1.12 * $low) {
                    break;
                }
                $root = sqrt($low * $high);
            }
        }

        return $best;
    }

    /** The largest distance between two surfaces, both ways. */
    private static function distance(TriangleMesh $a, TriangleMesh $b, Progress $progress): float
    {
        if ($a->faces === [] || $b->faces === []) {
            return 0.0;
        }

        return max(self::oneWay($a, $b, new PartProgress($progress, 0.0, 0.75)), self::oneWay($b, $a, new PartProgress($progress, 0.75, 1.0)));
    }

    private static function oneWay(TriangleMesh $from, TriangleMesh $to, Progress $progress): float
    {
        $tree = TriangleBvh::of($to->positions, $to->faces);
        $points = SurfaceDistance::densePoints($from);
        $worst = 0.0;
        for ($o = 0, $n = count($points); $o < $n; $o += self::PORTION) {
            $progress->advance('verifying', $o / $n);
            $face = $distanceSq = [];
            $tree->closest(array_slice($points, $o, self::PORTION), $face, $distanceSq);
            $worst = max($worst, max($distanceSq));
        }
        $progress->advance('verifying', 1.0);

        return sqrt($worst);
    }
}
