<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Mend\Kernel\Intersections;
use Emberstone\Core\Mend\Kernel\Untangle;
use Emberstone\Core\Mesh\Kernel\Measure;
use Emberstone\Core\Mesh\Kernel\Topology;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\NoProgress;
use Emberstone\Core\Operation\Progress;

/**
 * Cuts faulty places out of a surface and spans them anew. Rims that were open before stay open.
 *
 * Source    Attene 2010, "A lightweight approach to repairing digitized polygon meshes": remove what crosses with a ring around it, fill.
 */
final class Recut
{
    /** A loose piece with less than this share of the largest piece's area is no part of the object. */
    private const LOOSE = 0.01;

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
    public static function withoutCrossingsOfPatches(TriangleMesh $mesh, string $shape): ?TriangleMesh
    {
        $crossing = Intersections::pairs($mesh->positions, $mesh->faces, array_keys($mesh->origin, TriangleMesh::FILLED, true));

        return $crossing === [] ? null : self::around($mesh, self::corners($mesh, $crossing), $shape);
    }

    /**
     * The given vertices go, with all faces around them, and what opens is filled.
     *
     * @param  array<int, true>  $vertices
     */
    public static function around(TriangleMesh $mesh, array $vertices, string $shape = 'tangent'): TriangleMesh
    {
        $keep = [];
        for ($t = 0, $n = $mesh->faceCount(); $t < $n; $t++) {
            if (! isset($vertices[$mesh->faces[3 * $t]]) && ! isset($vertices[$mesh->faces[3 * $t + 1]]) && ! isset($vertices[$mesh->faces[3 * $t + 2]])) {
                $keep[] = $t;
            }
        }
        if (2 * count($keep) < $n) {
            return $mesh;
        }
        $open = self::apart($mesh->withFaces($keep));
        // Islands that the cut left standing have nothing to hold on to.
        $loose = self::loose($open);
        if ($loose !== []) {
            $open = $open->withFaces(array_keys(array_filter(Topology::pieces(Topology::twins($open->faces))['of'], fn (int $piece) => ! isset($loose[$piece]))));
        }

        return self::filledAnew($open, $mesh, $shape);
    }

    /** Fills the rims of $open that were not open in $before. */
    public static function filledAnew(TriangleMesh $open, TriangleMesh $before, string $shape = 'tangent'): TriangleMesh
    {
        $known = [];
        foreach (Topology::rims($before->faces, Topology::twins($before->faces)) as $rim) {
            foreach ($rim as $v) {
                $known[pack('e3', ...array_slice($before->positions, 3 * $v, 3))] = true;
            }
        }
        $isNew = fn (array $rim, array $p): bool => 2 * count(array_filter($rim, fn (int $v) => isset($known[pack('e3', $p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2])]))) <= count($rim);

        return (new RimFiller)->fill($open, $shape, $isNew, new NoProgress)->mesh;
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
