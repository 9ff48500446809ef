<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Algorithms\Linear\Dense;

/**
 * A sheet of second order over a plane: what a smooth surface looks like from near.
 *
 * @internal
 */
final class SecondOrder
{
    /**
     * The sum of the squares that the best polynomial of second order in two coordinates leaves of some values (least squares); null where the places do not tell one.
     *
     * @param  list<float>  $x
     * @param  list<float>  $y
     * @param  list<float>  $values
     */
    public static function left(array $x, array $y, array $values): ?float
    {
        $m = array_fill(0, 36, 0.0);
        $g = array_fill(0, 6, 0.0);
        foreach ($values as $i => $value) {
            [$a, $b] = [$x[$i], $y[$i]];
            $row = [1.0, $a, $b, $a * $a, $a * $b, $b * $b];
            for ($j = 0; $j < 6; $j++) {
                for ($k = 0; $k < 6; $k++) {
                    $m[6 * $j + $k] += $row[$j] * $row[$k];
                }
                $g[$j] += $row[$j] * $value;
            }
        }
        $c = Dense::solve($m, $g, 6);
        if ($c === null) {
            return null;
        }
        $left = 0.0;
        foreach ($values as $i => $value) {
            [$a, $b] = [$x[$i], $y[$i]];
            $left += ($value - $c[0] - $c[1] * $a - $c[2] * $b - $c[3] * $a * $a - $c[4] * $a * $b - $c[5] * $b * $b) ** 2;
        }

        return $left;
    }
}
