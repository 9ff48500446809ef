<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Property;

use Emberstone\Core\Recipe\Catalogue;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** The JIT as we set it changes speed and nothing else: PHP 8.2 has settings that compute wrong values (docs/adr/0006). */
final class JitTest extends TestCase
{
    #[Test]
    public function every_operation_gives_the_same_bits_with_and_without_the_jit_on_one_and_two_processes(): void
    {
        $script = escapeshellarg(__DIR__.'/../Support/digests.php');
        exec(escapeshellarg(PHP_BINARY)." -d opcache.jit=disable $script 2>&1", $plain, $status);
        self::assertSame(0, $status, implode("\n", $plain));
        // One run on one process with the JIT: a difference of either kind shows against the other.
        exec(escapeshellarg(__DIR__.'/../../bin/php-jit')." $script 1 2>&1", $fast, $status);
        self::assertSame(0, $status, implode("\n", $fast));
        self::assertGreaterThan(count(Catalogue::names()), count($plain));
        self::assertSame($plain, $fast);
    }
}
