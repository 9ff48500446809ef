<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Surface;

/**
 * The nearest and the farthest surface along a direction, over the middles of square pixels.
 *
 * Source    z-buffer (Catmull 1974), orthographic; heights are those of the plane of each triangle at the middle of the pixel, not interpolated over pixels.
 * Cost      one visit a pixel that a triangle covers.
 *
 * @internal
 */
final class HeightRaster
{
    /**
     * @param  array<int, float>  $q  flat: right, down, depth of each vertex, in pixels, pixels and mm; pixel (c, r) has its middle at (c + 0.5, r + 0.5)
     * @param  array<int, int>  $f
     * @param  callable(float): void  $breathe  told how much is done; may stop the work by an exception
     * @return array{near: list<float>, far: list<float>, corner: list<int>} depth a pixel, row by row; INF and -INF where nothing is; and where the corners of the nearest face begin in `f`, -1 where none is
     */
    public static function of(array $q, array $f, int $columns, int $rows, callable $breathe): array
    {
        $near = array_fill(0, $columns * $rows, INF);
        $far = array_fill(0, $columns * $rows, -INF);
        $corner = array_fill(0, $columns * $rows, -1);
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            if ($o % 300_000 === 0) {
                $breathe($o / $n);
            }
            $a = 3 * $f[$o];
            $b = 3 * $f[$o + 1];
            $c = 3 * $f[$o + 2];
            $ax = $q[$a];
            $ay = $q[$a + 1];
            $bx = $q[$b] - $ax;
            $by = $q[$b + 1] - $ay;
            $cx = $q[$c] - $ax;
            $cy = $q[$c + 1] - $ay;
            $area = $bx * $cy - $by * $cx;
            // Seen from the side it covers no middle that its neighbours do not.
            if ($area === 0.0) {
                continue;
            }
            $left = $ax + ($bx < $cx ? ($bx < 0.0 ? $bx : 0.0) : ($cx < 0.0 ? $cx : 0.0));
            $right = $ax + ($bx > $cx ? ($bx > 0.0 ? $bx : 0.0) : ($cx > 0.0 ? $cx : 0.0));
            $top = $ay + ($by < $cy ? ($by < 0.0 ? $by : 0.0) : ($cy < 0.0 ? $cy : 0.0));
            $bottom = $ay + ($by > $cy ? ($by > 0.0 ? $by : 0.0) : ($cy > 0.0 ? $cy : 0.0));
            // Middles between the sides of its box.
            $firstColumn = (int) ceil($left - 0.5);
            $lastColumn = (int) floor($right - 0.5);
            $firstRow = (int) ceil($top - 0.5);
            $lastRow = (int) floor($bottom - 0.5);
            $firstColumn = $firstColumn < 0 ? 0 : $firstColumn;
            $firstRow = $firstRow < 0 ? 0 : $firstRow;
            $lastColumn = $lastColumn < $columns ? $lastColumn : $columns - 1;
            $lastRow = $lastRow < $rows ? $lastRow : $rows - 1;
            $za = $q[$a + 2];
            $zb = $q[$b + 2] - $za;
            $zc = $q[$c + 2] - $za;
            $w = 1.0 / $area;
            for ($r = $firstRow; $r <= $lastRow; $r++) {
                $y = $r + 0.5 - $ay;
                for ($k = $firstColumn; $k <= $lastColumn; $k++) {
                    $x = $k + 0.5 - $ax;
                    $s = ($x * $cy - $y * $cx) * $w;
                    $t = ($bx * $y - $by * $x) * $w;
                    // On an edge it is in both of its triangles: they agree there.
                    if ($s < 0.0 || $t < 0.0 || $s + $t > 1.0) {
                        continue;
                    }
                    $z = $za + $s * $zb + $t * $zc;
                    $at = $r * $columns + $k;
                    if ($z < $near[$at]) {
                        $near[$at] = $z;
                        $corner[$at] = $o;
                    }
                    if ($z > $far[$at]) {
                        $far[$at] = $z;
                    }
                }
            }
        }

        return ['near' => $near, 'far' => $far, 'corner' => $corner];
    }
}
