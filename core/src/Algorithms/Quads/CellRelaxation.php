<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

use Closure;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Search\TriangleFeet;
use Emberstone\Core\Algorithms\Surface\Measure;

/**
 * Moves the vertices of cells so that these become as square as they can, along the surface and back onto it; those on lines of the shape along them.
 *
 * Source    Bouaziz, Deuss, Schwartzburg, Weise & Pauly 2012, "Shape-Up": each cell says where its corners would be if it were the nearest square, a vertex goes to the mean of what its cells say.
 * Cost      linear in the cells, and one nearest place on the surface a vertex, a round.
 *
 * @internal
 */
final class CellRelaxation
{
    /** Of the distance to its place: how far a vertex goes in a round. */
    private const STEP = 0.7;

    /** Cosine of the angle between a vertex and the surface below which a place is on another wall: 75 degrees. */
    private const SAME_SIDE = 0.26;

    /** Times that vertices are put back, each time those around cells that this made bad in turn. */
    private const HOLDS = 4;

    /** Share of the way between two neighbours on a line within which a vertex is too near to one. */
    private const ENDS = 0.05;

    private readonly TriangleBvh $surface;

    /** @var list<float> normals of the surface's faces, twice their areas long */
    private readonly array $crosses;

    /** @var array<int, TriangleBvh> each line of the shape, as triangles without width */
    private array $lineTrees = [];

    /**
     * @param  array<int, float>  $positions  flat xyz, of the surface
     * @param  array<int, int>  $faces  flat
     * @param  array<int, array{array<int, float>, array<int, int>}>  $lines  by number: flat xyz, and triangles without width
     * @param  GuideStrokes  $strokes  that cells near them are turned along
     * @param  float  $cell  mm, the side of the cells that were laid along them
     */
    public function __construct(private readonly array $positions, private readonly array $faces, private readonly array $lines, private readonly GuideStrokes $strokes, private readonly float $cell, ?TriangleBvh $surface = null)
    {
        $this->surface = $surface ?? TriangleBvh::of($positions, $faces);
        $this->crosses = Measure::crosses($positions, $faces);
        foreach ($lines as $number => [$points, $line]) {
            $this->lineTrees[$number] = TriangleBvh::of($points, $line);
        }
    }

    /** @param  Closure(float): void  $progress  told the share done */
    public function run(CellMesh $mesh, int $rounds, Closure $progress): void
    {
        for ($round = 0; $round < $rounds; $round++) {
            $before = $mesh->positions;
            $mesh->positions = $this->placed($mesh, $this->wanted($mesh));
            self::holdBack($mesh, $before);
            $progress(($round + 1) / $rounds);
        }
    }

    /**
     * Puts the vertices of cells that became bad back to where they were, until none is left that was not bad before.
     *
     * @param  array<int, float>  $before  flat xyz
     */
    private static function holdBack(CellMesh $mesh, array $before): void
    {
        $looked = $mesh->cells;
        for ($round = 0; $round < self::HOLDS && $looked !== []; $round++) {
            $held = [];
            foreach ($looked as $cell) {
                $now = CellUntangling::quality($mesh->positions, $cell);
                if ($now < CellUntangling::GOOD && $now < CellUntangling::quality($before, $cell)) {
                    foreach ($cell as $v) {
                        $held[$v] = true;
                    }
                }
            }
            unset($held[-1]);
            foreach ($held as $v => $_) {
                for ($o = 3 * $v; $o < 3 * $v + 3; $o++) {
                    $mesh->positions[$o] = $before[$o];
                }
            }
            $looked = array_filter($mesh->cells, fn (array $cell) => isset($held[$cell[0]]) || isset($held[$cell[1]]) || isset($held[$cell[2]]) || isset($held[$cell[3]]));
        }
    }

