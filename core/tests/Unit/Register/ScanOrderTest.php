<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Diagnosis\ScanOrder;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class ScanOrderTest extends TestCase
{
    private const SENSOR = [10.0, 5.0, 300.0];

    /**
     * A bent sheet seen from above, line by line from left to right, the lines from front to back.
     *
     * @param  bool  $thereAndBack  every other line from right to left
     * @return list<array{float, float, float}>
     */
    private static function lines(bool $thereAndBack = false): array
    {
        $points = [];
        for ($v = 0; $v < 30; $v++) {
            for ($u = 0; $u < 40; $u++) {
                $x = (float) ($thereAndBack && $v % 2 === 1 ? 39 - $u : $u);
                $points[] = [$x, (float) $v, 0.02 * ($x - 20.0) ** 2];
            }
        }

        return $points;
    }

    /**
     * @param  list<array{float, float, float}>  $points
     * @param  array{float, float, float}|null  $sensor
     */
    private static function cloud(array $points, ?array $sensor = self::SENSOR): PointCloud
    {
        return PointCloud::fromFlat(array_merge(...$points), [], [], $sensor);
    }

    #[Test]
    public function the_next_line_is_to_the_left_and_in_a_mirror_to_the_right_however_the_cloud_is_turned(): void
    {
        $gen = new Gen(4);
        $mirror = fn (array $p): array => [-$p[0], $p[1], $p[2]];
        for ($try = 0; $try < 20; $try++) {
            $motion = RigidTransform::turn($gen->points(1), $gen->float(0.1, 3.0))->then(RigidTransform::shift($gen->float(-200, 200), $gen->float(-200, 200), $gen->float(-200, 200)));
            self::assertSame(1, ScanOrder::turn(self::cloud(self::lines())->transformed($motion)));
            self::assertSame(-1, ScanOrder::turn(self::cloud(array_map($mirror, self::lines()), $mirror(self::SENSOR))->transformed($motion)));
        }
    }

    #[Test]
    public function gaps_in_the_lines_do_not_matter(): void
    {
        $seen = array_values(array_filter(self::lines(), fn (array $p) => ($p[0] - 15.0) ** 2 + ($p[1] - 12.0) ** 2 > 60.0));
        self::assertSame(1, ScanOrder::turn(self::cloud($seen)));
    }

    #[Test]
    public function where_the_order_tells_nothing_nothing_is_told(): void
    {
        self::assertSame(0, ScanOrder::turn(self::cloud((new Gen(9))->shuffled(self::lines()))), 'no order');
        self::assertSame(0, ScanOrder::turn(self::cloud(self::lines(thereAndBack: true))), 'there and back');
        self::assertSame(0, ScanOrder::turn(self::cloud(self::lines(), null)), 'nobody knows from where');
        self::assertSame(0, ScanOrder::turn(self::cloud(array_slice(self::lines(), 0, 40))), 'a single line');
        self::assertSame(0, ScanOrder::turn(self::cloud(array_fill(0, 200, [1.0, 2.0, 3.0]))), 'a single place');
    }
}
