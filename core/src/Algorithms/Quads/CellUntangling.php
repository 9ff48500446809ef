<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

/**
 * Moves the vertices of cells that are folded or have a corner of almost 180 degrees to where the worst of their cells is best.
 *
 * Source    Freitag & Plassmann 2000, "Local optimization-based simplicial mesh untangling and improvement": one vertex at a time to where the least quality around it is largest, looked for on rings of places.
 * Cost      nothing where all cells are good; some 50 places tried a vertex of a bad one, a round.
 *
 * @internal
 */
final class CellUntangling
{
    /** Scaled Jacobian below which a cell is bad: the sine of the worst of its corners. */
    public const GOOD = 0.25;

    private const ROUNDS = 12;

    /** Directions in which places are tried, and how far, as shares of the mean length of the sides around. */
    private const DIRECTIONS = 12;

    private const REACHES = [0.5, 0.25, 0.1, 0.04];

    /** @var array<int, list<int>> by vertex: its cells */
    private array $cellsAt = [];

    private function __construct(private readonly CellMesh $mesh, private readonly CellRelaxation $surface)
    {
        foreach ($mesh->cells as $k => $cell) {
            foreach ($cell as $v) {
                if ($v >= 0) {
                    $this->cellsAt[$v][] = $k;
                }
            }
        }
    }

    /** @return list<int> the cells that stay bad */
    public static function run(CellMesh $mesh, CellRelaxation $surface): array
    {
        $bad = [];
        foreach ($mesh->cells as $k => $cell) {
            if (self::quality($mesh->positions, $cell) < self::GOOD) {
                $bad[] = $k;
            }
        }
        if ($bad === []) {
            return [];
        }
        $untangling = new self($mesh, $surface);
        for ($round = 0; $round < self::ROUNDS && $bad !== []; $round++) {
            $around = [];
            foreach ($bad as $k) {
                foreach ($mesh->cells[$k] as $v) {
                    if ($v >= 0) {
                        $around[$v] = true;
                    }
                }
            }
            $moved = false;
            foreach (array_keys($around) as $v) {
                $moved = ($mesh->lines[$v] !== CellMesh::CORNER && $untangling->improve($v)) || $moved;
            }
            // Cells next to the bad ones may have given way.
            $near = array_merge($bad, ...array_map(fn (int $v) => $untangling->cellsAt[$v], array_keys($around)));
            $bad = array_values(array_filter(array_unique($near), fn (int $k) => self::quality($mesh->positions, $mesh->cells[$k]) < self::GOOD));
            if (! $moved) {
                break;
            }
        }

        return $bad;
    }

    /**
     * The scaled Jacobian: the least sine of its corners, below 0 where one is turned in; of a triangle compared with an equal-sided one.
     *
     * @param  array<int, float>  $P  flat xyz
     * @param  array{int, int, int, int}  $cell
     */
    public static function quality(array $P, array $cell): float
    {
        $n = $cell[3] < 0 ? 3 : 4;
        [$nx, $ny, $nz] = CellMesh::normal($P, $cell);
        $length = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
        if ($length < 1e-300) {
            return -1.0;
        }
        $least = 1.0;
        for ($k = 0; $k < $n; $k++) {
            $o = 3 * $cell[$k];
            $next = 3 * $cell[($k + 1) % $n];
            $last = 3 * $cell[($k + $n - 1) % $n];
            $ux = $P[$next] - $P[$o];
            $uy = $P[$next + 1] - $P[$o + 1];
            $uz = $P[$next + 2] - $P[$o + 2];
            $vx = $P[$last] - $P[$o];
            $vy = $P[$last + 1] - $P[$o + 1];
            $vz = $P[$last + 2] - $P[$o + 2];
            $lengths = sqrt(($ux * $ux + $uy * $uy + $uz * $uz) * ($vx * $vx + $vy * $vy + $vz * $vz));
            $sine = $lengths < 1e-300 ? -1.0 : (($uy * $vz - $uz * $vy) * $nx + ($uz * $vx - $ux * $vz) * $ny + ($ux * $vy - $uy * $vx) * $nz) / ($lengths * $length);
            $least = min($least, $n === 3 ? $sine / sin(M_PI / 3.0) : $sine);
        }

        return $least;
    }

