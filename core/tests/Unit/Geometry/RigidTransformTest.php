<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Geometry;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\RigidTransform;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class RigidTransformTest extends TestCase
{
    #[Test]
    public function turns_x_into_y_by_90_degrees_about_z(): void
    {
        $p = RigidTransform::turn([0.0, 0.0, 2.0], M_PI / 2)->point([1.0, 0.0, 5.0]);
        self::assertEqualsWithDelta([0.0, 1.0, 5.0], $p, 1e-15);
    }

    #[Test]
    public function does_the_first_before_the_second(): void
    {
        $p = RigidTransform::shift(1.0, 0.0, 0.0)->then(RigidTransform::turn([0.0, 0.0, 1.0], M_PI / 2))->point([1.0, 1.0, 1.0]);
        self::assertEqualsWithDelta([-1.0, 2.0, 1.0], $p, 1e-15);
    }

    #[Test]
    public function the_inverse_brings_points_back_within_1e_12(): void
    {
        $t = RigidTransform::turn([1.0, 2.0, 3.0], 0.7)->then(RigidTransform::shift(4.0, -5.0, 6.0));
        self::assertEqualsWithDelta([7.0, 8.0, 9.0], $t->inverse()->point($t->point([7.0, 8.0, 9.0])), 1e-12);
    }

    #[Test]
    public function says_by_how_much_it_turns_however_little_or_far(): void
    {
        foreach ([0.0, 1e-9, 0.3, 1.5, 3.1] as $angle) {
            $t = RigidTransform::turn([1.0, -2.0, 0.5], $angle)->then(RigidTransform::shift(9.0, 8.0, 7.0));
            self::assertEqualsWithDelta(rad2deg($angle), $t->angleDeg(), 1e-12 + 1e-9 * $angle);
        }
    }

    /** @return iterable<string, array{list<float|int>, string}> */
    public static function noMotions(): iterable
    {
        yield 'scaled' => [[2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 1], 'scales by 2'];
        yield 'stretched' => [[1, 0, 0, 0, 0, 1.001, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], 'scales by 1.001'];
        yield 'mirrored' => [[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, -1, 0, 0, 0, 0, 1], 'mirrors'];
        yield 'sheared' => [[1, 0.1, 0, 0, 0, 0.99498744, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], 'shears'];
        yield 'not finite' => [[1, 0, 0, NAN, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], 'finite'];
    }

    /** @param  list<float|int>  $matrix */
    #[Test]
    #[DataProvider('noMotions')]
    public function refuses_what_is_no_turn_and_shift(array $matrix, string $why): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($why);
        RigidTransform::fromMatrix($matrix);
    }

    #[Test]
    public function refuses_a_matrix_with_a_perspective_row(): void
    {
        $this->expectException(InvalidParameter::class);
        RigidTransform::fromMatrix([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 1, 1]);
    }
}
