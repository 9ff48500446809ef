<?php

declare(strict_types=1);

namespace Emberstone\Core\Parallel;

/** Flat arrays as little-endian bytes and back, in slices (fast, and small in memory). */
final class Packed
{
    /** Values unpacked at once: unpack() names each value by its number in a string of its own, so that few at once stay in the cache (half the time of 16,384). */
    private const SLICE = 192;

    /** @param  array<int, float>  $values */
    public static function doubles(array $values): string
    {
        return self::pack('e*', $values);
    }

    /** @return list<float> */
    public static function toDoubles(string $bytes): array
    {
        return self::unpack('e*', $bytes, 8, 0.0);
    }

    /** @param  array<int, float>  $values */
    public static function singles(array $values): string
    {
        return self::pack('g*', $values);
    }

    /** @return list<float> */
    public static function toSingles(string $bytes): array
    {
        return self::unpack('g*', $bytes, 4, 0.0);
    }

    /** @param  array<int, int>  $values 0 to 2^32 - 1 */
    public static function ints(array $values): string
    {
        return self::pack('V*', $values);
    }

    /** @return list<int> */
    public static function toInts(string $bytes): array
    {
        return self::unpack('V*', $bytes, 4, 0);
    }

    /** @param  array<int, int>  $values 0 to 255 */
    public static function bytes(array $values): string
    {
        return self::pack('C*', $values);
    }

    /** @return list<int> */
    public static function toBytes(string $bytes): array
    {
        return self::unpack('C*', $bytes, 1, 0);
    }

    /** @param  array<int, int|float>  $values */
    private static function pack(string $format, array $values): string
    {
        $bytes = '';
        for ($i = 0, $n = count($values); $i < $n; $i += 16384) {
            $bytes .= pack($format, ...array_slice($values, $i, 16384));
        }

        return $bytes;
    }

    /**
     * @template T of int|float
     *
     * @param  int  $size  bytes of a value
     * @param  T  $zero
     * @return list<T>
     */
    private static function unpack(string $format, string $bytes, int $size, int|float $zero): array
    {
        $values = array_fill(0, intdiv(strlen($bytes), $size), $zero);
        $slice = self::SLICE * $size;
        $k = 0;
        for ($o = 0, $n = strlen($bytes); $o < $n; $o += $slice) {
            foreach (unpack($format, substr($bytes, $o, $slice)) ?: [] as $value) {
                $values[$k++] = $value;
            }
        }

        return $values;
    }
}
