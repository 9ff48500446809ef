<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Linear\Dense;
use Emberstone\Core\Linear\Median;
use Emberstone\Core\Linear\Symmetric3;
use Emberstone\Core\Linear\Vector3;
use Emberstone\Core\Mesh\Kernel\Sampling;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Orient\Kernel\OutlineAxis;
use Emberstone\Core\Spatial\KdTree;

/**
 * Mirror planes and the axis of revolution of a whole shape, organic ones too, from samples spread evenly over it.
 *
 * Source    mirror: planes through the middle of the area, scored over the half sphere of normals, then Gauss-Newton on the distances of mirrored
 *           samples square to the surface; axis: the line complex that the normals belong to (Pottmann & Randrup 1998), else the outline's (OutlineAxis).
 *           All with Tukey's biweight.
 */
final class Symmetry
{
    private const SAMPLES = 20000;

    /** Samples that are mirrored. */
    private const MIRRORED = 2500;

    /** Normals of the half sphere that are tried, each with so many samples. */
    private const DIRECTIONS = 400;

    private const TRIED_WITH = 250;

    /** Shares of the size: what lies nearer than this counts as the same, and what is farther away is as bad as this. */
    private const SAME = 0.01;

    private const FAR = 0.1;

    /** Less of the surface than this in its place is no symmetry. */
    private const LEAST = 0.6;

    /** Of several planes those count that bring as much of the surface into its place as this share of the best. */
    private const AS_GOOD = 0.9;

    /** Samples whose outline is looked at. */
    private const OUTLINED = 3000;

    /** An outline is round when the surface is off it by no more than this share of its radius. */
    private const ROUGH = 0.08;

    /** The axis goes through the shape: it passes its middle within this share of the size. */
    private const INSIDE = 0.25;

    /** The next best axis must be so many times as bad. */
    private const CLEARER = 1.5;

    /** Directions that are refined, no two closer than neighbours of the spiral. */
    private const REFINED = 10;

    /** Normals of planes nearer than this (cosine) are the same plane found twice. */
    private const TWICE = 0.985;

    /**
     * The planes that mirror a shape into itself, the best first.
     *
     * @return non-empty-list<array{datum: Datum, share: float}> share: of the surface that lies on the surface when mirrored
     *
     * @throws UnsuitableInput when there is none
     */
    public static function mirrors(TriangleMesh $mesh, string $name): array
    {
        $size = BoundingBox::of($mesh->positions)->diagonal();
        ['points' => $q, 'normals' => $n] = self::samples($mesh);
        $tree = KdTree::of($q);
        // In the order of the tree, which answers with places in it.
        $n = array_merge(...array_map(fn (int $i) => [$n[3 * $i], $n[3 * $i + 1], $n[3 * $i + 2]], $tree->order));
        $q = $tree->sorted;
        $middle = self::middle($q);
        $some = self::every($q, self::MIRRORED);
        $few = self::every($q, self::TRIED_WITH);
        $tried = [];
        foreach (self::directions($q) as $d) {
            $tried[] = [self::miss($tree, $few, $d, Vector3::dot($d, $middle), self::FAR * $size), $d];
        }
        usort($tried, fn (array $a, array $b) => $a[0] <=> $b[0]);
        $found = [];
        $best = 0.0;
        foreach (self::apart($tried) as $d) {
            $plane = self::refined($tree, $q, $n, $some, self::every($n, self::MIRRORED), $d, Vector3::dot($d, $middle), $middle, $size);
            $best = max($best, $plane['share']);
            $isNew = array_filter($found, fn (array $other) => abs(Vector3::dot($other['normal'], $plane['normal'])) > self::TWICE) === [];
            if ($isNew && $plane['share'] >= self::LEAST) {
                $found[] = $plane;
            }
        }
        if ($found === []) {
            throw UnsuitableInput::because(sprintf('No plane mirrors this shape into itself: the best brings %d %% of the surface onto the surface. Fit the datum to a part of it instead.', round(100.0 * $best)));
        }
        // A plane that nearly does, as a second one of a shape that has one, is none.
        $found = array_values(array_filter($found, fn (array $plane) => $plane['share'] >= self::AS_GOOD * $best));
        usort($found, fn (array $a, array $b) => [$b['share'], $a['rms']] <=> [$a['share'], $b['rms']]);

        return array_map(function (array $plane) use ($middle, $name, $size): array {
            $d = $plane['normal'];
            $h = Vector3::dot($d, $middle) - $plane['at'];

            return ['share' => $plane['share'], 'datum' => new Datum($name, $name, 'plane', [$middle[0] - $h * $d[0], $middle[1] - $h * $d[1], $middle[2] - $h * $d[2]], $d, 0.0, 0.5 * $size, $plane['rms'], $plane['max'], $plane['points'], 'mirror')];
        }, $found);
    }

