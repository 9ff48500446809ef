<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Operation;

use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class DatumNearestTest extends TestCase
{
    /** @return iterable<string, array{Datum}> */
    public static function datums(): iterable
    {
        $axis = Vector3::unit([1.0, 2.0, -0.5]);
        yield 'plane' => [new Datum('', '', 'plane', [1.0, 2.0, 3.0], $axis)];
        yield 'line' => [new Datum('', '', 'line', [1.0, 2.0, 3.0], $axis)];
        yield 'cylinder' => [new Datum('', '', 'cylinder', [1.0, 2.0, 3.0], $axis, 4.0)];
        yield 'cone' => [new Datum('', '', 'cone', [1.0, 2.0, 3.0], $axis, 4.0, halfAngleDeg: 20.0)];
        yield 'sphere' => [new Datum('', '', 'sphere', [1.0, 2.0, 3.0], radius: 4.0)];
        yield 'point' => [new Datum('', '', 'point', [1.0, 2.0, 3.0])];
    }

    /** How far a place lies off the shape, from its equation. */
    private function off(Datum $datum, array $at): float
    {
        $d = Vector3::minus($at, $datum->origin);
        $h = Vector3::dot($d, $datum->direction);
        $r = sqrt(max(0.0, Vector3::dot($d, $d) - $h * $h));

        return match ($datum->kind) {
            'plane' => $h,
            'cone' => ($r - $datum->radius - $h * tan(deg2rad($datum->halfAngleDeg))) * cos(deg2rad($datum->halfAngleDeg)),
            default => $r - $datum->radius,
        };
    }

    #[Test]
    #[DataProvider('datums')]
    public function it_lies_on_the_shape_as_far_away_as_the_equation_says_and_stays_when_asked_again(Datum $datum): void
    {
        $gen = new Gen(3);
        for ($k = 0; $k < 50; $k++) {
            // Near the shape: beyond the tip of a cone another side is nearer.
            $at = $gen->points(1, 5.0);
            $on = $datum->nearest($at);
            self::assertEqualsWithDelta(0.0, $this->off($datum, $on), 1e-6);
            self::assertEqualsWithDelta(abs($this->off($datum, $at)), Vector3::length(Vector3::minus($at, $on)), 1e-6);
            self::assertEqualsWithDelta(0.0, Vector3::length(Vector3::minus($on, $datum->nearest($on))), 1e-9);
        }
        self::assertEqualsWithDelta(0.0, $this->off($datum, $datum->nearest($datum->origin)), 1e-9, 'from its very middle too');
    }
}
