<?php

declare(strict_types=1);

namespace Emberstone\Core\Measure;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Remeshing\HandleLoops;
use Emberstone\Core\Algorithms\Remeshing\InnerLayers;
use Emberstone\Core\Algorithms\Remeshing\MeshCleanup;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * Where the faults of a mesh are: those of one family near each other make one place.
 *
 * @phpstan-type Place array{centre: array{float, float, float}, sizeMm: float, count: int}
 */
final class FaultPlaces
{
    /** Families, the gravest first: what keeps a mesh from being a body, what confuses later steps, what is only ugly. */
    public const FAMILIES = ['nonManifoldEdges', 'nonManifoldVertices', 'openEdges', 'inconsistentEdges', 'selfIntersections', 'duplicateFaces', 'degenerateFaces', 'spikes', 'necks', 'tunnels', 'pinHoles', 'doubleSkins', 'pieces'];

    /** A rim of so few edges is a pin hole. */
    private const PIN_EDGES = 6;

    /** Faults in one cell of this share of the size of the mesh make one place. */
    private const CELL = 0.02;

    /** The same for layers, which are areas, not spots. */
    private const SKIN_CELL = 0.1;

    /**
     * @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $leftOpen  the middles of rims that shall stay open
     * @return array<string, array{count: int, places: list<Place>}> by family, in the order of FAMILIES; families without a fault are left out
     */
    public static function of(TriangleMesh $mesh, array $leftOpen, Progress $progress = new NoProgress): array
    {
        [$p, $f] = [$mesh->positions, $mesh->faces];
        [$report, [$doubled, $tunnels, $necks]] = Inspection::beside($mesh, [
            fn (): array => self::doubled($mesh),
            fn (): array => array_map(fn (array $tunnel) => self::tunnel($p, $tunnel['loop']), HandleLoops::of($p, $f, Topology::twins($f))),
            fn (): array => array_map(fn (array $neck) => self::middleOf($p, $neck), MeshCleanup::necks($p, $f)),
        ], $progress);
        $faults = $report->faults;
        $diagonal = BoundingBox::of($p)->diagonal();
        $twin = Topology::twins($f);
        $holes = array_values(array_filter($report->holes, fn (array $hole) => ! BoundaryLoops::isMeant($hole, $leftOpen)));
        $isPin = fn (array $hole): bool => $hole['edges'] <= self::PIN_EDGES;
        $found = [
            'openEdges' => array_map(self::hole(...), array_values(array_filter($holes, fn (array $hole) => ! $isPin($hole)))),
            'pinHoles' => array_map(self::hole(...), array_values(array_filter($holes, $isPin))),
            'pieces' => self::loose($mesh, $twin),
            // Where neighbours disagree about the outside, there is no back of a layer to look at; and where no handle is, none is narrow.
            'doubleSkins' => $faults['inconsistentEdges'] > 0 ? [] : $doubled,
            'tunnels' => $report->genus > 0 ? $tunnels : [],
        ];
        $spots = [
            'nonManifoldEdges' => $faults['nonManifoldEdges'] > 0 ? self::edges($p, $f, $twin, fn (int $faces) => $faces > 2) : [],
            'inconsistentEdges' => $faults['inconsistentEdges'] > 0 ? self::edges($p, $f, $twin, fn (int $faces) => $faces === 2) : [],
            'nonManifoldVertices' => $faults['nonManifoldVertices'] > 0 ? self::vertices($p, Inspection::nonManifoldVertices($f, $twin, $mesh->vertexCount())['bad']) : [],
            'degenerateFaces' => $faults['degenerateFaces'] > 0 ? self::middles($p, $f, Inspection::degenerate($f, Measure::areas($p, $f), $diagonal)) : [],
            'duplicateFaces' => $faults['duplicateFaces'] > 0 ? self::middles($p, $f, Inspection::duplicates($f)) : [],
            'selfIntersections' => $faults['selfIntersections'] > 0 ? self::middles($p, $f, self::everySecond(Intersections::pairs($p, $f))) : [],
            'spikes' => $faults['spikes'] > 0 ? self::vertices($p, Inspection::spikes($p, $f, $mesh->vertexCount())) : [],
            'necks' => $necks,
        ];
        $all = [];
        foreach (self::FAMILIES as $family) {
            $places = $found[$family] ?? self::gathered($spots[$family] ?? [], self::CELL * $diagonal);
            if ($places !== []) {
                usort($places, fn (array $a, array $b) => [$b['count'], $b['sizeMm']] <=> [$a['count'], $a['sizeMm']]);
                // Open edges are counted as rims: a rim is what is closed.
                $all[$family] = ['count' => isset($found[$family]) ? count($places) : array_sum(array_column($places, 'count')), 'places' => $places];
            }
        }

        return $all;
    }

    /** @return list<Place> where a wall has two layers */
    public static function doubled(TriangleMesh $mesh): array
    {
        $spots = self::middles($mesh->positions, $mesh->faces, InnerLayers::of($mesh->positions, $mesh->faces));

        // A few faces look at the back of others where a surface is folded.
        return array_values(array_filter(self::gathered($spots, self::SKIN_CELL * BoundingBox::of($mesh->positions)->diagonal()), fn (array $place) => $place['count'] > 5));
    }