    /**
     * The axis about which a shape is turned.
     *
     * @return array{datum: Datum, share: float|null} share: of the surface whose normals meet the axis; null where only the outline is round
     *
     * @throws UnsuitableInput when it is not round, or round about more than one axis
     */
    public static function axis(TriangleMesh $mesh, string $name): array
    {
        $size = BoundingBox::of($mesh->positions)->diagonal();
        ['points' => $q, 'normals' => $n] = self::samples($mesh);
        $middle = self::middle($q);
        $count = intdiv(count($q), 3);
        $use = array_fill(0, $count, 1.0);
        $e = $use;
        $a = [0.0, 0.0, 1.0];
        $moment = [0.0, 0.0, 0.0];
        $spread = [0.0, 0.0, 0.0];
        for ($round = 0; $round < 20; $round++) {
            [$a, $moment, $spread] = self::lineComplex($q, $n, $use, $middle);
            for ($i = 0, $o = 0; $i < $count; $i++, $o += 3) {
                $r = [$q[$o] - $middle[0], $q[$o + 1] - $middle[1], $q[$o + 2] - $middle[2]];
                $normal = [$n[$o], $n[$o + 1], $n[$o + 2]];
                $e[$i] = Vector3::dot($a, Vector3::cross($r, $normal)) + Vector3::dot($moment, $normal);
            }
            $cut = max(4.685 * 1.4826 * Median::of(array_map(abs(...), $e)), 1e-6 * $size);
            foreach ($e as $i => $v) {
                $use[$i] = abs($v) < $cut ? (1.0 - ($v / $cut) ** 2) ** 2 : 0.0;
            }
        }
        $share = count(array_filter($e, fn (float $v) => abs($v) < self::SAME * $size)) / max(1, $count);
        if ($share < self::LEAST) {
            return self::outline($q, $n, $middle, $size, $name) ?? throw UnsuitableInput::because(sprintf('This shape is not round about an axis: %d %% of the surface looks straight at the best one, nor is its outline round. Fit a cylinder or cone to a part of it instead.', round(100.0 * $share)));
        }
        // Were a second axis hardly worse, every line between the two would do as well.
        if ($spread[1] < max(9.0 * $spread[0], (0.02 * $size) ** 2)) {
            throw UnsuitableInput::because('This shape is round about more than one axis, as a ball is, or too flat to tell; fit a sphere or a plane to it instead.');
        }
        $foot = Vector3::cross($a, $moment);
        $centre = [$middle[0] + $foot[0], $middle[1] + $foot[1], $middle[2] + $foot[2]];
        $squares = $sum = $most = 0.0;
        foreach ($use as $i => $w) {
            if ($w > 0.0) {
                $squares += $w * $e[$i] * $e[$i];
                $sum += $w;
                $most = max($most, abs($e[$i]));
            }
        }
        $points = count(array_filter($use, fn (float $w) => $w > 0.0));

        return ['share' => $share, 'datum' => self::line($q, $centre, $a, $name, sqrt($squares / ($sum ?: 1.0)), $most, $points)];
    }

    /**
     * The axis of a shape whose outline is round though its surface is not: a cone of scales, a knurled knob.
     *
     * @param  list<float>  $q
     * @param  list<float>  $n
     * @param  array{float, float, float}  $middle
     * @return array{datum: Datum, share: null}|null null when the outline is not round either
     */
    private static function outline(array $q, array $n, array $middle, float $size, string $name): ?array
    {
        $found = array_values(array_filter(
            OutlineAxis::candidates(self::every($q, self::OUTLINED), self::every($n, self::OUTLINED)),
            // About an axis far outside everything is round.
            fn (array $axis) => Vector3::length(Vector3::cross($axis['direction'], Vector3::minus($axis['origin'], $middle))) < self::INSIDE * $size,
        ));
        $rough = array_map(fn (array $axis) => $axis['rms'] / $axis['radius'], $found);
        if ($found === [] || $rough[0] > self::ROUGH || ($rough[1] ?? INF) < self::CLEARER * $rough[0]) {
            return null;
        }

        return ['share' => null, 'datum' => self::line($q, $found[0]['origin'], $found[0]['direction'], $name, $found[0]['rms'], $found[0]['max'], $found[0]['points'])];
    }

