<?php

declare(strict_types=1);

namespace Emberstone\Core\Fuse;

use Emberstone\Core\Algorithms\HalfEdge\DisjointSets;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * Chooses, gap by gap, between what closes it inside the volume and the patches over its rims. Patches lie nearer to the truth (core/bench/gaps.php), so they
 * are taken unless the volume closes the gap with clearly less surface: the floor of a groove or the wall of a bore, which patches would stop up from rim to rim.
 *
 * Source    of a disc in each of two rings of wire and a band between them a film of soap takes what is smaller.
 */
final class VolumeOrPatch
{
    /** What is closed in the volume stays when it has less than this share of the patches' area, or when no patch could be laid. */
    private const SMALLER = 0.95;

    /**
     * @param  TriangleMesh  $closed  with faces closed in the volume
     * @param  TriangleMesh  $patched  the same without these, and filled
     * @return list<int> faces of $closed that were closed in the volume and stay
     */
    public static function better(TriangleMesh $closed, TriangleMesh $patched): array
    {
        [$volume, $patches] = [self::pieces($closed, TriangleMesh::CLOSED), self::pieces($patched, TriangleMesh::FILLED)];
        $area = fn (array $pieces): float => array_sum(array_column($pieces, 'area'));
        $better = [];
        foreach (self::gaps($volume, $patches) as ['volume' => $in, 'patches' => $over]) {
            if ($over === [] || $area($in) < self::SMALLER * $area($over)) {
                array_push($better, ...array_merge(...array_column($in, 'faces')));
            }
        }

        return $better;
    }

    /**
     * The faces with one mark, by what hangs together; the places are those where other faces go on.
     *
     * @return list<array{faces: list<int>, area: float, places: array<string, true>}>
     */
    private static function pieces(TriangleMesh $mesh, int $mark): array
    {
        $marked = array_keys($mesh->origin, $mark, true);
        $f = $other = [];
        foreach ($mesh->origin as $t => $of) {
            for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                if ($of === $mark) {
                    $f[] = $mesh->faces[$h];
                } else {
                    $other[$mesh->faces[$h]] = true;
                }
            }
        }
        ['of' => $of, 'count' => $count] = Topology::pieces(Topology::twins($f));
        $faces = $places = array_fill(0, $count, []);
        $areas = array_fill(0, $count, 0.0);
        foreach (Measure::areas($mesh->positions, $f) as $k => $area) {
            $faces[$of[$k]][] = $marked[$k];
            $areas[$of[$k]] += $area;
            for ($h = 3 * $k; $h < 3 * $k + 3; $h++) {
                if (isset($other[$f[$h]])) {
                    $places[$of[$k]][BoundaryLoops::place($mesh->positions, $f[$h])] = true;
                }
            }
        }

        return array_map(fn (array $mine, float $area, array $at) => ['faces' => $mine, 'area' => $area, 'places' => $at], $faces, $areas, $places);
    }

    /**
     * What shares places closes the same gap.
     *
     * @param  list<array{faces: list<int>, area: float, places: array<string, true>}>  $volume
     * @param  list<array{faces: list<int>, area: float, places: array<string, true>}>  $patches
     * @return list<array{volume: list<array{faces: list<int>, area: float, places: array<string, true>}>, patches: list<array{faces: list<int>, area: float, places: array<string, true>}>}>
     */
    private static function gaps(array $volume, array $patches): array
    {
        $all = [...$volume, ...$patches];
        $joined = new DisjointSets(array_keys($all));
        $at = [];
        foreach ($all as $k => $piece) {
            foreach ($piece['places'] as $place => $_) {
                $at[$place] ??= $k;
                $joined->join($at[$place], $k);
            }
        }
        $gaps = [];
        foreach ($all as $k => $piece) {
            $gaps[$joined->of($k)] ??= ['volume' => [], 'patches' => []];
            $gaps[$joined->of($k)][$k < count($volume) ? 'volume' : 'patches'][] = $piece;
        }

        return array_values($gaps);
    }
}
