<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\Linear\Dense;

/**
 * The quadric that what is around a rim lies on: planes, spheres, cylinders and cones are such, and all else is one nearly.
 *
 * Source    least squares of value and gradient, Q(x) = 0 and grad Q(x) = normal, which has one solution and no trivial one (Hermite data as in
 *           Macêdo, Gois & Velho 2011).
 *
 * @internal
 */
final readonly class RimQuadric
{
    /** Steps of Newton's method to the surface. */
    private const STEPS = 10;

    /**
     * @param  list<float>  $q  of 1, x, y, z, xx, yy, zz, xy, yz, zx in coordinates about the centre, in units of the scale
     * @param  array{float, float, float}  $centre
     * @param  float  $rms  how far the points lie off, mm
     */
    private function __construct(private array $q, private array $centre, private float $scale, public float $rms)
    {
    }

    /**
     * @param  list<float>  $p  flat xyz
     * @param  list<float>  $n  flat unit normals; zero where it is not known
     * @return self|null null when there are too few points
     */
    public static function of(array $p, array $n): ?self
    {
        $many = intdiv(count($p), 3);
        if ($many < 10) {
            return null;
        }
        $centre = [0.0, 0.0, 0.0];
        foreach ($p as $k => $x) {
            $centre[$k % 3] += $x / $many;
        }
        $scale = 1e-9;
        foreach ($p as $k => $x) {
            $scale = max($scale, abs($x - $centre[$k % 3]));
        }
        $a = array_fill(0, 100, 0.0);
        $b = array_fill(0, 10, 0.0);
        for ($o = 0; $o < 3 * $many; $o += 3) {
            [$x, $y, $z] = [($p[$o] - $centre[0]) / $scale, ($p[$o + 1] - $centre[1]) / $scale, ($p[$o + 2] - $centre[2]) / $scale];
            $known = $n[$o] !== 0.0 || $n[$o + 1] !== 0.0 || $n[$o + 2] !== 0.0;
            foreach ([
                [[1.0, $x, $y, $z, $x * $x, $y * $y, $z * $z, $x * $y, $y * $z, $z * $x], 0.0],
                ...$known ? [
                    [[0.0, 1.0, 0.0, 0.0, 2.0 * $x, 0.0, 0.0, $y, 0.0, $z], $n[$o]],
                    [[0.0, 0.0, 1.0, 0.0, 0.0, 2.0 * $y, 0.0, $x, $z, 0.0], $n[$o + 1]],
                    [[0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 2.0 * $z, 0.0, $y, $x], $n[$o + 2]],
                ] : [],
            ] as [$row, $right]) {
                for ($i = 0; $i < 10; $i++) {
                    if ($row[$i] === 0.0) {
                        continue;
                    }
                    $b[$i] += $row[$i] * $right;
                    for ($j = 0; $j < 10; $j++) {
                        $a[10 * $i + $j] += $row[$i] * $row[$j];
                    }
                }
            }
        }
        // Directions that the points say nothing of, as the thickness of a plane, stay straight.
        for ($i = 0; $i < 10; $i++) {
            $a[11 * $i] += 1e-6 * $many;
        }
        $solved = Dense::solve($a, $b, 10);
        if ($solved === null) {
            return null;
        }
        $q = new self($solved, $centre, $scale, 0.0);
        $squares = 0.0;
        for ($o = 0; $o < 3 * $many; $o += 3) {
            $on = $q->nearest([$p[$o], $p[$o + 1], $p[$o + 2]]);
            $squares += ($on[0] - $p[$o]) ** 2 + ($on[1] - $p[$o + 1]) ** 2 + ($on[2] - $p[$o + 2]) ** 2;
        }

        return new self($q->q, $centre, $scale, sqrt($squares / $many));
    }

    /**
     * A place of the surface near to another, along the gradient; NAN where there is none.
     *
     * @param  array{float, float, float}  $at
     * @return array{float, float, float}
     */
    public function nearest(array $at): array
    {
        $q = $this->q;
        [$x, $y, $z] = [($at[0] - $this->centre[0]) / $this->scale, ($at[1] - $this->centre[1]) / $this->scale, ($at[2] - $this->centre[2]) / $this->scale];
        for ($k = 0; $k < self::STEPS; $k++) {
            $value = $q[0] + $q[1] * $x + $q[2] * $y + $q[3] * $z + $q[4] * $x * $x + $q[5] * $y * $y + $q[6] * $z * $z + $q[7] * $x * $y + $q[8] * $y * $z + $q[9] * $z * $x;
            $gx = $q[1] + 2.0 * $q[4] * $x + $q[7] * $y + $q[9] * $z;
            $gy = $q[2] + 2.0 * $q[5] * $y + $q[7] * $x + $q[8] * $z;
            $gz = $q[3] + 2.0 * $q[6] * $z + $q[8] * $y + $q[9] * $x;
            $g = $gx * $gx + $gy * $gy + $gz * $gz;
            if ($g < 1e-8) {
                return [NAN, NAN, NAN];
            }
            $t = $value / $g;
            $x -= $t * $gx;
            $y -= $t * $gy;
            $z -= $t * $gz;
            if (abs($t) * sqrt($g) < 1e-12) {
                break;
            }
        }

        return [$this->centre[0] + $this->scale * $x, $this->centre[1] + $this->scale * $y, $this->centre[2] + $this->scale * $z];
    }
}
