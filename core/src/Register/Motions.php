<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\Transform;

/**
 * How much motions of a thing differ, told by where they bring the corners of its box.
 *
 * @internal
 */
final class Motions
{
    /**
     * The motions with the highest scores first, without those that are nearly the same as a better one.
     *
     * @template T of array{motion: Transform, score: float, ...}
     *
     * @param  list<T>  $found
     * @param  list<float>  $box  corners
     * @param  float  $least  mm
     * @return list<T>
     */
    public static function distinct(array $found, array $box, float $least): array
    {
        usort($found, fn (array $a, array $b) => $b['score'] <=> $a['score']);
        $kept = [];
        foreach ($found as $one) {
            foreach ($kept as $other) {
                if (self::apart($one['motion'], $other['motion'], $box) < $least) {
                    continue 2;
                }
            }
            $kept[] = $one;
        }

        return $kept;
    }

    /**
     * The most that two motions bring a point of a box apart, mm.
     *
     * @param  list<float>  $corners
     */
    public static function apart(Transform $a, Transform $b, array $corners): float
    {
        $there = $a->points($corners);
        $most = 0.0;
        foreach (array_chunk($b->points($corners), 3) as $k => [$x, $y, $z]) {
            $most = max($most, sqrt(($x - $there[3 * $k]) ** 2 + ($y - $there[3 * $k + 1]) ** 2 + ($z - $there[3 * $k + 2]) ** 2));
        }

        return $most;
    }
}
