<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

use Closure;

/**
 * Gives every vertex a square lattice in its tangent plane, turned as its cross, such that the lattices of neighbours lie on each other: the corners of cells to come.
 *
 * Source    Jakob, Tarini, Panozzo & Sorkine-Hornung 2015, section 3.2 (a lattice is known by one of its points); Gauss-Seidel from the coarsest level down.
 * Departs   of a neighbour's lattice the point next to the mean so far is taken, in place of the best of sixteen pairs: vertices lie at less than half a cell from each other here, so it is the same.
 *
 * @internal
 */
final class PositionField
{
    /** Rounds on each level: of the exact pedestal's vertices 3.2 % are irregular with 12, 3.0 % with 30. */
    private const ROUNDS = 30;

    /**
     * @param  float  $edge  length of a cell, mm
     * @param  Closure(float): void  $progress  told the share done
     */
    public static function settle(FieldHierarchy $hierarchy, float $edge, Closure $progress): void
    {
        $levels = $hierarchy->levels;
        for ($k = count($levels) - 1; $k >= 0; $k--) {
            $level = $levels[$k];
            $level->origins = isset($levels[$k + 1]) ? self::inherited($levels[$k + 1], $level) : $level->positions;
            for ($round = 0; $round < self::ROUNDS; $round++) {
                self::round($level, $edge);
                $progress((self::ROUNDS * (count($levels) - 1 - $k) + $round + 1) / self::ROUNDS / count($levels));
            }
        }
    }

    /** @return array<int, float> */
    private static function inherited(FieldLevel $coarse, FieldLevel $fine): array
    {
        $O = [];
        foreach ($fine->parent as $v => $p) {
            $o = 3 * $v;
            $d = 0.0;
            for ($c = 0; $c < 3; $c++) {
                $d += $fine->normals[$o + $c] * ($coarse->origins[3 * $p + $c] - $fine->positions[$o + $c]);
            }
            for ($c = 0; $c < 3; $c++) {
                $O[] = $coarse->origins[3 * $p + $c] - $d * $fine->normals[$o + $c];
            }
        }

        return $O;
    }

    private static function round(FieldLevel $level, float $edge): void
    {
        $P = $level->positions;
        $N = $level->normals;
        $Q = $level->directions;
        $O = $level->origins;
        $first = $level->first;
        $to = $level->to;
        $weight = $level->weight;
        $cells = 1.0 / $edge;
        for ($i = 0, $n = $level->count(); $i < $n; $i++) {
            $o = 3 * $i;
            $px = $P[$o];
            $py = $P[$o + 1];
            $pz = $P[$o + 2];
            $nx = $N[$o];
            $ny = $N[$o + 1];
            $nz = $N[$o + 2];
            $x = $O[$o];
            $y = $O[$o + 1];
            $z = $O[$o + 2];
            $sum = 0.0;
            for ($e = $first[$i], $last = $first[$i + 1]; $e < $last; $e++) {
                $j = 3 * $to[$e];
                $w = $weight[$e];
                $mx = $N[$j];
                $my = $N[$j + 1];
                $mz = $N[$j + 2];
                // The way to the neighbour, laid into the plane here with its length kept.
                $ex = $P[$j] - $px;
                $ey = $P[$j + 1] - $py;
                $ez = $P[$j + 2] - $pz;
                $length = $ex * $ex + $ey * $ey + $ez * $ez;
                $d = $ex * $nx + $ey * $ny + $ez * $nz;
                $ex -= $d * $nx;
                $ey -= $d * $ny;
                $ez -= $d * $nz;
                $d = $length - $d * $d;
                $d = $d > 1e-6 * $length ? sqrt($length / $d) : 1.0;
                // Its cross and the point of its lattice, turned as its normal turns to the one here.
                $turn = 1.0 + $mx * $nx + $my * $ny + $mz * $nz;
                $turn = $turn > 1e-6 ? 1.0 / $turn : 0.0;
                $ux = $Q[$j];
                $uy = $Q[$j + 1];
                $uz = $Q[$j + 2];
                $k = $turn * ($ux * $nx + $uy * $ny + $uz * $nz);
                $ux -= $k * ($mx + $nx);
                $uy -= $k * ($my + $ny);
                $uz -= $k * ($mz + $nz);
                $vx = $ny * $uz - $nz * $uy;
                $vy = $nz * $ux - $nx * $uz;
                $vz = $nx * $uy - $ny * $ux;
                $ox = $O[$j] - $P[$j];
                $oy = $O[$j + 1] - $P[$j + 1];
                $oz = $O[$j + 2] - $P[$j + 2];
                $k = $turn * ($ox * $nx + $oy * $ny + $oz * $nz);
                $ox += $px + $d * $ex - $k * ($mx + $nx);
                $oy += $py + $d * $ey - $k * ($my + $ny);
                $oz += $pz + $d * $ez - $k * ($mz + $nz);
                $dx = $x - $ox;
                $dy = $y - $oy;
                $dz = $z - $oz;
                $a = $edge * floor($cells * ($dx * $ux + $dy * $uy + $dz * $uz) + 0.5);
                $b = $edge * floor($cells * ($dx * $vx + $dy * $vy + $dz * $vz) + 0.5);
                $share = $w / ($sum + $w);
                $x += $share * ($ox + $a * $ux + $b * $vx - $x);
                $y += $share * ($oy + $a * $uy + $b * $vy - $y);
                $z += $share * ($oz + $a * $uz + $b * $vz - $z);
                $sum += $w;
            }
            // The point of the lattice next to the vertex.
            $ux = $Q[$o];
            $uy = $Q[$o + 1];
            $uz = $Q[$o + 2];
            $vx = $ny * $uz - $nz * $uy;
            $vy = $nz * $ux - $nx * $uz;
            $vz = $nx * $uy - $ny * $ux;
            $dx = $px - $x;
            $dy = $py - $y;
            $dz = $pz - $z;
            $a = $edge * floor($cells * ($dx * $ux + $dy * $uy + $dz * $uz) + 0.5);
            $b = $edge * floor($cells * ($dx * $vx + $dy * $vy + $dz * $vz) + 0.5);
            $x += $a * $ux + $b * $vx;
            $y += $a * $uy + $b * $vy;
            $z += $a * $uz + $b * $vz;
            if (isset($level->held[$i])) {
                [$hx, $hy, $hz, $ux, $uy, $uz] = $level->held[$i];
                $d = $ux * ($x - $hx) + $uy * ($y - $hy) + $uz * ($z - $hz);
                $x = $hx + $d * $ux;
                $y = $hy + $d * $uy;
                $z = $hz + $d * $uz;
            }
            $O[$o] = $x;
            $O[$o + 1] = $y;
            $O[$o + 2] = $z;
        }
        $level->origins = $O;
    }
}
