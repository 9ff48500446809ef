<?php

declare(strict_types=1);

namespace Emberstone\Core\Rims;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Remeshing\InnerLayers;
use Emberstone\Core\Algorithms\Remeshing\Untangle;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Measure\FaultPlaces;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * Cuts faulty places out of a surface and spans them anew. Rims that were open before stay open.
 *
 * Source    Attene 2010, "A lightweight approach to repairing digitized polygon meshes": remove what crosses with a ring around it, fill.
 */
final class CutAndRefill
{
    /** A loose piece with less than this share of the largest piece's area is no part of the object. */
    private const LOOSE = 0.01;

    /** Of the rim around a layer that was cut away this share at most is the rim that the layer above it had before. */
    private const BESIDE = 0.75;

    /** Crossings are evened out where that is enough; else they are cut out. */
    public static function withoutCrossings(TriangleMesh $mesh, Progress $progress): TriangleMesh
    {
        $p = $mesh->positions;
        if (Untangle::run($p, $mesh->faces, breathe: fn (float $done) => $progress->advance('evening out', $done))['left'] === 0) {
            return $mesh->withPositions($p);
        }

        return self::around($mesh, self::corners($mesh, Intersections::pairs($mesh->positions, $mesh->faces)));
    }

    /**
     * Cuts out where filled surface passes through other surface; crossings among measured faces stay as they are.
     *
     * @return TriangleMesh|null null when there is nothing to cut
     */
    public static function withoutCrossingsOfPatches(TriangleMesh $mesh, PatchShape $shape): ?TriangleMesh
    {
        $crossing = Intersections::pairs($mesh->positions, $mesh->faces, array_keys($mesh->origin, TriangleMesh::FILLED, true));

        return $crossing === [] ? null : self::around($mesh, self::corners($mesh, $crossing), $shape);
    }

    /** Cuts out vertices amid filled surface that stand up like needles. */
    public static function withoutNeedlesOfPatches(TriangleMesh $mesh, PatchShape $shape): TriangleMesh
    {
        $measured = self::corners($mesh, array_keys(array_filter($mesh->origin, fn (int $mark) => $mark !== TriangleMesh::FILLED)));
        $needles = array_diff_key(array_fill_keys(Inspection::spikes($mesh->positions, $mesh->faces, $mesh->vertexCount()), true), $measured);

        return $needles === [] ? $mesh : self::around($mesh, $needles, $shape);
    }

    /**
     * The given vertices go, with all faces around them, and what opens is filled.
     *
     * @param  array<int, true>  $vertices
     * @param  float  $known  see filledAnew()
     */
    public static function around(TriangleMesh $mesh, array $vertices, PatchShape $shape = new PatchShape, float $known = 0.5): TriangleMesh
    {
        $keep = [];
        $cut = [];
        for ($t = 0, $n = $mesh->faceCount(); $t < $n; $t++) {
            [$a, $b, $c] = [$mesh->faces[3 * $t], $mesh->faces[3 * $t + 1], $mesh->faces[3 * $t + 2]];
            if (isset($vertices[$a]) || isset($vertices[$b]) || isset($vertices[$c])) {
                $cut[$a] = $cut[$b] = $cut[$c] = true;
            } else {
                $keep[] = $t;
            }
        }
        if (2 * count($keep) < $n) {
            return $mesh;
        }
        $open = self::apart($mesh->withFaces($keep));
        // Crumbs that the cut left standing have nothing to hold on to. Loose pieces that it did not touch are not its business.
        $loose = self::loose($open);
        if ($loose !== []) {
            $of = Topology::pieces(Topology::twins($open->faces))['of'];
            $crumbs = [];
            foreach ($of as $k => $piece) {
                $o = 3 * $keep[$k];
                if (isset($loose[$piece]) && (isset($cut[$mesh->faces[$o]]) || isset($cut[$mesh->faces[$o + 1]]) || isset($cut[$mesh->faces[$o + 2]]))) {
                    $crumbs[$piece] = true;
                }
            }
            $open = $open->withFaces(array_keys(array_filter($of, fn (int $piece) => ! isset($crumbs[$piece]))));
        }

        return self::filledAnew($open, $mesh, $shape, $known);
    }

