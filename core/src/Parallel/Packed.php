<?php

declare(strict_types=1);

namespace Emberstone\Core\Parallel;

/** Flat arrays as little-endian bytes and back, in slices (fast, and small in memory). */
final class Packed
{
    /** @param  array<int, float>  $values */
    public static function doubles(array $values): string
    {
        return self::pack('e*', $values);
    }

    /** @return list<float> */
    public static function toDoubles(string $bytes): array
    {
        return self::unpack('e*', $bytes, 65536);
    }

    /** @param  array<int, float>  $values */
    public static function singles(array $values): string
    {
        return self::pack('g*', $values);
    }

    /** @return list<float> */
    public static function toSingles(string $bytes): array
    {
        return self::unpack('g*', $bytes, 65536);
    }

    /** @param  array<int, int>  $values 0 to 2^32 - 1 */
    public static function ints(array $values): string
    {
        return self::pack('V*', $values);
    }

    /** @return list<int> */
    public static function toInts(string $bytes): array
    {
        return self::unpack('V*', $bytes, 65536);
    }

    /** @param  array<int, int>  $values 0 to 255 */
    public static function bytes(array $values): string
    {
        return self::pack('C*', $values);
    }

    /** @return list<int> */
    public static function toBytes(string $bytes): array
    {
        return self::unpack('C*', $bytes, 16384);
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

    /** @return list<mixed> */
    private static function unpack(string $format, string $bytes, int $slice): array
    {
        $values = [];
        for ($o = 0, $n = strlen($bytes); $o < $n; $o += $slice) {
            foreach (unpack($format, substr($bytes, $o, $slice)) ?: [] as $value) {
                $values[] = $value;
            }
        }

        return $values;
    }
}
