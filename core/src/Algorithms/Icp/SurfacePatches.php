<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Icp;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Geometry\BoundingBox;

/**
 * The normal equations of all poses over small patches of the surface that several passes saw: each patch is a height field of second degree, fitted to the points of all passes at once
 * and eliminated. No point is paired with a nearest one, and no normal of a single point enters an equation, so neither pulls the poses.
 *
 * Source    Liu & Zhang 2021, "BALM: Bundle Adjustment for Lidar Mapping" (poses adjusted over shared surface, features eliminated); Golub & Pereyra 1973 (variable projection);
 *           Cazals & Pouget 2005 (height fields of second degree, "jets", on noisy points).
 * Departs   BALM's features are planes of adaptive voxels, split from the top; these bend, and grow from the bottom where one serves as well as those in it.
 * Input     points of all passes in one system of coordinates near their origin, mm; unit normals that sort points by side only, zero for points to leave out.
 * Cost      about 0.6 us a point and 20 us a patch.   Deterministic: yes; slices are summed in order, so the number of processes changes nothing.
 *
 * Residual of a point: e = h - t . f(u, v) with f = (1, u, v, uu, uv, vv), height h over the patch's tangent plane, u and v in it as shares of the cell. A motion of the point's pass by a turn w about the
 * origin and a shift s changes e by J . (w, s); J = G f to second order in u and v, with one 6x6 matrix G a patch. With F_i = sum of f f^T over the points of pass i and C = sum of all F_i, the equations
 * of the poses alone are H_ij = G (d_ij F_i - F_i C^-1 F_j) G^T, and the right side g_i = G (sum of f h - F_i t) for t = C^-1 sum of f h.
 *
 * Length    the sums of fifteen moments and the products of six stand in locals, written out, as in other kernels.
 *
 * @internal
 *
 * @phpstan-type Fit array{points: list<int>, frame: list<float>, field: list<float>, cell: float, left: float, freedoms: int, at: array{int, int, int}}
 * @phpstan-type Equations array{blocks: array<int, array<int, float>>, noise: array<int, array<int, float>>, right: array<int, array<int, float>>, squares: float, freedoms: int, patches: int}
 */
final class SurfacePatches
{
    /** Cosine between a point's normal and that of the first point of its patch, at least: 37 degrees part the sides of thin walls and of edges. */
    private const SAME_SIDE = 0.8;

    /** A patch needs twice as many points as a height field has coefficients. */
    private const FEWEST = 12;

    /** Points of a pass without which it tells nothing about a patch. */
    private const FEWEST_OF_PASS = 3;

    /** Patches that fit worse than this multiple of the usual spread hold an edge or flying points. Tighter gates (1.2) dropped patches that hold weakly held directions: pedestal 0.057 mm in place of 0.016. */
    private const GATE = 2.0;

    /** Points farther off their patch than this multiple of the usual spread are left out. */
    private const CUT = 3.0;

    /** Passes that enter the equations of one patch at most; the cost of a patch grows with their square. */
    private const MOST_PASSES = 12;

    /** Patches grow up to cells of two to the power of this times the smallest. */
    private const LEVELS = 3;

    /** A larger patch may leave this share more variance than the smaller ones in it. */
    private const AS_WELL = 0.03;

    /** Independent slices of the cells; each has its own usual spread. */
    public const SLICES = 8;

