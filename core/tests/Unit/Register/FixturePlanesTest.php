<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Fixture\FixturePlanes;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Flat faces found in points made up of some. */
final class FixturePlanesTest extends TestCase
{
    /**
     * @param  array{float, float, float}  $at  middle of a rectangle
     * @param  array{float, float, float}  $normal
     * @return array{list<float>, list<float>} points a millimetre apart with noise, and their normals, a degree or two off
     */
    private static function face(Gen $gen, array $at, array $normal, float $wide, float $high, float $noise): array
    {
        $turn = RigidTransform::turn([-$normal[1], $normal[0], 0.0], acos($normal[2]));
        $p = $n = [];
        for ($u = -0.5 * $wide; $u <= 0.5 * $wide; $u += 1.0) {
            for ($v = -0.5 * $high; $v <= 0.5 * $high; $v += 1.0) {
                array_push($p, ...$turn->then(RigidTransform::shift(...$at))->point([$u, $v, $gen->float(-1.0, 1.0) * sqrt(3.0) * $noise]));
                $lean = [$gen->float(-0.03, 0.03), $gen->float(-0.03, 0.03), 1.0];
                $l = sqrt($lean[0] ** 2 + $lean[1] ** 2 + 1.0);
                array_push($n, ...$turn->directions(array_map(fn (float $x) => $x / $l, $lean)));
            }
        }

        return [$p, $n];
    }

    #[Test]
    public function faces_come_back_the_largest_first_within_their_noise(): void
    {
        for ($seed = 1; $seed <= 5; $seed++) {
            $gen = new Gen($seed);
            $faces = [[[0.0, 0.0, 12.0], [0.0, 0.0, 1.0], 80.0, 60.0], [[20.0, 10.0, 24.0], [0.6, 0.0, 0.8], 30.0, 24.0], [[-10.0, -15.0, 30.0], [-0.48, 0.64, 0.6], 16.0, 12.0]];
            $p = $n = [];
            foreach ($faces as [$at, $normal, $wide, $high]) {
                [$more, $facing] = self::face($gen, $at, $normal, $wide, $high, 0.03);
                array_push($p, ...$more);
                array_push($n, ...$facing);
            }
            // And points that lie on no face.
            for ($k = 0; $k < 300; $k++) {
                array_push($p, $gen->float(-40.0, 40.0), $gen->float(-40.0, 40.0), $gen->float(15.0, 60.0));
                array_push($n, 0.0, 1.0, 0.0);
            }
            $found = FixturePlanes::find($p, $n, 1.0, 0.03);
            self::assertGreaterThanOrEqual(3, count($found), "seed $seed");
            foreach ($faces as $k => [$at, $normal, $wide, $high]) {
                $many = ($wide + 1.0) * ($high + 1.0);
                self::assertGreaterThan(0.9 * min($many, 750.0), count($found[$k]['points']) / 3, "seed $seed, face $k");
                $height = 0.0;
                $along = 0.0;
                foreach ([0, 1, 2] as $c) {
                    $height += $normal[$c] * ($found[$k]['origin'][$c] - $at[$c]);
                    $along += $normal[$c] * $found[$k]['normal'][$c];
                }
                self::assertEqualsWithDelta(0.0, $height, 0.01, "seed $seed, face $k");
                self::assertGreaterThan(cos(deg2rad(0.1)), $along, "seed $seed, face $k");
                self::assertEqualsWithDelta(0.03, $found[$k]['rms'], 0.006);
            }
        }
    }

    #[Test]
    public function where_nothing_is_flat_nothing_is_found(): void
    {
        $gen = new Gen(4);
        $p = $n = [];
        // A ball, 12 mm: no 60 points of it lie within the band of any plane.
        for ($k = 0; $k < 900; $k++) {
            [$turn, $up] = [$gen->float(0.0, 2.0 * M_PI), $gen->float(-1.0, 1.0)];
            $r = sqrt(1.0 - $up * $up);
            array_push($p, 12.0 * $r * cos($turn), 12.0 * $r * sin($turn), 12.0 * $up);
            array_push($n, $r * cos($turn), $r * sin($turn), $up);
        }
        self::assertSame([], FixturePlanes::find($p, $n, 1.0, 0.02));
        self::assertSame([], FixturePlanes::find([], [], 1.0, 0.02));
    }
}
