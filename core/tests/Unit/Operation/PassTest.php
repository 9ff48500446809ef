<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Operation;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class PassTest extends TestCase
{
    #[Test]
    public function some_of_the_points_are_every_so_many_th_of_those_that_are_kept(): void
    {
        $points = [];
        for ($i = 0; $i < 11; $i++) {
            array_push($points, (float) $i, 0.0, 0.0);
        }
        $pass = new Pass('p', 'p', PointCloud::fromFlat($points), RigidTransform::shift(100.0, 0.0, 0.0), scale: 2.0);
        $along = fn (Pass $one, int $every): array => array_column(array_chunk($one->sample($every), 3), 0);
        self::assertSame([100.0, 106.0, 112.0, 118.0], $along($pass, 3));
        self::assertSame($along($pass, 3), $along($pass->narrowed(str_repeat("\1", 11)), 3));
        // Without the first two points.
        self::assertSame([104.0, 110.0, 116.0], $along($pass->narrowed("\0\0".str_repeat("\1", 9)), 3));
        self::assertSame($pass->placed()->positions, $pass->sample(1));
    }
}