    /**
     * Cuts the surface open along loops of edges and closes what is open then.
     *
     * @param  list<list<int>>  $loops  vertices around each
     * @param  list<int>  $without  faces that go first
     */
    public static function along(TriangleMesh $mesh, array $loops, array $without = []): TriangleMesh
    {
        if ($loops === []) {
            return $mesh;
        }
        $cut = [];
        foreach ($loops as $loop) {
            foreach ($loop as $k => $a) {
                $b = $loop[($k + 1) % count($loop)];
                $cut[min($a, $b) << 32 | max($a, $b)] = true;
            }
        }
        $f = $mesh->faces;
        $twin = Topology::twins($f);
        foreach ($twin as $h => $g) {
            $a = $f[$h];
            $b = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            if ($g >= 0 && isset($cut[$a < $b ? $a << 32 | $b : $b << 32 | $a])) {
                $twin[$h] = -1;
            }
        }

        $open = self::apart($mesh, $twin);

        return self::filledAnew($without === [] ? $open : $open->withFaces(array_keys(array_diff_key(array_fill(0, $mesh->faceCount(), true), array_flip($without)))), $mesh);
    }

    /**
     * Pieces that lie as a second layer under another one go: those of which more than half of the asked faces look at the back of something.
     * Where a piece lies under itself, as after a pass that slipped on its way around, the layer beneath goes with a ring around it and what opens is filled.
     */
    public static function withoutInnerLayers(TriangleMesh $mesh): TriangleMesh
    {
        ['of' => $of, 'count' => $count] = Topology::pieces(Topology::twins($mesh->faces));
        $all = $inner = array_fill(0, $count, 0);
        for ($t = 0, $every = InnerLayers::every($mesh->faceCount()); $t < $mesh->faceCount(); $t += $every) {
            $all[$of[$t]]++;
        }
        foreach (InnerLayers::of($mesh->positions, $mesh->faces) as $t) {
            $inner[$of[$t]]++;
        }
        $keep = array_keys(array_filter($of, fn (int $piece) => 2 * $inner[$piece] <= $all[$piece]));
        $mesh = count($keep) === $mesh->faceCount() ? $mesh : $mesh->withFaces($keep);

        return FaultPlaces::doubled($mesh) === [] ? $mesh : self::around($mesh, self::corners($mesh, InnerLayers::of($mesh->positions, $mesh->faces, 1)), known: self::BESIDE);
    }

    /**
     * Fills the rims of $open that were not open in $before.
     *
     * @param  float  $most  share of a rim that may have been one before
     */
    public static function filledAnew(TriangleMesh $open, TriangleMesh $before, PatchShape $shape = new PatchShape, float $most = 0.5): TriangleMesh
    {
        $known = BoundaryLoops::places(Topology::rims($before->faces, Topology::twins($before->faces)), $before->positions);
        $new = fn (array $rims, array $p): array => array_map(fn () => true, array_filter($rims, fn (array $rim) => BoundaryLoops::shareAt($known, $rim, $p) <= $most));

        return (new RimFiller)->fill($open, $shape, $new, new NoProgress)->mesh;
    }

    /**
     * Every fan of faces with vertices of its own.
     *
     * @param  array<int, int>|null  $twin  to come apart along edges that are unlinked in it
     */
    public static function apart(TriangleMesh $mesh, ?array $twin = null): TriangleMesh
    {
        [$p, $f, $support] = [$mesh->positions, $mesh->faces, $mesh->support];
        Topology::splitFans($p, $f, $support, $twin);

        return TriangleMesh::fromFlat($p, $f, $support, $mesh->origin);
    }

    /** @return array<int, true> loose pieces by number */
    public static function loose(TriangleMesh $mesh): array
    {
        $pieces = Topology::pieces(Topology::twins($mesh->faces));
        if ($pieces['count'] < 2) {
            return [];
        }
        $areas = array_fill(0, $pieces['count'], 0.0);
        foreach (Measure::areas($mesh->positions, $mesh->faces) as $t => $area) {
            $areas[$pieces['of'][$t]] += $area;
        }
        $least = self::LOOSE * max($areas);

        return array_map(fn () => true, array_filter($areas, fn (float $area) => $area < $least));
    }

    /**
     * @param  list<int>  $faces
     * @return array<int, true>
     */
    private static function corners(TriangleMesh $mesh, array $faces): array
    {
        $corners = [];
        foreach ($faces as $t) {
            $corners[$mesh->faces[3 * $t]] = $corners[$mesh->faces[3 * $t + 1]] = $corners[$mesh->faces[3 * $t + 2]] = true;
        }

        return $corners;
    }
}
