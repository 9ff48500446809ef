<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

/** What a file is that holds no scan, told from its first bytes, for the words that refuse it. */
final class FileKind
{
    /** First bytes and what they begin; the longest first where one begins another. */
    private const SIGNATURES = [
        '%PDF' => 'a PDF document', "\x89PNG" => 'a picture', "\xFF\xD8\xFF" => 'a photograph', 'GIF8' => 'a picture', 'II*'."\0" => 'a picture', "MM\0*" => 'a picture', 'BM' => 'a picture',
        'ISO-10303-21' => 'a STEP model: it holds solids, not a scan', 'AC10' => 'a drawing (DWG)', "\xD0\xCF\x11\xE0" => 'an office document', 'MZ' => 'a program', "\x7FELF" => 'a program',
        '<!DOCTYPE html' => 'a web page', '<html' => 'a web page', '<svg' => 'a drawing (SVG)', "7z\xBC\xAF" => 'a 7z archive: unpack it first', 'Rar!' => 'a RAR archive: unpack it first',
        'SQLite format 3' => 'a database', 'ID3' => 'a sound', 'OggS' => 'a sound or film',
    ];

    /** Bytes from the start that are looked at. */
    private const LOOKED_AT = 512;

    /** @return string|null "a PDF document"; null where nothing tells */
    public static function of(string $path): ?string
    {
        $head = (string) @file_get_contents($path, false, null, 0, self::LOOKED_AT);
        foreach (self::SIGNATURES as $begins => $what) {
            if (stripos($head, (string) $begins) === 0) {
                return $what;
            }
        }
        $text = ltrim($head);

        return match (true) {
            substr($head, 4, 4) === 'ftyp' => 'a film',
            preg_match('/^0\s+SECTION\b/', $text) === 1 => 'a drawing (DXF)',
            str_starts_with($text, '{') || str_starts_with($text, '[') => 'a text of settings or data (JSON)',
            str_starts_with($text, '<?xml') => 'an XML text',
            default => null,
        };
    }
}
