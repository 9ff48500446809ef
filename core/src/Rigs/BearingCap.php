<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/**
 * The cap that is strapped over the boss of the bearing pedestal: a half ring with two lugs, bolt holes through them, an oil cup on top.
 * It stands where it belongs on the pedestal: the axis of its ring is x = 0, z = 52 along Y; inner radius 27, outer 34, 36 wide.
 */
final class BearingCap implements Part
{
    public function name(): string
    {
        return 'cap';
    }

    public function distance(float $x, float $y, float $z): float
    {
        $z -= 52.0;
        $d = Sdf::cylinder($x, $z, $y, 34.0, 18.0);
        // Lugs along the joint, the left one wider than the right.
        $d = min($d, Sdf::box($x - 42.0, $y, $z - 5.0, 12.0, 18.0, 5.0), Sdf::box($x + 44.0, $y, $z - 5.0, 14.0, 18.0, 5.0));
        $d = max($d, 27.0 - sqrt($x * $x + $z * $z), -$z);
        // The oil cup, off the middle.
        $d = min($d, max(Sdf::cylinder($x, $y - 5.0, $z - 37.0, 7.0, 8.0), 27.0 - sqrt($x * $x + $z * $z)));
        $d = max($d, -Sdf::cylinder($x, $y - 5.0, $z - 42.0, 4.5, 5.0));

        return max($d, 4.5 - sqrt(($x - 44.0) ** 2 + $y * $y), 4.5 - sqrt(($x + 46.0) ** 2 + $y * $y));
    }

    public function bounds(): array
    {
        return [[-58.0, -18.0, 52.0], [54.0, 18.0, 97.0]];
    }

    public function features(): array
    {
        return [
            'jointPlane' => ['origin' => [0.0, 0.0, 52.0], 'normal' => [0.0, 0.0, -1.0]],
            'ringAxis' => ['origin' => [0.0, 0.0, 52.0], 'direction' => [0.0, 1.0, 0.0], 'innerDiameter' => 54.0, 'outerDiameter' => 68.0],
            'boltHoles' => [['centre' => [44.0, 0.0, 57.0], 'diameter' => 9.0], ['centre' => [-46.0, 0.0, 57.0], 'diameter' => 9.0]],
            'oilCup' => ['axis' => [0.0, 5.0, 0.0], 'diameter' => 14.0],
        ];
    }
}