    /**
     * Sorts the points of one slice of all cells into the smallest patches.
     *
     * @param  array<int, float>  $p  flat xyz
     * @param  array<int, float>  $n  flat normals
     * @param  float  $aside  by which the cells are moved along all three axes, mm
     * @return array{start: array<int, int>, members: array<int, int>, cells: list<array{int, int, int}>} the points of patch k are members[start[k]] up to members[start[k + 1] - 1], in the order they came; the place of its cell in the lattice
     */
    public static function sorted(array $p, array $n, float $cell, float $aside, int $slice): array
    {
        $count = intdiv(count($p), 3);
        $box = BoundingBox::of($p);
        [$x0, $y0, $z0] = array_map(fn (float $low) => $low - $aside - $cell, $box->min);
        $w = 1.0 / $cell;
        $row = (int) (($box->max[2] - $z0) * $w) + 2;
        $layer = $row * ((int) (($box->max[1] - $y0) * $w) + 2);
        $first = $next = $sides = $places = [];
        $of = array_fill(0, $count, -1);
        $patches = 0;
        for ($i = 0, $o = 0; $i < $count; $i++, $o += 3) {
            $nx = $n[$o];
            $ny = $n[$o + 1];
            $nz = $n[$o + 2];
            if ($nx === 0.0 && $ny === 0.0 && $nz === 0.0) {
                continue;
            }
            $ix = (int) (($p[$o] - $x0) * $w);
            $iy = (int) (($p[$o + 1] - $y0) * $w);
            $iz = (int) (($p[$o + 2] - $z0) * $w);
            // All cells of one of the largest are in one slice.
            if ((($ix >> self::LEVELS) * 7 + ($iy >> self::LEVELS) * 3 + ($iz >> self::LEVELS) * 5) % self::SLICES !== $slice) {
                continue;
            }
            $key = $ix * $layer + $iy * $row + $iz;
            $k = $first[$key] ?? -1;
            $last = -1;
            while ($k >= 0 && $sides[3 * $k] * $nx + $sides[3 * $k + 1] * $ny + $sides[3 * $k + 2] * $nz < self::SAME_SIDE) {
                $last = $k;
                $k = $next[$k];
            }
            if ($k < 0) {
                $k = $patches++;
                $sides[] = $nx;
                $sides[] = $ny;
                $sides[] = $nz;
                $next[] = -1;
                $places[] = [$ix, $iy, $iz];
                if ($last >= 0) {
                    $next[$last] = $k;
                } else {
                    $first[$key] = $k;
                }
            }
            $of[$i] = $k;
        }
        $start = array_fill(0, $patches + 1, 0);
        foreach ($of as $k) {
            if ($k >= 0) {
                $start[$k + 1]++;
            }
        }
        for ($k = 0; $k < $patches; $k++) {
            $start[$k + 1] += $start[$k];
        }
        $fill = $start;
        $members = array_fill(0, $start[$patches], 0);
        foreach ($of as $i => $k) {
            if ($k >= 0) {
                $members[$fill[$k]++] = $i;
            }
        }

        return ['start' => $start, 'members' => $members, 'cells' => $places];
    }

    /**
     * The equations of one slice.
     *
     * @param  array<int, float>  $p  flat xyz, mm
     * @param  array<int, float>  $n  flat normals
     * @param  array<int, int>  $pass  of each point
     * @param  list<float>  $weights  of a point of each pass: the inverse of its variance, 1 for a usual one
     * @param  float  $cell  edge of the smallest patches, mm
     * @param  float  $aside  as in sorted()
     * @return Equations blocks and noise by i * passes + j for i <= j, 36 numbers each: what the points tell of the motions (turn, shift), and how much of that the noise of the patches' slopes feigns; to be multiplied by squares / freedoms
     */
    public static function equations(array $p, array $n, array $pass, array $weights, float $cell, float $aside, int $slice): array
    {
        ['start' => $start, 'members' => $members, 'cells' => $cells] = self::sorted($p, $n, $cell, $aside, $slice);
        $fits = [];
        for ($k = 0, $e = count($start) - 1; $k < $e; $k++) {
            $points = self::chosen(array_slice($members, $start[$k], $start[$k + 1] - $start[$k]), $pass);
            $fit = $points === [] ? null : self::fitted($p, $n, $pass, $weights, $points, $cell);
            if ($fit !== null) {
                $fits[] = $fit + ['at' => $cells[$k]];
            }
        }
        $equations = ['blocks' => [], 'noise' => [], 'right' => [], 'squares' => 0.0, 'freedoms' => 0, 'patches' => 0];
        if ($fits === []) {
            return $equations;
        }
        $usual = Median::of(array_map(self::spread(...), $fits));
        $fits = array_values(array_filter($fits, fn (array $fit) => self::spread($fit) <= self::GATE * $usual));
        for ($level = 1; $level <= self::LEVELS; $level++) {
            $fits = self::merged($fits, $p, $n, $pass, $weights, $cell * 2 ** $level);
        }
        foreach ($fits as $fit) {
            self::add($equations, $fit, $p, $pass, $weights, self::CUT * $usual, count($weights));
        }

        return $equations;
    }

