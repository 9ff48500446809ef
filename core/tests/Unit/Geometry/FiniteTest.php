<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Geometry;

use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Finite;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class FiniteTest extends TestCase
{
    #[Test]
    #[TestWith([NAN, 'vertex 1 is not a finite number'])]
    #[TestWith([-INF, 'vertex 1 is not a finite number'])]
    #[TestWith([1e300, 'vertex 1 is 1.0e+300'])]
    #[TestWith([-2e12, 'vertex 1 is -2.0e+12'])]
    public function a_coordinate_that_nobody_has_measured_is_named(float $value, string $words): void
    {
        try {
            Finite::coordinates([0.0, 1.0, 2.0, 3.0, $value, 5.0], 'vertex');
            self::fail('was taken');
        } catch (UnsuitableInput $problem) {
            self::assertStringContainsString($words, $problem->getMessage());
        }
    }

    #[Test]
    public function what_can_be_measured_is_taken(): void
    {
        Finite::coordinates([], 'point');
        Finite::coordinates([Finite::MOST, -Finite::MOST, 0.0], 'point');
        $this->addToAssertionCount(1);
    }
}
