<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Parallel;

/** Flat arrays as little-endian bytes and back, in slices (fast, and small in memory). */
final class Packed
{
    /** Values unpacked at once. */
    private const SLICE = 64;

    /**
     * A format for unpack() that names each value by one byte. Left to itself, unpack() makes a string of each value's number and reads the number from it again; strings
     * of one byte PHP keeps (40 instead of 55 ns a value).
     *
     * @param  string  $code  of one value, such as `g`
     * @param  int  $many  1 to 192
     */
    public static function format(string $code, int $many): string
    {
        // From @ on no byte means anything to unpack().
        return $code.implode("/$code", array_map(fn (int $k) => chr(64 + $k), range(0, $many - 1)));
    }

    /** @param  array<int, float>  $values */
    public static function doubles(array $values): string
    {
        return self::pack('e*', $values);
    }

    /** @return list<float> */
    public static function toDoubles(string $bytes): array
    {
        return self::unpack('e', $bytes, 8, 0.0);
    }

    /** @param  array<int, float>  $values */
    public static function singles(array $values): string
    {
        return self::pack('g*', $values);
    }

    /** @return list<float> */
    public static function toSingles(string $bytes): array
    {
        return self::unpack('g', $bytes, 4, 0.0);
    }

    /** @param  array<int, int>  $values 0 to 2^32 - 1 */
    public static function ints(array $values): string
    {
        return self::pack('V*', $values);
    }

    /** @return list<int> */
    public static function toInts(string $bytes): array
    {
        return self::unpack('V', $bytes, 4, 0);
    }

    /** @param  array<int, int>  $values 0 to 65,535 */
    public static function shorts(array $values): string
    {
        return self::pack('v*', $values);
    }

    /** @return list<int> */
    public static function toShorts(string $bytes): array
    {
        return self::unpack('v', $bytes, 2, 0);
    }

    /** @param  array<int, int>  $values */
    public static function longs(array $values): string
    {
        return self::pack('P*', $values);
    }

    /** @return list<int> */
    public static function toLongs(string $bytes): array
    {
        return self::unpack('P', $bytes, 8, 0);
    }

    /** @param  array<int, int>  $values 0 to 255 */
    public static function bytes(array $values): string
    {
        return self::pack('C*', $values);
    }

    /** @return list<int> */
    public static function toBytes(string $bytes): array
    {
        return self::unpack('C', $bytes, 1, 0);
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
    private static function unpack(string $code, string $bytes, int $size, int|float $zero): array
    {
        $n = strlen($bytes);
        $values = array_fill(0, intdiv($n, $size), $zero);
        $named = self::format($code, self::SLICE);
        $slice = self::SLICE * $size;
        $k = $o = 0;
        for (; $o + $slice <= $n; $o += $slice) {
            foreach (unpack($named, $bytes, $o) ?: [] as $value) {
                $values[$k++] = $value;
            }
        }
        foreach ($o < $n ? (unpack("$code*", $bytes, $o) ?: []) : [] as $value) {
            $values[$k++] = $value;
        }

        return $values;
    }
}
