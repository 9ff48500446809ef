<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Icp;

use Emberstone\Core\Algorithms\Search\LatticeKeys;

/**
 * What the surface looks like around a point, in numbers that do not change when it is turned or moved.
 *
 * Source    fast point feature histograms (Rusu, Blodow, Beetz 2009): three angles between a point's normal and those around it, eleven
 *           bins each; the histograms of the neighbours are added with weights that fall with their distance.
 *
 * @internal
 */
final class FpfhDescriptors
{
    public const BINS = 33;

    /**
     * @param  array<int, float>  $p  flat xyz, evenly spread
     * @param  array<int, float>  $n  unit normals that face out of the object
     * @return array<int, float> BINS numbers a point; each eleven of them sum up to one, or to nothing where a point has no neighbours
     */
    public static function of(array $p, array $n, float $radius): array
    {
        $count = intdiv(count($p), 3);
        [$first, $near] = self::neighbours($p, $radius);
        $own = array_fill(0, self::BINS * $count, 0.0);
        for ($i = 0; $i < $count; $i++) {
            $a = 3 * $i;
            $x = $p[$a];
            $y = $p[$a + 1];
            $z = $p[$a + 2];
            $ux = $n[$a];
            $uy = $n[$a + 1];
            $uz = $n[$a + 2];
            $from = $first[$i];
            $to = $first[$i + 1];
            if ($from === $to) {
                continue;
            }
            $one = 1.0 / ($to - $from);
            $at = self::BINS * $i;
            for ($k = $from; $k < $to; $k++) {
                $b = 3 * $near[$k];
                $dx = $p[$b] - $x;
                $dy = $p[$b + 1] - $y;
                $dz = $p[$b + 2] - $z;
                $l = 1.0 / sqrt($dx * $dx + $dy * $dy + $dz * $dz);
                $dx *= $l;
                $dy *= $l;
                $dz *= $l;
                // Darboux frame: u the normal, v square to it and to the way there, w the third.
                $vx = $dy * $uz - $dz * $uy;
                $vy = $dz * $ux - $dx * $uz;
                $vz = $dx * $uy - $dy * $ux;
                $l = sqrt($vx * $vx + $vy * $vy + $vz * $vz);
                if ($l < 1e-9) {
                    continue;
                }
                $l = 1.0 / $l;
                $vx *= $l;
                $vy *= $l;
                $vz *= $l;
                $mx = $n[$b];
                $my = $n[$b + 1];
                $mz = $n[$b + 2];
                $alpha = $vx * $mx + $vy * $my + $vz * $mz;
                $phi = $ux * $dx + $uy * $dy + $uz * $dz;
                $theta = atan2(($uy * $vz - $uz * $vy) * $mx + ($uz * $vx - $ux * $vz) * $my + ($ux * $vy - $uy * $vx) * $mz, $ux * $mx + $uy * $my + $uz * $mz);
                $bin = (int) (($alpha + 1.0) * 5.5);
                $own[$at + ($bin > 10 ? 10 : $bin)] += $one;
                $bin = (int) (($phi + 1.0) * 5.5);
                $own[$at + 11 + ($bin > 10 ? 10 : $bin)] += $one;
                $bin = (int) (($theta / M_PI + 1.0) * 5.5);
                $own[$at + 22 + ($bin > 10 ? 10 : $bin)] += $one;
            }
        }
        $all = $own;
        for ($i = 0; $i < $count; $i++) {
            $a = 3 * $i;
            $from = $first[$i];
            $to = $first[$i + 1];
            if ($from === $to) {
                continue;
            }
            $at = self::BINS * $i;
            for ($k = $from; $k < $to; $k++) {
                $j = $near[$k];
                $b = 3 * $j;
                $dx = $p[$b] - $p[$a];
                $dy = $p[$b + 1] - $p[$a + 1];
                $dz = $p[$b + 2] - $p[$a + 2];
                $w = $radius / sqrt($dx * $dx + $dy * $dy + $dz * $dz) / ($to - $from);
                $j *= self::BINS;
                for ($c = 0; $c < self::BINS; $c++) {
                    $all[$at + $c] += $w * $own[$j + $c];
                }
            }
            for ($block = $at; $block < $at + self::BINS; $block += 11) {
                $sum = 0.0;
                for ($c = $block; $c < $block + 11; $c++) {
                    $sum += $all[$c];
                }
                $w = $sum > 0.0 ? 1.0 / $sum : 0.0;
                for ($c = $block; $c < $block + 11; $c++) {
                    $all[$c] *= $w;
                }
            }
        }

        return $all;
    }

    /**
     * All other points within the radius of each, by cells of its size.
     *
     * @param  array<int, float>  $p
     * @return array{list<int>, list<int>} where each point's neighbours begin (one entry more than points), neighbours
     */
    private static function neighbours(array $p, float $radius): array
    {
        $count = intdiv(count($p), 3);
        $names = LatticeKeys::of($p, $radius);
        $cells = $key = [];
        for ($i = 0, $o = 0; $i < $count; $i++, $o += 3) {
            $k = $names->at($p[$o], $p[$o + 1], $p[$o + 2]);
            $key[] = $k;
            $cells[$k][] = $i;
        }
        $around = [];
        for ($dx = -1; $dx <= 1; $dx++) {
            for ($dy = -1; $dy <= 1; $dy++) {
                for ($dz = -1; $dz <= 1; $dz++) {
                    $around[] = $dx * $names->layer + $dy * $names->row + $dz;
                }
            }
        }
        $first = $near = [];
        $most = $radius * $radius;
        for ($i = 0, $o = 0; $i < $count; $i++, $o += 3) {
            $first[] = count($near);
            foreach ($around as $step) {
                foreach ($cells[$key[$i] + $step] ?? [] as $j) {
                    $dx = $p[3 * $j] - $p[$o];
                    $dy = $p[3 * $j + 1] - $p[$o + 1];
                    $dz = $p[3 * $j + 2] - $p[$o + 2];
                    $d = $dx * $dx + $dy * $dy + $dz * $dz;
                    if ($d < $most && $d > 0.0) {
                        $near[] = $j;
                    }
                }
            }
        }
        $first[] = count($near);

        return [$first, $near];
    }
}