    /** @return array<int, float> flat xyz: every vertex where the mean of its cells would have it */
    private function wanted(CellMesh $mesh): array
    {
        $P = $mesh->positions;
        $n = count($mesh->lines);
        $sum = array_fill(0, 4 * $n, 0.0);
        $middles = [];
        foreach ($mesh->cells as [$a, , $c]) {
            array_push($middles, 0.5 * ($P[3 * $a] + $P[3 * $c]), 0.5 * ($P[3 * $a + 1] + $P[3 * $c + 1]), 0.5 * ($P[3 * $a + 2] + $P[3 * $c + 2]));
        }
        $flow = $this->strokes->flowAt($middles, $this->cell);
        foreach ($mesh->cells as $number => $cell) {
            $places = $cell[3] < 0 ? self::equalSided($P, $cell) : self::square($P, $cell, $flow[$number] ?? null);
            foreach ($places as $k => [$x, $y, $z]) {
                $o = 4 * $cell[$k];
                $sum[$o] += $x;
                $sum[$o + 1] += $y;
                $sum[$o + 2] += $z;
                $sum[$o + 3] += 1.0;
            }
        }
        $wanted = [];
        for ($v = 0; $v < $n; $v++) {
            for ($c = 0; $c < 3; $c++) {
                $wanted[] = $P[3 * $v + $c] + self::STEP * ($sum[4 * $v + $c] / max(1.0, $sum[4 * $v + 3]) - $P[3 * $v + $c]);
            }
        }
        self::inOrder($mesh, $wanted);

        return $wanted;
    }

    /**
     * A vertex on a line that does not lie between its two neighbours there goes to their middle.
     *
     * @param  array<int, float>  $wanted  (changed) flat xyz
     */
    private static function inOrder(CellMesh $mesh, array &$wanted): void
    {
        $P = $mesh->positions;
        $along = [];
        foreach ($mesh->edgeLines as $edge => $_) {
            $along[$edge >> 32][] = $edge & 0xFFFFFFFF;
            $along[$edge & 0xFFFFFFFF][] = $edge >> 32;
        }
        foreach ($along as $v => $others) {
            if ($mesh->lines[$v] === CellMesh::CORNER || count($others) !== 2) {
                continue;
            }
            [$a, $b] = $others;
            $way = $length = 0.0;
            for ($c = 0; $c < 3; $c++) {
                $way += ($P[3 * $v + $c] - $P[3 * $a + $c]) * ($P[3 * $b + $c] - $P[3 * $a + $c]);
                $length += ($P[3 * $b + $c] - $P[3 * $a + $c]) ** 2;
            }
            if ($way < self::ENDS * $length || $way > (1.0 - self::ENDS) * $length) {
                for ($c = 0; $c < 3; $c++) {
                    $wanted[3 * $v + $c] = 0.5 * ($P[3 * $a + $c] + $P[3 * $b + $c]);
                }
            }
        }
    }

