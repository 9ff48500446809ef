<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Gather;

use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Measure\SizeCheck;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class SizeCheckTest extends TestCase
{
    /** @return iterable<string, array{Unit, Unit}> the unit a pass was read in, and the one it is in */
    public static function mistakes(): iterable
    {
        yield 'inches read as mm, 25.4' => [Unit::Millimetre, Unit::Inch];
        yield 'metres read as mm, 1000' => [Unit::Millimetre, Unit::Metre];
        yield 'mm read as metres, 1/1000' => [Unit::Metre, Unit::Millimetre];
        yield 'feet read as mm, 304.8' => [Unit::Millimetre, Unit::Foot];
        yield 'cm read as mm, 10' => [Unit::Millimetre, Unit::Centimetre];
        yield 'feet read as inches, 12' => [Unit::Inch, Unit::Foot];
    }

    #[Test]
    #[DataProvider('mistakes')]
    public function a_pass_in_another_unit_is_named_with_the_unit_it_is_in(Unit $read, Unit $true): void
    {
        // The odd one shows a little less of the part than the others.
        $items = ['a' => ['sizeMm' => 200.0, 'unit' => $read], 'b' => ['sizeMm' => 180.0, 'unit' => $read], 'c' => ['sizeMm' => 215.0, 'unit' => $read],
            'odd' => ['sizeMm' => 170.0 * $read->inMillimetres() / $true->inMillimetres(), 'unit' => $read]];
        $odd = SizeCheck::oddOnes($items);
        self::assertSame(['odd'], array_keys($odd));
        self::assertSame($true, $odd['odd']['unit']);
        self::assertEqualsWithDelta($true->inMillimetres() / $read->inMillimetres(), $odd['odd']['times'], 1e-12);
    }

    #[Test]
    public function views_that_differ_by_three_times_and_sizes_no_unit_explains_are_left_alone(): void
    {
        $of = fn (float ...$sizes) => array_map(fn (float $size) => ['sizeMm' => $size, 'unit' => Unit::Millimetre], array_combine(array_map(fn (int $k) => "pass $k", array_keys($sizes)), $sizes));
        self::assertSame([], SizeCheck::oddOnes($of(100.0, 290.0, 110.0, 95.0)));
        self::assertSame([], SizeCheck::oddOnes($of(100.0, 100.0, 100.0 / 90.0)));
        self::assertSame([], SizeCheck::oddOnes($of(100.0)));
        self::assertSame([], SizeCheck::oddOnes($of(100.0, 0.0)));
    }
}
