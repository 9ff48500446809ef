<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\RigidTransform;

/**
 * How much motions of a thing differ, told by where they bring the corners of its box.
 *
 * @internal
 */
final class PoseDistance
{
    /**
     * The motions with the highest scores first, without those that are nearly the same as a better one.
     *
     * @template T of array{motion: RigidTransform, score: float, ...}
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
    public static function apart(RigidTransform $a, RigidTransform $b, array $corners): float
    {
        [$a, $b] = [$a->matrix, $b->matrix];
        [$x0, $x1, $x2, $x3] = [$a[0] - $b[0], $a[1] - $b[1], $a[2] - $b[2], $a[3] - $b[3]];
        [$y0, $y1, $y2, $y3] = [$a[4] - $b[4], $a[5] - $b[5], $a[6] - $b[6], $a[7] - $b[7]];
        [$z0, $z1, $z2, $z3] = [$a[8] - $b[8], $a[9] - $b[9], $a[10] - $b[10], $a[11] - $b[11]];
        $most = 0.0;
        for ($o = 0, $e = count($corners); $o < $e; $o += 3) {
            $x = $corners[$o];
            $y = $corners[$o + 1];
            $z = $corners[$o + 2];
            $dx = $x0 * $x + $x1 * $y + $x2 * $z + $x3;
            $dy = $y0 * $x + $y1 * $y + $y2 * $z + $y3;
            $dz = $z0 * $x + $z1 * $y + $z2 * $z + $z3;
            $d = $dx * $dx + $dy * $dy + $dz * $dz;
            if ($d > $most) {
                $most = $d;
            }
        }

        return sqrt($most);
    }
}
