<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Register\Fixture\FixturePose;
use Emberstone\Core\Register\Fixture\FixtureTarget;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** Poses from features of made-up targets, of which the truth is known. */
final class FixturePoseTest extends TestCase
{
    private const RADIUS = 10.0;

    /** Balls on pins over a plate with slopes: no turn looks like another. */
    private static function target(): FixtureTarget
    {
        $balls = [[-80.0, -50.0, 30.0], [75.0, -55.0, 45.0], [85.0, 60.0, 25.0], [-60.0, 55.0, 60.0]];
        $planes = [];
        foreach ([[0.0, 0.0, 10.0, 0.0, 0.0, 1.0], [100.0, 0.0, 5.0, 1.0, 0.0, 0.0], [0.0, 80.0, 5.0, 0.0, 1.0, 0.0], [30.0, -10.0, 20.0, 0.4, 0.2, 0.9], [-40.0, 0.0, 22.0, -0.3, 0.5, 0.8], [10.0, 45.0, 18.0, 0.1, -0.6, 0.8]] as [$x, $y, $z, $u, $v, $w]) {
            $planes[] = ['at' => [$x, $y, $z], 'normal' => Vector3::unit([$u, $v, $w])];
        }

        return new FixtureTarget(self::RADIUS, $balls, $planes);
    }

    /**
     * What a head finds that stands somewhere.
     *
     * @param  list<int>  $balls  which of the target's
     * @param  list<int>  $planes
     * @return array{list<array{centre: array{float, float, float}, points: list<float>, rms: float}>, list<array{origin: array{float, float, float}, normal: array{float, float, float}, points: list<float>, rms: float}>}
     */
    private static function seen(Gen $gen, RigidTransform $toHead, array $balls, array $planes, float $noise): array
    {
        $target = self::target();
        $foundBalls = $foundPlanes = [];
        foreach ($balls as $t) {
            $points = [];
            for ($k = 0; $k < 150; $k++) {
                [$turn, $up] = [$gen->float(0.0, 2.0 * M_PI), $gen->float(0.1, 1.0)];
                $r = (self::RADIUS + $gen->float(-$noise, $noise)) * sqrt(1.0 - $up * $up);
                array_push($points, $target->balls[$t][0] + $r * cos($turn), $target->balls[$t][1] + $r * sin($turn), $target->balls[$t][2] + self::RADIUS * $up);
            }
            $at = $toHead->point($target->balls[$t]);
            $foundBalls[] = ['centre' => [$at[0], $at[1], $at[2]], 'points' => $toHead->points($points), 'rms' => $noise];
        }
        foreach ($planes as $t) {
            ['at' => $at, 'normal' => $normal] = $target->planes[$t];
            [$u, $v] = Vector3::square($normal);
            $points = [];
            for ($k = 0; $k < 150; $k++) {
                [$a, $b, $h] = [$gen->float(-15.0, 15.0), $gen->float(-10.0, 10.0), $gen->float(-$noise, $noise)];
                for ($c = 0; $c < 3; $c++) {
                    $points[] = $at[$c] + $a * $u[$c] + $b * $v[$c] + $h * $normal[$c];
                }
            }
            $origin = $toHead->point($at);
            $turned = $toHead->directions($normal);
            $foundPlanes[] = ['origin' => [$origin[0], $origin[1], $origin[2]], 'normal' => [$turned[0], $turned[1], $turned[2]], 'points' => $toHead->points($points), 'rms' => $noise];
        }

        return [$foundBalls, $foundPlanes];
    }

    private static function anywhere(Gen $gen): RigidTransform
    {
        return RigidTransform::turn([$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), $gen->float(0.1, 1.0)], $gen->float(0.3, 3.0))->then(RigidTransform::shift($gen->float(-400.0, 400.0), $gen->float(-400.0, 400.0), $gen->float(-400.0, 400.0)));
    }

    /**
     * @param  list<int>  $balls
     * @param  list<int>  $planes
     */
    #[Test]
    #[TestWith([[0, 1, 2, 3], []])]
    #[TestWith([[0, 1, 2], [0, 3]])]
    #[TestWith([[1, 3], [0]])]
    #[TestWith([[2], [0, 3, 4]])]
    #[TestWith([[], [0, 1, 3, 4]])]
    #[TestWith([[0, 1, 2, 3], [0, 1, 2, 3, 4, 5]])]
    public function the_pose_comes_back_from_what_was_seen(array $balls, array $planes): void
    {
        for ($seed = 1; $seed <= 8; $seed++) {
            $gen = new Gen($seed);
            $toHead = self::anywhere($gen);
            [$foundBalls, $foundPlanes] = self::seen($gen, $toHead, $balls, $planes, 0.03);
            // And a ball and a face of something else.
            $foundBalls[] = ['centre' => [500.0, 500.0, 500.0], 'points' => array_fill(0, 300, 500.0), 'rms' => 0.03];
            $foundPlanes[] = ['origin' => [-500.0, 0.0, 0.0], 'normal' => Vector3::unit([0.3, 0.9, -0.2]), 'points' => array_fill(0, 300, -500.0), 'rms' => 0.03];
            $found = (new FixturePose($foundBalls, $foundPlanes, self::target()))->found();
            self::assertNotNull($found, "seed $seed");
            self::assertSame([count($balls), count($planes), 1], [$found['balls'], $found['planes'], $found['ways']], "seed $seed");
            $corners = [-100.0, -80.0, 0.0, 100.0, -80.0, 60.0, 0.0, 80.0, 0.0];
            self::assertEqualsWithDelta($corners, $found['pose']->points($toHead->points($corners)), 0.05, "seed $seed");
        }
    }

    /**
     * @param  list<int>  $balls
     * @param  list<int>  $planes
     */
    #[Test]
    #[TestWith([[0, 1], []])]
    #[TestWith([[0], [0]])]
    #[TestWith([[], [0, 1, 2]])]
    #[TestWith([[], []])]
    public function too_little_gives_no_pose(array $balls, array $planes): void
    {
        $gen = new Gen(3);
        [$foundBalls, $foundPlanes] = self::seen($gen, self::anywhere($gen), $balls, $planes, 0.03);
        self::assertNull((new FixturePose($foundBalls, $foundPlanes, self::target()))->found());
    }

    #[Test]
    public function a_target_in_a_mirror_is_another(): void
    {
        $gen = new Gen(5);
        [$balls, $planes] = self::seen($gen, self::anywhere($gen), [0, 1, 2, 3], [0, 1, 2, 3, 4, 5], 0.03);
        $flip = fn (array $xyz): array => array_map(fn (float $v, int $k) => $k % 3 === 0 ? -$v : $v, $xyz, array_keys($xyz));
        $balls = array_map(fn (array $ball) => ['centre' => $flip($ball['centre']), 'points' => $flip($ball['points'])] + $ball, $balls);
        $planes = array_map(fn (array $plane) => ['origin' => $flip($plane['origin']), 'normal' => $flip($plane['normal']), 'points' => $flip($plane['points'])] + $plane, $planes);
        $found = (new FixturePose($balls, $planes, self::target()))->found();
        // Three balls are like their mirror; that no more than these agree tells.
        self::assertTrue($found === null || $found['balls'] + $found['planes'] <= 4);
    }
}
