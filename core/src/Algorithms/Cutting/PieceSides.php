<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

/**
 * Whether pieces of a mesh that was parted along another lie inside it, outside it, or on it, read from the planes of its faces at the seams.
 *
 * Where a seam runs inside a face of the other mesh, the side of its plane decides; along an edge of it, the two planes there and whether the edge bulges. Of all seams of a piece the one counts whose
 * face stands off those planes the farthest, in shares of its size, so that rounding does not matter.
 *
 * @internal
 */
final class PieceSides
{
    public const UNSURE = 0;

    public const INSIDE = 1;

    public const OUTSIDE = 2;

    /** On a face of the other mesh that looks the same way. */
    public const ON = 3;

    /** On a face of the other mesh that looks the opposite way. */
    public const AGAINST = 4;

    /**
     * @param  list<int>  $f  flat vertex indices of both meshes, before they were parted
     * @param  list<int>  $own  of the parts of one mesh
     * @param  int  $first  how many parts of the other mesh come before them
     * @param  array{count: int, of: list<int>}  $pieces
     * @param  array{int, int}  $others  faces of the other mesh, from one to before another
     * @param  float  $clear  how far a face must stand off, as a share of its longest edge, for the answer to count
     * @return array<int, int> a constant of this class for each piece
     */
    public static function of(MeshArrangement $parts, array $f, array $own, int $first, array $pieces, array $others, float $clear): array
    {
        $sides = array_fill(0, $pieces['count'], self::UNSURE);
        $sure = array_fill(0, $pieces['count'], $clear);
        $isLooked = [];
        foreach ($pieces['of'] as $t => $piece) {
            $from = $parts->source[$first + $t];
            if (isset($parts->onIt[$from]) && ! isset($isLooked[$piece])) {
                $isLooked[$piece] = true;
                $on = self::lyingOn($parts, $f, $own, $t, $from);
                if ($on !== self::UNSURE) {
                    [$sides[$piece], $sure[$piece]] = [$on, INF];
                }
            }
        }
        foreach (self::atSeams($parts, $own) as [$h, $key]) {
            $t = intdiv($h, 3);
            $piece = $pieces['of'][$t];
            $from = $parts->source[$first + $t];
            $at = array_values(array_filter(array_keys($parts->facesAt[$key]), fn (int $face) => $face >= $others[0] && $face < $others[1]));
            // Faces that all lie in the plane of this one say nothing of its side.
            if (array_filter($at, fn (int $face) => ! isset($parts->onIt[$from][$face])) === []) {
                continue;
            }
            [$side, $off] = self::read($parts->points->positions, $f, $own, $h, $at);
            if ($off > $sure[$piece]) {
                [$sides[$piece], $sure[$piece]] = [$side, $off];
            }
        }

        return $sides;
    }

    /**
     * @param  list<int>  $own
     * @return iterable<array{int, string}> half-edges of the parts that run along a seam
     */
    public static function atSeams(MeshArrangement $parts, array $own): iterable
    {
        $isOnSeam = [];
        foreach ($parts->seams as [$a, $b]) {
            $isOnSeam[$a] = $isOnSeam[$b] = true;
        }
        foreach ($own as $h => $a) {
            if (isset($isOnSeam[$a])) {
                $b = $own[$h % 3 === 2 ? $h - 2 : $h + 1];
                $key = $a < $b ? "$a $b" : "$b $a";
                if (isset($parts->seams[$key])) {
                    yield [$h, $key];
                }
            }
        }
    }

    /**
     * @param  list<int>  $f
     * @param  list<int>  $own
     */
    private static function lyingOn(MeshArrangement $parts, array $f, array $own, int $t, int $from): int
    {
        foreach (array_keys($parts->onIt[$from]) as $u) {
            if ($parts->locate($own[3 * $t], $u) === null || $parts->locate($own[3 * $t + 1], $u) === null || $parts->locate($own[3 * $t + 2], $u) === null) {
                continue;
            }
            [$i, $j] = $parts->view($u);

            return $parts->points->turn($f[3 * $from], $f[3 * $from + 1], $f[3 * $from + 2], $i, $j) > 0 ? self::ON : self::AGAINST;
        }

        return self::UNSURE;
    }

    /**
     * @param  array<int, float>  $p
     * @param  list<int>  $f
     * @param  list<int>  $own
     * @param  int  $h  a half-edge on a seam
     * @param  list<int>  $at  faces of the other mesh at the seam, one or the two at an edge; more say nothing
     * @return array{int, float} the side, and how far the face stands off the planes that say so, as a share of its longest edge
     */
    private static function read(array $p, array $f, array $own, int $h, array $at): array
    {
        $t = intdiv($h, 3);
        $apex = $own[$h % 3 === 0 ? $h + 2 : $h - 1];
        $longest = 0.0;
        for ($k = 0; $k < 3; $k++) {
            [$a, $b] = [3 * $own[3 * $t + $k], 3 * $own[3 * $t + ($k + 1) % 3]];
            $longest = max($longest, ($p[$b] - $p[$a]) ** 2 + ($p[$b + 1] - $p[$a + 1]) ** 2 + ($p[$b + 2] - $p[$a + 2]) ** 2);
        }
        $scale = 1.0 / sqrt(max($longest, 1e-300));
        if ($at === [] || count($at) > 2) {
            return [self::UNSURE, 0.0];
        }
        $off = array_map(fn (int $face) => $scale * self::height($p, $f, $face, $apex), $at);
        if (count($at) === 1) {
            return [$off[0] < 0.0 ? self::INSIDE : self::OUTSIDE, abs($off[0])];
        }
        [$u, $w] = $at;
        // The edge bulges where the third corner of one lies behind the plane of the other.
        $shared = array_intersect(array_slice($f, 3 * $u, 3), array_slice($f, 3 * $w, 3));
        $third = array_values(array_diff(array_slice($f, 3 * $w, 3), $shared));
        if (count($shared) !== 2 || count($third) !== 1) {
            return [self::UNSURE, 0.0];
        }
        $bulges = self::height($p, $f, $u, $third[0]) < 0.0;
        $isInside = $bulges ? max($off) < 0.0 : min($off) < 0.0;
        $isByBoth = $bulges === $isInside;
        $how = array_map(fn (float $one) => $isInside ? -$one : $one, $off);

        return [$isInside ? self::INSIDE : self::OUTSIDE, $isByBoth ? min($how) : max($how)];
    }

    /**
     * @param  array<int, float>  $p
     * @param  list<int>  $f
     * @return float how far a point stands before the plane of a face, mm; behind it less than 0
     */
    private static function height(array $p, array $f, int $u, int $v): float
    {
        [$a, $b, $c, $d] = [3 * $f[3 * $u], 3 * $f[3 * $u + 1], 3 * $f[3 * $u + 2], 3 * $v];
        [$ux, $uy, $uz] = [$p[$b] - $p[$a], $p[$b + 1] - $p[$a + 1], $p[$b + 2] - $p[$a + 2]];
        [$vx, $vy, $vz] = [$p[$c] - $p[$a], $p[$c + 1] - $p[$a + 1], $p[$c + 2] - $p[$a + 2]];
        [$nx, $ny, $nz] = [$uy * $vz - $uz * $vy, $uz * $vx - $ux * $vz, $ux * $vy - $uy * $vx];
        $length = sqrt($nx * $nx + $ny * $ny + $nz * $nz);

        return $length > 0.0 ? (($p[$d] - $p[$a]) * $nx + ($p[$d + 1] - $p[$a + 1]) * $ny + ($p[$d + 2] - $p[$a + 2]) * $nz) / $length : 0.0;
    }
}
