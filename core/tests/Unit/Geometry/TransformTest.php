<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Geometry;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\InvalidParameter;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class TransformTest extends TestCase
{
    #[Test]
    public function turns_x_into_y_by_90_degrees_about_z(): void
    {
        $p = Transform::turn([0.0, 0.0, 2.0], M_PI / 2)->point([1.0, 0.0, 5.0]);
        self::assertEqualsWithDelta([0.0, 1.0, 5.0], $p, 1e-15);
    }

    #[Test]
    public function does_the_first_before_the_second(): void
    {
        $p = Transform::shift(1.0, 0.0, 0.0)->then(Transform::scale(3.0))->point([1.0, 1.0, 1.0]);
        self::assertSame([6.0, 3.0, 3.0], $p);
    }

    #[Test]
    public function the_inverse_brings_points_back_within_1e_12(): void
    {
        $t = Transform::turn([1.0, 2.0, 3.0], 0.7)->then(Transform::scale(2.5))->then(Transform::shift(4.0, -5.0, 6.0));
        self::assertEqualsWithDelta([7.0, 8.0, 9.0], $t->inverse()->point($t->point([7.0, 8.0, 9.0])), 1e-12);
        self::assertEqualsWithDelta(2.5, $t->scaleFactor(), 1e-15);
    }

    #[Test]
    public function says_by_how_much_it_turns_however_little_or_far(): void
    {
        foreach ([0.0, 1e-9, 0.3, 1.5, 3.1] as $angle) {
            $t = Transform::turn([1.0, -2.0, 0.5], $angle)->then(Transform::scale(0.4))->then(Transform::shift(9.0, 8.0, 7.0));
            self::assertEqualsWithDelta(rad2deg($angle), $t->angleDeg(), 1e-12 + 1e-9 * $angle);
        }
    }

    #[Test]
    public function refuses_a_matrix_with_a_perspective_row(): void
    {
        $this->expectException(InvalidParameter::class);
        Transform::fromMatrix([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 1, 1]);
    }
}
