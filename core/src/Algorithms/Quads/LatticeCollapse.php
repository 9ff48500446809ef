<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;

/**
 * Merges the vertices of a fine mesh that share a point of the lattice, until one is left for each: a mesh with a vertex at every corner of a cell, its edges the sides of cells and their diagonals.
 *
 * Source    own, in place of the extraction of Jakob et al. 2015, section 4.4, which takes a graph apart and looks for its loops: collapses and flips that keep a manifold one cannot tear it,
 *           so what was closed stays closed and no cell is there twice, whatever the field does.
 * Keeps     corners; vertices on sharp edges and rims are merged along them alone.
 * Cost      each pass over the edges is linear but for the sorting.
 *
 * @internal
 */
final class LatticeCollapse
{
    /** Of the length of a cell: points of the lattice nearer than this are one. Between 0 and 1 the middle is right. */
    private const SAME = 0.5;

    /** The length of an edge after a flip as a share of the one before that makes the flip worth it: on a square both diagonals are as long. */
    private const SHORTER = 0.9;

    /** Of the length of a cell: corners of the shape nearer than this to each other are one, whatever ends in them. */
    private const TINY = 0.2;

    /** Cosine of the corner of a face, on a line, from which the face has no width to speak of: 145 degrees. */
    private const FLAT = -0.82;

    private const ROUNDS = 6;

