<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Icp;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Search\TriangleFeet;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * The motion that brings points onto a surface that they nearly lie on, by what most of them say: places that are worn, missing or too much do not pull.
 *
 * Source    Chen & Medioni 1992 (point to plane); Tukey's biweight about the median of the errors (Huber & Ronchetti 2009).
 * Input     points within a tenth of the size of the surface from where they belong.
 * Output    along what nothing holds (a ball turns as it likes) nothing is moved.
 * Cost      30 us a point with a surface of 100 k faces: five to ten rounds.
 */
final class SurfaceBestFit
{
    private const ROUNDS = 40;

    /** It has settled when it moves no point by more than this share of the size. */
    private const SETTLED = 1e-8;

    /** Of the spread of the errors, beyond which a place does not count. */
    private const TUKEY = 4.685;

    /** Of the size: a spread below it is that of exact surfaces, where rounding is all that is left. */
    private const EXACT = 1e-9;

    /** Of the largest number in the equations, added to the diagonal: what nothing holds stays. */
    private const DAMPING = 1e-9;

    /**
     * @param  array<int, float>  $points  flat xyz
     * @param  array<int, float>  $positions  of the surface
     * @param  array<int, int>  $faces
     */
    public static function of(array $points, array $positions, array $faces): RigidTransform
    {
        $motion = RigidTransform::identity();
        if ($points === [] || $faces === []) {
            return $motion;
        }
        $tree = TriangleBvh::of($positions, $faces);
        $normals = Measure::crosses($positions, $faces);
        $box = BoundingBox::of($points);
        $size = max(1e-9, $box->diagonal());
        $centre = [0.5 * ($box->min[0] + $box->max[0]), 0.5 * ($box->min[1] + $box->max[1]), 0.5 * ($box->min[2] + $box->max[2])];
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $moved = $motion->points($points);
            $middle = $motion->point($centre);
            $face = $distanceSq = [];
            $tree->closest($moved, $face, $distanceSq);
            $step = self::step($moved, TriangleFeet::of($moved, $face, $positions, $faces), $face, $normals, $middle, 0.5 * $size);
            $angle = sqrt($step[0] ** 2 + $step[1] ** 2 + $step[2] ** 2);
            $motion = $motion->then(RigidTransform::shift(-$middle[0], -$middle[1], -$middle[2]))->then(RigidTransform::turn([$step[0], $step[1], $step[2]], $angle))->then(RigidTransform::shift($middle[0] + $step[3], $middle[1] + $step[4], $middle[2] + $step[5]));
            if (0.5 * $size * $angle + sqrt($step[3] ** 2 + $step[4] ** 2 + $step[5] ** 2) < self::SETTLED * $size) {
                break;
            }
        }

        return $motion;
    }

    /**
     * @param  list<float>  $points
     * @param  array<int, float>  $feet  the nearest place of the surface to each
     * @param  array<int, int>  $face
     * @param  array<int, float>  $normals  flat, of any length
     * @param  array{float, float, float}  $middle
     * @param  float  $arm  mm: turns count by how far they move what is this far from the middle
     * @return list<float> turn (rad) about the middle, shift (mm)
     */
    private static function step(array $points, array $feet, array $face, array $normals, array $middle, float $arm): array
    {
        $rows = $errors = [];
        foreach ($face as $k => $t) {
            [$nx, $ny, $nz] = [$normals[3 * $t], $normals[3 * $t + 1], $normals[3 * $t + 2]];
            $length = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
            if ($length <= 0.0) {
                continue;
            }
            $w = 1.0 / $length;
            [$nx, $ny, $nz] = [$nx * $w, $ny * $w, $nz * $w];
            $errors[] = ($points[3 * $k] - $feet[3 * $k]) * $nx + ($points[3 * $k + 1] - $feet[3 * $k + 1]) * $ny + ($points[3 * $k + 2] - $feet[3 * $k + 2]) * $nz;
            [$x, $y, $z] = [($feet[3 * $k] - $middle[0]) / $arm, ($feet[3 * $k + 1] - $middle[1]) / $arm, ($feet[3 * $k + 2] - $middle[2]) / $arm];
            $rows[] = [$y * $nz - $z * $ny, $z * $nx - $x * $nz, $x * $ny - $y * $nx, $nx, $ny, $nz];
        }
        if ($errors === []) {
            return [0.0, 0.0, 0.0, 0.0, 0.0, 0.0];
        }
        $reach = self::TUKEY * max(1.4826 * Median::of(array_map(abs(...), $errors)), self::EXACT * $arm);
        $a = array_fill(0, 36, 0.0);
        $b = array_fill(0, 6, 0.0);
        foreach ($rows as $k => $row) {
            $share = $errors[$k] / $reach;
            if ($share * $share >= 1.0) {
                continue;
            }
            $w = (1.0 - $share * $share) ** 2;
            for ($r = 0; $r < 6; $r++) {
                $b[$r] -= $w * $row[$r] * $errors[$k];
                for ($c = 0; $c < 6; $c++) {
                    $a[6 * $r + $c] += $w * $row[$r] * $row[$c];
                }
            }
        }
        $most = max($a);
        for ($r = 0; $r < 6; $r++) {
            $a[7 * $r] += self::DAMPING * $most;
        }
        $x = $most > 0.0 ? Dense::step($a, $b, 6) : array_fill(0, 6, 0.0);

        return [$x[0] / $arm, $x[1] / $arm, $x[2] / $arm, $x[3], $x[4], $x[5]];
    }
}
