<?php

declare(strict_types=1);

namespace Emberstone\Core\Cloud;

/** How much measured points have to say beside others: about the inverse of their variance. */
final class NoiseWeight
{
    /** Factor by which the noise of a pass may raise or lower its weight at most: even a bad one says that there is a surface. */
    private const NOISE = 10.0;

    /** Factor by which the distance from the scanner to a point, against the usual one of its pass, may raise or lower the weight of the point at most. */
    private const DISTANCE = 4.0;

    /**
     * Weight of a pass among others: the inverse of its variance.
     *
     * @param  float  $noise  of the pass, and $usual that of most, mm
     */
    public static function ofPass(float $noise, float $usual): float
    {
        return self::within($noise > 0.0 ? ($usual / $noise) ** 2 : 1.0, self::NOISE);
    }

    /**
     * Weight of a point by how far the sensor was from it: noise grows with the square of that.
     *
     * @param  float  $squared  range of the point, and $usual that of most points of its pass, both squared
     */
    public static function ofRange(float $squared, float $usual): float
    {
        return self::within($squared > 0.0 ? ($usual / $squared) ** 2 : 1.0, self::DISTANCE);
    }

    /** The weight, but at most `times` less or more than the usual weight, 1. */
    private static function within(float $weight, float $times): float
    {
        return max(1.0 / $times, min($times, $weight));
    }
}
