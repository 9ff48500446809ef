<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Fitting;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Geometry\Vector3;

/**
 * The axis of a shape that is round on the whole but not face by face: scales, flutes, a knurl.
 *
 * Minimises how far the radius of samples is off the mean radius at their height, r - m(t), over two shifts and two tilts of the axis. Gauss-Newton;
 * the mean radii of the slices are eliminated from the equations (variable projection, Golub & Pereyra 1973), so a side that was not
 * seen pulls nothing; Tukey's biweight. Samples that look along the axis say nothing about the radius and weigh as little.
 *
 * @internal
 */
final class OutlineAxis
{
    private const SLICES = 40;

    private const ROUNDS = 20;

    /**
     * @param  list<float>  $q  samples, flat xyz, spread evenly
     * @param  list<float>  $n  their normals
     * @return list<array{direction: array{float, float, float}, origin: array{float, float, float}, rms: float, max: float, radius: float, points: int}> one axis for each main axis of the samples,
     *                                                                                                                                       the roundest first; radius: the median
     */
    public static function candidates(array $q, array $n): array
    {
        $main = Symmetric3::ofPoints($q);
        $found = array_map(fn (array $start) => self::from($q, $n, $start, $main['centre']), $main['vectors']);
        usort($found, fn (array $a, array $b) => $a['rms'] / $a['radius'] <=> $b['rms'] / $b['radius']);

        return $found;
    }

    /**
     * @param  list<float>  $q
     * @param  list<float>  $n
     * @param  array{float, float, float}  $axis
     * @param  array{float, float, float}  $centre
     * @return array{direction: array{float, float, float}, origin: array{float, float, float}, rms: float, max: float, radius: float, points: int}
     */
    private static function from(array $q, array $n, array $axis, array $centre): array
    {
        $count = intdiv(count($q), 3);
        $use = $e = array_fill(0, $count, 1.0);
        $radii = [];
        for ($round = 0; $round < self::ROUNDS; $round++) {
            [$u, $v] = Vector3::square($axis);
            $places = $radii = [];
            [$low, $high] = [INF, -INF];
            for ($i = 0, $o = 0; $i < $count; $i++, $o += 3) {
                $r = [$q[$o] - $centre[0], $q[$o + 1] - $centre[1], $q[$o + 2] - $centre[2]];
                [$x, $y, $t] = [Vector3::dot($u, $r), Vector3::dot($v, $r), Vector3::dot($axis, $r)];
                $places[] = [$x, $y, $t];
                $radii[] = sqrt($x * $x + $y * $y) ?: 1e-9;
                $low = min($low, $t);
                $high = max($high, $t);
            }
            $per = self::SLICES / max(1e-9, 1.000001 * ($high - $low));
            $slices = array_map(fn (array $place) => (int) (($place[2] - $low) * $per), $places);
            // How much each counts, and the mean radius of each slice.
            $weights = [];
            /** @var array<int, array<int, float>> $sums */
            $sums = [];
            foreach ($slices as $i => $slice) {
                $along = $n[3 * $i] * $axis[0] + $n[3 * $i + 1] * $axis[1] + $n[3 * $i + 2] * $axis[2];
                $w = $weights[$i] = $use[$i] * max(0.0, 1.0 - $along * $along);
                $sums[$slice] ??= [0.0, 0.0, 0.0, 0.0, 0.0, 0.0];
                $sums[$slice][0] += $w;
                $sums[$slice][1] += $w * $radii[$i];
            }
            $mean = array_map(fn (array $sum) => $sum[0] > 0.0 ? $sum[1] / $sum[0] : 0.0, $sums);
            $rows = [];
            foreach ($slices as $i => $slice) {
                [$x, $y, $t] = $places[$i];
                $e[$i] = $radii[$i] - $mean[$slice];
                // A tilt also shifts a sample along the profile.
                $slope = isset($mean[$slice - 1], $mean[$slice + 1]) ? 0.5 * ($mean[$slice + 1] - $mean[$slice - 1]) * $per : 0.0;
                $lever = $t / $radii[$i] + $slope;
                $rows[$i] = [-$x / $radii[$i], -$y / $radii[$i], -$x * $lever, -$y * $lever];
                for ($k = 0; $k < 4; $k++) {
                    $sums[$slice][2 + $k] += $weights[$i] * $rows[$i][$k];
                }
            }
            [$h, $g] = self::equations($rows, $slices, $sums, $weights, $e);
            if ($round > 2) {
                $cut = max(1e-9, 4.685 * 1.4826 * Median::of(array_map(abs(...), $e)));
                $use = array_map(fn (float $miss) => abs($miss) < $cut ? (1.0 - ($miss / $cut) ** 2) ** 2 : 0.0, $e);
            }
            $step = Dense::step($h, $g, 4);
            // A far start must not tumble: a tenth of a turn at most.
            $shrink = 1.0 / max(1.0, hypot($step[2], $step[3]) / 0.3);
            for ($k = 0; $k < 3; $k++) {
                $centre[$k] += $shrink * ($step[0] * $u[$k] + $step[1] * $v[$k]);
                $axis[$k] += $shrink * ($step[2] * $u[$k] + $step[3] * $v[$k]);
            }
            $axis = Vector3::unit($axis);
            if ($round > 5 && max(array_map(abs(...), $step)) < 1e-5) {
                break;
            }
        }
        $squares = $sum = $most = 0.0;
        foreach ($weights as $i => $w) {
            $squares += $w * $e[$i] * $e[$i];
            $sum += $w;
            $most = $w > 0.0 ? max($most, abs($e[$i])) : $most;
        }

        return ['direction' => $axis, 'origin' => $centre, 'rms' => sqrt($squares / max(1e-300, $sum)), 'max' => $most, 'radius' => max(1e-9, Median::of($radii)), 'points' => count(array_filter($weights, fn (float $w) => $w > 0.0))];
    }

    /**
     * The normal equations of the axis alone: the mean radius of each slice is eliminated.
     *
     * @param  array<int, array{float, float, float, float}>  $rows  how the radius of each sample changes with two shifts and two tilts
     * @param  array<int, int>  $slices  of each sample
     * @param  array<int, array<int, float>>  $sums  of each slice: the weight, of the weighted radii, and of the weighted rows
     * @param  array<int, float>  $weights
     * @param  array<int, float>  $e  how far each sample is off the mean radius
     * @return array{list<float>, list<float>}
     */
    private static function equations(array $rows, array $slices, array $sums, array $weights, array $e): array
    {
        $h = array_fill(0, 16, 0.0);
        $g = array_fill(0, 4, 0.0);
        foreach ($rows as $i => $row) {
            $sum = $sums[$slices[$i]];
            $w = $weights[$i];
            if ($w <= 0.0) {
                continue;
            }
            for ($k = 0; $k < 4; $k++) {
                $row[$k] -= $sum[2 + $k] / $sum[0];
            }
            for ($j = 0; $j < 4; $j++) {
                for ($k = 0; $k < 4; $k++) {
                    $h[4 * $j + $k] += $w * $row[$j] * $row[$k];
                }
                $g[$j] -= $w * $row[$j] * $e[$i];
            }
        }

        return [$h, $g];
    }
}
