<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mesh;

use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Algorithms\Linear\SymmetricEigen;
use Emberstone\Core\Algorithms\Surface\Moments;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Moments against what is known of bricks, balls and tetrahedra, and under any motion. */
final class MomentsTest extends TestCase
{
    private static function brick(float $a, float $b, float $c): TriangleMesh
    {
        $p = $f = [];
        foreach ([0.0, $c] as $z) {
            foreach ([[0.0, 0.0], [$a, 0.0], [$a, $b], [0.0, $b]] as [$x, $y]) {
                array_push($p, $x, $y, $z);
            }
        }
        foreach ([[0, 3, 2, 1], [4, 5, 6, 7], [0, 1, 5, 4], [1, 2, 6, 5], [2, 3, 7, 6], [3, 0, 4, 7]] as [$i, $j, $k, $l]) {
            array_push($f, $i, $j, $k, $i, $k, $l);
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    private static function moved(TriangleMesh $mesh, RigidTransform $by): TriangleMesh
    {
        return $mesh->withPositions($by->points($mesh->positions));
    }

    private static function anyMotion(Gen $gen): RigidTransform
    {
        return RigidTransform::turn([$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), $gen->float(0.1, 1.0)], $gen->float(-3.0, 3.0))
            ->then(RigidTransform::shift($gen->float(-500.0, 500.0), $gen->float(-500.0, 500.0), $gen->float(-500.0, 500.0)));
    }

    #[Test]
    public function a_brick_has_its_volume_middle_and_spread_wherever_it_stands(): void
    {
        $gen = new Gen(2);
        for ($round = 0; $round < 30; $round++) {
            [$a, $b, $c] = [$gen->float(1.0, 9.0), $gen->float(10.0, 20.0), $gen->float(21.0, 40.0)];
            $by = self::anyMotion($gen);
            $mesh = self::moved(self::brick($a, $b, $c), $by);
            $m = Moments::ofVolume($mesh->positions, $mesh->faces);
            self::assertEqualsWithDelta($a * $b * $c, $m[0], 1e-6 * $m[0]);
            self::assertEqualsWithDelta($by->point([0.5 * $a, 0.5 * $b, 0.5 * $c]), Moments::centre($m), 1e-6);
            [$xx, $xy, $xz, $yy, $yz, $zz] = Moments::covariance($m);
            $axes = SymmetricEigen::of([$xx, $xy, $xz, $xy, $yy, $yz, $xz, $yz, $zz], 3);
            // The variance of an even spread over a length is a twelfth of its square.
            foreach ([$a, $b, $c] as $k => $length) {
                self::assertEqualsWithDelta($length ** 2 / 12.0, $axes['values'][$k], 1e-5 * $c ** 2);
            }
            $long = $by->direction([0.0, 0.0, 1.0]);
            self::assertEqualsWithDelta(1.0, abs($long[0] * $axes['vectors'][2][0] + $long[1] * $axes['vectors'][2][1] + $long[2] * $axes['vectors'][2][2]), 1e-6);
        }
    }

    #[Test]
    public function the_shell_of_a_brick_has_its_area_and_the_same_middle(): void
    {
        $mesh = self::brick(2.0, 3.0, 5.0);
        $m = Moments::ofSurface($mesh->positions, $mesh->faces);
        self::assertEqualsWithDelta(62.0, $m[0], 1e-12);
        self::assertEqualsWithDelta([1.0, 1.5, 2.5], Moments::centre($m), 1e-12);
        // Of x: two sides of 15 at x = 0 and 2, the others (area 32) spread evenly between.
        self::assertEqualsWithDelta((30.0 * 1.0 + 32.0 * 4.0 / 12.0) / 62.0, Moments::covariance($m)[0], 1e-12);
    }

    #[Test]
    public function a_ball_spreads_the_same_every_way(): void
    {
        $ball = MeshBuilder::icosphere(4, 10.0);
        [$xx, $xy, $xz, $yy, $yz, $zz] = Moments::covariance(Moments::ofVolume($ball->positions, $ball->faces));
        // A fifth of the radius squared, less what the faces cut off.
        self::assertEqualsWithDelta([20.0, 20.0, 20.0], [$xx, $yy, $zz], 0.15);
        self::assertEqualsWithDelta([0.0, 0.0, 0.0], [$xy, $xz, $yz], 1e-6);
    }

    #[Test]
    public function points_count_alike(): void
    {
        $gen = new Gen(5);
        $p = $gen->points(40, 9.0);
        $m = Moments::ofPoints($p);
        self::assertSame(40.0, $m[0]);
        $axes = Symmetric3::ofPoints($p);
        self::assertEqualsWithDelta($axes['centre'], Moments::centre($m), 1e-9);
        [$xx, , , $yy, , $zz] = Moments::covariance($m);
        self::assertEqualsWithDelta(array_sum($axes['values']), $xx + $yy + $zz, 1e-9);
    }

    #[Test]
    public function two_bodies_together_have_the_sum_of_their_moments(): void
    {
        $gen = new Gen(8);
        $one = self::moved(self::brick(1.0, 2.0, 3.0), self::anyMotion($gen));
        $other = self::moved(self::brick(4.0, 2.0, 7.0), self::anyMotion($gen));
        $both = MeshBuilder::together($one, $other);
        foreach (['ofVolume', 'ofSurface'] as $of) {
            $sum = array_map(fn (float $a, float $b) => $a + $b, Moments::$of($one->positions, $one->faces), Moments::$of($other->positions, $other->faces));
            foreach (Moments::$of($both->positions, $both->faces) as $k => $moment) {
                self::assertEqualsWithDelta($sum[$k], $moment, 1e-9 * max(1.0, abs($sum[$k])));
            }
        }
    }
}
