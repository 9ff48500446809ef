<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/**
 * The bearing pedestal of the cider press: base plate with two bolt slots, column, two ribs, a boss with a bore along Y.
 *
 * Base plane z = 0; bore axis x = 0, z = 52; bore diameter 30; end faces y = -30 and y = 30; slots through the base along X;
 * the year cast into the front of the base, raised by 0.8.
 */
final class BearingPedestal implements Part
{
    /** Strokes of the cast number 1902 as (x, z) to (x, z) on the front of the base. */
    private const STROKES = [
        [-9.75, 3.5, -9.75, 10.5],
        [-5.25, 7.0, -5.25, 10.5], [-5.25, 10.5, -1.25, 10.5], [-1.25, 10.5, -1.25, 3.5], [-1.25, 3.5, -5.25, 3.5], [-5.25, 7.0, -1.25, 7.0],
        [1.25, 3.5, 1.25, 10.5], [1.25, 10.5, 5.25, 10.5], [5.25, 10.5, 5.25, 3.5], [5.25, 3.5, 1.25, 3.5],
        [7.75, 10.5, 11.75, 10.5], [11.75, 10.5, 11.75, 7.0], [11.75, 7.0, 7.75, 7.0], [7.75, 7.0, 7.75, 3.5], [7.75, 3.5, 11.75, 3.5],
    ];

    private const STROKE_RADIUS = 1.2;

    /** The axes of the strokes lie in this plane, 0.4 under the face. */
    private const STROKE_Y = -34.6;

    public function name(): string
    {
        return 'pedestal';
    }

    public function distance(float $x, float $y, float $z): float
    {
        $body = $this->body($x, $y, $z);
        // The box around the cast number bounds its distance from below; inside and near it every stroke is looked at.
        $a = abs($x - 1.0) - 11.95;
        $b = abs($y - self::STROKE_Y) - self::STROKE_RADIUS;
        $c = abs($z - 7.0) - 4.7;
        $bound = sqrt(($a > 0.0 ? $a * $a : 0.0) + ($b > 0.0 ? $b * $b : 0.0) + ($c > 0.0 ? $c * $c : 0.0));
        if ($bound >= $body) {
            return $body;
        }
        if ($bound > 1.0) {
            return $bound;
        }
        $nearest = 1e300;
        foreach (self::STROKES as [$x0, $z0, $x1, $z1]) {
            $u = $x - $x0;
            $w = $z - $z0;
            $dx = $x1 - $x0;
            $dz = $z1 - $z0;
            $t = ($u * $dx + $w * $dz) / ($dx * $dx + $dz * $dz);
            $t = $t < 0.0 ? 0.0 : ($t > 1.0 ? 1.0 : $t);
            $u -= $t * $dx;
            $w -= $t * $dz;
            $s = $u * $u + $w * $w;
            if ($s < $nearest) {
                $nearest = $s;
            }
        }
        $number = sqrt($nearest + ($y - self::STROKE_Y) ** 2) - self::STROKE_RADIUS;

        return $number < $body ? $number : $body;
    }

    /** The part without its cast number; both halves in X and in Y are alike. */
    private function body(float $x, float $y, float $z): float
    {
        $x = $x < 0.0 ? -$x : $x;
        $y = $y < 0.0 ? -$y : $y;
        // Base plate 120 x 70 x 14.
        $a = $x - 60.0;
        $b = $y - 35.0;
        $c = ($z < 7.0 ? 7.0 - $z : $z - 7.0) - 7.0;
        $m = $a > $b ? $a : $b;
        if ($c > $m) {
            $m = $c;
        }
        if ($a < 0.0) {
            $a = 0.0;
        }
        if ($b < 0.0) {
            $b = 0.0;
        }
        if ($c < 0.0) {
            $c = 0.0;
        }
        $d = ($m < 0.0 ? $m : 0.0) + sqrt($a * $a + $b * $b + $c * $c);
        // Column 40 x 24 up into the boss.
        $a = $x - 20.0;
        $b = $y - 12.0;
        $c = ($z < 30.0 ? 30.0 - $z : $z - 30.0) - 20.0;
        $m = $a > $b ? $a : $b;
        if ($c > $m) {
            $m = $c;
        }
        if ($a < 0.0) {
            $a = 0.0;
        }
        if ($b < 0.0) {
            $b = 0.0;
        }
        if ($c < 0.0) {
            $c = 0.0;
        }
        $m = ($m < 0.0 ? $m : 0.0) + sqrt($a * $a + $b * $b + $c * $c);
        if ($m < $d) {
            $d = $m;
        }
        // Ribs 8 thick: under the slope from (52, 14) to (20, 46) at 45 degrees.
        $m = ($x + $z - 66.0) * 0.7071067811865476;
        if ($y - 4.0 > $m) {
            $m = $y - 4.0;
        }
        if (10.0 - $z > $m) {
            $m = 10.0 - $z;
        }
        if ($m < $d) {
            $d = $m;
        }
        // Boss, radius 27.
        $r = sqrt($x * $x + ($z - 52.0) * ($z - 52.0));
        $a = $r - 27.0;
        $b = $y - 30.0;
        $m = $a > $b ? $a : $b;
        if ($a < 0.0) {
            $a = 0.0;
        }
        if ($b < 0.0) {
            $b = 0.0;
        }
        $m = ($m < 0.0 ? $m : 0.0) + sqrt($a * $a + $b * $b);
        if ($m < $d) {
            $d = $m;
        }
        // Taken away: the bore and the bolt slots.
        if (15.0 - $r > $d) {
            $d = 15.0 - $r;
        }
        $a = ($x < 46.0 ? 46.0 - $x : $x - 46.0) - 4.0;
        if ($a < 0.0) {
            $a = 0.0;
        }
        $m = 5.5 - sqrt($a * $a + $y * $y);
        if ($m > $d) {
            $d = $m;
        }

        return $d;
    }

    public function bounds(): array
    {
        return [[-60.0, -35.8, 0.0], [60.0, 35.0, 79.0]];
    }

    public function features(): array
    {
        return [
            'basePlane' => ['origin' => [0.0, 0.0, 0.0], 'normal' => [0.0, 0.0, -1.0]],
            'boreAxis' => ['origin' => [0.0, 0.0, 52.0], 'direction' => [0.0, 1.0, 0.0], 'diameter' => 30.0],
            'endFaces' => [['origin' => [0.0, -30.0, 52.0], 'normal' => [0.0, -1.0, 0.0]], ['origin' => [0.0, 30.0, 52.0], 'normal' => [0.0, 1.0, 0.0]]],
            'boltSlots' => [['centre' => [46.0, 0.0, 7.0], 'length' => 19.0, 'width' => 11.0], ['centre' => [-46.0, 0.0, 7.0], 'length' => 19.0, 'width' => 11.0]],
        ];
    }
}
