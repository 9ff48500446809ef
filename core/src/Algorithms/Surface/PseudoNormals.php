<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Surface;

use Emberstone\Core\Algorithms\HalfEdge\Topology;

/**
 * On which side of a surface points lie, also where the nearest place of it is an edge or a corner, at which one face alone tells it wrongly.
 *
 * Source    Baerentzen & Aanaes 2005, "Signed Distance Computation Using the Angle Weighted Pseudonormal": the normal of a face within it, the sum of both faces' at an edge, the sum of all faces' at a
 *           corner, weighted by their angles there.
 * Cost      O(faces) once, O(1) a point.
 *
 * @internal
 */
final class PseudoNormals
{
    /** The nearest place counts as an edge or corner when it is this near to it, as a share of the face. */
    private const AT = 1e-9;

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array<int, float>  $normals  of the faces
     * @param  array<int, float>  $corners  of the vertices
     * @param  array<int, int>  $twin
     */
    private function __construct(private readonly array $p, private readonly array $f, private readonly array $normals, private readonly array $corners, private readonly array $twin)
    {
    }

    /**
     * For points that come in portions.
     *
     * @param  array<int, float>  $p  flat xyz of the mesh
     * @param  array<int, int>  $f  its faces
     */
    public static function of(array $p, array $f): self
    {
        return new self($p, $f, ...[...self::normals($p, $f), Topology::twins($f)]);
    }

    /**
     * @param  array<int, float>  $p  flat xyz of the mesh
     * @param  array<int, int>  $f  its faces
     * @param  array<int, float>  $points  flat xyz
     * @param  array<int, int>  $face  the nearest face of each
     * @return list<float> 1 outside or on it, -1 inside
     */
    public static function sides(array $p, array $f, array $points, array $face): array
    {
        return self::of($p, $f)->sidesOf($points, $face);
    }

