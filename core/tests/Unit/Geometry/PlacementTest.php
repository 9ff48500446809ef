<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Geometry;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class PlacementTest extends TestCase
{
    #[Test]
    public function scale_and_pose_come_out_of_a_matrix_as_they_went_in_to_1e_12(): void
    {
        $gen = new Gen(11);
        foreach ([1.0, 25.4, 1000.0, 304.8, 0.001] as $scale) {
            $pose = RigidTransform::turn([$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), 0.5], $gen->float(0.0, 3.0))->then(RigidTransform::shift($gen->float(-1e5, 1e5), 7.0, -3.0));
            $back = Placement::fromMatrix(Placement::of($scale, $pose)->matrix());
            self::assertEqualsWithDelta($scale, $back->scale, 1e-12 * $scale);
            self::assertEqualsWithDelta($pose->matrix, $back->pose->matrix, 1e-12);
        }
        self::assertSame($pose->matrix, Placement::fromMatrix(Placement::of(1.0, $pose)->matrix())->pose->matrix);
    }

    #[Test]
    public function numbers_are_scaled_first_and_moved_then(): void
    {
        $placement = Placement::of(10.0, RigidTransform::shift(1.0, 2.0, 3.0));
        self::assertSame([11.0, 22.0, 33.0], $placement->point([1.0, 2.0, 3.0]));
        self::assertSame([11.0, 22.0, 33.0], $placement->points([1.0, 2.0, 3.0]));
        self::assertSame([1.0, 2.0, 3.0], $placement->back([11.0, 22.0, 33.0]));
        self::assertSame([12.0, 22.0, 33.0], $placement->from([0.1, 0.0, 0.0])->point([1.0, 2.0, 3.0]));
        // Twice as large about the origin, then up by 5.
        self::assertSame([22.0, 44.0, 71.0], $placement->then(Placement::of(2.0, RigidTransform::shift(0.0, 0.0, 5.0)))->point([1.0, 2.0, 3.0]));
    }

    #[Test]
    public function refuses_a_stretched_matrix_and_a_scale_of_nothing(): void
    {
        foreach ([fn () => Placement::fromMatrix([2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2.1, 0, 0, 0, 0, 1]), fn () => Placement::of(0.0, RigidTransform::identity()), fn () => Placement::fromMatrix([1, 0, 0])] as $bad) {
            try {
                $bad();
                self::fail('accepted');
            } catch (InvalidParameter $refused) {
                self::assertNotSame('', $refused->getMessage());
            }
        }
    }
}