    /**
     * The square next to a cell, half way to the next rectangle.
     *
     * @param  array<int, float>  $P  flat xyz
     * @param  array{int, int, int, int}  $cell
     * @param  array{float, float, float}|null  $along  that one of its sides is turned along
     * @return list<array{float, float, float}> where each corner would be
     */
    private static function square(array $P, array $cell, ?array $along): array
    {
        [$a, $b, $c, $d] = [3 * $cell[0], 3 * $cell[1], 3 * $cell[2], 3 * $cell[3]];
        $mx = 0.25 * ($P[$a] + $P[$b] + $P[$c] + $P[$d]);
        $my = 0.25 * ($P[$a + 1] + $P[$b + 1] + $P[$c + 1] + $P[$d + 1]);
        $mz = 0.25 * ($P[$a + 2] + $P[$b + 2] + $P[$c + 2] + $P[$d + 2]);
        // Half the diagonals; the second turned back by a right angle would be the first, of a square.
        $ux = 0.5 * ($P[$a] - $P[$c]);
        $uy = 0.5 * ($P[$a + 1] - $P[$c + 1]);
        $uz = 0.5 * ($P[$a + 2] - $P[$c + 2]);
        $vx = 0.5 * ($P[$b] - $P[$d]);
        $vy = 0.5 * ($P[$b + 1] - $P[$d + 1]);
        $vz = 0.5 * ($P[$b + 2] - $P[$d + 2]);
        $nx = $uy * $vz - $uz * $vy;
        $ny = $uz * $vx - $ux * $vz;
        $nz = $ux * $vy - $uy * $vx;
        $length = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
        if ($length < 1e-300) {
            return [[$P[$a], $P[$a + 1], $P[$a + 2]], [$P[$b], $P[$b + 1], $P[$b + 2]], [$P[$c], $P[$c + 1], $P[$c + 2]], [$P[$d], $P[$d + 1], $P[$d + 2]]];
        }
        $nx /= $length;
        $ny /= $length;
        $nz /= $length;
        $sx = 0.5 * ($ux + $vy * $nz - $vz * $ny);
        $sy = 0.5 * ($uy + $vz * $nx - $vx * $nz);
        $sz = 0.5 * ($uz + $vx * $ny - $vy * $nx);
        $tx = $ny * $sz - $nz * $sy;
        $ty = $nz * $sx - $nx * $sz;
        $tz = $nx * $sy - $ny * $sx;
        $u = sqrt($ux * $ux + $uy * $uy + $uz * $uz);
        $v = sqrt($vx * $vx + $vy * $vy + $vz * $vz);
        // A rectangle has diagonals of one length.
        $half = 0.25 * ($u + $v);
        $sx = 0.5 * $sx + $half / $u * $ux;
        $sy = 0.5 * $sy + $half / $u * $uy;
        $sz = 0.5 * $sz + $half / $u * $uz;
        $tx = 0.5 * $tx + $half / $v * $vx;
        $ty = 0.5 * $ty + $half / $v * $vy;
        $tz = 0.5 * $tz + $half / $v * $vz;

        $along = $along === null ? null : FieldLevel::inPlane(...[...$along, [$nx, $ny, $nz]]);
        if ($along !== null) {
            // The angle from the direction asked for to the nearest of the sides; both halves of the diagonals are turned back by it.
            [$dx, $dy, $dz] = $along;
            [$ex, $ey, $ez] = [$tx - $sx, $ty - $sy, $tz - $sz];
            $angle = atan2($ex * ($ny * $dz - $nz * $dy) + $ey * ($nz * $dx - $nx * $dz) + $ez * ($nx * $dy - $ny * $dx), $ex * $dx + $ey * $dy + $ez * $dz);
            $angle -= 0.5 * M_PI * round($angle / (0.5 * M_PI));
            [$cos, $sin] = [cos($angle), -sin($angle)];
            [$sx, $sy, $sz] = [$cos * $sx + $sin * ($ny * $sz - $nz * $sy), $cos * $sy + $sin * ($nz * $sx - $nx * $sz), $cos * $sz + $sin * ($nx * $sy - $ny * $sx)];
            [$tx, $ty, $tz] = [$cos * $tx + $sin * ($ny * $tz - $nz * $ty), $cos * $ty + $sin * ($nz * $tx - $nx * $tz), $cos * $tz + $sin * ($nx * $ty - $ny * $tx)];
        }

        return [[$mx + $sx, $my + $sy, $mz + $sz], [$mx + $tx, $my + $ty, $mz + $tz], [$mx - $sx, $my - $sy, $mz - $sz], [$mx - $tx, $my - $ty, $mz - $tz]];
    }

    /**
     * The equal-sided triangle next to one.
     *
     * @param  array<int, float>  $P  flat xyz
     * @param  array{int, int, int, int}  $cell
     * @return list<array{float, float, float}>
     */
    private static function equalSided(array $P, array $cell): array
    {
        [$a, $b, $c] = [array_slice($P, 3 * $cell[0], 3), array_slice($P, 3 * $cell[1], 3), array_slice($P, 3 * $cell[2], 3)];
        $m = $u = $w = [];
        for ($k = 0; $k < 3; $k++) {
            $m[$k] = ($a[$k] + $b[$k] + $c[$k]) / 3.0;
            $u[$k] = $b[$k] - $a[$k];
            $w[$k] = $c[$k] - $a[$k];
        }
        $n = [$u[1] * $w[2] - $u[2] * $w[1], $u[2] * $w[0] - $u[0] * $w[2], $u[0] * $w[1] - $u[1] * $w[0]];
        $length = sqrt($n[0] ** 2 + $n[1] ** 2 + $n[2] ** 2);
        if ($length < 1e-300) {
            return [[$a[0], $a[1], $a[2]], [$b[0], $b[1], $b[2]], [$c[0], $c[1], $c[2]]];
        }
        $turned = static function (array $p, float $degrees) use ($m, $n, $length): array {
            $r = [$p[0] - $m[0], $p[1] - $m[1], $p[2] - $m[2]];
            $t = [($n[1] * $r[2] - $n[2] * $r[1]) / $length, ($n[2] * $r[0] - $n[0] * $r[2]) / $length, ($n[0] * $r[1] - $n[1] * $r[0]) / $length];
            [$cos, $sin] = [cos(deg2rad($degrees)), sin(deg2rad($degrees))];

            return [$cos * $r[0] + $sin * $t[0], $cos * $r[1] + $sin * $t[1], $cos * $r[2] + $sin * $t[2]];
        };
        $places = [];
        foreach ([0.0, 120.0, 240.0] as $degrees) {
            // Each corner turned back to where the first is, their mean, and on to its own place.
            $mean = [0.0, 0.0, 0.0];
            foreach ([$a, $b, $c] as $k => $p) {
                $back = $turned($p, $degrees - 120.0 * $k);
                $mean = [$mean[0] + $back[0] / 3.0, $mean[1] + $back[1] / 3.0, $mean[2] + $back[2] / 3.0];
            }
            $places[] = [$m[0] + $mean[0], $m[1] + $mean[1], $m[2] + $mean[2]];
        }

        return $places;
    }

