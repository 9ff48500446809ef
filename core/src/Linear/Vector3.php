<?php

declare(strict_types=1);

namespace Emberstone\Core\Linear;

/** Three numbers as a vector, for a handful of them; kernels write such sums out. */
final class Vector3
{
    /** @return array{float, float, float} */
    public static function minus(array $a, array $b): array
    {
        return [$a[0] - $b[0], $a[1] - $b[1], $a[2] - $b[2]];
    }

    public static function dot(array $a, array $b): float
    {
        return $a[0] * $b[0] + $a[1] * $b[1] + $a[2] * $b[2];
    }

    /** @return array{float, float, float} */
    public static function cross(array $a, array $b): array
    {
        return [$a[1] * $b[2] - $a[2] * $b[1], $a[2] * $b[0] - $a[0] * $b[2], $a[0] * $b[1] - $a[1] * $b[0]];
    }

    public static function length(array $a): float
    {
        return sqrt(self::dot($a, $a));
    }

    /** @return array{float, float, float} */
    public static function unit(array $a): array
    {
        $l = self::length($a);

        return [$a[0] / $l, $a[1] / $l, $a[2] / $l];
    }

    /**
     * Some unit vector square to another; of none, X.
     *
     * @return array{float, float, float}
     */
    public static function square(array $a): array
    {
        $least = abs($a[0]) <= abs($a[1]) && abs($a[0]) <= abs($a[2]) ? [1.0, 0.0, 0.0] : (abs($a[1]) <= abs($a[2]) ? [0.0, 1.0, 0.0] : [0.0, 0.0, 1.0]);
        $cross = self::cross($a, $least);

        return self::length($cross) > 0.0 ? self::unit($cross) : [1.0, 0.0, 0.0];
    }
}
