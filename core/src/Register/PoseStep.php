<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\RigidTransform;

/**
 * A small motion as best fit solves for it, six numbers: turn (rad) about the origin of the coordinates that passes are fitted in (LocalPasses), and shift (mm).
 *
 * @internal
 */
final class PoseStep
{
    /** Turns count as far as they move what is this far from that origin, mm. */
    private const ARM = 100.0;

    /** Length of a step, as a share of the one before, above which it is one of sliding. */
    private const SLIDES = 0.5;

    /** Cosine between the two steps, above which it is one of sliding. */
    private const SAME_WAY = 0.8;

    /** Factor: how much longer a step of sliding is made at most. */
    private const FARTHEST = 6.0;

    /** @param  list<float>  $step */
    public static function motion(array $step): RigidTransform
    {
        $angle = sqrt($step[0] ** 2 + $step[1] ** 2 + $step[2] ** 2);

        return RigidTransform::turn(array_slice($step, 0, 3), $angle)->then(RigidTransform::shift($step[3], $step[4], $step[5]));
    }

    /**
     * How much farther to go than a step: what slides comes nearer by the same share in every round, and where that leads is known (Aitken 1926).
     *
     * @param  list<float>  $step
     * @param  list<float>  $before  the step of the round before
     */
    public static function further(array $step, array $before): float
    {
        $along = $length = 0.0;
        foreach ($step as $k => $v) {
            $w = $k < 3 ? self::ARM * self::ARM : 1.0;
            $along += $w * $v * $before[$k];
            $length += $w * $before[$k] * $before[$k];
        }
        $share = $length > 0.0 ? $along / $length : 0.0;

        return $share > self::SLIDES && $share < 1.0 && $along > self::SAME_WAY * sqrt($length) * self::size($step) ? min(self::FARTHEST, 1.0 / (1.0 - $share)) : 1.0;
    }

    /**
     * How far a step moves things, in mm on an object of 100 mm around that origin.
     *
     * @param  list<float>  $step
     */
    public static function size(array $step): float
    {
        return sqrt($step[3] ** 2 + $step[4] ** 2 + $step[5] ** 2) + self::ARM * sqrt($step[0] ** 2 + $step[1] ** 2 + $step[2] ** 2);
    }
}