    /**
     * The datum of an axis, as long as the shape.
     *
     * @param  list<float>  $q
     * @param  array{float, float, float}  $through
     * @param  array{float, float, float}  $along
     */
    private static function line(array $q, array $through, array $along, string $name, float $rms, float $max, int $points): Datum
    {
        $low = INF;
        $high = -INF;
        for ($o = 0, $end = count($q); $o < $end; $o += 3) {
            $t = Vector3::dot($along, [$q[$o] - $through[0], $q[$o + 1] - $through[1], $q[$o + 2] - $through[2]]);
            $low = min($low, $t);
            $high = max($high, $t);
        }
        $t = 0.5 * ($low + $high);

        return new Datum($name, $name, 'line', [$through[0] + $t * $along[0], $through[1] + $t * $along[1], $through[2] + $t * $along[2]], $along, 0.0, 0.5 * ($high - $low), $rms, $max, $points, 'revolution');
    }

    /** @return array{points: list<float>, normals: list<float>} */
    private static function samples(TriangleMesh $mesh): array
    {
        $samples = Sampling::evenly($mesh->positions, $mesh->faces, self::SAMPLES);

        return count($samples['points']) < 300 ? throw UnsuitableInput::because('The mesh has no surface to speak of; choose another body.') : $samples;
    }

    /**
     * Directions spread evenly over the half sphere (a spiral), and the main axes of the samples, which symmetric shapes often keep to.
     *
     * @param  list<float>  $q
     * @return list<array{float, float, float}>
     */
    private static function directions(array $q): array
    {
        $directions = Symmetric3::ofPoints($q)['vectors'];
        for ($k = 0; $k < self::DIRECTIONS; $k++) {
            $z = ($k + 0.5) / self::DIRECTIONS;
            $r = sqrt(1.0 - $z * $z);
            $directions[] = [$r * cos(2.399963229728653 * $k), $r * sin(2.399963229728653 * $k), $z];
        }

        return $directions;
    }

    /**
     * The best directions, each of another place.
     *
     * @param  list<array{float, array{float, float, float}}>  $tried  the best first
     * @return list<array{float, float, float}>
     */
    private static function apart(array $tried): array
    {
        $chosen = [];
        foreach ($tried as [, $d]) {
            if (count($chosen) < self::REFINED && array_filter($chosen, fn (array $other) => abs(Vector3::dot($other, $d)) > self::TWICE) === []) {
                $chosen[] = $d;
            }
        }

        return $chosen;
    }

    /**
     * The mean distance of mirrored samples from the nearest ones, no distance counting for more than the farthest.
     *
     * @param  list<float>  $p
     * @param  array{float, float, float}  $d
     */
    private static function miss(KdTree $tree, array $p, array $d, float $at, float $far): float
    {
        $nearest = $distanceSq = [];
        $tree->nearest(self::mirrored($p, $d, $at), $far, $nearest, $distanceSq);
        $sum = 0.0;
        foreach ($nearest as $i => $k) {
            $sum += $k < 0 ? $far : min($far, sqrt($distanceSq[$i]));
        }

        return $sum / max(1, count($nearest));
    }

    /**
     * @param  list<float>  $p
     * @param  array{float, float, float}  $d
     * @return list<float>
     */
    private static function mirrored(array $p, array $d, float $at): array
    {
        $out = [];
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $h = 2.0 * ($p[$o] * $d[0] + $p[$o + 1] * $d[1] + $p[$o + 2] * $d[2] - $at);
            array_push($out, $p[$o] - $h * $d[0], $p[$o + 1] - $h * $d[1], $p[$o + 2] - $h * $d[2]);
        }

