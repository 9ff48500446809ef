<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Remeshing\MeshCleanup;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Algorithms\Surface\Winding;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * Which way the pieces of a mesh face, and how to make them face outwards.
 *
 * Source    generalized winding numbers, see Algorithms/Surface/Winding.
 * Keeps     pieces that stand in another, which bound a hollow; and what is open by more than a tenth, which may be the inside of a bore or a bowl.
 */
final class Facing
{
    /** The mean winding number of a piece below which it can only be a body turned inside out: at -0.5 it is closed, at -0.45 open by a tenth. */
    private const INWARDS = -0.45;

    /** Neighbours agree, and pieces face outwards. */
    public static function outwards(TriangleMesh $mesh): TriangleMesh
    {
        $f = $mesh->faces;
        MeshCleanup::agree($f);
        $pieces = Topology::pieces(Topology::twins($f))['of'];
        $inwards = self::inwards($mesh->positions, $f);
        foreach ($inwards === [] ? [] : $pieces as $t => $piece) {
            if (isset($inwards[$piece])) {
                [$f[3 * $t + 1], $f[3 * $t + 2]] = [$f[3 * $t + 2], $f[3 * $t + 1]];
            }
        }

        return TriangleMesh::fromFlat($mesh->positions, $f, $mesh->support, $mesh->origin);
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return array<int, true> the pieces that face inwards, numbered as Topology::pieces() does
     */
    public static function inwards(array $p, array $f): array
    {
        $pieces = Topology::pieces(Topology::twins($f));
        $faces = array_fill(0, $pieces['count'], []);
        foreach ($pieces['of'] as $t => $piece) {
            array_push($faces[$piece], $f[3 * $t], $f[3 * $t + 1], $f[3 * $t + 2]);
        }
        $suspects = array_filter($faces, fn (array $of) => self::volume($p, $of) < 0.0 && Winding::facing($p, $of) < self::INWARDS);
        if ($suspects === []) {
            return [];
        }
        $boxes = array_map(fn (array $of) => BoundingBox::of(array_merge(...array_map(fn (int $v) => array_slice($p, 3 * $v, 3), array_values(array_unique($of))))), $faces);
        $inwards = [];
        foreach ($suspects as $piece => $of) {
            $place = [$p[3 * $of[0]], $p[3 * $of[0] + 1], $p[3 * $of[0] + 2]];
            $others = array_filter($faces, fn (int $other) => $other !== $piece && $boxes[$other]->contains($boxes[$piece]), ARRAY_FILTER_USE_KEY);
            // Both sides of a wall go around what stands behind it, and cancel.
            if (abs(array_sum(array_map(fn (array $its) => Winding::at($p, $its, $place), $others))) < 0.5) {
                $inwards[$piece] = true;
            }
        }

        return $inwards;
    }

    /**
     * The volume between the faces and their first corner's place, which costs little and is below zero for all that faces inwards all around.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     */
    private static function volume(array $p, array $f): float
    {
        [$x, $y, $z] = [0.0, 0.0, 0.0];
        foreach ($f as $v) {
            $x += $p[3 * $v];
            $y += $p[3 * $v + 1];
            $z += $p[3 * $v + 2];
        }
        $middle = [$x / count($f), $y / count($f), $z / count($f)];
        $sum = 0.0;
        foreach (Measure::crosses($p, $f) as $k => $v) {
            $sum += $v * ($p[3 * $f[$k - $k % 3] + $k % 3] - $middle[$k % 3]);
        }

        return $sum / 6.0;
    }
}
