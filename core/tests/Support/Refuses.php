<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Closure;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;

/** For tests of what is refused: every case must end with words that hold the given ones. */
trait Refuses
{
    /** @param  list<array{Closure(): mixed, string}>  $cases */
    private static function assertRefused(array $cases): void
    {
        foreach ($cases as [$does, $says]) {
            try {
                $does();
            } catch (UnsuitableInput|InvalidParameter $refused) {
                self::assertStringContainsString($says, $refused->getMessage());

                continue;
            }
            self::fail("not refused: $says");
        }
    }
}
