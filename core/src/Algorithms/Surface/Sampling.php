<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Surface;

use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/**
 * Points spread over a surface by area.
 *
 * @internal
 */
final class Sampling
{
    /**
     * The same for the same mesh and number.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return array{points: list<float>, normals: list<float>, faces: list<int>} flat xyz, the unit normal of the face under each, and that face; empty without area
     */
    public static function evenly(array $p, array $f, int $samples): array
    {
        $crosses = Measure::crosses($p, $f);
        $areas = Measure::areas($p, $f);
        $total = array_sum($areas);
        $points = $normals = $faces = [];
        if ($total <= 0.0) {
            return ['points' => [], 'normals' => [], 'faces' => []];
        }
        $random = new Randomizer(new Xoshiro256StarStar(12345));
        $unit = fn (): float => $random->getInt(0, (1 << 53) - 1) / (1 << 53);
        $step = $total / $samples;
        $next = $step * $unit();
        $sum = 0.0;
        foreach ($areas as $t => $area) {
            $sum += $area;
            for (; $next < $sum; $next += $step) {
                $r = sqrt($unit());
                $s = $unit();
                $faces[] = $t;
                $i = 3 * $f[3 * $t];
                $j = 3 * $f[3 * $t + 1];
                $k = 3 * $f[3 * $t + 2];
                for ($c = 0; $c < 3; $c++) {
                    $points[] = (1.0 - $r) * $p[$i + $c] + $r * (1.0 - $s) * $p[$j + $c] + $r * $s * $p[$k + $c];
                    $normals[] = 0.5 * $crosses[3 * $t + $c] / $area;
                }
            }
        }

        return ['points' => $points, 'normals' => $normals, 'faces' => $faces];
    }
}
