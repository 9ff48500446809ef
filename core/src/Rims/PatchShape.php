<?php

declare(strict_types=1);

namespace Emberstone\Core\Rims;

/**
 * How far new surface follows what is around it: straight across, along the slope at the rim, or with the bend of the surroundings; or some way from one of these to the next, where every
 * new vertex stands that share of the way between where the two put it.
 */
final readonly class PatchShape
{
    /**
     * @param  int  $order  1 straight across (harmonic), 2 along the slope (biharmonic), 3 with the bend (a quadric, or triharmonic)
     * @param  float  $towards  share of the way to the next order, from 0 to below 1
     */
    public function __construct(public int $order = 2, public float $towards = 0.0)
    {
    }

    /** @param  string  $shape  flat, tangent or curved */
    public static function of(string $shape): self
    {
        return new self(['flat' => 1, 'tangent' => 2][$shape] ?? 3);
    }

    /** @param  float  $follow  0 straight across, 0.5 along the slope, 1 with the bend */
    public static function following(float $follow): self
    {
        $order = min(3, 1 + (int) floor(2.0 * $follow));

        return new self($order, $order === 3 ? 0.0 : 2.0 * $follow + 1.0 - $order);
    }
}
