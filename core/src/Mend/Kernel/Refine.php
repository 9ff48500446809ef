<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend\Kernel;

/**
 * Makes the triangles of a patch as large as those around it.
 *
 * Source    Liepa 2003, "Filling Holes in Meshes", section 4: split at centroids where triangles are too large, swap edges until Delaunay.
 * Departs   inside rims of more than LONG edges triangles grow with every step inwards: even ones would be as many as the square of the edges.
 *
 * @internal
 */
final class Refine
{
    private const LONG = 400;

    /** How much larger triangles may be a step farther from a rim e times as long as LONG. */
    private const GROWTH = 0.4;

    /**
     * @param  array<int, float>  $p  (changed) new vertices are appended
     * @param  list<int>  $faces  flat triangles of the patch
     * @param  array<int, float>  $scale  wanted edge length at each rim vertex, by vertex index
     * @param  array<int, bool>  $taken  edges of the mesh around that a swap may not make again
     * @return list<int> flat triangles
     */
    public static function run(array &$p, array $faces, array $scale, array $taken): array
    {
        $growth = 1.0 + self::GROWTH * log(max(1.0, count($scale) / self::LONG));
        for ($round = 0; $round < 14; $round++) {
            $before = count($faces);
            $faces = self::split($p, $faces, $scale, $growth);
            $faces = self::relax($p, $faces, $taken);
            if (count($faces) === $before) {
                break;
            }
        }

        return $faces;
    }

    /**
     * @param  array<int, float>  $p  (changed)
     * @param  list<int>  $f
     * @param  array<int, float>  $scale  (changed)
     * @return list<int>
     */
    private static function split(array &$p, array $f, array &$scale, float $growth): array
    {
        $out = [];
        for ($t = 0, $n = count($f); $t < $n; $t += 3) {
            $a = $f[$t];
            $b = $f[$t + 1];
            $c = $f[$t + 2];
            $x = ($p[3 * $a] + $p[3 * $b] + $p[3 * $c]) / 3.0;
            $y = ($p[3 * $a + 1] + $p[3 * $b + 1] + $p[3 * $c + 1]) / 3.0;
            $z = ($p[3 * $a + 2] + $p[3 * $b + 2] + $p[3 * $c + 2]) / 3.0;
            $s = ($scale[$a] + $scale[$b] + $scale[$c]) / 3.0;
            $split = true;
            for ($k = 0; $k < 3; $k++) {
                $v = $f[$t + $k];
                $d = 1.4142135623730951 * sqrt(($x - $p[3 * $v]) ** 2 + ($y - $p[3 * $v + 1]) ** 2 + ($z - $p[3 * $v + 2]) ** 2);
                if ($d <= $s || $d <= $scale[$v]) {
                    $split = false;
                    break;
                }
            }
            if (! $split) {
                array_push($out, $a, $b, $c);

                continue;
            }
            $m = intdiv(count($p), 3);
            array_push($p, $x, $y, $z);
            $scale[$m] = $growth * $s;
            array_push($out, $a, $b, $m, $b, $c, $m, $c, $a, $m);
        }

        return $out;
    }

    /**
     * Swaps interior edges whose opposite angles add up to more than 180 degrees.
     *
     * @param  array<int, float>  $p
     * @param  list<int>  $f
     * @param  array<int, bool>  $taken
     * @return list<int>
     */
    private static function relax(array $p, array $f, array $taken): array
    {
        $at = [];
        for ($h = 0, $n = count($f); $h < $n; $h++) {
            $at[$f[$h] << 32 | $f[$h % 3 === 2 ? $h - 2 : $h + 1]] = $h;
        }
        $queue = array_keys($at);
        $swaps = 0;
        $most = 20 * count($f);
        while ($queue !== [] && $swaps < $most) {
            $again = [];
            foreach ($queue as $key) {
                $a = $key >> 32;
                $b = $key & 0xFFFFFFFF;
                $h = $at[$key] ?? -1;
                $g = $at[$b << 32 | $a] ?? -1;
                if ($h < 0 || $g < 0 || $a > $b) {
                    continue;
                }
                $c = $f[$h % 3 === 0 ? $h + 2 : $h - 1];
                $d = $f[$g % 3 === 0 ? $g + 2 : $g - 1];
                if ($c === $d || isset($at[$c << 32 | $d]) || isset($at[$d << 32 | $c]) || isset($taken[$c < $d ? $c << 32 | $d : $d << 32 | $c])) {
                    continue;
                }
                if (self::angle($p, $c, $a, $b) + self::angle($p, $d, $a, $b) <= M_PI + 1e-9) {
                    continue;
                }
                // abc and bad become cad... : (a, d, c) and (d, b, c).
                $t = 3 * intdiv($h, 3);
                $u = 3 * intdiv($g, 3);
                unset($at[$key], $at[$b << 32 | $a]);
                $f[$t] = $a;
                $f[$t + 1] = $d;
                $f[$t + 2] = $c;
                $f[$u] = $d;
                $f[$u + 1] = $b;
                $f[$u + 2] = $c;
                foreach ([$t, $u] as $o) {
                    for ($k = 0; $k < 3; $k++) {
                        $at[$f[$o + $k] << 32 | $f[$o + ($k + 1) % 3]] = $o + $k;
                    }
                }
                foreach ([[$a, $d], [$d, $b], [$b, $c], [$c, $a]] as [$v, $w]) {
                    $again[] = $v < $w ? $v << 32 | $w : $w << 32 | $v;
                }
                $swaps++;
            }
            $queue = $again;
        }

        return $f;
    }

    /** @param  array<int, float>  $p */
    private static function angle(array $p, int $at, int $a, int $b): float
    {
        $o = 3 * $at;
        $i = 3 * $a;
        $j = 3 * $b;
        $ux = $p[$i] - $p[$o];
        $uy = $p[$i + 1] - $p[$o + 1];
        $uz = $p[$i + 2] - $p[$o + 2];
        $vx = $p[$j] - $p[$o];
        $vy = $p[$j + 1] - $p[$o + 1];
        $vz = $p[$j + 2] - $p[$o + 2];
        $x = $uy * $vz - $uz * $vy;
        $y = $uz * $vx - $ux * $vz;
        $z = $ux * $vy - $uy * $vx;

        return atan2(sqrt($x * $x + $y * $y + $z * $z), $ux * $vx + $uy * $vy + $uz * $vz);
    }
}
