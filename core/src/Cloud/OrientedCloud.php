<?php

declare(strict_types=1);

namespace Emberstone\Core\Cloud;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Foundation\Progress;

/** Gives every point of a cloud a normal that faces out of the object. */
final class OrientedCloud
{
    /**
     * Normals from the file where it has them; else by principal components of 16 neighbours, turned to the sensor where it
     * is known, else made consistent over the surface. Points come back sorted in space (a grid's slot order).
     *
     * @param  int|null  $most  no more points than this come back, evenly chosen; the neighbours are taken among all
     * @return array{cloud: PointCloud, spacing: float, order: array<int, int>, lean: array<int, float>, apart: array<int, float>, bend: array<int, float>, across: array<int, float>} spacing is the median distance between neighbours of what comes back; lean, bend, across and apart (there: spacing) as in PointGrid::neighbourhoods()
     */
    public static function of(PointCloud $cloud, int $neighbours = 16, ?int $most = null): array
    {
        $grid = PointGrid::of($cloud->positions);
        $sorted = $grid->sorted;
        $order = $grid->order;
        $step = $most === null ? 1 : intdiv($grid->count() - 1, $most) + 1;
        $slots = null;
        if ($step > 1) {
            $slots = range(0, $grid->count() - 1, $step);
            $sorted = array_merge(...array_map(fn (int $slot) => [$grid->sorted[3 * $slot], $grid->sorted[3 * $slot + 1], $grid->sorted[3 * $slot + 2]], $slots));
            $order = array_map(fn (int $slot) => $grid->order[$slot], $slots);
        }
        $near = $grid->neighbourhoods($neighbours, $slots);
        if ($cloud->normals !== []) {
            $normals = array_fill(0, count($sorted), 0.0);
            $n = $cloud->normals;
            foreach ($order as $slot => $i) {
                $normals[3 * $slot] = $n[3 * $i];
                $normals[3 * $slot + 1] = $n[3 * $i + 1];
                $normals[3 * $slot + 2] = $n[3 * $i + 2];
            }
        } else {
            $normals = $near['normals'];
            if ($cloud->sensorOrigin !== null) {
                self::faceSensor($sorted, $normals, $cloud->sensorOrigin);
            } else {
                self::agree($sorted, $normals, 3.0 * sqrt($step) * $grid->cell);
            }
        }

        return [
            'cloud' => PointCloud::fromFlat($sorted, $normals, [], $cloud->sensorOrigin),
            // On a surface.
            'spacing' => sqrt($step) * $grid->medianSpacing(500),
            'order' => $order,
            'lean' => $near['lean'],
            'apart' => $near['spacing'],
            'bend' => $near['bend'],
            'across' => $near['across'],
        ];
    }

    /**
     * Normals for many clouds, spread over the cores.
     *
     * @param  list<callable(): PointCloud>  $clouds  asked for in the process that works on them, so that no more are in memory than there are processes
     * @param  int|null  $most  points that come back of each; see of()
     * @return list<array{cloud: PointCloud, spacing: float, noise: float, lean: array<int, float>, apart: array<int, float>, bend: array<int, float>}> noise: median distance of points from the plane of their neighbours (RMS of each neighbourhood), in the cloud's unit
     */
    public static function each(array $clouds, Progress $progress, ?int $most = null): array
    {
        $tasks = array_map(fn (callable $cloud) => function () use ($cloud, $most): string {
            $result = self::of($cloud(), most: $most);

            return pack('e5', $result['spacing'], Median::of(array_values($result['across'])), ...($result['cloud']->sensorOrigin ?? [NAN, NAN, NAN])).Packed::doubles($result['cloud']->positions).Packed::doubles($result['cloud']->normals).Packed::doubles($result['lean']).Packed::doubles($result['apart']).Packed::doubles($result['bend']);
        }, $clouds);
        $oriented = [];
        foreach (Fork::map($tasks, Cores::count(), $progress, 'normals') as $bytes) {
            $at = 5 * 8;
            $part = intdiv(strlen($bytes) - $at, 9);
            [$spacing, $noise, $x, $y, $z] = Packed::toDoubles(substr($bytes, 0, $at));
            $oriented[] = [
                'cloud' => PointCloud::fromFlat(Packed::toDoubles(substr($bytes, $at, 3 * $part)), Packed::toDoubles(substr($bytes, $at + 3 * $part, 3 * $part)), [], is_nan($x) ? null : [$x, $y, $z]),
                'spacing' => $spacing,
                'noise' => $noise,
                'lean' => Packed::toDoubles(substr($bytes, $at + 6 * $part, $part)),
                'apart' => Packed::toDoubles(substr($bytes, $at + 7 * $part, $part)),
                'bend' => Packed::toDoubles(substr($bytes, $at + 8 * $part)),
            ];
        }

        return $oriented;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, float>  $n  (changed)
     * @param  array{float, float, float}  $sensor
     */
    private static function faceSensor(array $p, array &$n, array $sensor): void
    {
        [$x, $y, $z] = $sensor;
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            if ($n[$o] * ($x - $p[$o]) + $n[$o + 1] * ($y - $p[$o + 1]) + $n[$o + 2] * ($z - $p[$o + 2]) < 0.0) {
                $n[$o] = -$n[$o];
                $n[$o + 1] = -$n[$o + 1];
                $n[$o + 2] = -$n[$o + 2];
            }
        }
    }

