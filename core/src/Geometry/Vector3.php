<?php

declare(strict_types=1);

namespace Emberstone\Core\Geometry;

/** Three numbers as a vector, for a handful of them; kernels write such sums out. */
final class Vector3
{
    /**
     * @param  array{float, float, float}  $a
     * @param  array{float, float, float}  $b
     * @return array{float, float, float}
     */
    public static function plus(array $a, array $b): array
    {
        return [$a[0] + $b[0], $a[1] + $b[1], $a[2] + $b[2]];
    }

    /**
     * @param  array<int, float>  $a
     * @param  array<int, float>  $b
     * @return array{float, float, float}
     */
    public static function minus(array $a, array $b): array
    {
        return [$a[0] - $b[0], $a[1] - $b[1], $a[2] - $b[2]];
    }

    /**
     * @param  array<int, float>  $a
     * @return array{float, float, float}
     */
    public static function scaled(array $a, float $by): array
    {
        return [$by * $a[0], $by * $a[1], $by * $a[2]];
    }

    /**
     * @param  array<int, float>  $a
     * @param  array<int, float>  $b
     */
    public static function dot(array $a, array $b): float
    {
        return $a[0] * $b[0] + $a[1] * $b[1] + $a[2] * $b[2];
    }

    /**
     * @param  array<int, float>  $a
     * @param  array<int, float>  $b
     * @return array{float, float, float}
     */
    public static function cross(array $a, array $b): array
    {
        return [$a[1] * $b[2] - $a[2] * $b[1], $a[2] * $b[0] - $a[0] * $b[2], $a[0] * $b[1] - $a[1] * $b[0]];
    }

    /** @param  array<int, float>  $a */
    public static function length(array $a): float
    {
        return sqrt(self::dot($a, $a));
    }

    /**
     * @param  array<int, float>  $a
     * @return array{float, float, float}
     */
    public static function unit(array $a): array
    {
        $l = self::length($a);

        return [$a[0] / $l, $a[1] / $l, $a[2] / $l];
    }

    /**
     * Two unit vectors square to a unit vector and to each other.
     *
     * @param  array<int, float>  $d
     * @return array{array{float, float, float}, array{float, float, float}}
     */
    public static function square(array $d): array
    {
        $u = abs($d[0]) < 0.6 ? [0.0, $d[2], -$d[1]] : [-$d[2], 0.0, $d[0]];
        $l = sqrt($u[0] ** 2 + $u[1] ** 2 + $u[2] ** 2);
        $u = [$u[0] / $l, $u[1] / $l, $u[2] / $l];

        return [$u, [$d[1] * $u[2] - $d[2] * $u[1], $d[2] * $u[0] - $d[0] * $u[2], $d[0] * $u[1] - $d[1] * $u[0]]];
    }
}