    /** Moves a vertex to the best of some places around it, if one is better than where it stands. */
    private function improve(int $v): bool
    {
        $P = $this->mesh->positions;
        [$x, $y, $z] = array_slice($P, 3 * $v, 3);
        $near = [];
        foreach ($this->cellsAt[$v] as $k) {
            /** @var list<int> $corners three or four, $v among them */
            $corners = array_values(array_filter($this->mesh->cells[$k], fn (int $w) => $w >= 0));
            $at = (int) array_search($v, $corners, true);
            $n = count($corners);
            $near[$corners[($at + 1) % $n]] = $near[$corners[($at + $n - 1) % $n]] = true;
        }
        $mx = $my = $mz = $length = 0.0;
        foreach (array_keys($near) as $w) {
            [$a, $b, $c] = array_slice($P, 3 * $w, 3);
            $mx += $a / count($near);
            $my += $b / count($near);
            $mz += $c / count($near);
            $length += sqrt(($a - $x) ** 2 + ($b - $y) ** 2 + ($c - $z) ** 2) / count($near);
        }
        // Two directions across the sum of the normals around: of the cells, as the vertex itself may lie wrong.
        [$u, $w] = $this->plane($v, $P);
        $tries = [$mx, $my, $mz, 0.5 * ($mx + $x), 0.5 * ($my + $y), 0.5 * ($mz + $z)];
        foreach (self::REACHES as $reach) {
            for ($k = 0; $k < self::DIRECTIONS; $k++) {
                $cos = $reach * $length * cos(2.0 * M_PI * $k / self::DIRECTIONS);
                $sin = $reach * $length * sin(2.0 * M_PI * $k / self::DIRECTIONS);
                array_push($tries, $x + $cos * $u[0] + $sin * $w[0], $y + $cos * $u[1] + $sin * $w[1], $z + $cos * $u[2] + $sin * $w[2]);
            }
        }
        $places = $this->surface->onto($this->mesh->lines[$v], $tries);
        $best = $this->worst($v, $P);
        $at = -1;
        for ($o = 0, $e = count($places); $o < $e; $o += 3) {
            [$P[3 * $v], $P[3 * $v + 1], $P[3 * $v + 2]] = [$places[$o], $places[$o + 1], $places[$o + 2]];
            $worst = $this->worst($v, $P);
            if ($worst > $best + 1e-3) {
                [$best, $at] = [$worst, $o];
            }
        }
        if ($at < 0) {
            return false;
        }
        for ($c = 0; $c < 3; $c++) {
            $this->mesh->positions[3 * $v + $c] = $places[$at + $c];
        }

        return true;
    }

    /** @param  array<int, float>  $P  flat xyz */
    private function worst(int $v, array $P): float
    {
        return min(array_map(fn (int $k) => self::quality($P, $this->mesh->cells[$k]), $this->cellsAt[$v]));
    }

    /**
     * @param  array<int, float>  $P  flat xyz
     * @return array{array{float, float, float}, array{float, float, float}} two unit vectors along the surface
     */
    private function plane(int $v, array $P): array
    {
        $n = [0.0, 0.0, 0.0];
        foreach ($this->cellsAt[$v] as $k) {
            [$x, $y, $z] = CellMesh::normal($P, $this->mesh->cells[$k]);
            $n = [$n[0] + $x, $n[1] + $y, $n[2] + $z];
        }
        $length = max(1e-300, sqrt($n[0] ** 2 + $n[1] ** 2 + $n[2] ** 2));
        $n = [$n[0] / $length, $n[1] / $length, $n[2] / $length];
        $u = FieldLevel::inPlane(1.0, 0.0, 0.0, $n) ?? FieldLevel::inPlane(0.0, 1.0, 0.0, $n) ?? [0.0, 0.0, 1.0];

        return [$u, [$n[1] * $u[2] - $n[2] * $u[1], $n[2] * $u[0] - $n[0] * $u[2], $n[0] * $u[1] - $n[1] * $u[0]]];
    }
}
