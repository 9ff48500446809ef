<?php

declare(strict_types=1);

namespace Emberstone\Core\Cloud;

/** How steeply the scanner saw each point: noise is largest where it looked along the surface. */
final class IncidenceAngle
{
    /**
     * @param  list<float>  $p  places, mm, three numbers each
     * @param  list<float>  $n  unit normals, in the same order
     * @param  array{float, float, float}  $sensor  where the scanner stood, mm
     * @return list<float> for each point the cosine between its normal and the ray it was seen by
     */
    public static function cosines(array $p, array $n, array $sensor): array
    {
        [$sx, $sy, $sz] = $sensor;
        $cosines = [];
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $x = $sx - $p[$o];
            $y = $sy - $p[$o + 1];
            $z = $sz - $p[$o + 2];
            $l = sqrt($x * $x + $y * $y + $z * $z);
            $cosines[] = $l > 0.0 ? abs($n[$o] * $x + $n[$o + 1] * $y + $n[$o + 2] * $z) / $l : 1.0;
        }

        return $cosines;
    }
}
