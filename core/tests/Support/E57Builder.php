<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

/** Lays out E57 files by hand, so that the reader is not tested by the writer alone. */
final class E57Builder
{
    /**
     * @param  string  $prototype  XML of the fields
     * @param  list<list<string>>  $packets  the streams of each packet
     * @param  string  $scan  more XML of the scan
     */
    public static function file(string $prototype, array $packets, int $records, string $scan = ''): string
    {
        $body = '';
        foreach ($packets as $streams) {
            $packet = pack('v', count($streams)).pack('v*', ...array_map(strlen(...), $streams)).implode('', $streams);
            $packet .= str_repeat("\0", -(4 + strlen($packet)) & 3);
            $body .= pack('CCv', 1, 0, 3 + strlen($packet)).$packet;
        }
        $section = pack('C', 1).str_repeat("\0", 7).pack('PPP', 32 + strlen($body), 80, 0).$body;
        $xml = '<?xml version="1.0" encoding="UTF-8"?><e57Root type="Structure" xmlns="http://www.astm.org/COMMIT/E57/2010-e57-v1.0"><data3D type="Vector">'
            .'<vectorChild type="Structure">'.$scan.'<points type="CompressedVector" fileOffset="48" recordCount="'.$records.'"><prototype type="Structure">'.$prototype
            .'</prototype></points></vectorChild></data3D></e57Root>';

        return self::paged($section, $xml);
    }

    /** Header, section, XML, in pages with their checksums. */
    public static function paged(string $section, string $xml): string
    {
        $at = 48 + strlen($section);
        $pages = (int) ceil(($at + strlen($xml)) / 1020);
        $logical = 'ASTM-E57'.pack('VVPPPP', 1, 0, $pages * 1024, intdiv($at, 1020) * 1024 + $at % 1020, strlen($xml), 1024).$section.$xml;
        $file = '';
        foreach (str_split($logical, 1020) as $content) {
            $content = str_pad($content, 1020, "\0");
            $file .= $content.hash('crc32c', $content, true);
        }

        return $file;
    }

    /**
     * Whole numbers of so many bits, the lowest first.
     *
     * @param  list<int>  $values
     */
    public static function bits(array $values, int $bits): string
    {
        $all = '';
        foreach ($values as $value) {
            $all .= strrev(str_pad(decbin($value), $bits, '0', STR_PAD_LEFT));
        }

        return implode('', array_map(fn (string $byte) => chr((int) bindec(strrev(str_pad($byte, 8, '0')))), str_split($all, 8)));
    }
}
