<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Closure;

/** Cuts polygons into triangles. */
final class Polygon
{
    /**
     * Ear clipping on the polygon's own plane (Meisters 1975); convex and concave polygons, O(n^2).
     *
     * @param  list<int>  $corners  vertex indices in order
     * @param  array<int, float>  $p  flat xyz
     * @param  array<int, int>  $faces  (changed) triangles are appended
     * @param  array<int, int>  $quads  (changed) the first triangle of a polygon of four is appended, see TriangleMesh
     */
    public static function triangulate(array $corners, array $p, array &$faces, array &$quads = []): void
    {
        $n = count($corners);
        if ($n === 3) {
            array_push($faces, ...$corners);

            return;
        }
        // Newell's normal decides which plane to look along.
        $nx = $ny = $nz = 0.0;
        for ($i = 0; $i < $n; $i++) {
            $a = 3 * $corners[$i];
            $b = 3 * $corners[($i + 1) % $n];
            $nx += ($p[$a + 1] - $p[$b + 1]) * ($p[$a + 2] + $p[$b + 2]);
            $ny += ($p[$a + 2] - $p[$b + 2]) * ($p[$a] + $p[$b]);
            $nz += ($p[$a] - $p[$b]) * ($p[$a + 1] + $p[$b + 1]);
        }
        $axis = abs($nx) > abs($ny) ? (abs($nx) > abs($nz) ? 0 : 2) : (abs($ny) > abs($nz) ? 1 : 2);
        $sign = [$nx, $ny, $nz][$axis] < 0.0 ? -1.0 : 1.0;
        [$u, $v] = [[1, 2], [2, 0], [0, 1]][$axis];
        $cross = static fn (int $a, int $b, int $c): float => $sign * (
            ($p[3 * $b + $u] - $p[3 * $a + $u]) * ($p[3 * $c + $v] - $p[3 * $a + $v])
            - ($p[3 * $b + $v] - $p[3 * $a + $v]) * ($p[3 * $c + $u] - $p[3 * $a + $u]));
        $isQuad = $n === 4 && count(array_unique($corners)) === 4;
        for (; $n > 3; $n--) {
            $ear = self::ear($corners, $cross);
            [$a, $b, $c] = [$corners[($ear + $n - 1) % $n], $corners[$ear], $corners[($ear + 1) % $n]];
            if ($n === 4) {
                if ($isQuad) {
                    $quads[] = intdiv(count($faces), 3);
                }
                array_push($faces, $a, $b, $c, $a, $c, $corners[($ear + 2) % 4]);

                return;
            }
            array_push($faces, $a, $b, $c);
            array_splice($corners, $ear, 1);
        }
    }

    /**
     * The first corner that can be cut off: convex, with no other in its triangle; the first of all where none can.
     *
     * @param  list<int>  $corners
     * @param  Closure(int, int, int): float  $cross  twice the area of a triangle, on the polygon's plane
     */
    private static function ear(array $corners, Closure $cross): int
    {
        $n = count($corners);
        for ($i = 0; $i < $n; $i++) {
            [$a, $b, $c] = [$corners[($i + $n - 1) % $n], $corners[$i], $corners[($i + 1) % $n]];
            if ($cross($a, $b, $c) <= 0.0) {
                continue;
            }
            foreach ($corners as $q) {
                if ($q !== $a && $q !== $b && $q !== $c && $cross($a, $b, $q) >= 0.0 && $cross($b, $c, $q) >= 0.0 && $cross($c, $a, $q) >= 0.0) {
                    continue 2;
                }
            }

            return $i;
        }

        return 0;
    }
}
