<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/**
 * The bush in the bore of the bearing pedestal: a flanged sleeve with an oil hole on top and a key slot in the flange.
 * It stands where it belongs: axis x = 0, z = 52 along Y; outer diameter 30, inner 22, flange of 40 at the front end.
 */
final class BearingBush implements Part
{
    public function name(): string
    {
        return 'bush';
    }

    public function distance(float $x, float $y, float $z): float
    {
        $z -= 52.0;
        $d = min(Sdf::cylinder($x, $z, $y, 15.0, 32.0), Sdf::cylinder($x, $z, $y + 32.5, 20.0, 2.5));
        $d = max($d, 11.0 - sqrt($x * $x + $z * $z));
        // The oil hole from above, and the slot that keeps the flange from turning.
        $d = max($d, -Sdf::cylinder($x, $y - 5.0, $z - 13.0, 2.5, 6.0));

        return max($d, -Sdf::box($x - 20.0, $y + 32.5, $z, 3.0, 3.0, 3.0));
    }

    public function bounds(): array
    {
        return [[-20.0, -35.0, 32.0], [20.0, 32.0, 72.0]];
    }

    public function features(): array
    {
        return [
            'axis' => ['origin' => [0.0, 0.0, 52.0], 'direction' => [0.0, 1.0, 0.0], 'outerDiameter' => 30.0, 'innerDiameter' => 22.0],
            'flange' => ['origin' => [0.0, -35.0, 52.0], 'normal' => [0.0, -1.0, 0.0], 'diameter' => 40.0, 'thickness' => 5.0],
            'oilHole' => ['axis' => [0.0, 5.0, 0.0], 'diameter' => 5.0],
        ];
    }
}
