<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Geometry\Vector3;

/**
 * The connected faces that lie on a shape and face its way.
 *
 * Source    region growing over shared edges, not over creases; distance and normal as of TurnedShape, written out.
 * Cost      one visit a face.
 *
 * @internal
 */
final class ShapeReach
{
    /** Cosine between a face and the shape that it is to lie on: 25 degrees. */
    private const FACING = 0.906;

    /** Faces that tell which side of the shape is outside. */
    private const FIRST = 50;

    /**
     * The faces that a shape reaches from some, over neighbours without a shape that lie on it and face its way.
     *
     * @param  list<int>  $from
     * @param  array<int, int>  $labels  faces of 0 and more have a shape already
     * @param  float  $tolerance  mm that a corner may lie off the shape
     * @return list<int>
     */
    public static function of(FaceField $field, TurnedShape $shape, array $from, array $labels, float $tolerance): array
    {
        [$x0, $y0, $z0] = $shape->origin;
        [$ax, $ay, $az] = $shape->axis;
        [$radius, $tube, $round] = [$shape->radius, $shape->tube, $shape->isRound()];
        $cos = $shape->kind === 'plane' ? 0.0 : cos($shape->tilt);
        $sin = sin($shape->tilt);
        [$p, $f, $n, $smooth] = [$field->p, $field->f, $field->normals, $field->smooth];
        // Which side of the shape is outside: what most of the first faces say.
        $side = 0.0;
        foreach (array_slice($from, 0, self::FIRST) as $t) {
            [$a, $b, $c] = [3 * $f[3 * $t], 3 * $f[3 * $t + 1], 3 * $f[3 * $t + 2]];
            $normal = $shape->normal(($p[$a] + $p[$b] + $p[$c]) / 3.0, ($p[$a + 1] + $p[$b + 1] + $p[$c + 1]) / 3.0, ($p[$a + 2] + $p[$b + 2] + $p[$c + 2]) / 3.0);
            $side += Vector3::dot($normal, [$n[3 * $t], $n[3 * $t + 1], $n[3 * $t + 2]]);
        }
        $side = $side < 0.0 ? -1.0 : 1.0;
        $in = $faces = [];
        $stack = $from;
        while ($stack !== []) {
            $t = array_pop($stack);
            if (isset($in[$t]) || $labels[$t] >= 0) {
                continue;
            }
            $in[$t] = true;
            $o = 3 * $t;
            $outX = $outY = $outZ = $height = 0.0;
            for ($k = $o; $k < $o + 3; $k++) {
                $v = 3 * $f[$k];
                $x = $p[$v] - $x0;
                $y = $p[$v + 1] - $y0;
                $z = $p[$v + 2] - $z0;
                $h = $x * $ax + $y * $ay + $z * $az;
                $x -= $h * $ax;
                $y -= $h * $ay;
                $z -= $h * $az;
                $q = sqrt($x * $x + $y * $y + $z * $z) - $radius;
                $d = $round ? sqrt($q * $q + $h * $h) - $tube : $cos * $q - $sin * $h;
                if ($d > $tolerance || $d < -$tolerance) {
                    continue 2;
                }
                $outX += $x;
                $outY += $y;
                $outZ += $z;
                $height += $h;
            }
            // The normal of the shape at the middle of the face; every sum is three times as long.
            $rho = sqrt($outX * $outX + $outY * $outY + $outZ * $outZ);
            $q = $rho - 3.0 * $radius;
            $s = $round ? sqrt($q * $q + $height * $height) : 1.0;
            $s = $s > 0.0 ? $s : 1.0;
            $nr = ($round ? $q / $s : $cos) / ($rho > 0.0 ? $rho : 1.0);
            $nh = $round ? $height / $s : -$sin;
            $facing = $nr * ($outX * $n[$o] + $outY * $n[$o + 1] + $outZ * $n[$o + 2]) + $nh * ($ax * $n[$o] + $ay * $n[$o + 1] + $az * $n[$o + 2]);
            if ($side * $facing < self::FACING) {
                continue;
            }
            $faces[] = $t;
            for ($k = $o; $k < $o + 3; $k++) {
                if (($g = $smooth[$k]) >= 0) {
                    $stack[] = (int) ($g / 3);
                }
            }
        }

        return $faces;
    }
}
