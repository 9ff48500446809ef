<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Foundation;

use Emberstone\Core\Foundation\Format;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class FormatTest extends TestCase
{
    #[Test]
    public function plain_numbers_lose_zeros_behind_the_point_alone(): void
    {
        foreach ([['8400', 8400.0, 0], ['100', 100.0, 2], ['0.25', 0.25, 6], ['0', -0.0001, 2], ['-3.5', -3.5, 3], ['0', 0.0, 0]] as [$text, $value, $decimals]) {
            self::assertSame($text, Format::plain($value, $decimals));
        }
    }
}
