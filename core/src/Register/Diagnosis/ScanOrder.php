<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Diagnosis;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\Vector3;

/**
 * Which way round a scanner wrote its points, seen from where it stood: most go line by line, and one device always the same way. In a file with an axis the wrong way it is the other way round.
 *
 * @internal
 */
final class ScanOrder
{
    /** Length of a step, in usual ones, from which it leads to another line, or over a gap. */
    private const LONG = 3.0;

    /** So much of the way from point to point goes along the line, and the lines move on by so much of how far the points spread; else the order tells nothing. */
    private const STRAIGHT = 0.5;

    private const ON = 0.15;

    /** Sine of the angle between a line and the way to the next. */
    private const ACROSS = 0.5;

    /** @return int 1 where the next line is to the left of a line, -1 where it is to its right, 0 where the order of the points does not tell or the sensor is not known */
    public static function turn(PointCloud $cloud): int
    {
        $p = $cloud->positions;
        $n = $cloud->count();
        if ($cloud->sensorOrigin === null || $n < 100) {
            return 0;
        }
        $steps = [];
        for ($o = 3, $e = 3 * $n; $o < $e; $o += 3) {
            $steps[] = sqrt(($p[$o] - $p[$o - 3]) ** 2 + ($p[$o + 1] - $p[$o - 2]) ** 2 + ($p[$o + 2] - $p[$o - 1]) ** 2);
        }
        $longest = self::LONG * Median::of($steps);
        $along = [0.0, 0.0, 0.0];
        $way = 0.0;
        foreach ($steps as $i => $step) {
            if ($step <= $longest) {
                $way += $step;
                for ($c = 0, $o = 3 * $i; $c < 3; $c++) {
                    $along[$c] += $p[$o + 3 + $c] - $p[$o + $c];
                }
            }
        }
        $quarter = intdiv($n, 4);
        $middle = self::mean($p, 0, $n);
        $toSensor = Vector3::minus($cloud->sensorOrigin, $middle);
        if ($way === 0.0 || Vector3::length($toSensor) === 0.0) {
            return 0;
        }
        $toSensor = Vector3::unit($toSensor);
        // As it looks from there: over a flat part the lines mostly go away from the sensor.
        $along = self::across($along, $toSensor);
        $on = self::across(Vector3::minus(self::mean($p, $n - $quarter, $n), self::mean($p, 0, $quarter)), $toSensor);
        if (Vector3::length($along) < self::STRAIGHT * $way || Vector3::length($on) < self::ON * self::spread($p, $middle)) {
            return 0;
        }
        $sine = Vector3::dot(Vector3::cross(Vector3::unit($along), Vector3::unit($on)), $toSensor);

        return abs($sine) < self::ACROSS ? 0 : ($sine > 0.0 ? 1 : -1);
    }

    /**
     * What of a vector is square to a direction.
     *
     * @param  array<int, float>  $a
     * @param  array<int, float>  $direction  of length 1
     * @return array{float, float, float}
     */
    private static function across(array $a, array $direction): array
    {
        return Vector3::minus($a, Vector3::scaled($direction, Vector3::dot($a, $direction)));
    }

    /**
     * @param  array<int, float>  $p  flat xyz
     * @return list<float>
     */
    private static function mean(array $p, int $from, int $to): array
    {
        $sum = [0.0, 0.0, 0.0];
        for ($o = 3 * $from; $o < 3 * $to; $o += 3) {
            $sum[0] += $p[$o];
            $sum[1] += $p[$o + 1];
            $sum[2] += $p[$o + 2];
        }

        return array_map(fn (float $v) => $v / max(1, $to - $from), $sum);
    }

    /**
     * Mean distance from the middle, mm.
     *
     * @param  array<int, float>  $p  flat xyz
     * @param  list<float>  $middle
     */
    private static function spread(array $p, array $middle): float
    {
        $sum = 0.0;
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $sum += sqrt(($p[$o] - $middle[0]) ** 2 + ($p[$o + 1] - $middle[1]) ** 2 + ($p[$o + 2] - $middle[2]) ** 2);
        }

        return $sum / max(1, intdiv(count($p), 3));
    }
}
