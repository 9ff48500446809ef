<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/**
 * The calibration target: a plate with six balls on pins of different heights and three wedges. No turn of it looks like another.
 * Plate 240 x 180 x 12 on z = 0.
 */
final class CalibrationTarget implements Part
{
    public const BALL_RADIUS = 12.5;

    /** Centres of the balls. */
    public const BALLS = [[-95.0, -65.0, 34.0], [90.0, -70.0, 44.0], [100.0, 62.0, 30.0], [-80.0, 70.0, 54.0], [10.0, 25.0, 64.0], [-20.0, -30.0, 38.0]];

    /** Its flat faces, a place on each and its outward normal: the plate's top and sides, and the slopes of the wedges. */
    public const PLANES = [
        [0.0, 0.0, 12.0, 0.0, 0.0, 1.0], [120.0, 0.0, 6.0, 1.0, 0.0, 0.0], [-120.0, 0.0, 6.0, -1.0, 0.0, 0.0], [0.0, 90.0, 6.0, 0.0, 1.0, 0.0], [0.0, -90.0, 6.0, 0.0, -1.0, 0.0],
        [55.0, -15.0, 24.0, 0.4119109988, 0.1741531770, 0.8944271910], [-60.0, 15.0, 24.0, -0.2257740416, 0.3860389645, 0.8944271910], [40.0, 65.0, 24.0, 0.3115767125, -0.3208113967, 0.8944271910],
    ];

    /** Middle, half size and turn about Z of each wedge; its top slopes along its own X. */
    private const WEDGES = [[55.0, -15.0, 22.0, 16.0, 0.4], [-60.0, 15.0, 26.0, 14.0, 2.1], [40.0, 65.0, 20.0, 14.0, -0.8]];

    public function name(): string
    {
        return 'target';
    }

    public function distance(float $x, float $y, float $z): float
    {
        $d = Sdf::box($x, $y, $z - 6.0, 120.0, 90.0, 6.0);
        foreach (self::BALLS as [$bx, $by, $bz]) {
            $u = $x - $bx;
            $v = $y - $by;
            $s = $u * $u + $v * $v;
            // Beside a ball and farther than what is nearest so far: neither it nor its pin matters.
            $within = $d + self::BALL_RADIUS;
            if ($within <= 0.0 || $s > $within * $within) {
                continue;
            }
            $ball = sqrt($s + ($z - $bz) * ($z - $bz)) - self::BALL_RADIUS;
            if ($ball < $d) {
                $d = $ball;
            }
            $pin = Sdf::cylinder($u, $v, $z - 0.5 * $bz, 4.0, 0.5 * $bz);
            if ($pin < $d) {
                $d = $pin;
            }
        }
        foreach (self::WEDGES as [$wx, $wy, $hx, $hy, $turn]) {
            // All of a wedge is within 32 of its middle.
            $within = $d + 32.0;
            if ($within <= 0.0 || ($x - $wx) ** 2 + ($y - $wy) ** 2 > $within * $within) {
                continue;
            }
            $c = cos($turn);
            $s = sin($turn);
            $u = $c * ($x - $wx) + $s * ($y - $wy);
            $v = $c * ($y - $wy) - $s * ($x - $wx);
            $wedge = max(Sdf::box($u, $v, $z - 20.0, $hx, $hy, 12.0), ($z - 24.0 + 0.5 * $u) * 0.8944271909999159);
            if ($wedge < $d) {
                $d = $wedge;
            }
        }

        return $d;
    }

    public function bounds(): array
    {
        return [[-120.0, -90.0, 0.0], [120.0, 90.0, 77.0]];
    }

    public function features(): array
    {
        return ['plate' => ['origin' => [0.0, 0.0, 12.0], 'normal' => [0.0, 0.0, 1.0]], 'planes' => array_map(fn (array $plane) => ['origin' => array_slice($plane, 0, 3), 'normal' => array_slice($plane, 3)], self::PLANES), 'balls' => array_map(fn (array $centre) => ['centre' => $centre, 'diameter' => 2.0 * self::BALL_RADIUS], self::BALLS)];
    }
}