    /**
     * @param  EditableMesh  $mesh  (changed) its vertices stand at their points of the lattice
     * @param  float  $edge  length of a cell, mm
     */
    public static function run(EditableMesh $mesh, float $edge): void
    {
        foreach ($mesh->out as $v => $_) {
            $mesh->vertices[4 * $v + 3] = 1.0;
        }
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $merged = self::merge($mesh, self::SAME * $edge, self::TINY * $edge) + self::dropThrees($mesh) + self::dropEars($mesh);
            $flipped = self::flip($mesh);
            if ($merged + $flipped === 0) {
                return;
            }
        }
    }

    /** @return int edges merged */
    private static function merge(EditableMesh $mesh, float $limit, float $tiny): int
    {
        $lengths = [];
        foreach ($mesh->twins as $h => $g) {
            if (($h & 3) !== 3 && $mesh->corners[$h | 3] !== 0 && $g < $h) {
                $lengthSq = $mesh->lengthSq($h);
                if ($lengthSq < $limit * $limit) {
                    $lengths[$h] = $lengthSq;
                }
            }
        }
        asort($lengths);
        $merged = 0;
        foreach ($lengths as $h => $_) {
            if ($mesh->corners[$h | 3] === 0 || $mesh->lengthSq($h) >= $limit * $limit) {
                continue;
            }
            $g = $mesh->twins[$h];
            $isTiny = $mesh->lengthSq($h) < $tiny * $tiny;
            $way = self::may($mesh, $h, $isTiny) ? $h : ($g >= 0 && self::may($mesh, $g, $isTiny) ? $g : -1);
            if ($way >= 0) {
                self::collapse($mesh, $way);
                $merged++;
            }
        }

        return $merged;
    }

    private static function may(EditableMesh $mesh, int $h, bool $isTiny): bool
    {
        $flags = $mesh->flags[$mesh->corners[$h]];
        $other = $mesh->flags[$mesh->corners[EditableMesh::next($h)]];
        if ($isTiny && ($mesh->features[$h] !== 0 || ($flags & $other & EditableMesh::CORNER) !== 0) && ($flags & EditableMesh::AT_RIM) === 0 && $other >= $flags) {
            // Of two corners this close one is enough.
            return $mesh->canCollapse($h);
        }

        return ($flags & EditableMesh::CORNER) === 0 && (($flags & (EditableMesh::ON_FEATURE | EditableMesh::AT_RIM)) === 0 || $mesh->features[$h] !== 0) && $mesh->canCollapse($h);
    }

    /** Takes free vertices of three edges out: no cell has a place for them. @return int how many */
    private static function dropThrees(EditableMesh $mesh): int
    {
        $dropped = 0;
        foreach ($mesh->out as $v => $_) {
            $h = $mesh->out[$v];
            if ($h < 0 || $mesh->flags[$v] !== 0) {
                continue;
            }
            $two = $mesh->twins[EditableMesh::previous($h)];
            $three = $mesh->twins[EditableMesh::previous($two)];
            if ($mesh->twins[EditableMesh::previous($three)] !== $h) {
                continue;
            }
            foreach ([$h, $two, $three] as $way) {
                if ($mesh->canCollapse($way)) {
                    $mesh->collapse($way);
                    $dropped++;
                    break;
                }
            }
        }

        return $dropped;
    }

    /** Where a face has all of its corners on one line, that in the middle is merged along the line: such a face has no width. @return int how many */
    private static function dropEars(EditableMesh $mesh): int
    {
        $dropped = 0;
        for ($h = 0, $e = count($mesh->corners); $h < $e; $h++) {
            if (($h & 3) === 3 || $mesh->corners[$h | 3] === 0) {
                continue;
            }
            // The edges before and after a corner.
            $p = EditableMesh::previous($h);
            $middle = $mesh->corners[$h];
            if ($mesh->features[$h] === 0 || $mesh->features[$p] !== $mesh->features[$h] || ($mesh->flags[$middle] & EditableMesh::CORNER) !== 0 || ! self::isFlat($mesh, $h)) {
                continue;
            }
            foreach ([$h, $mesh->twins[$p]] as $way) {
                if ($way >= 0 && $mesh->canCollapse($way)) {
                    self::collapse($mesh, $way);
                    $dropped++;
                    break;
                }
            }
        }

        return $dropped;
    }

    /** Is the corner that a half-edge leaves from, in its face, almost half a turn? */
    private static function isFlat(EditableMesh $mesh, int $h): bool
    {
        $a = $mesh->lengthSq($h);
        $b = $mesh->lengthSq(EditableMesh::previous($h));

        return 0.5 * ($a + $b - $mesh->lengthSq(EditableMesh::next($h))) < self::FLAT * sqrt($a * $b);
    }

    /** Merges the start of an edge into its end, in the middle of all that went into both; a corner stays, and so does a line that something beside it is merged into. */
    private static function collapse(EditableMesh $mesh, int $h): void
    {
        $a = 4 * $mesh->corners[$h];
        $b = $mesh->corners[EditableMesh::next($h)];
        $held = ($mesh->flags[$b] & EditableMesh::CORNER) !== 0 || ($mesh->features[$h] === 0 && $mesh->flags[$b] !== 0);
        $o = 4 * $b;
        if (! $held) {
            $all = $mesh->vertices[$a + 3] + $mesh->vertices[$o + 3];
            $share = $mesh->vertices[$a + 3] / $all;
            for ($c = 0; $c < 3; $c++) {
                $mesh->vertices[$o + $c] += $share * ($mesh->vertices[$a + $c] - $mesh->vertices[$o + $c]);
            }
            $mesh->vertices[$o + 3] = $all;
        }
        $mesh->collapse($h);
    }

    /** Turns edges that run across more than one cell. @return int how many */
    private static function flip(EditableMesh $mesh): int
    {
        $flips = 0;
        foreach ($mesh->twins as $h => $g) {
            if (($h & 3) === 3 || $mesh->corners[$h | 3] === 0 || $mesh->twins[$h] < $h || ! $mesh->canFlip($h)) {
                continue;
            }
            $g = $mesh->twins[$h];
            $V = $mesh->vertices;
            $c = 4 * $mesh->corners[EditableMesh::previous($h)];
            $d = 4 * $mesh->corners[EditableMesh::previous($g)];
            $x = $V[$c] - $V[$d];
            $y = $V[$c + 1] - $V[$d + 1];
            $z = $V[$c + 2] - $V[$d + 2];
            if ($x * $x + $y * $y + $z * $z < self::SHORTER * self::SHORTER * $mesh->lengthSq($h) && self::staysUp($mesh, $h)) {
                $mesh->flip($h);
                $flips++;
            }
        }

        return $flips;
    }

    /** Do both faces look the way that they did, after a flip? */
    private static function staysUp(EditableMesh $mesh, int $h): bool
    {
        $V = $mesh->vertices;
        $g = $mesh->twins[$h];
        $a = 4 * $mesh->corners[$h];
        $b = 4 * $mesh->corners[EditableMesh::next($h)];
        $c = 4 * $mesh->corners[EditableMesh::previous($h)];
        $d = 4 * $mesh->corners[EditableMesh::previous($g)];
        $before = self::plus(self::cross($V, $a, $b, $c), self::cross($V, $b, $a, $d));
        $one = self::cross($V, $d, $c, $a);
        $two = self::cross($V, $c, $d, $b);

        return $one[0] * $before[0] + $one[1] * $before[1] + $one[2] * $before[2] > 0.0 && $two[0] * $before[0] + $two[1] * $before[1] + $two[2] * $before[2] > 0.0;
    }

    /**
     * @param  array<int, float>  $V  four numbers a vertex
     * @return array{float, float, float} of the triangle with these offsets
     */
    private static function cross(array $V, int $a, int $b, int $c): array
    {
        $ux = $V[$b] - $V[$a];
        $uy = $V[$b + 1] - $V[$a + 1];
        $uz = $V[$b + 2] - $V[$a + 2];
        $vx = $V[$c] - $V[$a];
        $vy = $V[$c + 1] - $V[$a + 1];
        $vz = $V[$c + 2] - $V[$a + 2];

        return [$uy * $vz - $uz * $vy, $uz * $vx - $ux * $vz, $ux * $vy - $uy * $vx];
    }

    /**
     * @param  array{float, float, float}  $a
     * @param  array{float, float, float}  $b
     * @return array{float, float, float}
     */
    private static function plus(array $a, array $b): array
    {
        return [$a[0] + $b[0], $a[1] + $b[1], $a[2] + $b[2]];
    }
}
