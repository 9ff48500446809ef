<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Algorithms\Search\Visibility;
use Emberstone\Core\Cloud\NoiseWeight;
use Emberstone\Core\Cloud\OrientedCloud;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\Pass;

/** Makes passes ready for best fit, several at a time. */
final class Prepare
{
    private const SAMPLES = 6000;

    /** So many points of a pass are partners for the samples of others: more make nothing more exact. */
    private const PARTNERS = 80_000;

    /** How far aside the centre of a point's neighbours may lie, in spacings, before the point counts as rim. */
    private const RIM_LEAN = 0.35;

    /** Distance of a point from its neighbours, in usual ones, from which it is a stray or flies between two surfaces: no sample. */
    private const LONELY = 2.5;

    /**
     * @param  list<Pass>  $passes
     * @return list<PreparedPass>
     *
     * @throws UnsuitableInput when a pass has too few points
     */
    public static function all(array $passes, Progress $progress): array
    {
        foreach ($passes as $pass) {
            if ($pass->keptCount() < 50) {
                throw UnsuitableInput::because("$pass->name has only {$pass->keptCount()} points left; best fit needs 50 or more. Bring points back or leave the pass out.");
            }
        }
        $oriented = OrientedCloud::each(array_map(fn (Pass $pass) => $pass->keptCloud(...), $passes), $progress, self::PARTNERS);
        $usual = Median::of(array_column($oriented, 'noise'));
        $prepared = [];
        foreach ($passes as $k => $pass) {
            $noise = $oriented[$k]['noise'];
            $prepared[] = self::one($pass, $oriented[$k]['cloud'], $oriented[$k]['spacing'], $oriented[$k]['lean'], $oriented[$k]['apart'], NoiseWeight::ofPass($noise, $usual), $noise);
        }

        return $prepared;
    }

    /**
     * @param  array<int, float>  $lean
     * @param  array<int, float>  $apart  mean distance of each point to its neighbours
     * @param  float  $trust  weight among the passes by their noise
     */
    private static function one(Pass $pass, PointCloud $cloud, float $spacing, array $lean, array $apart, float $trust, float $noise): PreparedPass
    {
        $p = $cloud->positions;
        $n = $cloud->normals;
        $tree = KdTree::of($p);
        // Points at the rim of what a pass saw keep a normal of zero, which fits nothing: places that only the other pass saw
        // would otherwise all be drawn to that rim (Turk & Levoy 1994).
        $treeNormals = array_fill(0, count($p), 0.0);
        foreach ($tree->order as $slot => $i) {
            if ($lean[$i] > self::RIM_LEAN) {
                continue;
            }
            $treeNormals[3 * $slot] = $n[3 * $i];
            $treeNormals[3 * $slot + 1] = $n[3 * $i + 1];
            $treeNormals[3 * $slot + 2] = $n[3 * $i + 2];
        }
        // One point a cell of such a size that about SAMPLES remain: spread over the surface, not over the density.
        $cells = LatticeKeys::of($p, 1.6 * max(1.0, sqrt(count($p) / 3.0 / self::SAMPLES)) * $spacing);
        $seen = $samples = $normals = $quality = $squares = [];
        $lonely = self::LONELY * Median::of($apart);
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            if ($apart[intdiv($o, 3)] > $lonely) {
                continue;
            }
            $key = $cells->at($p[$o], $p[$o + 1], $p[$o + 2]);
            if (isset($seen[$key])) {
                continue;
            }
            $seen[$key] = true;
            array_push($samples, $p[$o], $p[$o + 1], $p[$o + 2]);
            array_push($normals, $n[$o], $n[$o + 1], $n[$o + 2]);
            $quality[] = self::quality($cloud, $o);
            $squares[] = self::squaredRange($cloud, $o);
        }
        $usual = Median::of($squares);
        foreach ($squares as $i => $range) {
            $quality[$i] *= NoiseWeight::ofRange($range, $usual);
        }

        return new PreparedPass($pass->name, $tree, $treeNormals, $samples, $normals, $quality, $spacing, $pass->transform, $cloud->sensorOrigin === null ? null : Visibility::of($p, $cloud->sensorOrigin, $spacing), $trust, $noise);
    }

    /** From the sensor to a point, mm squared; 0 where the sensor is not known. */
    private static function squaredRange(PointCloud $cloud, int $o): float
    {
        [$x, $y, $z] = $cloud->sensorOrigin ?? array_slice($cloud->positions, $o, 3);

        return ($x - $cloud->positions[$o]) ** 2 + ($y - $cloud->positions[$o + 1]) ** 2 + ($z - $cloud->positions[$o + 2]) ** 2;
    }

    /** How well a point is likely to be measured: the cosine between its normal and the ray, 1 where the sensor is not known. */
    private static function quality(PointCloud $cloud, int $o): float
    {
        if ($cloud->sensorOrigin === null) {
            return 1.0;
        }
        [$x, $y, $z] = $cloud->sensorOrigin;
        $x -= $cloud->positions[$o];
        $y -= $cloud->positions[$o + 1];
        $z -= $cloud->positions[$o + 2];
        $l = sqrt($x * $x + $y * $y + $z * $z);

        return $l > 0.0 ? max(0.05, abs($cloud->normals[$o] * $x + $cloud->normals[$o + 1] * $y + $cloud->normals[$o + 2] * $z) / $l) : 1.0;
    }
}