        return $out;
    }

    /**
     * Brings a plane to where mirrored samples lie on the surface: two tilts and a shift, on the distances square to the surface.
     *
     * @param  list<float>  $q  all samples, those of the tree
     * @param  list<float>  $qn  their normals
     * @param  list<float>  $p  those that are mirrored
     * @param  list<float>  $pn
     * @param  array{float, float, float}  $d
     * @param  array{float, float, float}  $middle
     * @return array{normal: array{float, float, float}, at: float, rms: float, max: float, points: int, share: float}
     */
    private static function refined(KdTree $tree, array $q, array $qn, array $p, array $pn, array $d, float $at, array $middle, float $size): array
    {
        $e = $use = [];
        for ($round = 0; $round < 30; $round++) {
            $nearest = $distanceSq = [];
            $image = self::mirrored($p, $d, $at);
            $looks = self::mirrored($pn, $d, 0.0);
            $reach = self::FAR * $size * max(0.15, 0.8 ** $round);
            $tree->nearest($image, $reach, $nearest, $distanceSq);
            [$u, $v] = Vector3::square($d);
            $rows = $e = [];
            foreach ($nearest as $i => $k) {
                $o = 3 * $i;
                if ($k < 0 || $looks[$o] * $qn[$k] + $looks[$o + 1] * $qn[$k + 1] + $looks[$o + 2] * $qn[$k + 2] < 0.5) {
                    continue;
                }
                $n = [$qn[$k], $qn[$k + 1], $qn[$k + 2]];
                $r = [$p[$o] - $middle[0], $p[$o + 1] - $middle[1], $p[$o + 2] - $middle[2]];
                $h = $p[$o] * $d[0] + $p[$o + 1] * $d[1] + $p[$o + 2] * $d[2] - $at;
                $facing = Vector3::dot($d, $n);
                $e[$i] = ($image[$o] - $q[$k]) * $n[0] + ($image[$o + 1] - $q[$k + 1]) * $n[1] + ($image[$o + 2] - $q[$k + 2]) * $n[2];
                $rows[$i] = [-2.0 * (Vector3::dot($u, $r) * $facing + $h * Vector3::dot($u, $n)), -2.0 * (Vector3::dot($v, $r) * $facing + $h * Vector3::dot($v, $n)), 2.0 * $facing];
            }
            if (count($e) < 50) {
                break;
            }
            $cut = max(4.685 * 1.4826 * Median::of(array_values(array_map(abs(...), $e))), 1e-7 * $size);
            $a = array_fill(0, 9, 0.0);
            $g = [0.0, 0.0, 0.0];
            $use = [];
            foreach ($rows as $i => $row) {
                $w = abs($e[$i]) < $cut ? (1.0 - ($e[$i] / $cut) ** 2) ** 2 : 0.0;
                $use[$i] = $w;
                for ($j = 0; $j < 3; $j++) {
                    for ($k = 0; $k < 3; $k++) {
                        $a[3 * $j + $k] += $w * $row[$j] * $row[$k];
                    }
                    $g[$j] -= $w * $row[$j] * $e[$i];
                }
            }
            // A tilt that nothing holds, as about the axis of a round shape, stays.
            for ($j = 0; $j < 3; $j++) {
                $a[4 * $j] += 1e-9 * ($a[0] + $a[4] + $size * $size * $a[8]) * ($j < 2 ? 1.0 : 1.0 / ($size * $size));
            }
            $step = Dense::solve($a, $g, 3);
            // The tilt turns the plane about the middle.
            $height = $at - Vector3::dot($d, $middle);
            $d = Vector3::unit([$d[0] + $step[0] * $u[0] + $step[1] * $v[0], $d[1] + $step[0] * $u[1] + $step[1] * $v[1], $d[2] + $step[0] * $u[2] + $step[1] * $v[2]]);
            $at = Vector3::dot($d, $middle) + $height + $step[2];
            if ($round > 8 && abs($step[0]) + abs($step[1]) + abs($step[2]) / $size < 1e-9) {
                break;
            }
        }
        $squares = $sum = $most = 0.0;
        $same = 0;
        foreach ($e as $i => $v) {
            $same += abs($v) < self::SAME * $size ? 1 : 0;
            $w = $use[$i] ?? 0.0;
            $squares += $w * $v * $v;
            $sum += $w;
            $most = $w > 0.0 ? max($most, abs($v)) : $most;
        }

        return ['normal' => $d, 'at' => $at, 'rms' => sqrt($squares / ($sum ?: 1.0)), 'max' => $most, 'points' => count(array_filter($use, fn (float $w) => $w > 0.0)), 'share' => $same / max(1, intdiv(count($p), 3))];
    }

    /**
     * The line that the normals of a round surface meet: direction, moment about the middle, and the squares that three directions would leave.
     *
     * @param  list<float>  $q
     * @param  list<float>  $n
     * @param  list<float>  $use
     * @param  array{float, float, float}  $middle
     * @return array{array{float, float, float}, array{float, float, float}, array{float, float, float}}
     */
    private static function lineComplex(array $q, array $n, array $use, array $middle): array
    {
        $a = $b = $c = array_fill(0, 9, 0.0);
        $sum = 0.0;
        foreach ($use as $i => $w) {
            if ($w <= 0.0) {
                continue;
            }
            $o = 3 * $i;
            $normal = [$n[$o], $n[$o + 1], $n[$o + 2]];
            $m = Vector3::cross([$q[$o] - $middle[0], $q[$o + 1] - $middle[1], $q[$o + 2] - $middle[2]], $normal);
            for ($j = 0; $j < 3; $j++) {
                for ($k = 0; $k < 3; $k++) {
                    $a[3 * $j + $k] += $w * $m[$j] * $m[$k];
                    $b[3 * $j + $k] += $w * $m[$j] * $normal[$k];
                    $c[3 * $j + $k] += $w * $normal[$j] * $normal[$k];
                }
            }
            $sum += $w;
        }
        // Least over the moment first: a pseudo-inverse, for the normals of a cylinder do not reach along its axis.
        [$values, $vectors] = Symmetric3::eigen($c[0], $c[1], $c[2], $c[4], $c[5], $c[8]);
        $inverse = array_fill(0, 9, 0.0);
        foreach ($values as $e => $value) {
            for ($k = 0; $value > 1e-6 * $values[2] && $k < 9; $k++) {
                $inverse[$k] += $vectors[$e][intdiv($k, 3)] * $vectors[$e][$k % 3] / $value;
            }
        }
        $bi = self::product($b, $inverse);
        $left = self::product($bi, [$b[0], $b[3], $b[6], $b[1], $b[4], $b[7], $b[2], $b[5], $b[8]]);
        $s = array_map(fn (float $x, float $y) => $x - $y, $a, $left);
        [$values, $vectors] = Symmetric3::eigen($s[0], 0.5 * ($s[1] + $s[3]), 0.5 * ($s[2] + $s[6]), $s[4], 0.5 * ($s[5] + $s[7]), $s[8]);
        $d = $vectors[0];
        $moment = [0.0, 0.0, 0.0];
        for ($k = 0; $k < 3; $k++) {
            $moment[$k] = -($bi[$k] * $d[0] + $bi[3 + $k] * $d[1] + $bi[6 + $k] * $d[2]);
        }
        // What is left along the axis would be the pitch of a screw.
        $pitch = Vector3::dot($moment, $d);

        return [$d, [$moment[0] - $pitch * $d[0], $moment[1] - $pitch * $d[1], $moment[2] - $pitch * $d[2]], array_map(fn (float $v) => max(0.0, $v) / max(1e-300, $sum), $values)];
    }

    /**
     * @param  array<int, float>  $a
     * @param  array<int, float>  $b
     * @return array<int, float>
     */
    private static function product(array $a, array $b): array
    {
        $c = [];
        for ($k = 0; $k < 9; $k++) {
            $i = 3 * intdiv($k, 3);
            $c[] = $a[$i] * $b[$k % 3] + $a[$i + 1] * $b[3 + $k % 3] + $a[$i + 2] * $b[6 + $k % 3];
        }

        return $c;
    }

    /**
     * @param  list<float>  $q
     * @return array{float, float, float}
     */
    private static function middle(array $q): array
    {
        return Symmetric3::ofPoints($q)['centre'];
    }

    /**
     * So many of flat triples, evenly chosen.
     *
     * @param  list<float>  $p
     * @return list<float>
     */
    private static function every(array $p, int $wanted): array
    {
        $step = 3 * max(1, intdiv(intdiv(count($p), 3), $wanted));
        $out = [];
        for ($o = 0, $n = count($p); $o < $n; $o += $step) {
            array_push($out, $p[$o], $p[$o + 1], $p[$o + 2]);
        }

        return $out;
    }
}
