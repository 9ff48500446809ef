<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Emberstone\Core\Exchange\Weld;
use Emberstone\Core\Mesh\TriangleMesh;

/** Small meshes with known truth. */
final class MeshBuilder
{
    /** A unit-free sphere: each level has four times the faces of the one before (20 at level 0). */
    public static function icosphere(int $level, float $radius = 1.0): TriangleMesh
    {
        $t = (1.0 + sqrt(5.0)) / 2.0;
        $v = [[-1, $t, 0], [1, $t, 0], [-1, -$t, 0], [1, -$t, 0], [0, -1, $t], [0, 1, $t], [0, -1, -$t], [0, 1, -$t], [$t, 0, -1], [$t, 0, 1], [-$t, 0, -1], [-$t, 0, 1]];
        $f = [[0, 11, 5], [0, 5, 1], [0, 1, 7], [0, 7, 10], [0, 10, 11], [1, 5, 9], [5, 11, 4], [11, 10, 2], [10, 7, 6], [7, 1, 8], [3, 9, 4], [3, 4, 2], [3, 2, 6], [3, 6, 8], [3, 8, 9], [4, 9, 5], [2, 4, 11], [6, 2, 10], [8, 6, 7], [9, 8, 1]];
        for ($k = 0; $k < $level; $k++) {
            $middle = [];
            $next = [];
            $mid = function (int $a, int $b) use (&$v, &$middle): int {
                $key = min($a, $b).'-'.max($a, $b);
                if (! isset($middle[$key])) {
                    $middle[$key] = count($v);
                    $v[] = [($v[$a][0] + $v[$b][0]) / 2, ($v[$a][1] + $v[$b][1]) / 2, ($v[$a][2] + $v[$b][2]) / 2];
                }

                return $middle[$key];
            };
            foreach ($f as [$a, $b, $c]) {
                [$x, $y, $z] = [$mid($a, $b), $mid($b, $c), $mid($c, $a)];
                array_push($next, [$a, $x, $z], [$b, $y, $x], [$c, $z, $y], [$x, $y, $z]);
            }
            $f = $next;
        }
        $p = [];
        foreach ($v as [$x, $y, $z]) {
            $l = $radius / sqrt($x * $x + $y * $y + $z * $z);
            array_push($p, $x * $l, $y * $l, $z * $l);
        }

        return TriangleMesh::fromFlat($p, array_merge(...$f));
    }

    /** The same without the faces whose centre lies above the height. */
    public static function without(TriangleMesh $mesh, float $aboveZ): TriangleMesh
    {
        $keep = [];
        for ($t = 0; $t < $mesh->faceCount(); $t++) {
            $z = 0.0;
            for ($k = 0; $k < 3; $k++) {
                $z += $mesh->positions[3 * $mesh->faces[3 * $t + $k] + 2] / 3.0;
            }
            if ($z <= $aboveZ) {
                $keep[] = $t;
            }
        }

        return $mesh->withFaces($keep);
    }

    /**
     * A closed brick from the origin to its far corner, each side cut into so many squares each way.
     *
     * @param  array{float, float, float}  $size
     */
    public static function brick(array $size, int $cells): TriangleMesh
    {
        $p = $f = [];
        foreach ([0, 1, 2] as $axis) {
            foreach ([0.0, $size[$axis]] as $height) {
                [$u, $v] = $height > 0.0 ? [($axis + 1) % 3, ($axis + 2) % 3] : [($axis + 2) % 3, ($axis + 1) % 3];
                $first = intdiv(count($p), 3);
                for ($i = 0; $i <= $cells; $i++) {
                    for ($j = 0; $j <= $cells; $j++) {
                        $at = [0.0, 0.0, 0.0];
                        $at[$axis] = $height;
                        $at[$u] = $size[$u] * $i / $cells;
                        $at[$v] = $size[$v] * $j / $cells;
                        array_push($p, ...$at);
                        if ($i < $cells && $j < $cells) {
                            $a = $first + $i * ($cells + 1) + $j;
                            array_push($f, $a, $a + $cells + 1, $a + $cells + 2, $a, $a + $cells + 2, $a + 1);
                        }
                    }
                }
            }
        }

        return Weld::mesh(TriangleMesh::fromFlat($p, $f), 0.0);
    }

    /**
     * A brick with square tunnels from its bottom to its top, one square wide, closed: genus as many as there are.
     *
     * @param  array{float, float, float}  $size
     * @param  list<array{int, int}>  $squares  along x and y
     */
    public static function drilled(array $size, int $cells, array $squares): TriangleMesh
    {
        $mesh = self::brick($size, $cells);
        $p = $mesh->positions;
        $at = [];
        foreach (array_chunk($p, 3) as $v => $place) {
            $at[implode(' ', array_map(fn (int $k) => (string) round($place[$k] / $size[$k] * $cells), [0, 1, 2]))] = $v;
        }
        $taken = [];
        $walls = [];
        foreach ($squares as [$i, $j]) {
            $corners = [[$i, $j], [$i + 1, $j], [$i + 1, $j + 1], [$i, $j + 1]];
            [$below, $above] = array_map(fn (int $z) => array_map(fn (array $c) => $at["$c[0] $c[1] $z"], $corners), [0, $cells]);
            $taken[] = array_flip($below);
            $taken[] = array_flip($above);
            foreach ([0, 1, 2, 3] as $k) {
                $next = ($k + 1) % 4;
                array_push($walls, $below[$k], $above[$next], $below[$next], $below[$k], $above[$k], $above[$next]);
            }
        }
        $faces = array_merge(...array_filter(array_chunk($mesh->faces, 3), fn (array $face) => array_filter($taken, fn (array $square) => isset($square[$face[0]], $square[$face[1]], $square[$face[2]])) === []));

        return TriangleMesh::fromFlat($p, [...$faces, ...$walls]);
    }

    /** A ring around z: closed, genus 1, two faces a quad. */
    public static function ring(float $radius, float $thickness, int $around, int $across): TriangleMesh
    {
        $p = $f = [];
        for ($i = 0; $i < $around; $i++) {
            for ($j = 0; $j < $across; $j++) {
                [$u, $v] = [2.0 * M_PI * $i / $around, 2.0 * M_PI * $j / $across];
                $r = $radius + $thickness * cos($v);
                array_push($p, $r * cos($u), $r * sin($u), $thickness * sin($v));
                [$a, $b] = [$i * $across + $j, ($i + 1) % $around * $across + $j];
                [$c, $d] = [($i + 1) % $around * $across + ($j + 1) % $across, $i * $across + ($j + 1) % $across];
                array_push($f, $a, $b, $c, $a, $c, $d);
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    public static function together(TriangleMesh $one, TriangleMesh $other): TriangleMesh
    {
        $shift = $one->vertexCount();

        return TriangleMesh::fromFlat([...$one->positions, ...$other->positions], [...$one->faces, ...array_map(fn (int $v) => $v + $shift, $other->faces)]);
    }

    /** Edges that are not shared by exactly two faces running opposite ways. */
    public static function badEdges(TriangleMesh $mesh): int
    {
        $seen = [];
        $bad = 0;
        for ($h = 0, $n = count($mesh->faces); $h < $n; $h++) {
            $key = $mesh->faces[$h] << 32 | $mesh->faces[$h % 3 === 2 ? $h - 2 : $h + 1];
            $bad += isset($seen[$key]) ? 1 : 0;
            $seen[$key] = true;
        }
        foreach (array_keys($seen) as $key) {
            $bad += isset($seen[($key & 0xFFFFFFFF) << 32 | $key >> 32]) ? 0 : 1;
        }

        return $bad;
    }
}
