<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

/** Pictures of one grey value a pixel, 16 bits, with words. Source: ISO/IEC 15948, sections 5 and 11. */
final class Png
{
    /**
     * @param  list<int>  $values  0 to 65535, row by row from above
     * @param  array<string, string>  $words  that travel with it, Latin letters
     */
    public static function of(array $values, int $columns, array $words = []): string
    {
        $rows = intdiv(count($values), max(1, $columns));
        $lines = '';
        for ($r = 0; $r < $rows; $r++) {
            // Filter 0: none; 16 bits, the high one first.
            $lines .= "\0".pack('n*', ...array_slice($values, $r * $columns, $columns));
        }
        $chunks = self::chunk('IHDR', pack('NNCCCCC', $columns, $rows, 16, 0, 0, 0, 0));
        foreach ($words as $key => $text) {
            $chunks .= self::chunk('tEXt', "$key\0$text");
        }

        return "\x89PNG\r\n\x1a\n".$chunks.self::chunk('IDAT', (string) gzcompress($lines, 6)).self::chunk('IEND', '');
    }

    private static function chunk(string $type, string $data): string
    {
        return pack('N', strlen($data)).$type.$data.pack('N', crc32($type.$data));
    }
}