    /**
     * Puts vertices onto the surface or their line.
     *
     * @param  array<int, float>  $wanted  flat xyz
     * @return list<float>
     */
    private function placed(CellMesh $mesh, array $wanted): array
    {
        $positions = $mesh->positions;
        $normals = self::normals($mesh);
        $of = [];
        foreach ($mesh->lines as $v => $line) {
            $of[$line][] = $v;
        }
        unset($of[CellMesh::CORNER]);
        foreach ($of as $line => $vertices) {
            $places = [];
            foreach ($vertices as $v) {
                array_push($places, $wanted[3 * $v], $wanted[3 * $v + 1], $wanted[3 * $v + 2]);
            }
            $face = [];
            $feet = $this->onto($line, $places, $face);
            foreach ($vertices as $k => $v) {
                if ($line !== 0 || $this->isOnSide($normals, $v, $face[$k])) {
                    $positions[3 * $v] = $feet[3 * $k];
                    $positions[3 * $v + 1] = $feet[3 * $k + 1];
                    $positions[3 * $v + 2] = $feet[3 * $k + 2];
                }
            }
        }

        return $positions;
    }

    /**
     * Does the surface look the way that a vertex does, at a face of it? On a thin wall the nearest place may be on the other side.
     *
     * @param  list<float>  $normals  three numbers a vertex
     */
    private function isOnSide(array $normals, int $v, int $face): bool
    {
        $x = $normals[3 * $v];
        $y = $normals[3 * $v + 1];
        $z = $normals[3 * $v + 2];
        $nx = $this->crosses[3 * $face];
        $ny = $this->crosses[3 * $face + 1];
        $nz = $this->crosses[3 * $face + 2];
        $dot = $x * $nx + $y * $ny + $z * $nz;

        return $dot > 0.0 && $dot * $dot > self::SAME_SIDE * self::SAME_SIDE * ($x * $x + $y * $y + $z * $z) * ($nx * $nx + $ny * $ny + $nz * $nz);
    }

    /** @return list<float> three numbers a vertex: the sum of the normals of its cells */
    private static function normals(CellMesh $mesh): array
    {
        $P = $mesh->positions;
        $normals = array_fill(0, count($P), 0.0);
        foreach ($mesh->cells as $cell) {
            [$x, $y, $z] = CellMesh::normal($P, $cell);
            foreach ($cell as $v) {
                if ($v >= 0) {
                    $normals[3 * $v] += $x;
                    $normals[3 * $v + 1] += $y;
                    $normals[3 * $v + 2] += $z;
                }
            }
        }

        return $normals;
    }

    /**
     * The nearest places on the surface, or on a line of the shape.
     *
     * @param  int  $line  its number; 0: the surface
     * @param  list<float>  $places  flat xyz
     * @param  array<int, int>  $face  (changed) of the surface or line, by place
     * @return array<int, float> flat xyz
     */
    public function onto(int $line, array $places, array &$face = []): array
    {
        $face = $distanceSq = [];
        if ($line === 0) {
            $this->surface->closest($places, $face, $distanceSq);

            return TriangleFeet::of($places, $face, $this->positions, $this->faces);
        }
        $this->lineTrees[$line]->closest($places, $face, $distanceSq);

        return TriangleFeet::of($places, $face, ...$this->lines[$line]);
    }
}