    /**
     * Patches of cells twice as large wherever one height field serves as well as those of the small cells: the slopes of a large patch are known far better.
     *
     * @param  list<Fit>  $fits
     * @param  array<int, float>  $p
     * @param  array<int, float>  $n
     * @param  array<int, int>  $pass
     * @param  list<float>  $weights
     * @return list<Fit>
     */
    private static function merged(array $fits, array $p, array $n, array $pass, array $weights, float $cell): array
    {
        $parents = [];
        $kept = [];
        foreach ($fits as $fit) {
            // What was not merged before bends too much for a larger one.
            if ($fit['cell'] < 0.75 * 0.5 * $cell) {
                $kept[] = $fit;

                continue;
            }
            [$x, $y, $z] = $fit['at'];
            $key = ($x >> 1).' '.($y >> 1).' '.($z >> 1);
            $normal = array_slice($fit['frame'], 9);
            for ($k = 0; isset($parents["$key/$k"]); $k++) {
                $other = array_slice($parents["$key/$k"][0]['frame'], 9);
                if ($normal[0] * $other[0] + $normal[1] * $other[1] + $normal[2] * $other[2] >= self::SAME_SIDE) {
                    break;
                }
            }
            $parents["$key/$k"][] = $fit;
        }
        foreach ($parents as $children) {
            [$x, $y, $z] = $children[0]['at'];
            $at = [$x >> 1, $y >> 1, $z >> 1];
            $points = array_merge(...array_column($children, 'points'));
            sort($points);
            $points = self::chosen($points, $pass);
            $whole = count($children) > 1 && $points !== [] ? self::fitted($p, $n, $pass, $weights, $points, $cell) : null;
            $freedoms = array_sum(array_column($children, 'freedoms'));
            $left = array_sum(array_column($children, 'left'));
            // As an F test would have it: the same variance but for chance.
            if ($whole !== null && $whole['left'] / $whole['freedoms'] <= (1.0 + self::AS_WELL + 2.0 * sqrt(2.0 / $freedoms)) * $left / $freedoms) {
                $kept[] = $whole + ['at' => $at];
            } else {
                foreach ($children as $child) {
                    $kept[] = $child;
                }
            }
        }

        return $kept;
    }

    /** @param  array{left: float, freedoms: int, ...}  $fit */
    private static function spread(array $fit): float
    {
        return sqrt($fit['left'] / $fit['freedoms']);
    }

    /**
     * The points of a patch that count; none where fewer than two passes saw it.
     *
     * @param  array<int, int>  $members
     * @param  array<int, int>  $pass
     * @return list<int>
     */
    private static function chosen(array $members, array $pass): array
    {
        if (count($members) < self::FEWEST) {
            return [];
        }
        $many = [];
        foreach ($members as $m) {
            $k = $pass[$m];
            $many[$k] = ($many[$k] ?? 0) + 1;
        }
        $many = array_filter($many, fn (int $count) => $count >= self::FEWEST_OF_PASS);
        if (count($many) < 2) {
            return [];
        }
        if (count($many) > self::MOST_PASSES) {
            // Spread over all of them: in a sweep those far apart tell most of each other.
            ksort($many);
            $ids = array_keys($many);
            $some = [];
            for ($k = 0; $k < self::MOST_PASSES; $k++) {
                $some[$ids[intdiv($k * (count($ids) - 1), self::MOST_PASSES - 1)]] = true;
            }
            $many = array_intersect_key($many, $some);
        }
        $points = [];
        foreach ($members as $m) {
            if (isset($many[$pass[$m]])) {
                $points[] = $m;
            }
        }

        return count($points) < self::FEWEST ? [] : $points;
    }

