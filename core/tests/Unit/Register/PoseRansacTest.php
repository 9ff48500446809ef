<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Algorithms\Icp\PoseRansac;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class PoseRansacTest extends TestCase
{
    /** @return list<float> points 100 mm about, or unit vectors */
    private static function scattered(Gen $gen, int $many, bool $unit): array
    {
        $any = [];
        for ($k = 0; $k < $many; $k++) {
            $v = [$gen->float(-50.0, 50.0), $gen->float(-50.0, 50.0), $gen->float(-50.0, 50.0)];
            $l = $unit ? 1.0 / sqrt($v[0] ** 2 + $v[1] ** 2 + $v[2] ** 2) : 1.0;
            array_push($any, $l * $v[0], $l * $v[1], $l * $v[2]);
        }

        return $any;
    }

    #[Test]
    public function what_three_pairs_in_a_hundred_agree_on_is_found_first_and_none_comes_twice(): void
    {
        for ($seed = 1; $seed <= 6; $seed++) {
            $gen = new Gen($seed);
            $truth = RigidTransform::turn([$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), 1.0], $gen->float(-3.0, 3.0))->then(RigidTransform::shift($gen->float(-200.0, 200.0), 10.0, -30.0));
            [$right, $wrong] = [60, 1940];
            [$p, $n] = [self::scattered($gen, $right, false), self::scattered($gen, $right, true)];
            // The same place is seen a little off by both.
            $q = array_map(fn (float $v) => $v + $gen->float(-0.3, 0.3), $truth->points($p));
            $m = $truth->directions($n);
            [$p, $n, $q, $m] = [[...$p, ...self::scattered($gen, $wrong, false)], [...$n, ...self::scattered($gen, $wrong, true)], [...$q, ...self::scattered($gen, $wrong, false)], [...$m, ...self::scattered($gen, $wrong, true)]];

            $poses = array_map(RigidTransform::fromMatrix(...), (new PoseRansac($p, $n, $q, $m, 1.0))->best(20));
            $corners = [-50.0, -50.0, -50.0, 50.0, -50.0, 50.0, 0.0, 50.0, 0.0];
            self::assertEqualsWithDelta($truth->points($corners), $poses[0]->points($corners), 3.0, "seed $seed");
            foreach ($poses as $k => $pose) {
                $turn = array_merge(...array_map(fn (int $row) => array_slice($pose->matrix, 4 * $row, 3), [0, 1, 2]));
                $square = array_map(fn (int $row) => $turn[3 * $row] ** 2 + $turn[3 * $row + 1] ** 2 + $turn[3 * $row + 2] ** 2, [0, 1, 2]);
                self::assertEqualsWithDelta([1.0, 1.0, 1.0], $square, 1e-9, 'a turn and a shift');
                foreach (array_slice($poses, $k + 1) as $other) {
                    self::assertNotEqualsWithDelta($pose->points($corners), $other->points($corners), 1.0);
                }
            }
        }
    }

    #[Test]
    public function pairs_too_few_to_tell_anything_agree_on_nothing(): void
    {
        $gen = new Gen(3);
        [$p, $n] = [self::scattered($gen, 2, false), self::scattered($gen, 2, true)];
        self::assertSame([], (new PoseRansac($p, $n, $p, $n, 1.0))->best(5));
        self::assertSame([], (new PoseRansac([], [], [], [], 1.0))->best(5));
    }
}
