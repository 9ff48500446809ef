<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

use Closure;

/**
 * Gives every vertex a cross of four directions in its tangent plane, such that neighbours agree: the directions that edges will run in.
 *
 * Source    Jakob, Tarini, Panozzo & Sorkine-Hornung 2015, section 3: the extrinsic smoothness, which also turns crosses along the lines of curvature; Gauss-Seidel from the coarsest level down.
 * Cost      linear in the edges.
 *
 * @internal
 */
final class CrossField
{
    /** Rounds on each level: a few, as each starts from what the coarser one found. Not tuned. */
    private const ROUNDS = 8;

    /** @param  Closure(float): void  $progress  told the share done */
    public static function settle(FieldHierarchy $hierarchy, Closure $progress): void
    {
        $levels = $hierarchy->levels;
        for ($k = count($levels) - 1; $k >= 0; $k--) {
            $level = $levels[$k];
            if (! isset($levels[$k + 1])) {
                self::begin($level);
            } else {
                self::inherit($levels[$k + 1], $level);
            }
            for ($round = 0; $round < self::ROUNDS; $round++) {
                self::round($level);
                $progress((self::ROUNDS * (count($levels) - 1 - $k) + $round + 1) / self::ROUNDS / count($levels));
            }
        }
    }

    /** Any direction in the tangent plane. */
    private static function begin(FieldLevel $level): void
    {
        $N = $level->normals;
        for ($o = 0, $e = count($N); $o < $e; $o += 3) {
            // The axis that the normal leans to least, turned into the plane.
            $least = abs($N[$o]) < abs($N[$o + 1]) ? (abs($N[$o]) < abs($N[$o + 2]) ? 0 : 2) : (abs($N[$o + 1]) < abs($N[$o + 2]) ? 1 : 2);
            $axis = [0.0, 0.0, 0.0];
            $axis[$least] = 1.0;
            array_push($level->directions, ...self::intoPlane($axis[0], $axis[1], $axis[2], $N[$o], $N[$o + 1], $N[$o + 2]));
        }
    }

    private static function inherit(FieldLevel $coarse, FieldLevel $fine): void
    {
        $N = $fine->normals;
        foreach ($fine->parent as $v => $p) {
            $o = 3 * $v;
            array_push($fine->directions, ...self::intoPlane($coarse->directions[3 * $p], $coarse->directions[3 * $p + 1], $coarse->directions[3 * $p + 2], $N[$o], $N[$o + 1], $N[$o + 2]));
        }
    }

    /** @return array{float, float, float} */
    private static function intoPlane(float $x, float $y, float $z, float $nx, float $ny, float $nz): array
    {
        $d = $x * $nx + $y * $ny + $z * $nz;
        $x -= $d * $nx;
        $y -= $d * $ny;
        $z -= $d * $nz;
        $length = sqrt($x * $x + $y * $y + $z * $z);
        if ($length < 1e-9) {
            return abs($nx) < 0.9 ? self::intoPlane(1.0, 0.0, 0.0, $nx, $ny, $nz) : self::intoPlane(0.0, 1.0, 0.0, $nx, $ny, $nz);
        }

        return [$x / $length, $y / $length, $z / $length];
    }

    private static function round(FieldLevel $level): void
    {
        $N = $level->normals;
        $Q = $level->directions;
        $first = $level->first;
        $to = $level->to;
        $weight = $level->weight;
        for ($i = 0, $n = $level->count(); $i < $n; $i++) {
            $o = 3 * $i;
            if (isset($level->along[$i])) {
                [$Q[$o], $Q[$o + 1], $Q[$o + 2]] = $level->along[$i];

                continue;
            }
            $nx = $N[$o];
            $ny = $N[$o + 1];
            $nz = $N[$o + 2];
            $x = $Q[$o];
            $y = $Q[$o + 1];
            $z = $Q[$o + 2];
            $sum = 0.0;
            for ($e = $first[$i], $last = $first[$i + 1]; $e < $last; $e++) {
                $j = 3 * $to[$e];
                $w = $weight[$e];
                // The two directions here, and there; of the four pairs the one that agrees best.
                $tx = $ny * $z - $nz * $y;
                $ty = $nz * $x - $nx * $z;
                $tz = $nx * $y - $ny * $x;
                $ux = $Q[$j];
                $uy = $Q[$j + 1];
                $uz = $Q[$j + 2];
                $mx = $N[$j];
                $my = $N[$j + 1];
                $mz = $N[$j + 2];
                $vx = $my * $uz - $mz * $uy;
                $vy = $mz * $ux - $mx * $uz;
                $vz = $mx * $uy - $my * $ux;
                $a = $x * $ux + $y * $uy + $z * $uz;
                $b = $x * $vx + $y * $vy + $z * $vz;
                $c = $tx * $ux + $ty * $uy + $tz * $uz;
                $d = $tx * $vx + $ty * $vy + $tz * $vz;
                $most = max(abs($a), abs($b), abs($c), abs($d));
                if ($most === abs($a)) {
                    $s = $a < 0.0 ? -$w : $w;
                } elseif ($most === abs($b)) {
                    $s = $b < 0.0 ? -$w : $w;
                    $ux = $vx;
                    $uy = $vy;
                    $uz = $vz;
                } else {
                    $x = $tx;
                    $y = $ty;
                    $z = $tz;
                    if ($most === abs($c)) {
                        $s = $c < 0.0 ? -$w : $w;
                    } else {
                        $s = $d < 0.0 ? -$w : $w;
                        $ux = $vx;
                        $uy = $vy;
                        $uz = $vz;
                    }
                }
                $x = $sum * $x + $s * $ux;
                $y = $sum * $y + $s * $uy;
                $z = $sum * $z + $s * $uz;
                $sum += $w;
                $d = $x * $nx + $y * $ny + $z * $nz;
                $x -= $d * $nx;
                $y -= $d * $ny;
                $z -= $d * $nz;
                $length = sqrt($x * $x + $y * $y + $z * $z);
                if ($length < 1e-12) {
                    $x = $Q[$o];
                    $y = $Q[$o + 1];
                    $z = $Q[$o + 2];
                } else {
                    $x /= $length;
                    $y /= $length;
                    $z /= $length;
                }
            }
            $Q[$o] = $x;
            $Q[$o + 1] = $y;
            $Q[$o + 2] = $z;
        }
        $level->directions = $Q;
    }
}