    /**
     * A patch in its own frame, its height field, and how its points spread about that within their passes: an offset between passes is what is looked for and must not speak against the patch.
     *
     * @param  array<int, float>  $p
     * @param  array<int, float>  $n
     * @param  array<int, int>  $pass
     * @param  list<float>  $weights
     * @param  list<int>  $points
     * @return array{points: list<int>, frame: list<float>, field: list<float>, cell: float, left: float, freedoms: int}|null frame: centre, u, v, normal; left: squares of the points off the field within their passes
     */
    private static function fitted(array $p, array $n, array $pass, array $weights, array $points, float $cell): ?array
    {
        $cx = $cy = $cz = $nx = $ny = $nz = 0.0;
        foreach ($points as $i) {
            $o = 3 * $i;
            $cx += $p[$o];
            $cy += $p[$o + 1];
            $cz += $p[$o + 2];
            $nx += $n[$o];
            $ny += $n[$o + 1];
            $nz += $n[$o + 2];
        }
        $w = 1.0 / count($points);
        $cx *= $w;
        $cy *= $w;
        $cz *= $w;
        $w = 1.0 / sqrt($nx * $nx + $ny * $ny + $nz * $nz);
        $nx *= $w;
        $ny *= $w;
        $nz *= $w;
        // Any direction across the normal, then the one square to both.
        [$ux, $uy, $uz] = $nx < 0.6 && $nx > -0.6 ? [0.0, $nz, -$ny] : [-$nz, 0.0, $nx];
        $w = 1.0 / sqrt($ux * $ux + $uy * $uy + $uz * $uz);
        $ux *= $w;
        $uy *= $w;
        $uz *= $w;
        $vx = $ny * $uz - $nz * $uy;
        $vy = $nz * $ux - $nx * $uz;
        $vz = $nx * $uy - $ny * $ux;
        $frame = [$cx, $cy, $cz, $ux, $uy, $uz, $vx, $vy, $vz, $nx, $ny, $nz];
        ['moments' => $moments, 'heights' => $heights, 'squares' => $squares] = self::moments($p, $pass, $weights, $points, $frame, $cell, [], INF);
        $field = self::field($moments, $heights);
        if ($field === null) {
            return null;
        }
        $left = array_sum($squares);
        $freedoms = count($points) - 6 - count($moments) + 1;
        foreach ($moments as $k => $m) {
            $h = $heights[$k];
            $left -= $field[0] * $h[0] + $field[1] * $h[1] + $field[2] * $h[2] + $field[3] * $h[3] + $field[4] * $h[4] + $field[5] * $h[5];
            // The first moments are sums over the points of this pass: their mean residual is its own offset.
            $offset = $h[0] - ($field[0] * $m[0] + $field[1] * $m[1] + $field[2] * $m[2] + $field[3] * $m[3] + $field[4] * $m[4] + $field[5] * $m[5]);
            $left -= $offset * $offset / max(1e-300, $m[0]);
        }

        return $freedoms < 1 ? null : ['points' => $points, 'frame' => $frame, 'field' => $field, 'cell' => $cell, 'left' => max(0.0, $left), 'freedoms' => $freedoms];
    }

