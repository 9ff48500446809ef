<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Parallel;

/** How many processes one step may use. */
final class Cores
{
    private static int $limit = 0;

    /** Sets the limit for this process; 0 means as many as the machine has. */
    public static function limit(int $workers): void
    {
        self::$limit = $workers;
    }

    public static function count(): int
    {
        if (self::$limit > 0) {
            return self::$limit;
        }
        $listed = is_readable('/proc/cpuinfo') ? substr_count((string) file_get_contents('/proc/cpuinfo'), "\nprocessor\t") + 1 : 1;

        return max(1, min(16, $listed));
    }
}