    /**
     * @param  array<int, float>  $points  flat xyz
     * @param  array<int, int>  $face  the nearest face of each
     * @return list<float> 1 outside or on it, -1 inside
     */
    public function sidesOf(array $points, array $face): array
    {
        [$p, $f, $normals, $corners, $twin] = [$this->p, $this->f, $this->normals, $this->corners, $this->twin];
        $sides = [];
        foreach ($face as $i => $t) {
            [$x, $y, $z] = [$points[3 * $i], $points[3 * $i + 1], $points[3 * $i + 2]];
            $u = 3 * $f[3 * $t];
            [$a, $b] = self::place($p, $u, 3 * $f[3 * $t + 1], 3 * $f[3 * $t + 2], $x, $y, $z);
            $n = [$normals[3 * $t], $normals[3 * $t + 1], $normals[3 * $t + 2]];
            $c = 1.0 - $a - $b;
            // Weights of the three corners; those that are nothing tell the edge or corner.
            $zero = [$c < self::AT, $a < self::AT, $b < self::AT];
            $many = count(array_filter($zero));
            if ($many === 2) {
                $v = 3 * $f[3 * $t + (int) array_search(false, $zero, true)];
                $n = [$corners[$v], $corners[$v + 1], $corners[$v + 2]];
            } elseif ($many === 1) {
                // The edge across from the corner without weight begins at the next one.
                $h = 3 * $t + ((int) array_search(true, $zero, true) + 1) % 3;
                if ($twin[$h] >= 0) {
                    $other = 3 * intdiv($twin[$h], 3);
                    $n = [$n[0] + $normals[$other], $n[1] + $normals[$other + 1], $n[2] + $normals[$other + 2]];
                }
            }
            $v = 3 * $f[3 * $t + 1];
            $w = 3 * $f[3 * $t + 2];
            $out = $n[0] * ($x - $c * $p[$u] - $a * $p[$v] - $b * $p[$w]) + $n[1] * ($y - $c * $p[$u + 1] - $a * $p[$v + 1] - $b * $p[$w + 1]) + $n[2] * ($z - $c * $p[$u + 2] - $a * $p[$v + 2] - $b * $p[$w + 2]);
            $sides[] = $out < 0.0 ? -1.0 : 1.0;
        }

        return $sides;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return array{array<int, float>, array<int, float>} unit normals of the faces (zero of one without area); the sums at the vertices, weighted by angle
     */
    private static function normals(array $p, array $f): array
    {
        $normals = array_fill(0, count($f), 0.0);
        $corners = array_fill(0, count($p), 0.0);
        for ($t = 0, $n = count($f); $t < $n; $t += 3) {
            $at = [3 * $f[$t], 3 * $f[$t + 1], 3 * $f[$t + 2]];
            $ways = [];
            for ($k = 0; $k < 3; $k++) {
                $a = $at[$k];
                $b = $at[($k + 1) % 3];
                $ways[] = [$p[$b] - $p[$a], $p[$b + 1] - $p[$a + 1], $p[$b + 2] - $p[$a + 2]];
            }
            [$u, $v] = [$ways[0], $ways[1]];
            $x = $u[1] * $v[2] - $u[2] * $v[1];
            $y = $u[2] * $v[0] - $u[0] * $v[2];
            $z = $u[0] * $v[1] - $u[1] * $v[0];
            $l = sqrt($x * $x + $y * $y + $z * $z);
            if ($l === 0.0) {
                continue;
            }
            $normals[$t] = $x /= $l;
            $normals[$t + 1] = $y /= $l;
            $normals[$t + 2] = $z /= $l;
            for ($k = 0; $k < 3; $k++) {
                [$u, $v] = [$ways[$k], $ways[($k + 2) % 3]];
                // All three corners have the same cross product, twice the area.
                $angle = atan2($l, -($u[0] * $v[0] + $u[1] * $v[1] + $u[2] * $v[2]));
                $corners[$at[$k]] += $angle * $x;
                $corners[$at[$k] + 1] += $angle * $y;
                $corners[$at[$k] + 2] += $angle * $z;
            }
        }

        return [$normals, $corners];
    }

    /**
     * The nearest place of a triangle, by the weights of its second and third corner (Ericson 2005, Real-Time Collision Detection, 5.1.5).
     *
     * @param  array<int, float>  $p
     * @return array{float, float}
     */
    private static function place(array $p, int $u, int $v, int $w, float $x, float $y, float $z): array
    {
        [$ax, $ay, $az] = [$p[$v] - $p[$u], $p[$v + 1] - $p[$u + 1], $p[$v + 2] - $p[$u + 2]];
        [$bx, $by, $bz] = [$p[$w] - $p[$u], $p[$w + 1] - $p[$u + 1], $p[$w + 2] - $p[$u + 2]];
        $d1 = $ax * ($x - $p[$u]) + $ay * ($y - $p[$u + 1]) + $az * ($z - $p[$u + 2]);
        $d2 = $bx * ($x - $p[$u]) + $by * ($y - $p[$u + 1]) + $bz * ($z - $p[$u + 2]);
        if ($d1 <= 0.0 && $d2 <= 0.0) {
            return [0.0, 0.0];
        }
        $d3 = $ax * ($x - $p[$v]) + $ay * ($y - $p[$v + 1]) + $az * ($z - $p[$v + 2]);
        $d4 = $bx * ($x - $p[$v]) + $by * ($y - $p[$v + 1]) + $bz * ($z - $p[$v + 2]);
        if ($d3 >= 0.0 && $d4 <= $d3) {
            return [1.0, 0.0];
        }
        $vc = $d1 * $d4 - $d3 * $d2;
        if ($vc <= 0.0 && $d1 >= 0.0 && $d3 <= 0.0) {
            return [$d1 === $d3 ? 0.0 : $d1 / ($d1 - $d3), 0.0];
        }
        $d5 = $ax * ($x - $p[$w]) + $ay * ($y - $p[$w + 1]) + $az * ($z - $p[$w + 2]);
        $d6 = $bx * ($x - $p[$w]) + $by * ($y - $p[$w + 1]) + $bz * ($z - $p[$w + 2]);
        if ($d6 >= 0.0 && $d5 <= $d6) {
            return [0.0, 1.0];
        }
        $vb = $d5 * $d2 - $d1 * $d6;
        if ($vb <= 0.0 && $d2 >= 0.0 && $d6 <= 0.0) {
            return [0.0, $d2 === $d6 ? 0.0 : $d2 / ($d2 - $d6)];
        }
        $va = $d3 * $d6 - $d5 * $d4;
        if ($va <= 0.0 && $d4 >= $d3 && $d5 >= $d6) {
            $s = ($d4 - $d3) / (($d4 - $d3) + ($d5 - $d6));

            return [1.0 - $s, $s];
        }
        $s = 1.0 / ($va + $vb + $vc);

        return [$vb * $s, $vc * $s];
    }
}