    /**
     * Sums over the points of each pass in the frame of a patch.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $pass
     * @param  list<float>  $weights
     * @param  list<int>  $points
     * @param  list<float>  $frame
     * @param  list<float>  $field  points farther than $cut off it are left out
     * @return array{moments: array<int, list<float>>, heights: array<int, list<float>>, squares: array<int, float>, count: int} by pass: weighted sums of u^a v^b with a + b <= 4 in the order 1 u v uu uv vv uuu uuv uvv vvv uuuu uuuv uuvv uvvv vvvv; of f h; of h^2
     */
    private static function moments(array $p, array $pass, array $weights, array $points, array $frame, float $cell, array $field, float $cut): array
    {
        [$cx, $cy, $cz, $ux, $uy, $uz, $vx, $vy, $vz, $nx, $ny, $nz] = $frame;
        [$t0, $t1, $t2, $t3, $t4, $t5] = $field === [] ? [0.0, 0.0, 0.0, 0.0, 0.0, 0.0] : $field;
        $w = 1.0 / $cell;
        $moments = $heights = $squares = [];
        $count = 0;
        // Points come pass by pass, so the sums of one pass are kept in locals until the next begins.
        $now = -1;
        $a = $h = [];
        $s = $m0 = $m1 = $m2 = $m3 = $m4 = $m5 = $m6 = $m7 = $m8 = $m9 = $m10 = $m11 = $m12 = $m13 = $m14 = $h0 = $h1 = $h2 = $h3 = $h4 = $h5 = 0.0;
        $points[] = -1;
        foreach ($points as $i) {
            $k = $i < 0 ? -2 : $pass[$i];
            if ($k !== $now) {
                if ($now >= 0) {
                    $q = $weights[$now];
                    $moments[$now] = [$q * $m0, $q * $m1, $q * $m2, $q * $m3, $q * $m4, $q * $m5, $q * $m6, $q * $m7, $q * $m8, $q * $m9, $q * $m10, $q * $m11, $q * $m12, $q * $m13, $q * $m14];
                    $heights[$now] = [$q * $h0, $q * $h1, $q * $h2, $q * $h3, $q * $h4, $q * $h5];
                    $squares[$now] = $q * $s;
                }
                if ($i < 0) {
                    break;
                }
                $now = $k;
                $s = $m0 = $m1 = $m2 = $m3 = $m4 = $m5 = $m6 = $m7 = $m8 = $m9 = $m10 = $m11 = $m12 = $m13 = $m14 = $h0 = $h1 = $h2 = $h3 = $h4 = $h5 = 0.0;
            }
            $o = 3 * $i;
            $x = $p[$o] - $cx;
            $y = $p[$o + 1] - $cy;
            $z = $p[$o + 2] - $cz;
            $u = ($x * $ux + $y * $uy + $z * $uz) * $w;
            $v = ($x * $vx + $y * $vy + $z * $vz) * $w;
            $z = $x * $nx + $y * $ny + $z * $nz;
            $uu = $u * $u;
            $uv = $u * $v;
            $vv = $v * $v;
            $e = $z - ($t0 + $t1 * $u + $t2 * $v + $t3 * $uu + $t4 * $uv + $t5 * $vv);
            if ($e > $cut || $e < -$cut) {
                continue;
            }
            $count++;
            $m0 += 1.0;
            $m1 += $u;
            $m2 += $v;
            $m3 += $uu;
            $m4 += $uv;
            $m5 += $vv;
            $m6 += $uu * $u;
            $m7 += $uu * $v;
            $m8 += $u * $vv;
            $m9 += $vv * $v;
            $m10 += $uu * $uu;
            $m11 += $uu * $uv;
            $m12 += $uu * $vv;
            $m13 += $uv * $vv;
            $m14 += $vv * $vv;
            $h0 += $z;
            $h1 += $u * $z;
            $h2 += $v * $z;
            $h3 += $uu * $z;
            $h4 += $uv * $z;
            $h5 += $vv * $z;
            $s += $z * $z;
        }

        return ['moments' => $moments, 'heights' => $heights, 'squares' => $squares, 'count' => $count];
    }

    /** The 36 entries of sum of f f^T among the fifteen moments. */
    private const ENTRIES = [
        0, 1, 2, 3, 4, 5,
        1, 3, 4, 6, 7, 8,
        2, 4, 5, 7, 8, 9,
        3, 6, 7, 10, 11, 12,
        4, 7, 8, 11, 12, 13,
        5, 8, 9, 12, 13, 14,
    ];

