<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** Figures in words. */
final class Format
{
    /** 214000 becomes "214 k", 2100000 becomes "2.1 M". */
    public static function count(int $count): string
    {
        return match (true) {
            $count >= 1_000_000 => rtrim(rtrim(number_format($count / 1e6, 2), '0'), '.').' M',
            $count >= 10_000 => number_format($count / 1e3).' k',
            $count >= 1_000 => rtrim(rtrim(number_format($count / 1e3, 1), '0'), '.').' k',
            default => (string) $count,
        };
    }

    /** "1 ball", "4 balls", "2 passes". */
    public static function many(int $count, string $one, ?string $more = null): string
    {
        return "$count ".($count === 1 ? $one : $more ?? "{$one}s");
    }

    public static function mm(float $length): string
    {
        $decimals = abs($length) < 0.1 ? 3 : (abs($length) < 10 ? 2 : 1);

        return number_format($length, $decimals).' mm';
    }

    /** "0.413 mm³", "413.7 mm³", "4,200 mm³". */
    public static function volume(float $mm3): string
    {
        return number_format($mm3, $mm3 < 10 ? 3 : ($mm3 < 1000 ? 1 : 0)).' mm³';
    }

    /** A number for a file: decimals without zeros at the end, never an exponent. */
    public static function plain(float $value, int $decimals): string
    {
        $text = number_format($value, $decimals, '.', '');
        // Zeros before the point count.
        $text = $decimals > 0 ? rtrim(rtrim($text, '0'), '.') : $text;

        return $text === '-0' || $text === '' ? '0' : $text;
    }
}
