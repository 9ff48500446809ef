<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/**
 * A gauge bar that lies before the pedestal, along X: two balls of 20 mm on a rod, their centres 100 mm apart.
 */
final class GaugeBar implements Part
{
    public const LENGTH = 100.0;

    public const BALL_RADIUS = 10.0;

    private const ROD_RADIUS = 4.0;

    /** The bar's middle; the balls rest on the table. */
    private const MIDDLE = [0.0, -62.0, self::BALL_RADIUS];

    public function name(): string
    {
        return 'gauge-bar';
    }

    public function distance(float $x, float $y, float $z): float
    {
        $x = abs($x - self::MIDDLE[0]);
        $y -= self::MIDDLE[1];
        $z -= self::MIDDLE[2];
        $ball = sqrt(($x - 0.5 * self::LENGTH) ** 2 + $y * $y + $z * $z) - self::BALL_RADIUS;

        return min($ball, Sdf::cylinder($y, $z, $x, self::ROD_RADIUS, 0.5 * self::LENGTH));
    }

    public function bounds(): array
    {
        [$x, $y, $z] = self::MIDDLE;
        $r = self::BALL_RADIUS;

        return [[$x - 0.5 * self::LENGTH - $r, $y - $r, $z - $r], [$x + 0.5 * self::LENGTH + $r, $y + $r, $z + $r]];
    }

    public function features(): array
    {
        $ball = fn (float $x): array => ['centre' => [self::MIDDLE[0] + $x, self::MIDDLE[1], self::MIDDLE[2]], 'diameter' => 2.0 * self::BALL_RADIUS];

        return ['length' => self::LENGTH, 'balls' => [$ball(-0.5 * self::LENGTH), $ball(0.5 * self::LENGTH)]];
    }
}
