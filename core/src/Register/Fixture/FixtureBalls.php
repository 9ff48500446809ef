<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Fixture;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Search\Clusters;
use Emberstone\Core\Algorithms\Search\LatticeKeys;

/**
 * Finds balls of known size in a capture.
 *
 * A point on a ball and its normal name the ball's centre; where many name one, there is a ball. Centres are then fitted to the points (Gauss-Newton with Tukey's biweight).
 *
 * @internal
 */
final class FixtureBalls
{
    /** Centres named by points of one ball lie within this share of its radius. */
    private const CLOSE = 0.25;

    /** Fewer points than this make no ball. */
    private const LEAST_POINTS = 60;

    /**
     * @param  array<int, float>  $p  flat xyz, mm
     * @param  array<int, float>  $n  unit normals, outwards
     * @return list<array{centre: array{float, float, float}, points: list<float>, rms: float}> those with the most points first
     */
    public static function find(array $p, array $n, float $radius): array
    {
        $named = [];
        for ($o = 0, $e = count($p); $o < $e; $o++) {
            $named[] = $p[$o] - $radius * $n[$o];
        }
        ['label' => $label, 'size' => $size] = self::dense($named, self::CLOSE * $radius);
        $balls = [];
        foreach ($size as $cluster => $many) {
            if ($many < self::LEAST_POINTS) {
                break;
            }
            $sum = [0.0, 0.0, 0.0];
            $points = [];
            foreach ($label as $i => $of) {
                if ($of === $cluster) {
                    for ($c = 0; $c < 3; $c++) {
                        $sum[$c] += $named[3 * $i + $c] / $many;
                        $points[] = $p[3 * $i + $c];
                    }
                }
            }
            $ball = self::fitted($sum, $points, $radius);
            if ($ball !== null) {
                $balls[] = $ball;
            }
        }

        return $balls;
    }

    /**
     * Clusters of places where many lie close together; places in sparse cells belong to none.
     *
     * @param  list<float>  $named
     * @return array{label: array<int, int>, size: list<int>}
     */
    private static function dense(array $named, float $close): array
    {
        $names = LatticeKeys::of($named, 0.5 * $close);
        $cells = $cellOf = [];
        for ($i = 0, $o = 0, $e = count($named); $o < $e; $i++, $o += 3) {
            $key = $names->at($named[$o], $named[$o + 1], $named[$o + 2]);
            $cells[$key] = ($cells[$key] ?? 0) + 1;
            $cellOf[$i] = $key;
        }
        $kept = $points = [];
        foreach ($cellOf as $i => $key) {
            if ($cells[$key] >= 8) {
                $kept[] = $i;
                array_push($points, $named[3 * $i], $named[3 * $i + 1], $named[3 * $i + 2]);
            }
        }
        if ($kept === []) {
            return ['label' => [], 'size' => []];
        }
        $found = Clusters::of($points, $close);

        return ['label' => array_combine($kept, $found['label']), 'size' => $found['size']];
    }

    /**
     * @param  array{float, float, float}  $centre
     * @param  list<float>  $p
     * @return array{centre: array{float, float, float}, points: list<float>, rms: float}|null null when the points are no part of a ball of that size
     */
    private static function fitted(array $centre, array $p, float $radius): ?array
    {
        $e = [];
        for ($round = 0; $round < 15; $round++) {
            $h = array_fill(0, 9, 0.0);
            $g = [0.0, 0.0, 0.0];
            $e = $j = [];
            for ($o = 0, $m = count($p); $o < $m; $o += 3) {
                $d = [$centre[0] - $p[$o], $centre[1] - $p[$o + 1], $centre[2] - $p[$o + 2]];
                $l = sqrt($d[0] ** 2 + $d[1] ** 2 + $d[2] ** 2) ?: 1e-12;
                $e[] = $l - $radius;
                $j[] = [$d[0] / $l, $d[1] / $l, $d[2] / $l];
            }
            $cut = 4.685 * max(1e-6, 1.4826 * Median::of(array_map(abs(...), $e)));
            foreach ($e as $i => $v) {
                $w = abs($v) < $cut ? (1.0 - ($v / $cut) ** 2) ** 2 : 0.0;
                for ($r = 0; $r < 3; $r++) {
                    $g[$r] -= $w * $j[$i][$r] * $v;
                    for ($c = 0; $c < 3; $c++) {
                        $h[3 * $r + $c] += $w * $j[$i][$r] * $j[$i][$c];
                    }
                }
            }
            $step = Dense::step($h, $g, 3);
            $centre = [$centre[0] + $step[0], $centre[1] + $step[1], $centre[2] + $step[2]];
            if (max(array_map(abs(...), $step)) < 1e-9) {
                break;
            }
        }
        $cut = 4.685 * 1.4826 * Median::of(array_map(abs(...), $e));
        $inside = [];
        $squares = 0.0;
        foreach ($e as $i => $v) {
            if (abs($v) <= $cut) {
                array_push($inside, $p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
                $squares += $v * $v;
            }
        }
        $many = intdiv(count($inside), 3);
        $rms = sqrt($squares / max(1, $many));

        return $many < self::LEAST_POINTS || $rms > 0.03 * $radius ? null : ['centre' => $centre, 'points' => $inside, 'rms' => $rms];
    }
}
