<?php

declare(strict_types=1);

namespace App\Services;

/** Text that the database and JSON take, whatever bytes a file brought with it. */
final class ValidText
{
    /**
     * A value with every text in it made valid UTF-8: bytes that are none, and NUL, are written out as \xNN.
     *
     * @return ($value is array ? array<array-key, mixed> : mixed)
     */
    public static function of(mixed $value): mixed
    {
        if (is_array($value)) {
            $out = [];
            foreach ($value as $key => $part) {
                $out[is_string($key) ? self::text($key) : $key] = self::of($part);
            }

            return $out;
        }

        return is_string($value) ? self::text($value) : $value;
    }

    private static function text(string $text): string
    {
        if (mb_check_encoding($text, 'UTF-8') && ! str_contains($text, "\0")) {
            return $text;
        }

        // One valid letter (RFC 3629), or one byte that belongs to none.
        return (string) preg_replace_callback(
            '/([\x01-\x7F]|[\xC2-\xDF][\x80-\xBF]|\xE0[\xA0-\xBF][\x80-\xBF]|[\xE1-\xEC\xEE\xEF][\x80-\xBF]{2}|\xED[\x80-\x9F][\x80-\xBF]|\xF0[\x90-\xBF][\x80-\xBF]{2}|[\xF1-\xF3][\x80-\xBF]{3}|\xF4[\x80-\x8F][\x80-\xBF]{2})|(.)/s',
            fn (array $found) => isset($found[2]) ? sprintf('\x%02X', ord($found[2])) : $found[1],
            $text,
        );
    }
}
