<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

/** Files for a moment, in the folder of the system for such. Their names say which process made them, so that one can tell what it has left behind. */
final class OwnFile
{
    public static function make(): string
    {
        return (string) tempnam(sys_get_temp_dir(), self::prefix());
    }

    /** @return list<string> those of this process that are there */
    public static function left(): array
    {
        return glob(sys_get_temp_dir().'/'.self::prefix().'??????') ?: [];
    }

    private static function prefix(): string
    {
        return 'emberstone-'.getmypid().'-';
    }
}
