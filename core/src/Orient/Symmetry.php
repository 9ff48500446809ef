<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Datum;

/**
 * Mirror planes of a whole shape, organic ones too, from samples spread evenly over it.
 *
 * Source    planes through the middle of the area, scored over the half sphere of normals, then Gauss-Newton on the distances of mirrored samples
 *           square to the surface, with Tukey's biweight.
 */
final class Symmetry
{
    /** Samples that are mirrored for the plane that is told. */
    private const MIRRORED = 2500;

    /** Samples that are mirrored while it is open which planes are any good. */
    private const MIRRORED_FIRST = 500;

    /** Rounds of refining a plane at most, and the round from which a plane is refined with all samples: the reach has come down by then. */
    private const ROUNDS = 30;

    private const NEAR = 9;

    /** A plane has settled that turns by less than this, rad, and goes less than this share of the size. */
    private const SETTLED = 1e-7;

    /** Normals of the half sphere that are tried. */
    private const DIRECTIONS = 400;

    /** Samples that are mirrored to try one of them. */
    private const TRIED_WITH = 250;

    /** Shares of the size: what lies nearer than this counts as the same, and what is farther away is as bad as this. */
    private const SAME = 0.01;

    private const FAR = 0.1;

    /** Less of the surface than this in its place is no symmetry. */
    private const LEAST = 0.6;

    /** Of several planes those count that bring as much of the surface into its place as this share of the best. */
    private const AS_GOOD = 0.9;

    /** Directions that are refined, no two closer than neighbours of the spiral. */
    private const REFINED = 10;

    /** Normals of planes nearer than this (cosine) are the same plane found twice. */
    private const TWICE = 0.985;

    /**
     * The planes that mirror a shape into itself, the best first.
     *
     * @return list<array{datum: Datum, share: float}> share: of the surface that lies on the surface when mirrored
     *
     * @throws UnsuitableInput when there is none
     */
    public static function mirrors(TriangleMesh $mesh, string $name): array
    {
        $size = BoundingBox::of($mesh->positions)->diagonal();
        ['points' => $q, 'normals' => $n] = SurfaceSamples::of($mesh);
        $tree = KdTree::of($q);
        // In the order of the tree, which answers with places in it.
        $n = array_merge(...array_map(fn (int $i) => [$n[3 * $i], $n[3 * $i + 1], $n[3 * $i + 2]], $tree->order));
        $q = $tree->sorted;
        $middle = SurfaceSamples::middle($q);
        $first = [SurfaceSamples::every($q, self::MIRRORED_FIRST), SurfaceSamples::every($n, self::MIRRORED_FIRST)];
        $all = [SurfaceSamples::every($q, self::MIRRORED), SurfaceSamples::every($n, self::MIRRORED)];
        // The directions are told apart by much more than the distance between samples.
        $coarse = KdTree::of(SurfaceSamples::every($q, self::MIRRORED));
        $few = SurfaceSamples::every($q, self::TRIED_WITH);
        $tried = [];
        foreach (self::directions($q) as $d) {
            $tried[] = [self::miss($coarse, $few, $d, Vector3::dot($d, $middle), self::FAR * $size), $d];
        }
        usort($tried, fn (array $a, array $b) => $a[0] <=> $b[0]);
        $found = [];
        $best = 0.0;
        foreach (self::apart($tried) as $d) {
            $plane = self::refined($tree, $q, $n, $first, $d, Vector3::dot($d, $middle), $middle, $size, 0);
            if ($plane['share'] >= self::AS_GOOD * self::LEAST) {
                $plane = self::refined($tree, $q, $n, $all, $plane['normal'], $plane['at'], $middle, $size, self::NEAR);
            }
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
     * @param  array{list<float>, list<float>}  $mirrored  those that are mirrored, and their normals
     * @param  array{float, float, float}  $d
     * @param  array{float, float, float}  $middle
     * @param  int  $from  the round to begin with: the reach falls from round to round
     * @return array{normal: array{float, float, float}, at: float, rms: float, max: float, points: int, share: float}
     */
    private static function refined(KdTree $tree, array $q, array $qn, array $mirrored, array $d, float $at, array $middle, float $size, int $from): array
    {
        [$p, $pn] = $mirrored;
        $e = $use = [];
        for ($round = $from; $round < self::ROUNDS; $round++) {
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
            $step = Dense::step($a, $g, 3);
            // The tilt turns the plane about the middle.
            $height = $at - Vector3::dot($d, $middle);
            $d = Vector3::unit([$d[0] + $step[0] * $u[0] + $step[1] * $v[0], $d[1] + $step[0] * $u[1] + $step[1] * $v[1], $d[2] + $step[0] * $u[2] + $step[1] * $v[2]]);
            $at = Vector3::dot($d, $middle) + $height + $step[2];
            if ($round >= self::NEAR && abs($step[0]) + abs($step[1]) + abs($step[2]) / $size < self::SETTLED) {
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
}
