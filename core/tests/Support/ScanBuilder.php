<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;

/** Small passes of a box on a plate with a ball on top of it, evenly sampled and seen from sensors around it: shape enough to register, cheap enough for many tests. */
final class ScanBuilder
{
    public const BOX = [30.0, 20.0, 12.0];

    public const BALL = 8.0;

    /** Centres of the balls of a small target. */
    public const BALLS = [[0.0, 0.0, 10.0], [50.0, 5.0, 14.0], [20.0, 45.0, 8.0], [-30.0, 30.0, 20.0]];

    /**
     * Two looks at the balls from opposite sides, each in coordinates of its own.
     *
     * @return list<Pass>
     */
    public static function ballsFromTwoSides(float $radius): array
    {
        $passes = [];
        foreach ([[-200.0, -40.0, 150.0], [220.0, 60.0, 120.0]] as $head => $eye) {
            $p = [];
            foreach (self::BALLS as [$x, $y, $z]) {
                for ($k = 0; $k < 900; $k++) {
                    // A spiral from pole to pole, evenly spread.
                    $h = 1.0 - 2.0 * ($k + 0.5) / 900;
                    $s = sqrt(1.0 - $h * $h);
                    $n = [$s * cos(2.399963 * $k), $s * sin(2.399963 * $k), $h];
                    if ($n[0] * ($eye[0] - $x) + $n[1] * ($eye[1] - $y) + $n[2] * ($eye[2] - $z) > 60.0) {
                        array_push($p, $x + $radius * $n[0], $y + $radius * $n[1], $z + $radius * $n[2]);
                    }
                }
            }
            $passes[] = Pass::of("head $head", PointCloud::fromFlat($p, sensorOrigin: $eye)->transformed(RigidTransform::turn([1.0, 2.0, 3.0], 0.7 + $head)->then(RigidTransform::shift(40.0, -80.0, 7.0))));
        }

        return $passes;
    }

    /**
     * A plate with dots on it that lie in no pattern, seen twice; the second time thrown somewhere else.
     *
     * @return list<Pass>
     */
    public static function dottedPlates(float $radius): array
    {
        $dots = [[6.0, 7.0], [20.0, 5.0], [33.0, 9.0], [9.0, 22.0], [24.0, 19.0], [35.0, 26.0], [15.0, 33.0]];
        $passes = [];
        foreach ([RigidTransform::identity(), RigidTransform::turn([0.0, 1.0, 1.0], 1.3)->then(RigidTransform::shift(90.0, 0.0, 12.0))] as $k => $away) {
            $p = $colours = [];
            for ($i = 0; $i < 100; $i++) {
                for ($j = 0; $j < 100; $j++) {
                    [$x, $y] = [0.4 * $i + 0.13 * $k, 0.4 * $j];
                    $near = min(array_map(fn (array $dot) => sqrt(($x - $dot[0]) ** 2 + ($y - $dot[1]) ** 2), $dots));
                    array_push($p, $x, $y, 0.0);
                    $colours[] = $near < $radius ? 0xF4F2EC : ($near < 1.5 * $radius ? 0x141414 : 0x8C857A);
                }
            }
            $passes[] = Pass::of("look $k", PointCloud::fromFlat($p, [], $colours, [20.0, 20.0, 200.0])->transformed($away));
        }

        return $passes;
    }

    /**
     * @param  int  $perSide  points along the longest side of the box
     * @return list<Pass> seen from the sides and from above, in the coordinates of the part
     */
    public static function passes(int $count = 3, int $perSide = 40, float $noiseMm = 0.0, int $seed = 1, bool $plate = false): array
    {
        $gen = new Gen($seed);
        $passes = [];
        for ($k = 0; $k < $count; $k++) {
            $angle = 2.0 * M_PI * $k / $count + 0.4;
            $passes[] = Pass::of("pass $k", self::seenFrom([120.0 * cos($angle), 120.0 * sin($angle), 90.0], $perSide, $noiseMm, $gen, $plate));
        }

        return $passes;
    }

    /** @param  array{float, float, float}  $eye */
    public static function seenFrom(array $eye, int $perSide, float $noiseMm, Gen $gen, bool $plate = false): PointCloud
    {
        [$a, $b, $h] = self::BOX;
        $step = $a / $perSide;
        $p = [];
        $see = function (array $at, array $normal) use (&$p, $eye, $noiseMm, $gen): void {
            $to = [$eye[0] - $at[0], $eye[1] - $at[1], $eye[2] - $at[2]];
            $l = sqrt($to[0] ** 2 + $to[1] ** 2 + $to[2] ** 2);
            if (0.15 * $l > $to[0] * $normal[0] + $to[1] * $normal[1] + $to[2] * $normal[2]) {
                return;
            }
            $r = $noiseMm * ($gen->float(-1.0, 1.0) + $gen->float(-1.0, 1.0)) / $l;
            array_push($p, $at[0] + $r * $to[0], $at[1] + $r * $to[1], $at[2] + $r * $to[2]);
        };
        $jitter = fn (float $v) => $v + $step * $gen->float(-0.4, 0.4);
        foreach ([[1.0, 0], [-1.0, 0], [1.0, 1], [-1.0, 1]] as [$sign, $axis]) {
            [$half, $wide] = $axis === 0 ? [0.5 * $a, $b] : [0.5 * $b, $a];
            for ($u = -0.5 * $wide + 0.5 * $step; $u < 0.5 * $wide; $u += $step) {
                for ($z = 0.5 * $step; $z < $h; $z += $step) {
                    $see($axis === 0 ? [$sign * $half, $jitter($u), $jitter($z)] : [$jitter($u), $sign * $half, $jitter($z)], $axis === 0 ? [$sign, 0.0, 0.0] : [0.0, $sign, 0.0]);
                }
            }
        }
        for ($x = -0.5 * $a + 0.5 * $step; $x < 0.5 * $a; $x += $step) {
            for ($y = -0.5 * $b + 0.5 * $step; $y < 0.5 * $b; $y += $step) {
                if (($x - 4.0) ** 2 + $y ** 2 > self::BALL ** 2) {
                    $see([$jitter($x), $jitter($y), $h], [0.0, 0.0, 1.0]);
                }
            }
        }
        for ($k = 0, $n = (int) (2.0 * M_PI * self::BALL ** 2 / $step ** 2); $k < $n; $k++) {
            // Even over the upper half: the height is uniform (Archimedes).
            $z = ($k + 0.5) / $n;
            $turn = $k * 2.399963;
            $d = [sqrt(1.0 - $z * $z) * cos($turn), sqrt(1.0 - $z * $z) * sin($turn), $z];
            $see([4.0 + self::BALL * $d[0], self::BALL * $d[1], $h + self::BALL * $d[2]], $d);
        }
        for ($x = -30.0; $plate && $x < 30.0; $x += $step) {
            for ($y = -25.0; $y < 25.0; $y += $step) {
                if (abs($x) > 0.5 * $a + 1.0 || abs($y) > 0.5 * $b + 1.0) {
                    $see([$jitter($x), $jitter($y), 0.0], [0.0, 0.0, 1.0]);
                }
            }
        }

        return PointCloud::fromFlat($p, [], [], $eye);
    }

    /** A rigid motion with a turn up to $angle radians about any axis and a shift up to $mm along each. */
    public static function motion(Gen $gen, float $angle, float $mm): RigidTransform
    {
        return RigidTransform::turn([$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0) + 1e-3], $gen->float(-$angle, $angle))
            ->then(RigidTransform::shift($gen->float(-$mm, $mm), $gen->float(-$mm, $mm), $gen->float(-$mm, $mm)));
    }
}
