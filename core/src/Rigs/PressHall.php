<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/**
 * The press hall: a room of 8 x 6 x 3.6 m with the press in it, two roof beams, barrels along a wall, a bench and two windows. Scanned from inside.
 * The floor is z = 0, the middle of the room x = 0, y = 0; millimetres, as everywhere.
 */
final class PressHall implements Part
{
    /** Middles of the windows in the wall y = 3000. */
    public const WINDOWS = [[600.0, 1700.0], [2600.0, 1700.0]];

    private const BARRELS = [[-3300.0, 2400.0, 380.0], [-2400.0, 2450.0, 380.0], [-1550.0, 2400.0, 330.0]];

    public function name(): string
    {
        return 'press-hall';
    }

    public function distance(float $x, float $y, float $z): float
    {
        // Inside the walls there is nothing: what is beyond them is solid.
        $d = -Sdf::box($x, $y, $z - 1800.0, 4000.0, 3000.0, 1800.0);
        // The doorway is a niche in the end wall, the windows are niches in the long one.
        $d = max($d, -Sdf::box($x - 4000.0, $y + 1200.0, $z - 1050.0, 250.0, 500.0, 1050.0));
        foreach (self::WINDOWS as [$wx, $wz]) {
            $d = max($d, -Sdf::box($x - $wx, $y - 3000.0, $z - $wz, 450.0, 180.0, 550.0));
        }
        // Beams under the roof.
        $d = min($d, Sdf::box($x - 1500.0, $y, $z - 3350.0, 110.0, 3000.0, 150.0), Sdf::box($x + 1500.0, $y, $z - 3350.0, 110.0, 3000.0, 150.0));
        // The press: bed, two posts, head, screw, and the pressing board.
        $press = min(
            Sdf::box($x, $y, $z - 250.0, 700.0, 550.0, 250.0), Sdf::box($x - 620.0, $y, $z - 1100.0, 110.0, 130.0, 1100.0), Sdf::box($x + 620.0, $y, $z - 1100.0, 110.0, 130.0, 1100.0),
            Sdf::box($x, $y, $z - 2150.0, 800.0, 160.0, 160.0), Sdf::cylinder($x, $y, $z - 1600.0, 75.0, 900.0), Sdf::cylinder($x, $y, $z - 850.0, 430.0, 60.0), Sdf::cylinder($x, $y, $z - 2560.0, 260.0, 30.0),
        );
        $d = min($d, $press);
        foreach (self::BARRELS as [$bx, $by, $radius]) {
            $d = min($d, Sdf::cylinder($x - $bx, $y - $by, $z - 480.0, $radius, 480.0));
        }

        // The bench.
        return min($d, Sdf::box($x - 2300.0, $y + 2600.0, $z - 820.0, 900.0, 330.0, 40.0), Sdf::box($x - 1500.0, $y + 2600.0, $z - 400.0, 50.0, 300.0, 400.0), Sdf::box($x - 3100.0, $y + 2600.0, $z - 400.0, 50.0, 300.0, 400.0));
    }

    public function bounds(): array
    {
        return [[-4000.0, -3000.0, 0.0], [4250.0, 3180.0, 3600.0]];
    }

    public function features(): array
    {
        return [
            'floor' => ['origin' => [0.0, 0.0, 0.0], 'normal' => [0.0, 0.0, 1.0]], 'walls' => [['origin' => [-4000.0, 0.0, 0.0], 'normal' => [1.0, 0.0, 0.0]], ['origin' => [0.0, -3000.0, 0.0], 'normal' => [0.0, 1.0, 0.0]]],
            'screw' => ['origin' => [0.0, 0.0, 1600.0], 'direction' => [0.0, 0.0, 1.0], 'diameter' => 150.0],
        ];
    }
}
