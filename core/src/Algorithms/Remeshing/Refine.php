<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

/**
 * Makes the triangles of a patch as large as those around it.
 *
 * Source    Liepa 2003, "Filling Holes in Meshes", section 4: split at centroids where triangles are too large, swap edges until Delaunay.
 * Departs   inside rims of more than LONG edges triangles grow with their distance from the rim: even ones would be as many as the square of the edges.
 *
 * @internal
 */
final class Refine
{
    private const LONG = 300;

    private const ROUNDS = 20;

    /** So much larger may a triangle be for every mm that it is farther from the rim, a rim edge over LONG: some 10,000 vertices in all. */
    private const GROWTH = 1.0 / 6500.0;

    /**
     * @param  array<int, float>  $p  (changed) new vertices are appended
     * @param  list<int>  $faces  flat triangles of the patch
     * @param  array<int, float>  $scale  wanted edge length at each rim vertex, by vertex index
     * @param  array<int, bool>  $taken  edges of the mesh around that a swap may not make again
     * @return list<int> flat triangles
     */
    public static function run(array &$p, array $faces, array $scale, array $taken): array
    {
        $growth = self::GROWTH * max(0, count($scale) - self::LONG);
        $at = [];
        for ($h = 0, $n = count($faces); $h < $n; $h++) {
            $at[$faces[$h] << 32 | $faces[$h % 3 === 2 ? $h - 2 : $h + 1]] = $h;
        }
        // What was not touched since it was swapped last is as good as it was: only the edges of triangles that were split are looked at again.
        $queue = array_keys($at);
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $before = count($faces);
            $queue = [...$queue, ...self::split($p, $faces, $at, $scale, $growth)];
            self::relax($p, $faces, $at, $queue, $taken);
            $queue = [];
            if (count($faces) === $before) {
                break;
            }
        }