    /**
     * @param  array<int, list<float>>  $moments
     * @param  array<int, list<float>>  $heights
     * @return list<float>|null
     */
    private static function field(array $moments, array $heights): ?array
    {
        $l = self::factor($moments);

        return $l === null ? null : self::solved($l, self::sums($heights, 6));
    }

    /**
     * @param  array<int, list<float>>  $rows
     * @return list<float>
     */
    private static function sums(array $rows, int $width): array
    {
        $sums = array_fill(0, $width, 0.0);
        foreach ($rows as $row) {
            for ($k = 0; $k < $width; $k++) {
                $sums[$k] += $row[$k];
            }
        }

        return $sums;
    }

    /**
     * The lower factor L of C = L L^T (Cholesky), 36 numbers by rows; null where the points do not tell all six coefficients.
     *
     * @param  array<int, list<float>>  $moments
     * @return array<int, float>|null
     */
    private static function factor(array $moments): ?array
    {
        $all = self::sums($moments, 15);
        $l = array_fill(0, 36, 0.0);
        foreach (self::ENTRIES as $e => $m) {
            $l[$e] = $all[$m];
        }
        for ($i = 0; $i < 6; $i++) {
            for ($j = 0; $j <= $i; $j++) {
                $s = $l[6 * $i + $j];
                for ($k = 0; $k < $j; $k++) {
                    $s -= $l[6 * $i + $k] * $l[6 * $j + $k];
                }
                if ($j < $i) {
                    $l[6 * $i + $j] = $s / $l[6 * $j + $j];
                } elseif ($s <= 1e-5 * $all[0]) {
                    return null;
                } else {
                    $l[7 * $i] = sqrt($s);
                }
            }
        }

        return $l;
    }

    /**
     * @param  array<int, float>  $l
     * @param  list<float>  $b
     * @return list<float> x of L L^T x = b
     */
    private static function solved(array $l, array $b): array
    {
        for ($i = 0; $i < 6; $i++) {
            for ($k = 0; $k < $i; $k++) {
                $b[$i] -= $l[6 * $i + $k] * $b[$k];
            }
            $b[$i] /= $l[7 * $i];
        }
        for ($i = 5; $i >= 0; $i--) {
            for ($k = $i + 1; $k < 6; $k++) {
                $b[$i] -= $l[6 * $k + $i] * $b[$k];
            }
            $b[$i] /= $l[7 * $i];
        }

        return $b;
    }

    /**
     * G, by columns of f: how a turn about the origin and a shift change residuals of the patch.
     *
     * @param  list<float>  $frame
     * @param  list<float>  $field
     * @return list<float> 6 columns of 6
     */
    private static function jacobian(array $frame, array $field, float $cell): array
    {
        [$cx, $cy, $cz, $ux, $uy, $uz, $vx, $vy, $vz, $nx, $ny, $nz] = $frame;
        [, $t1, $t2, $t3, $t4, $t5] = $field;
        $w = 1.0 / $cell;
        // Of each column: turn about u, v and n through the centre of the patch, shift along u and v; along n it is one and five times zero.
        $local = [
            [0.0, 0.0, 0.0, -$t1 * $w, -$t2 * $w], [0.0, -$cell, -$t2, -2.0 * $t3 * $w, -$t4 * $w], [$cell, 0.0, $t1, -$t4 * $w, -2.0 * $t5 * $w],
            [0.0, 0.0, -$t4, 0.0, 0.0], [0.0, 0.0, 2.0 * ($t3 - $t5), 0.0, 0.0], [0.0, 0.0, $t4, 0.0, 0.0],
        ];
        $g = [];
        foreach ($local as $column => [$a, $b, $c, $d, $e]) {
            $f = $column === 0 ? 1.0 : 0.0;
            $x = $ux * $d + $vx * $e + $nx * $f;
            $y = $uy * $d + $vy * $e + $ny * $f;
            $z = $uz * $d + $vz * $e + $nz * $f;
            array_push($g, $ux * $a + $vx * $b + $nx * $c + $cy * $z - $cz * $y, $uy * $a + $vy * $b + $ny * $c + $cz * $x - $cx * $z, $uz * $a + $vz * $b + $nz * $c + $cx * $y - $cy * $x, $x, $y, $z);
        }

        return $g;
    }

