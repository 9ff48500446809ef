<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Linear;

use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class Vector3Test extends TestCase
{
    #[Test]
    public function products_keep_the_laws_of_vectors(): void
    {
        self::assertSame([0.0, 0.0, 1.0], Vector3::cross([1.0, 0.0, 0.0], [0.0, 1.0, 0.0]));
        $gen = new Gen(1);
        for ($round = 0; $round < 200; $round++) {
            [$a, $b] = [[$gen->float(-9.0, 9.0), $gen->float(-9.0, 9.0), $gen->float(-9.0, 9.0)], [$gen->float(-9.0, 9.0), $gen->float(-9.0, 9.0), $gen->float(-9.0, 9.0)]];
            $square = Vector3::cross($a, $b);
            self::assertEqualsWithDelta([0.0, 0.0], [Vector3::dot($square, $a), Vector3::dot($square, $b)], 1e-10);
            // Lagrange: what the one product misses, the other has.
            self::assertEqualsWithDelta(Vector3::dot($a, $a) * Vector3::dot($b, $b), Vector3::dot($square, $square) + Vector3::dot($a, $b) ** 2, 1e-8);
            self::assertEqualsWithDelta(1.0, Vector3::length(Vector3::unit($a)), 1e-12);
            self::assertEqualsWithDelta(Vector3::length($a) ** 2 + Vector3::length($b) ** 2 - 2.0 * Vector3::dot($a, $b), Vector3::length(Vector3::minus($a, $b)) ** 2, 1e-9);
        }
    }
}