        return array_values($faces);
    }

    /**
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, int>  $f  (changed) a split triangle keeps its place and its first edge
     * @param  array<int, int>  $at  (changed) half-edge by from << 32 | to
     * @param  array<int, float>  $scale  (changed)
     * @return list<int> edges of the split triangles
     */
    private static function split(array &$p, array &$f, array &$at, array &$scale, float $growth): array
    {
        [$P, $F, $A, $S] = [$p, $f, $at, $scale];
        $p = $f = $at = $scale = [];
        $touched = [];
        for ($t = 0, $n = count($F); $t < $n; $t += 3) {
            $a = $F[$t];
            $b = $F[$t + 1];
            $c = $F[$t + 2];
            $i = 3 * $a;
            $j = 3 * $b;
            $k = 3 * $c;
            $x = ($P[$i] + $P[$j] + $P[$k]) / 3.0;
            $y = ($P[$i + 1] + $P[$j + 1] + $P[$k + 1]) / 3.0;
            $z = ($P[$i + 2] + $P[$j + 2] + $P[$k + 2]) / 3.0;
            $s = ($S[$a] + $S[$b] + $S[$c]) / 3.0;
            if (self::isNear($P, $i, $x, $y, $z, $s, $S[$a]) || self::isNear($P, $j, $x, $y, $z, $s, $S[$b]) || self::isNear($P, $k, $x, $y, $z, $s, $S[$c])) {
                continue;
            }
            $m = intdiv(count($P), 3);
            $P[] = $x;
            $P[] = $y;
            $P[] = $z;
            $S[$m] = $growth > 0.0 ? self::size($P, $S, $m, $a, $b, $c, $growth) : $s;
            $o = count($F);
            $F[$t + 2] = $m;
            $F[] = $b;
            $F[] = $c;
            $F[] = $m;
            $F[] = $c;
            $F[] = $a;
            $F[] = $m;
            $A[$b << 32 | $m] = $t + 1;
            $A[$m << 32 | $a] = $t + 2;
            $A[$b << 32 | $c] = $o;
            $A[$c << 32 | $m] = $o + 1;
            $A[$m << 32 | $b] = $o + 2;
            $A[$c << 32 | $a] = $o + 3;
            $A[$a << 32 | $m] = $o + 4;
            $A[$m << 32 | $c] = $o + 5;
            $touched[] = $a < $b ? $a << 32 | $b : $b << 32 | $a;
            $touched[] = $b < $c ? $b << 32 | $c : $c << 32 | $b;
            $touched[] = $c < $a ? $c << 32 | $a : $a << 32 | $c;
            $touched[] = $a << 32 | $m;
            $touched[] = $b << 32 | $m;
            $touched[] = $c << 32 | $m;
        }
        [$p, $f, $at, $scale] = [$P, $F, $A, $S];

        return $touched;
    }

    /**
     * The edge length wanted at a new vertex: no corner of its triangle lets it be larger than its own one and what the way from it allows.
     *
     * @param  array<int, float>  $P
     * @param  array<int, float>  $S
     */
    private static function size(array $P, array $S, int $m, int $a, int $b, int $c, float $growth): float
    {
        $o = 3 * $m;
        $least = INF;
        foreach ([$a, $b, $c] as $v) {
            $q = 3 * $v;
            $least = min($least, $S[$v] + $growth * sqrt(($P[$q] - $P[$o]) ** 2 + ($P[$q + 1] - $P[$o + 1]) ** 2 + ($P[$q + 2] - $P[$o + 2]) ** 2));
        }

        return $least;
    }

    /**
     * Is the middle of a triangle too near to a corner of it for another vertex to stand there?
     *
     * @param  array<int, float>  $P
     */
    private static function isNear(array $P, int $o, float $x, float $y, float $z, float $mean, float $own): bool
    {
        $x -= $P[$o];
        $y -= $P[$o + 1];
        $z -= $P[$o + 2];
        $d = 2.0 * ($x * $x + $y * $y + $z * $z);

        return $d <= $mean * $mean || $d <= $own * $own;
    }

    /**
     * Swaps interior edges whose opposite angles add up to more than 180 degrees.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f  (changed)
     * @param  array<int, int>  $at  (changed)
     * @param  list<int>  $queue  edges to look at, from the lower vertex; those around a swap are looked at again
     * @param  array<int, bool>  $taken
     */
    private static function relax(array $p, array &$f, array &$at, array $queue, array $taken): void
    {
        [$F, $A] = [$f, $at];
        $f = $at = [];
        $swaps = 0;
        $most = 20 * count($F);
        while ($queue !== [] && $swaps < $most) {
            $again = [];
            foreach ($queue as $key) {
                $a = $key >> 32;
                $b = $key & 0xFFFFFFFF;
                $h = $A[$key] ?? -1;
                $g = $A[$b << 32 | $a] ?? -1;
                if ($h < 0 || $g < 0 || $a > $b) {
                    continue;
                }
                $c = $F[$h % 3 === 0 ? $h + 2 : $h - 1];
                $d = $F[$g % 3 === 0 ? $g + 2 : $g - 1];
                if ($c === $d || ! self::isBeyond($p, $a, $b, $c, $d) || isset($A[$c << 32 | $d]) || isset($A[$d << 32 | $c]) || isset($taken[$c < $d ? $c << 32 | $d : $d << 32 | $c])) {
                    continue;
                }
                // abc and bad become adc and dbc.
                $t = $h - $h % 3;
                $u = $g - $g % 3;
                unset($A[$key], $A[$b << 32 | $a]);
                $F[$t] = $a;
                $F[$t + 1] = $d;
                $F[$t + 2] = $c;
                $F[$u] = $d;
                $F[$u + 1] = $b;
                $F[$u + 2] = $c;
                $A[$a << 32 | $d] = $t;
                $A[$d << 32 | $c] = $t + 1;
                $A[$c << 32 | $a] = $t + 2;
                $A[$d << 32 | $b] = $u;
                $A[$b << 32 | $c] = $u + 1;
                $A[$c << 32 | $d] = $u + 2;
                $again[] = $a < $d ? $a << 32 | $d : $d << 32 | $a;
                $again[] = $d < $b ? $d << 32 | $b : $b << 32 | $d;
                $again[] = $b < $c ? $b << 32 | $c : $c << 32 | $b;
                $again[] = $c < $a ? $c << 32 | $a : $a << 32 | $c;
                $swaps++;
            }
            $queue = $again;
        }
        [$f, $at] = [$F, $A];
    }

    /**
     * Do the angles at c and d across the edge ab add up to more than 180 degrees? Their sine is less than nothing then; no arc is taken.
     *
     * @param  array<int, float>  $p
     */
    private static function isBeyond(array $p, int $a, int $b, int $c, int $d): bool
    {
        $a *= 3;
        $b *= 3;
        $c *= 3;
        $d *= 3;
        $ux = $p[$a] - $p[$c];
        $uy = $p[$a + 1] - $p[$c + 1];
        $uz = $p[$a + 2] - $p[$c + 2];
        $vx = $p[$b] - $p[$c];
        $vy = $p[$b + 1] - $p[$c + 1];
        $vz = $p[$b + 2] - $p[$c + 2];
        $x = $uy * $vz - $uz * $vy;
        $y = $uz * $vx - $ux * $vz;
        $z = $ux * $vy - $uy * $vx;
        $sine = sqrt($x * $x + $y * $y + $z * $z);
        $cosine = $ux * $vx + $uy * $vy + $uz * $vz;
        $ux = $p[$a] - $p[$d];
        $uy = $p[$a + 1] - $p[$d + 1];
        $uz = $p[$a + 2] - $p[$d + 2];
        $vx = $p[$b] - $p[$d];
        $vy = $p[$b + 1] - $p[$d + 1];
        $vz = $p[$b + 2] - $p[$d + 2];
        $x = $uy * $vz - $uz * $vy;
        $y = $uz * $vx - $ux * $vz;
        $z = $ux * $vy - $uy * $vx;
        $other = sqrt($x * $x + $y * $y + $z * $z);
        $across = $ux * $vx + $uy * $vy + $uz * $vz;

        // Each stands for a length times the sine or cosine; nearly equal ones do not swap, or they would swap back.
        return $sine * $across + $cosine * $other < -1e-9 * sqrt(($sine * $sine + $cosine * $cosine) * ($other * $other + $across * $across));
    }
}
