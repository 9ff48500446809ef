<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;

/**
 * Four-sided cells, and triangles where there is no other way, with the lines of the shape that their vertices lie on.
 *
 * @internal
 */
final class CellMesh
{
    /** A vertex that stays where it is. */
    public const CORNER = -1;

    /**
     * @param  list<float>  $positions  flat xyz, mm
     * @param  list<array{int, int, int, int}>  $cells  vertices counter-clockwise; the last is -1 of a triangle
     * @param  list<int>  $lines  by vertex: 0 where it is free, the number of the line that it lies on, or CORNER
     * @param  array<int, int>  $edgeLines  by edge (lower vertex << 32 | higher): the number of its line
     */
    private function __construct(
        public array $positions,
        public readonly array $cells,
        public readonly array $lines,
        public readonly array $edgeLines,
    ) {
    }

    /**
     * The vertices that cells use, and what lines of the mesh they and their sides lie on.
     *
     * @param  list<array{int, int, int, int}>  $cells  of vertices of the mesh
     */
    public static function of(EditableMesh $mesh, array $cells): self
    {
        $at = [];
        $positions = $lines = $edgeLines = [];
        foreach ($cells as $k => $cell) {
            foreach ($cell as $c => $v) {
                if ($v < 0) {
                    continue;
                }
                if (! isset($at[$v])) {
                    $at[$v] = count($at);
                    array_push($positions, $mesh->vertices[4 * $v], $mesh->vertices[4 * $v + 1], $mesh->vertices[4 * $v + 2]);
                    $lines[] = ($mesh->flags[$v] & EditableMesh::CORNER) !== 0 ? self::CORNER : 0;
                }
                $cells[$k][$c] = $at[$v];
            }
        }
        foreach ($mesh->features as $h => $line) {
            if ($line !== 0 && ($h & 3) !== 3 && $mesh->corners[$h | 3] !== 0) {
                $a = $at[$mesh->corners[$h]];
                $b = $at[$mesh->corners[EditableMesh::next($h)]];
                $edgeLines[self::edge($a, $b)] = $line;
                foreach ([$a, $b] as $v) {
                    $lines[$v] = $lines[$v] === self::CORNER ? self::CORNER : $line;
                }
            }
        }

        return new self($positions, $cells, $lines, $edgeLines);
    }

    /** The key of an edge, whichever way round it is named. */
    public static function edge(int $a, int $b): int
    {
        return $a < $b ? $a << 32 | $b : $b << 32 | $a;
    }

    /**
     * The normal of a cell: the product of its diagonals, twice its area long; of a triangle that of two sides.
     *
     * @param  array<int, float>  $P  flat xyz
     * @param  array<int, int>  $cell  three or four vertices; the fourth may be -1
     * @return array{float, float, float}
     */
    public static function normal(array $P, array $cell): array
    {
        $a = 3 * $cell[0];
        $b = 3 * $cell[1];
        $c = 3 * $cell[2];
        $d = ($cell[3] ?? -1) < 0 ? $a : 3 * $cell[3];
        $ux = $P[$c] - $P[$a];
        $uy = $P[$c + 1] - $P[$a + 1];
        $uz = $P[$c + 2] - $P[$a + 2];
        $vx = $P[$d] - $P[$b];
        $vy = $P[$d + 1] - $P[$b + 1];
        $vz = $P[$d + 2] - $P[$b + 2];

        return [$uy * $vz - $uz * $vy, $uz * $vx - $ux * $vz, $ux * $vy - $uy * $vx];
    }

    /** Every cell cut into as many four-sided ones as it has corners, by lines from its middle to those of its sides (the topology of Catmull & Clark 1978). */
    public function split(): self
    {
        $positions = $this->positions;
        $lines = $this->lines;
        $edgeLines = $middles = $cells = [];
        $middle = function (int $a, int $b) use (&$positions, &$lines, &$edgeLines, &$middles): int {
            $edge = self::edge($a, $b);
            if (! isset($middles[$edge])) {
                $m = $middles[$edge] = count($lines);
                for ($c = 0; $c < 3; $c++) {
                    $positions[] = 0.5 * ($this->positions[3 * $a + $c] + $this->positions[3 * $b + $c]);
                }
                $line = $this->edgeLines[$edge] ?? 0;
                $lines[] = $line;
                if ($line !== 0) {
                    $edgeLines[self::edge($a, $m)] = $edgeLines[self::edge($b, $m)] = $line;
                }
            }

            return $middles[$edge];
        };
        foreach ($this->cells as $cell) {
            $corners = $cell[3] < 0 ? array_slice($cell, 0, 3) : $cell;
            $n = count($corners);
            $centre = count($lines);
            $lines[] = 0;
            for ($c = 0; $c < 3; $c++) {
                $positions[] = array_sum(array_map(fn (int $v) => $this->positions[3 * $v + $c], $corners)) / $n;
            }
            foreach ($corners as $k => $v) {
                $cells[] = [$v, $middle($v, $corners[($k + 1) % $n]), $centre, $middle($corners[($k + $n - 1) % $n], $v)];
            }
        }

        return new self($positions, $cells, $lines, $edgeLines);
    }

    /**
     * As triangles, each cell cut along the diagonal that bends less, and the faces that make a cell with the next.
     *
     * @return array{list<int>, list<int>} flat faces; indices of the first of each pair
     */
    public function triangles(): array
    {
        $faces = $quads = [];
        foreach ($this->cells as [$a, $b, $c, $d]) {
            if ($d < 0) {
                array_push($faces, $a, $b, $c);

                continue;
            }
            $quads[] = intdiv(count($faces), 3);
            if ($this->worstAngle($a, $b, $c, $d) < $this->worstAngle($b, $c, $d, $a)) {
                array_push($faces, $b, $c, $d, $b, $d, $a);
            } else {
                array_push($faces, $a, $b, $c, $a, $c, $d);
            }
        }

        return [$faces, $quads];
    }

    /** The smaller cosine, of both triangles that the diagonal from a to c makes, of their normals with that of the cell: below 0 one is folded over. */
    private function worstAngle(int $a, int $b, int $c, int $d): float
    {
        $one = $this->cross($a, $b, $c);
        $two = $this->cross($a, $c, $d);
        $all = [$one[0] + $two[0], $one[1] + $two[1], $one[2] + $two[2]];
        $cosine = static function (array $u) use ($all): float {
            $length = sqrt(($u[0] ** 2 + $u[1] ** 2 + $u[2] ** 2) * ($all[0] ** 2 + $all[1] ** 2 + $all[2] ** 2));

            return $length > 0.0 ? ($u[0] * $all[0] + $u[1] * $all[1] + $u[2] * $all[2]) / $length : -1.0;
        };

        return min($cosine($one), $cosine($two));
    }

    /** @return array{float, float, float} */
    private function cross(int $a, int $b, int $c): array
    {
        $p = $this->positions;
        $ux = $p[3 * $b] - $p[3 * $a];
        $uy = $p[3 * $b + 1] - $p[3 * $a + 1];
        $uz = $p[3 * $b + 2] - $p[3 * $a + 2];
        $vx = $p[3 * $c] - $p[3 * $a];
        $vy = $p[3 * $c + 1] - $p[3 * $a + 1];
        $vz = $p[3 * $c + 2] - $p[3 * $a + 2];

        return [$uy * $vz - $uz * $vy, $uz * $vx - $ux * $vz, $ux * $vy - $uy * $vx];
    }
}