    /**
     * @param  Equations  $equations  (changed)
     * @param  Fit  $fit
     * @param  array<int, float>  $p
     * @param  array<int, int>  $pass
     * @param  list<float>  $weights
     */
    private static function add(array &$equations, array $fit, array $p, array $pass, array $weights, float $cut, int $passes): void
    {
        $cell = $fit['cell'];
        ['moments' => $moments, 'heights' => $heights, 'squares' => $squares, 'count' => $count] = self::moments($p, $pass, $weights, $fit['points'], $fit['frame'], $cell, $fit['field'], $cut);
        $moments = array_filter($moments, fn (array $m) => $m[0] > 0.0);
        $l = count($moments) < 2 || $count < self::FEWEST ? null : self::factor($moments);
        if ($l === null) {
            return;
        }
        $field = self::solved($l, self::sums($heights, 6));
        $g = self::jacobian($fit['frame'], $field, $cell);
        $slopes = self::slopeNoise($l, $moments, $cell);
        $all = array_sum(array_column($moments, 0));
        $z = [];
        foreach ($moments as $i => $m) {
            $full = $inner = array_fill(0, 36, 0.0);
            $gradient = [];
            foreach (self::ENTRIES as $e => $k) {
                $full[$e] = $m[$k];
            }
            // Z_i = L^-1 F_i G^T, by rows; F_i G^T first.
            for ($r = 0; $r < 6; $r++) {
                $a0 = $full[6 * $r];
                $a1 = $full[6 * $r + 1];
                $a2 = $full[6 * $r + 2];
                $a3 = $full[6 * $r + 3];
                $a4 = $full[6 * $r + 4];
                $a5 = $full[6 * $r + 5];
                for ($c = 0; $c < 6; $c++) {
                    $inner[6 * $r + $c] = $a0 * $g[$c] + $a1 * $g[6 + $c] + $a2 * $g[12 + $c] + $a3 * $g[18 + $c] + $a4 * $g[24 + $c] + $a5 * $g[30 + $c];
                }
                $gradient[] = $heights[$i][$r] - ($a0 * $field[0] + $a1 * $field[1] + $a2 * $field[2] + $a3 * $field[3] + $a4 * $field[4] + $a5 * $field[5]);
            }
            $block = $equations['blocks'][$i * $passes + $i] ?? array_fill(0, 36, 0.0);
            $right = $equations['right'][$i] ?? [0.0, 0.0, 0.0, 0.0, 0.0, 0.0];
            for ($r = 0; $r < 6; $r++) {
                for ($c = 0; $c < 6; $c++) {
                    $block[6 * $r + $c] += $g[$r] * $inner[$c] + $g[6 + $r] * $inner[6 + $c] + $g[12 + $r] * $inner[12 + $c] + $g[18 + $r] * $inner[18 + $c] + $g[24 + $r] * $inner[24 + $c] + $g[30 + $r] * $inner[30 + $c];
                }
                $right[$r] += $g[$r] * $gradient[0] + $g[6 + $r] * $gradient[1] + $g[12 + $r] * $gradient[2] + $g[18 + $r] * $gradient[3] + $g[24 + $r] * $gradient[4] + $g[30 + $r] * $gradient[5];
            }
            $equations['blocks'][$i * $passes + $i] = $block;
            $equations['right'][$i] = $right;
            for ($r = 0; $r < 6; $r++) {
                for ($c = 0; $c < 6; $c++) {
                    $s = $inner[6 * $r + $c];
                    for ($k = 0; $k < $r; $k++) {
                        $s -= $l[6 * $r + $k] * $inner[6 * $k + $c];
                    }
                    $inner[6 * $r + $c] = $s / $l[7 * $r];
                }
            }
            $z[$i] = $inner;
        }
        $across = self::across($fit['frame'], $slopes);
        foreach ($z as $i => $a) {
            foreach ($z as $j => $b) {
                if ($j < $i) {
                    continue;
                }
                $key = $i * $passes + $j;
                $block = $equations['blocks'][$key] ?? array_fill(0, 36, 0.0);
                $noise = $equations['noise'][$key] ?? array_fill(0, 36, 0.0);
                $share = ($i === $j ? $moments[$i][0] : 0.0) - $moments[$i][0] * $moments[$j][0] / $all;
                for ($r = 0, $e = 0; $r < 6; $r++) {
                    $a0 = $a[$r];
                    $a1 = $a[6 + $r];
                    $a2 = $a[12 + $r];
                    $a3 = $a[18 + $r];
                    $a4 = $a[24 + $r];
                    $a5 = $a[30 + $r];
                    for ($c = 0; $c < 6; $c++, $e++) {
                        $block[$e] -= $a0 * $b[$c] + $a1 * $b[6 + $c] + $a2 * $b[12 + $c] + $a3 * $b[18 + $c] + $a4 * $b[24 + $c] + $a5 * $b[30 + $c];
                        $noise[$e] += $share * $across[$e];
                    }
                }
                $equations['blocks'][$key] = $block;
                $equations['noise'][$key] = $noise;
            }
        }
        $sum = self::sums($heights, 6);
        $equations['squares'] += max(0.0, array_sum($squares) - ($field[0] * $sum[0] + $field[1] * $sum[1] + $field[2] * $sum[2] + $field[3] * $sum[3] + $field[4] * $sum[4] + $field[5] * $sum[5]));
        $equations['freedoms'] += $count - 6;
        $equations['patches']++;
    }