    /**
     * Makes normals agree between neighbours: a spanning tree over coarse cells, flattest junctions first.
     *
     * Source    Hoppe et al. 1992, "Surface Reconstruction from Unorganized Points", section 3.3, on cells in place of points.
     *
     * @param  array<int, float>  $p
     * @param  array<int, float>  $n  (changed)
     */
    private static function agree(array $p, array &$n, float $cell): void
    {
        $w = 1.0 / $cell;
        $index = $sum = $members = [];
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $key = (((int) floor($p[$o] * $w) + 1048576) << 42) | (((int) floor($p[$o + 1] * $w) + 1048576) << 21) | ((int) floor($p[$o + 2] * $w) + 1048576);
            $c = $index[$key] ??= count($index);
            $members[$c][] = $o;
            if (! isset($sum[$c])) {
                $sum[$c] = [$n[$o], $n[$o + 1], $n[$o + 2]];

                continue;
            }
            $s = $sum[$c][0] * $n[$o] + $sum[$c][1] * $n[$o + 1] + $sum[$c][2] * $n[$o + 2] < 0.0 ? -1.0 : 1.0;
            $n[$o] *= $s;
            $n[$o + 1] *= $s;
            $n[$o + 2] *= $s;
            $sum[$c][0] += $n[$o];
            $sum[$c][1] += $n[$o + 1];
            $sum[$c][2] += $n[$o + 2];
        }
        $keys = array_keys($index);
        $done = [];
        $flip = [];
        $queue = new \SplPriorityQueue;
        // The topmost cell of each connected part looks up.
        $tops = [];
        foreach ($keys as $c => $key) {
            $tops[$c] = $p[$members[$c][0] + 2];
        }
        arsort($tops);
        foreach (array_keys($tops) as $seed) {
            if (isset($done[$seed])) {
                continue;
            }
            $queue->insert([$seed, $sum[$seed][2] < 0.0 ? -1.0 : 1.0], 0.0);
            while (! $queue->isEmpty()) {
                [$c, $sign] = $queue->extract();
                if (isset($done[$c])) {
                    continue;
                }
                $done[$c] = true;
                $flip[$c] = $sign;
                $a = $sum[$c];
                $la = sqrt($a[0] ** 2 + $a[1] ** 2 + $a[2] ** 2) ?: 1.0;
                for ($k = 0; $k < 27; $k++) {
                    $near = $keys[$c] + ((intdiv($k, 9) - 1) << 42) + ((intdiv($k, 3) % 3 - 1) << 21) + ($k % 3 - 1);
                    $d = $index[$near] ?? null;
                    if ($d === null || isset($done[$d])) {
                        continue;
                    }
                    $b = $sum[$d];
                    $dot = ($a[0] * $b[0] + $a[1] * $b[1] + $a[2] * $b[2]) / $la / (sqrt($b[0] ** 2 + $b[1] ** 2 + $b[2] ** 2) ?: 1.0);
                    $queue->insert([$d, $dot < 0.0 ? -$sign : $sign], abs($dot));
                }
            }
        }
        foreach ($members as $c => $offsets) {
            if ($flip[$c] > 0.0) {
                continue;
            }
            foreach ($offsets as $o) {
                $n[$o] = -$n[$o];
                $n[$o + 1] = -$n[$o + 1];
                $n[$o + 2] = -$n[$o + 2];
            }
        }
    }
}
