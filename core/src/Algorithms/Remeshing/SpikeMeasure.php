<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\Surface\Measure;

/**
 * How far the faces around a vertex lean away from every face next to them: large at a spike, small on smooth surface, and small too at
 * edges and corners of the part, where each face agrees with others on its side.
 *
 * @internal
 */
final class SpikeMeasure
{
    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array<int, true>|null  $only  vertices to look at; all without
     * @return array<int, float> radians a vertex looked at: the median over its faces of the least angle to a face of its neighbours; 0 at rims
     */
    public static function of(array $p, array $f, ?array $only = null): array
    {
        $vertices = intdiv(count($p), 3);
        $n = Measure::crosses($p, $f);
        for ($o = 0, $e = count($n); $o < $e; $o += 3) {
            $l = sqrt($n[$o] * $n[$o] + $n[$o + 1] * $n[$o + 1] + $n[$o + 2] * $n[$o + 2]);
            $l = $l > 0.0 ? 1.0 / $l : 0.0;
            $n[$o] *= $l;
            $n[$o + 1] *= $l;
            $n[$o + 2] *= $l;
        }
        [$start, $corner] = self::corners($f, $vertices);
        $stand = $only === null ? array_fill(0, $vertices, 0.0) : [];
        foreach ($only === null ? range(0, $vertices - 1) : array_keys($only) as $v) {
            $stand[$v] = self::at($v, $f, $n, $start, $corner);
        }

        return $stand;
    }

    /**
     * The half-edges that start at each vertex.
     *
     * @param  array<int, int>  $f
     * @return array{array<int, int>, array<int, int>} where each vertex' part begins, the half-edges
     */
    private static function corners(array $f, int $vertices): array
    {
        $start = array_fill(0, $vertices + 1, 0);
        foreach ($f as $v) {
            $start[$v + 1]++;
        }
        for ($v = 0; $v < $vertices; $v++) {
            $start[$v + 1] += $start[$v];
        }
        $next = $start;
        $corner = array_fill(0, count($f), 0);
        foreach ($f as $h => $v) {
            $corner[$next[$v]++] = $h;
        }

        return [$start, $corner];
    }

    /**
     * @param  array<int, int>  $f
     * @param  array<int, float>  $n
     * @param  array<int, int>  $start
     * @param  array<int, int>  $corner
     */
    private static function at(int $v, array $f, array $n, array $start, array $corner): float
    {
        $leans = [];
        $into = $out = 0;
        for ($k = $start[$v], $e = $start[$v + 1]; $k < $e; $k++) {
            $h = $corner[$k];
            $o = $h - $h % 3;
            $out += $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            $into += $f[$h % 3 === 0 ? $h + 2 : $h - 1];
            $x = $n[$o];
            $y = $n[$o + 1];
            $z = $n[$o + 2];
            $best = -1.0;
            // Every neighbour once: each follows in one of the faces.
            for ($i = $start[$v]; $i < $e; $i++) {
                $g = $corner[$i];
                $w = $f[$g % 3 === 2 ? $g - 2 : $g + 1];
                for ($j = $start[$w], $end = $start[$w + 1]; $j < $end; $j++) {
                    $c = $corner[$j];
                    $u = $c - $c % 3;
                    if ($f[$u] === $v || $f[$u + 1] === $v || $f[$u + 2] === $v) {
                        continue;
                    }
                    $d = $x * $n[$u] + $y * $n[$u + 1] + $z * $n[$u + 2];
                    if ($d > $best) {
                        $best = $d;
                    }
                }
            }
            $leans[] = $best;
        }
        // A closed ring of neighbours is entered as often as it is left.
        if ($leans === [] || $into !== $out) {
            return 0.0;
        }
        sort($leans);
        $cosine = $leans[intdiv(count($leans), 2)];

        return acos($cosine > 1.0 ? 1.0 : $cosine);
    }
}
