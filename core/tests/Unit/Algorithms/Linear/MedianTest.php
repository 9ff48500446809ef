<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Linear;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class MedianTest extends TestCase
{
    #[Test]
    public function every_place_of_the_order_is_what_sorting_puts_there(): void
    {
        for ($seed = 1; $seed <= 40; $seed++) {
            $gen = new Gen($seed);
            // Few different values, so that many are alike, or hardly any twice.
            $steps = $seed % 2 === 0 ? 4 : 1_000_000;
            $values = array_map(fn () => $gen->int(-$steps, $steps) / 7.0, range(1, $gen->int(1, 60)));
            $sorted = $values;
            sort($sorted);
            foreach ($sorted as $k => $value) {
                self::assertSame($value, Median::nth($values, $k), "seed $seed");
            }
            self::assertSame($sorted[count($values) >> 1], Median::of($values));
        }
    }
}
