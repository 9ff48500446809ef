<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/**
 * The ratchet wheel of the screw: 16 saw teeth, one of them broken off, a hub with a bore and a keyway, three windows in the web.
 * It lies on z = 0; axis x = 0, y = 0; tip radius 60, root radius 51, rim 14 thick, hub 26.
 */
final class RatchetWheel implements Part
{
    private const TEETH = 16;

    private const BROKEN = 5;

    private const TIP = 60.0;

    private const ROOT = 51.0;

    public function name(): string
    {
        return 'ratchet-wheel';
    }

    public function distance(float $x, float $y, float $z): float
    {
        $r = sqrt($x * $x + $y * $y);
        // The disc with its teeth.
        $outline = $r - self::ROOT;
        if ($r > self::ROOT - 6.0 && $r < self::TIP + 12.0) {
            $sector = (int) floor(atan2($y, $x) * self::TEETH / (2.0 * M_PI) + 0.5);
            for ($k = $sector - 1; $k <= $sector + 1; $k++) {
                $tooth = self::tooth($x, $y, ($k % self::TEETH + self::TEETH) % self::TEETH);
                if ($tooth < $outline) {
                    $outline = $tooth;
                }
            }
        } elseif ($r >= self::TIP + 12.0) {
            $outline = $r - self::TIP;
        }
        $flat = self::slab($outline, ($z < 7.0 ? 7.0 - $z : $z - 7.0) - 7.0);
        // Windows between web and hub, one larger than the others: the wheel fits in one way only.
        foreach ([[0.4, 9.0], [2.5, 9.0], [4.6, 11.0]] as [$angle, $radius]) {
            $flat = max($flat, $radius - sqrt(($x - 33.0 * cos($angle)) ** 2 + ($y - 33.0 * sin($angle)) ** 2));
        }
        $d = min($flat, Sdf::cylinder($x, $y, $z - 13.0, 18.0, 13.0));
        // Bore and keyway.
        $d = max($d, 8.0 - $r);

        return max($d, -Sdf::box($x - 9.0, $y, $z - 13.0, 2.5, 2.5, 20.0));
    }

    /** A triangle from the root circle to the tip: steep on one side, sloped on the other; the broken one is a stump with a ragged top. */
    private static function tooth(float $x, float $y, int $k): float
    {
        $angle = 2.0 * M_PI * $k / self::TEETH;
        $c = cos($angle);
        $s = sin($angle);
        $u = $c * $x + $s * $y;
        $v = $c * $y - $s * $x;
        if ($k === self::BROKEN) {
            return Sdf::polygon($u, $v, [[46.0, -9.0], [53.0, -7.5], [54.2, -2.0], [52.4, 1.5], [53.6, 5.0], [51.4, 9.0], [46.0, 9.0]]);
        }

        return Sdf::polygon($u, $v, [[46.0, -9.0], [self::TIP, -9.0], [self::ROOT - 0.5, 9.5], [46.0, 9.0]]);
    }

    /** Of a flat outline and a thickness, as of two distances at right angles. */
    private static function slab(float $a, float $b): float
    {
        $m = $a > $b ? $a : $b;
        if ($m <= 0.0) {
            return $m;
        }
        $a = $a > 0.0 ? $a : 0.0;
        $b = $b > 0.0 ? $b : 0.0;

        return sqrt($a * $a + $b * $b);
    }

    public function bounds(): array
    {
        return [[-61.0, -61.0, 0.0], [61.0, 61.0, 26.0]];
    }

    public function features(): array
    {
        return [
            'basePlane' => ['origin' => [0.0, 0.0, 0.0], 'normal' => [0.0, 0.0, -1.0]],
            'boreAxis' => ['origin' => [0.0, 0.0, 13.0], 'direction' => [0.0, 0.0, 1.0], 'diameter' => 16.0],
            'teeth' => self::TEETH, 'brokenTooth' => self::BROKEN, 'tipRadius' => self::TIP, 'rootRadius' => self::ROOT,
        ];
    }
}
