<?php

declare(strict_types=1);

namespace Emberstone\Core\Rims;

use Closure;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Remeshing\MeshCleanup;
use Emberstone\Core\Algorithms\Remeshing\Seam;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * A mesh whose rims are fit to be spanned: nothing doubled, folded over or without area is left at those that are to be closed, and slits
 * without a width are sewn up. Of rims that are to stay open only doubled faces and crumbs that hang on them go.
 */
final readonly class CleanRims
{
    /** A rim is one of those that were chosen before it was cleaned when so much of it is where one of them was. */
    private const SAME = 0.5;

    /**
     * @param  int  $rims  how many there were
     * @param  Closure(list<list<int>>, array<int, float>): array<int, true>  $wanted  those that were chosen and are still open, as RimFiller asks
     */
    private function __construct(public TriangleMesh $mesh, public int $rims, public Closure $wanted)
    {
    }

    /** @param  callable(list<list<int>> $rims, array<int, float> $positions): array<int, true>  $wanted  the rims that are to be closed, by number */
    public static function of(TriangleMesh $mesh, callable $wanted): self
    {
        [$clean, $twin] = self::withoutHanging($mesh);
        $rims = Topology::rims($clean->faces, $twin);
        $chosen = array_values(array_intersect_key($rims, $wanted($rims, $clean->positions)));
        $places = BoundaryLoops::places($chosen, $clean->positions);
        if ($chosen !== []) {
            $sewn = self::sewn($clean, $twin, array_fill_keys(array_merge(...$chosen), true));
            $clean = self::unfolded($sewn, $sewn === $clean ? $twin : Topology::twins($sewn->faces), $places);
        }

        return new self($clean, count($rims), fn (array $rims, array $p): array => array_map(fn () => true, array_filter($rims, fn (array $rim) => BoundaryLoops::shareAt($places, $rim, $p) >= self::SAME)));
    }

    /**
     * Without the second of two faces in one place, and without crumbs that hang on an edge of two other faces; other such edges come apart.
     *
     * @return array{TriangleMesh, array<int, int>} and the twins of its half-edges
     */
    private static function withoutHanging(TriangleMesh $mesh): array
    {
        $twin = Topology::twins($mesh->faces);
        foreach ([self::doubles(...), self::crumbs(...)] as $spare) {
            $gone = in_array(-2, $twin, true) ? $spare($mesh, $twin) : [];
            if ($gone !== []) {
                $mesh = self::without($mesh, $gone);
                $twin = Topology::twins($mesh->faces);
            }
        }
        if (in_array(-2, $twin, true)) {
            $mesh = CutAndRefill::apart($mesh, $twin);
            $twin = Topology::twins($mesh->faces);
        }

        return [$mesh, $twin];
    }

    /** @return array<int, mixed> by face */
    private static function doubles(TriangleMesh $mesh): array
    {
        return array_flip(Inspection::duplicates($mesh->faces));
    }

    /**
     * @param  array<int, int>  $twin
     * @return array<int, mixed> by face
     */
    private static function crumbs(TriangleMesh $mesh, array $twin): array
    {
        $loose = CutAndRefill::loose($mesh);
        $of = Topology::pieces($twin)['of'];
        $hanging = [];
        foreach (array_keys($twin, -2, true) as $h) {
            $hanging[$of[intdiv($h, 3)]] = true;
        }

        return array_filter($of, fn (int $piece) => isset($loose[$piece], $hanging[$piece]));
    }

    /** @param  array<int, mixed>  $gone  by face */
    private static function without(TriangleMesh $mesh, array $gone): TriangleMesh
    {
        return $gone === [] ? $mesh : $mesh->withFaces(array_keys(array_diff_key(array_fill(0, $mesh->faceCount(), true), $gone)));
    }

    /**
     * @param  array<int, int>  $twin
     * @param  array<int, true>  $near  vertices of the rims
     */
    private static function sewn(TriangleMesh $mesh, array $twin, array $near): TriangleMesh
    {
        [$faces, $origin] = [$mesh->faces, $mesh->origin];
        $least = MeshCleanup::NOTHING * BoundingBox::of($mesh->positions)->diagonal();
        Seam::sewn($mesh->positions, $faces, $origin, $twin, $near, $least);
        $keep = MeshCleanup::withoutDegenerates($mesh->positions, $faces, $least, $near);

        return $faces === $mesh->faces && count($keep) === $mesh->faceCount() ? $mesh : TriangleMesh::fromFlat($mesh->positions, $faces, $mesh->support, $origin)->withFaces($keep);
    }

    /**
     * Faces go that hang on a rim by one edge and lie back over the surface, and those without area whose long edge is open.
     *
     * @param  array<int, int>  $twin
     * @param  array<string, true>  $places  of the rims, see BoundaryLoops
     */
    private static function unfolded(TriangleMesh $mesh, array $twin, array $places): TriangleMesh
    {
        $nothing = 10.0 * (MeshCleanup::NOTHING * BoundingBox::of($mesh->positions)->diagonal()) ** 2;
        do {
            $gone = [];
            foreach (array_keys($twin, -1, true) as $h) {
                $t = intdiv($h, 3);
                if (isset($gone[$t]) || BoundaryLoops::shareAt($places, array_slice($mesh->faces, 3 * $t, 3), $mesh->positions) === 0.0) {
                    continue;
                }
                $linked = array_values(array_filter([$twin[3 * $t], $twin[3 * $t + 1], $twin[3 * $t + 2]], fn (int $g) => $g >= 0));
                $cross = self::cross($mesh, $t);
                if (count($linked) === 1 && Vector3::dot($cross, self::cross($mesh, intdiv($linked[0], 3))) < 0.0 || $linked !== [] && Vector3::length($cross) <= 2.0 * $nothing) {
                    $gone[$t] = true;
                }
            }
            if ($gone !== []) {
                $mesh = self::without($mesh, $gone);
                $twin = Topology::twins($mesh->faces);
            }
        } while ($gone !== []);

        return $mesh;
    }

    /** @return array{float, float, float} twice the area, along the normal */
    private static function cross(TriangleMesh $mesh, int $t): array
    {
        [$a, $b, $c] = array_map(fn (int $v) => [$mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]], array_slice($mesh->faces, 3 * $t, 3));

        return Vector3::cross(Vector3::minus($b, $a), Vector3::minus($c, $a));
    }
}
