<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Cloud\OrientedCloud;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Gather\Kernel\Clusters;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Linear\Dense;
use Emberstone\Core\Linear\Horn;
use Emberstone\Core\Linear\Median;
use Emberstone\Core\Linear\Vector3;
use Emberstone\Core\Spatial\CellNames;

/**
 * Finds balls of known size in a capture, and the pose that brings them onto the known places of a target's balls.
 *
 * A point on a ball and its normal name the ball's centre; where many name one, there is a ball. Centres are then fitted to the points (Gauss-Newton
 * with Tukey's biweight), matched by their distances to each other, and the pose is the least squares over all points of all balls at once.
 */
final class FixtureBalls
{
    /** Centres named by points of one ball lie within this share of its radius. */
    private const CLOSE = 0.25;

    /** Fewer points than this make no ball. */
    private const LEAST_POINTS = 60;

    /** Found centres may be so far from where the target says, mm, before the pose is refined. */
    private const MATCH_MM = 1.5;

    /**
     * @param  PointCloud  $cloud  in the coordinates of the head, mm
     * @return list<array{centre: array{float, float, float}, points: list<float>, rms: float}> those with the most points first
     */
    public static function find(PointCloud $cloud, float $radius): array
    {
        $oriented = OrientedCloud::of($cloud)['cloud'];
        [$p, $n] = [$oriented->positions, $oriented->normals];
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
        $names = CellNames::of($named, 0.5 * $close);
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
            $step = Dense::solve($h, $g, 3);
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

    /**
     * The pose that brings found balls onto the target's.
     *
     * @param  list<array{centre: array{float, float, float}, points: list<float>, rms: float}>  $balls
     * @param  list<array{float, float, float}>  $target
     * @return array{pose: Transform, balls: int, rms: float}|null null when fewer than three agree, or nearly in a line
     */
    public static function pose(array $balls, array $target, float $radius): ?array
    {
        $pairs = self::matched($balls, $target);
        if (count($pairs) < 3) {
            return null;
        }
        $from = $to = [];
        foreach ($pairs as [$k, $t]) {
            array_push($from, ...$balls[$k]['centre']);
            array_push($to, ...$target[$t]);
        }
        $pose = Horn::fit($from, $to);
        $rms = 0.0;
        for ($round = 0; $round < 20; $round++) {
            $h = array_fill(0, 36, 0.0);
            $g = array_fill(0, 6, 0.0);
            $squares = 0.0;
            $many = 0;
            foreach ($pairs as [$k, $t]) {
                $placed = $pose->points($balls[$k]['points']);
                [$cx, $cy, $cz] = $target[$t];
                for ($o = 0, $m = count($placed); $o < $m; $o += 3) {
                    [$x, $y, $z] = [$placed[$o], $placed[$o + 1], $placed[$o + 2]];
                    $l = sqrt(($x - $cx) ** 2 + ($y - $cy) ** 2 + ($z - $cz) ** 2) ?: 1e-12;
                    $e = $l - $radius;
                    [$nx, $ny, $nz] = [($x - $cx) / $l, ($y - $cy) / $l, ($z - $cz) / $l];
                    $j = [$y * $nz - $z * $ny, $z * $nx - $x * $nz, $x * $ny - $y * $nx, $nx, $ny, $nz];
                    for ($r = 0; $r < 6; $r++) {
                        $g[$r] -= $j[$r] * $e;
                        for ($c = 0; $c < 6; $c++) {
                            $h[6 * $r + $c] += $j[$r] * $j[$c];
                        }
                    }
                    $squares += $e * $e;
                    $many++;
                }
            }
            $step = Dense::solve($h, $g, 6);
            $pose = $pose->then(Transform::turn(array_slice($step, 0, 3), sqrt($step[0] ** 2 + $step[1] ** 2 + $step[2] ** 2)))->then(Transform::shift($step[3], $step[4], $step[5]));
            $rms = sqrt($squares / max(1, $many));
            if (max(array_map(abs(...), $step)) < 1e-10) {
                break;
            }
        }

        return ['pose' => $pose, 'balls' => count($pairs), 'rms' => $rms];
    }

    /**
     * Which found ball is which of the target: the largest set whose distances agree, found from triples.
     *
     * @param  list<array{centre: array{float, float, float}, points: list<float>, rms: float}>  $balls
     * @param  list<array{float, float, float}>  $target
     * @return list<array{int, int}>
     */
    private static function matched(array $balls, array $target): array
    {
        $best = [];
        $bestRms = INF;
        $n = min(10, count($balls));
        $apart = fn (array $a, array $b): float => sqrt(($a[0] - $b[0]) ** 2 + ($a[1] - $b[1]) ** 2 + ($a[2] - $b[2]) ** 2);
        for ($i = 0; $i < $n; $i++) {
            for ($j = $i + 1; $j < $n; $j++) {
                for ($k = $j + 1; $k < $n; $k++) {
                    $three = [$balls[$i]['centre'], $balls[$j]['centre'], $balls[$k]['centre']];
                    foreach ($target as $a => $ta) {
                        foreach ($target as $b => $tb) {
                            if ($a === $b || abs($apart($ta, $tb) - $apart($three[0], $three[1])) > self::MATCH_MM) {
                                continue;
                            }
                            foreach ($target as $c => $tc) {
                                if ($c === $a || $c === $b || abs($apart($ta, $tc) - $apart($three[0], $three[2])) > self::MATCH_MM || abs($apart($tb, $tc) - $apart($three[1], $three[2])) > self::MATCH_MM) {
                                    continue;
                                }
                                // Three nearly in a line leave a turn open.
                                $area = self::area($ta, $tb, $tc);
                                if ($area < 0.05 * max($apart($ta, $tb), $apart($ta, $tc), $apart($tb, $tc)) ** 2) {
                                    continue;
                                }
                                $pose = Horn::fit([...$three[0], ...$three[1], ...$three[2]], [...$ta, ...$tb, ...$tc]);
                                [$pairs, $rms] = self::agreeing($pose, $balls, $target);
                                if (count($pairs) > count($best) || (count($pairs) === count($best) && $rms < $bestRms)) {
                                    [$best, $bestRms] = [$pairs, $rms];
                                }
                            }
                        }
                    }
                }
            }
        }

        return $best;
    }

    /**
     * @param  list<array{centre: array{float, float, float}, points: list<float>, rms: float}>  $balls
     * @param  list<array{float, float, float}>  $target
     * @return array{list<array{int, int}>, float}
     */
    private static function agreeing(Transform $pose, array $balls, array $target): array
    {
        $pairs = [];
        $squares = 0.0;
        foreach ($balls as $k => $ball) {
            [$x, $y, $z] = $pose->point($ball['centre']);
            foreach ($target as $t => [$a, $b, $c]) {
                $d = ($x - $a) ** 2 + ($y - $b) ** 2 + ($z - $c) ** 2;
                if ($d < self::MATCH_MM ** 2 && ! in_array($t, array_column($pairs, 1), true)) {
                    $pairs[] = [$k, $t];
                    $squares += $d;
                    break;
                }
            }
        }

        return [$pairs, sqrt($squares / max(1, count($pairs)))];
    }

    /**
     * @param  array{float, float, float}  $a
     * @param  array{float, float, float}  $b
     * @param  array{float, float, float}  $c
     */
    private static function area(array $a, array $b, array $c): float
    {
        return 0.5 * Vector3::length(Vector3::cross(Vector3::minus($b, $a), Vector3::minus($c, $a)));
    }
}