    /**
     * Mean variance of the slopes along u and v over the points of a patch, for a variance of 1 of its heights: of h_u = (t1 + 2 t3 u + t4 v) / cell and h_v.
     *
     * @param  array<int, float>  $l
     * @param  array<int, list<float>>  $moments
     * @return array{float, float}
     */
    private static function slopeNoise(array $l, array $moments, float $cell): array
    {
        $c = array_map(fn (int $k) => self::solved($l, array_map(fn (int $i) => $i === $k ? 1.0 : 0.0, range(0, 5))), range(0, 5));
        $m = self::sums($moments, 6);
        $w = 1.0 / max(1e-300, $m[0]);
        [$u, $v, $uu, $uv, $vv] = [$m[1] * $w, $m[2] * $w, $m[3] * $w, $m[4] * $w, $m[5] * $w];
        $w = 1.0 / ($cell * $cell);

        return [
            $w * ($c[1][1] + 4.0 * $c[1][3] * $u + 2.0 * $c[1][4] * $v + 4.0 * $c[3][3] * $uu + 4.0 * $c[3][4] * $uv + $c[4][4] * $vv),
            $w * ($c[2][2] + 2.0 * $c[2][4] * $u + 4.0 * $c[2][5] * $v + $c[4][4] * $uu + 4.0 * $c[4][5] * $uv + 4.0 * $c[5][5] * $vv),
        ];
    }

    /**
     * What motions along the tangents of a patch would seem to be held by slopes of that variance.
     *
     * @param  list<float>  $frame
     * @param  array{float, float}  $slopes
     * @return list<float> 36
     */
    private static function across(array $frame, array $slopes): array
    {
        [$cx, $cy, $cz] = $frame;
        $sum = array_fill(0, 36, 0.0);
        foreach ([3, 6] as $k => $at) {
            [$x, $y, $z] = array_slice($frame, $at, 3);
            $a = [$cy * $z - $cz * $y, $cz * $x - $cx * $z, $cx * $y - $cy * $x, $x, $y, $z];
            for ($r = 0; $r < 6; $r++) {
                for ($c = 0; $c < 6; $c++) {
                    $sum[6 * $r + $c] += $slopes[$k] * $a[$r] * $a[$c];
                }
            }
        }

        return $sum;
    }
}
