<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

/** Pictures: one grey value of 16 bits a pixel, with words, or three colours of 8 bits. Source: ISO/IEC 15948, sections 5 and 11. */
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
        $chunks = '';
        foreach ($words as $key => $text) {
            $chunks .= self::chunk('tEXt', "$key\0$text");
        }

        return self::file($columns, $rows, 16, 0, $chunks, $lines);
    }

    /** @param  string  $rgb  three bytes a pixel, row by row from above */
    public static function coloured(string $rgb, int $columns): string
    {
        $lines = '';
        foreach (str_split($rgb, max(1, 3 * $columns)) as $line) {
            $lines .= "\0$line";
        }

        return self::file($columns, intdiv(strlen($rgb), 3 * $columns), 8, 2, '', $lines);
    }

    private static function file(int $columns, int $rows, int $bits, int $colour, string $chunks, string $lines): string
    {
        return "\x89PNG\r\n\x1a\n".self::chunk('IHDR', pack('NNCCCCC', $columns, $rows, $bits, $colour, 0, 0, 0)).$chunks.self::chunk('IDAT', (string) gzcompress($lines, 6)).self::chunk('IEND', '');
    }

    private static function chunk(string $type, string $data): string
    {
        return pack('N', strlen($data)).$type.$data.pack('N', crc32($type.$data));
    }
}