    /**
     * @param  array{edges: int, diameter: float, centre: array{float, float, float}}  $hole
     * @return Place
     */
    private static function hole(array $hole): array
    {
        return ['centre' => $hole['centre'], 'sizeMm' => $hole['diameter'], 'count' => $hole['edges']];
    }

    /**
     * @param  array<int, float>  $p
     * @param  list<int>  $loop
     * @return Place
     */
    private static function tunnel(array $p, array $loop): array
    {
        $middle = self::middleOf($p, $loop);
        $reach = array_map(fn (array $at) => Vector3::length(Vector3::minus($at, $middle)), self::vertices($p, $loop));

        return ['centre' => $middle, 'sizeMm' => 2.0 * array_sum($reach) / count($loop), 'count' => count($loop)];
    }

    /**
     * All pieces but the largest.
     *
     * @param  array<int, int>  $twin
     * @return list<Place>
     */
    private static function loose(TriangleMesh $mesh, array $twin): array
    {
        $pieces = Topology::pieces($twin);
        $faces = array_fill(0, $pieces['count'], 0);
        $areas = array_fill(0, $pieces['count'], 0.0);
        foreach (Measure::areas($mesh->positions, $mesh->faces) as $t => $area) {
            $faces[$pieces['of'][$t]]++;
            $areas[$pieces['of'][$t]] += $area;
        }
        arsort($areas);
        $points = array_fill_keys(array_slice(array_keys($areas), 1), []);
        foreach ($points === [] ? [] : $mesh->faces as $h => $v) {
            $piece = $pieces['of'][intdiv($h, 3)];
            if (isset($points[$piece])) {
                array_push($points[$piece], $mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]);
            }
        }
        $places = [];
        foreach ($points as $piece => $of) {
            $box = BoundingBox::of($of);
            $places[] = ['centre' => [0.5 * ($box->min[0] + $box->max[0]), 0.5 * ($box->min[1] + $box->max[1]), 0.5 * ($box->min[2] + $box->max[2])], 'sizeMm' => $box->diagonal(), 'count' => $faces[$piece]];
        }

        return $places;
    }

    /**
     * The middles of the edges that are no plain pair, by how many faces meet there.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array<int, int>  $twin
     * @param  callable(int): bool  $meant
     * @return list<array{float, float, float}>
     */
    private static function edges(array $p, array $f, array $twin, callable $meant): array
    {
        $faces = [];
        foreach (array_keys($twin, -2, true) as $h) {
            $a = $f[$h];
            $b = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            $key = min($a, $b) << 32 | max($a, $b);
            $faces[$key] = ($faces[$key] ?? 0) + 1;
        }
        $middles = [];
        foreach (array_filter($faces, $meant) as $key => $_) {
            $middles[] = self::middleOf($p, [$key >> 32, $key & 0xFFFFFFFF]);
        }

        return $middles;
    }

    /**
     * @param  array<int, float>  $p
     * @param  list<int>  $vertices
     * @return list<array{float, float, float}>
     */
    private static function vertices(array $p, array $vertices): array
    {
        return array_map(fn (int $v) => [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]], $vertices);
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  list<int>  $faces
     * @return list<array{float, float, float}>
     */
    private static function middles(array $p, array $f, array $faces): array
    {
        return array_map(fn (int $t) => self::middleOf($p, [$f[3 * $t], $f[3 * $t + 1], $f[3 * $t + 2]]), $faces);
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $vertices
     * @return array{float, float, float}
     */
    private static function middleOf(array $p, array $vertices): array
    {
        $n = count($vertices);
        $sum = [0.0, 0.0, 0.0];
        foreach ($vertices as $v) {
            $sum = [$sum[0] + $p[3 * $v] / $n, $sum[1] + $p[3 * $v + 1] / $n, $sum[2] + $p[3 * $v + 2] / $n];
        }

        return $sum;
    }

    /**
     * @param  list<int>  $pairs
     * @return list<int>
     */
    private static function everySecond(array $pairs): array
    {
        return array_values(array_filter($pairs, fn (int $k) => $k % 2 === 0, ARRAY_FILTER_USE_KEY));
    }

    /**
     * @param  list<array{float, float, float}>  $spots
     * @return list<Place>
     */
    private static function gathered(array $spots, float $cell): array
    {
        $cells = [];
        foreach ($spots as $at) {
            $cells[implode(' ', array_map(fn (float $v) => (string) floor($v / max(1e-9, $cell)), $at))][] = $at;
        }

        return array_values(array_map(function (array $near): array {
            $n = count($near);
            $box = BoundingBox::of(array_merge(...$near));

            return ['centre' => [array_sum(array_column($near, 0)) / $n, array_sum(array_column($near, 1)) / $n, array_sum(array_column($near, 2)) / $n], 'sizeMm' => $box->diagonal(), 'count' => $n];
        }, $cells));
    }
}
