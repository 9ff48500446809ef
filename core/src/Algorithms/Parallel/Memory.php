<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Parallel;

/** How much memory a step may use, all its processes together. What would take more is done in parts. */
final class Memory
{
    /** Megabytes below which no part is small enough: an empty process with the compiled code takes some 60. */
    public const LEAST_MB = 200;

    /** Set by limit(), MB; 0 when it was not. */
    private static int $limitMb = 0;

    /** Half of what was free when it was first asked for, MB; 0 before. */
    private static int $half = 0;

    /** Sets the budget of this process, MB; 0 means half of what the machine has free. */
    public static function limit(int $megabytes): void
    {
        self::$limitMb = $megabytes;
    }

    /** MB. Asked of the machine once, so that what a process uses itself does not shrink it. */
    public static function budgetMb(): int
    {
        if (self::$limitMb > 0) {
            return self::$limitMb;
        }

        return self::$half = self::$half > 0 ? self::$half : max(self::LEAST_MB, intdiv(self::freeMb(), 2));
    }

    private static function freeMb(): int
    {
        $text = is_readable('/proc/meminfo') ? (string) file_get_contents('/proc/meminfo') : '';

        // Where the system does not say, what any machine of today has.
        return preg_match('/^MemAvailable:\s+(\d+) kB/m', $text, $found) === 1 ? intdiv((int) $found[1], 1024) : 4096;
    }
}
