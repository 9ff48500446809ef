<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Surface;

/**
 * What backs a vertex, in one whole number that a mesh carries along as its support: how many passes saw it, how far their points lie off the surface there
 * (root mean square, so about their noise), and how much they weigh (about how many points stood near; of rebuilt surface, the share of the usual density). A number below 256 says the passes alone.
 */
final class Evidence
{
    private const SPREAD_SHIFT = 8;

    private const WEIGHT_SHIFT = 24;

    private const MOST = 0xFFFF;

    /** Steps a millimetre: 0.1 micrometres. */
    private const SPREAD_STEPS = 1e4;

    private const WEIGHT_STEPS = 100.0;

    public static function of(int $passes, float $spreadMm = 0.0, float $weight = 0.0): int
    {
        return min(255, $passes) | min(self::MOST, (int) round(self::SPREAD_STEPS * $spreadMm)) << self::SPREAD_SHIFT | min(self::MOST, (int) round(self::WEIGHT_STEPS * $weight)) << self::WEIGHT_SHIFT;
    }

    public static function passes(int $support): int
    {
        return $support & 255;
    }

    /**
     * As whole numbers for storage: steps of 0.1 micrometres and hundredths.
     *
     * @param  array<int, int>  $support
     * @return array{passes: list<int>, spread: list<int>, weight: list<int>} 8, 16 and 16 bits
     */
    public static function parts(array $support): array
    {
        $passes = $spread = $weight = [];
        foreach ($support as $one) {
            $passes[] = $one & 255;
            $spread[] = $one >> self::SPREAD_SHIFT & self::MOST;
            $weight[] = $one >> self::WEIGHT_SHIFT & self::MOST;
        }

        return ['passes' => $passes, 'spread' => $spread, 'weight' => $weight];
    }

    /**
     * @param  list<int>  $passes
     * @param  list<int>  $spread  as parts() gives it; empty when nobody knows
     * @param  list<int>  $weight
     * @return list<int>
     */
    public static function joined(array $passes, array $spread, array $weight): array
    {
        foreach ($spread as $v => $steps) {
            $passes[$v] |= $steps << self::SPREAD_SHIFT | ($weight[$v] ?? 0) << self::WEIGHT_SHIFT;
        }

        return $passes;
    }

    /** 0 where nobody knows. */
    public static function spreadMm(int $support): float
    {
        return ($support >> self::SPREAD_SHIFT & self::MOST) / self::SPREAD_STEPS;
    }

    /** The same of a surface that was scaled by a factor. */
    public static function scaled(int $support, float $by): int
    {
        return self::of(self::passes($support), $by * self::spreadMm($support), self::weight($support));
    }

    /** 0 where nobody knows. */
    public static function weight(int $support): float
    {
        return ($support >> self::WEIGHT_SHIFT & self::MOST) / self::WEIGHT_STEPS;
    }
}
