<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

use Emberstone\Core\Algorithms\HalfEdge\DisjointSets;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Remeshing\Fair;

/**
 * Closes the gaps of a surface inside its volume: voxels that nothing was seen of take the smoothest values between those around them. Ragged
 * gaps, gaps that touch and gaps with shreds between them close as one, whatever way their rims run.
 *
 * Source    Davis, Marschner, Garr & Levoy 2002, "Filling holes in complex surfaces using volumetric diffusion".
 * Departs   the diffusion is solved to its end (Laplace's equation, by successive over-relaxation) in a box around each gap; the membrane
 *           that comes of it then takes the slopes of its rim (see Fair).
 *
 * @internal
 */
final class Gaps
{
    /** Weight of a voxel that was made up here. */
    private const MADE = 1e-30;

    /** Room around a rim, in voxels: over the reach of points beyond the rim. */
    private const ROOM = 4;

    /** More voxels than these in a box, or in boxes that touch, and patches are cheaper. */
    private const MOST = 120_000;

    private const MOST_TOGETHER = 500_000;

    /** Steps of the solver; and the change, in voxels, that is none. */
    private const STEPS = 400;

    private const STILL = 0.004;

    /**
     * @param  array{positions: array<int, float>, quads: array<int, int>, support: array<int, int>, cells: array<int, float>}  $surface  of this volume
     * @param  float  $widest  rims of a larger diameter stay open, mm
     * @param  callable(float): void  $breathe  told how much is done; may throw to stop
     * @return array{array{positions: array<int, float>, quads: array<int, int>, support: array<int, int>, cells: array<int, float>}, array<int, int>} and, by number, the vertices that were made up
     */
    public static function closed(Volume $volume, array $surface, float $widest, callable $breathe): array
    {
        $groups = self::together(self::boxes($volume, $surface, $widest));
        if ($groups === []) {
            return [$surface, []];
        }
        self::forget($volume, $surface['cells'], $surface['quads']);
        foreach ($groups as $k => $boxes) {
            self::solve($volume, self::unknown($volume, $boxes));
            $breathe(0.7 * ($k + 1) / count($groups));
        }

        return self::withoutFlaps($volume, DualSurface::extract($volume));
    }

    /**
     * Moves the made-up vertices so that they take up the slopes of what is around them.
     *
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, int>  $faces
     * @param  array<int, int>  $support  0 for the vertices to move
     * @param  callable(): void  $breathe
     * @return bool false when that could not be solved: see Fair
     */
    public static function smooth(array &$p, array $faces, array $support, callable $breathe): bool
    {
        $ring = [];
        $wanted = array_fill_keys(array_keys($support, 0, true), true);
        $free = array_keys($wanted);
        // The free vertices and two rings around them.
        for ($depth = 0; $depth < 3; $depth++) {
            $next = [];
            for ($t = 0, $n = count($faces); $t < $n; $t += 3) {
                [$a, $b, $c] = [$faces[$t], $faces[$t + 1], $faces[$t + 2]];
                foreach ([[$a, $b, $c], [$b, $c, $a], [$c, $a, $b]] as [$v, $u, $w]) {
                    if (isset($wanted[$v])) {
                        $ring[$v][$u] = $ring[$v][$w] = true;
                        $next[$u] = $next[$w] = true;
                    }
                }
            }
            $wanted = array_diff_key($next, $ring);
        }

        return Fair::run($p, array_map(array_keys(...), $ring), $free, 2, $breathe);
    }

    /**
     * A box of voxels around each rim that is to be closed here: its lowest and its highest voxel.
     *
     * @param  array{positions: array<int, float>, quads: array<int, int>, support: array<int, int>, cells: array<int, float>}  $surface
     * @return list<array{list<int>, list<int>}>
     */
    private static function boxes(Volume $volume, array $surface, float $widest): array
    {
        $faces = Sharpen::triangles($surface['quads'], $surface['positions']);
        $start = [$volume->x0, $volume->y0, $volume->z0];
        $last = [8 * $volume->bx - 1, 8 * $volume->by - 1, 8 * $volume->bz - 1];
        $boxes = [];
        foreach (Topology::rims($faces, Topology::twins($faces)) as $rim) {
            $low = [INF, INF, INF];
            $high = [-INF, -INF, -INF];
            foreach ($rim as $v) {
                for ($c = 0; $c < 3; $c++) {
                    $x = $surface['positions'][3 * $v + $c];
                    $low[$c] = min($low[$c], $x);
                    $high[$c] = max($high[$c], $x);
                }
            }
            if (sqrt(($high[0] - $low[0]) ** 2 + ($high[1] - $low[1]) ** 2 + ($high[2] - $low[2]) ** 2) > $widest) {
                continue;
            }
            $from = $to = [];
            for ($c = 0; $c < 3; $c++) {
                $from[] = max(0, (int) (($low[$c] - $start[$c]) / $volume->voxel) - self::ROOM);
                $to[] = min($last[$c], (int) (($high[$c] - $start[$c]) / $volume->voxel) + 1 + self::ROOM);
            }
            if (self::size([$from, $to]) <= self::MOST) {
                $boxes[] = [$from, $to];
            }
        }

        return $boxes;
    }

    /** @param  array{list<int>, list<int>}  $box */
    private static function size(array $box): int
    {
        return ($box[1][0] - $box[0][0] + 1) * ($box[1][1] - $box[0][1] + 1) * ($box[1][2] - $box[0][2] + 1);
    }

    /**
     * Boxes that overlap are solved as one.
     *
     * @param  list<array{list<int>, list<int>}>  $boxes
     * @return list<list<array{list<int>, list<int>}>>
     */
    private static function together(array $boxes): array
    {
        usort($boxes, fn (array $a, array $b) => $a[0][0] <=> $b[0][0]);
        $joined = new DisjointSets(array_keys($boxes));
        foreach ($boxes as $i => [$from, $to]) {
            for ($j = $i + 1, $n = count($boxes); $j < $n && $boxes[$j][0][0] <= $to[0] + 1; $j++) {
                [$low, $high] = $boxes[$j];
                if ($low[1] <= $to[1] + 1 && $from[1] <= $high[1] + 1 && $low[2] <= $to[2] + 1 && $from[2] <= $high[2] + 1) {
                    $joined->join($i, $j);
                }
            }
        }
        $groups = [];
        foreach ($boxes as $i => $box) {
            $groups[$joined->of($i)][] = $box;
        }

        return array_values(array_filter($groups, fn (array $of) => array_sum(array_map(self::size(...), $of)) <= self::MOST_TOGETHER));
    }

    /**
     * Keeps only the corners of the cells that the surface passes through as seen. What points say of voxels farther off is worth less than
     * what the solution says: beyond an edge whose other side nobody saw they lead the surface on into the air.
     *
     * @param  array<int, float>  $cells
     * @param  array<int, int>  $quads
     */
    private static function forget(Volume $volume, array $cells, array $quads): void
    {
        $firm = str_repeat("\0", 512 * count($volume->blocks));
        $used = str_repeat("\0", intdiv(count($cells), 3));
        foreach ($quads as $v) {
            $used[$v] = "\1";
        }
        for ($v = 0, $n = strlen($used); $v < $n; $v++) {
            foreach ($used[$v] === "\1" ? self::corners($volume, $cells, 3 * $v) : [] as $k) {
                $firm[$k] = "\1";
            }
        }
        for ($k = 0, $n = strlen($firm); $k < $n; $k++) {
            if ($firm[$k] === "\0") {
                $volume->weight[$k] = 0.0;
            }
        }
    }

    /**
     * The voxels in these boxes that nothing was seen of, with a number each; blocks that are missing are made.
     *
     * @param  list<array{list<int>, list<int>}>  $boxes
     * @return array<int, int> by voxel
     */
    private static function unknown(Volume $volume, array $boxes): array
    {
        $unknown = [];
        foreach ($boxes as [[$ax, $ay, $az], [$ex, $ey, $ez]]) {
            for ($x = $ax; $x <= $ex; $x++) {
                for ($y = $ay; $y <= $ey; $y++) {
                    for ($z = $az; $z <= $ez; $z++) {
                        $t = (($x >> 3) * $volume->by + ($y >> 3)) * $volume->bz + ($z >> 3);
                        if ($volume->top[$t] < 0) {
                            self::allocate($volume, $t);
                        }
                        $k = $volume->top[$t] << 9 | ($z & 7) << 6 | ($y & 7) << 3 | ($x & 7);
                        if ($volume->weight[$k] <= 0.0 && ! isset($unknown[$k])) {
                            $unknown[$k] = count($unknown);
                        }
                    }
                }
            }
        }

        return $unknown;
    }

    private static function allocate(Volume $volume, int $entry): void
    {
        $volume->top[$entry] = count($volume->blocks);
        $volume->blocks[] = $entry;
        for ($k = 0; $k < 512; $k++) {
            $volume->distance[] = 0.0;
            $volume->weight[] = 0.0;
            $volume->seen[] = 0;
        }
    }

    /**
     * Laplace's equation at the unknown voxels: seen voxels around them hold their values, and across the walls of the boxes nothing flows.
     *
     * @param  array<int, int>  $unknown  number by voxel
     */
    private static function solve(Volume $volume, array $unknown): void
    {
        $n = count($unknown);
        // Six neighbours each: the number of an unknown one, or n, which holds 0 and counts for nothing.
        $near = [];
        $base = array_fill(0, $n, 0.0);
        $share = array_fill(0, $n, 0.0);
        foreach ($unknown as $k => $i) {
            $many = 0;
            foreach ([[-1, 0, 0], [1, 0, 0], [0, -1, 0], [0, 1, 0], [0, 0, -1], [0, 0, 1]] as [$dx, $dy, $dz]) {
                $o = $volume->neighbour($k, $dx, $dy, $dz);
                $near[] = $o < 0 ? $n : $unknown[$o] ?? $n;
                if ($o >= 0 && isset($unknown[$o])) {
                    $many++;
                } elseif ($o >= 0 && $volume->weight[$o] > 0.0) {
                    $base[$i] += $volume->distance[$o];
                    $many++;
                }
            }
            $share[$i] = $many > 0 ? 1.0 / $many : 0.0;
        }
        $x = self::relax($near, $base, $share, self::STILL * $volume->voxel);
        foreach ($unknown as $k => $i) {
            $volume->distance[$k] = $x[$i];
            $volume->weight[$k] = self::MADE;
        }
    }

    /**
     * @param  list<int>  $near  six an unknown
     * @param  array<int, float>  $base  sum of the known values beside each
     * @param  array<int, float>  $share  one over the number of all values beside each
     * @return array<int, float>
     */
    private static function relax(array $near, array $base, array $share, float $still): array
    {
        $n = count($base);
        $x = array_fill(0, $n + 1, 0.0);
        // Suits a box of some n voxels (Young's factor for a cube).
        $omega = 2.0 / (1.0 + sin(M_PI / max(3.0, $n ** (1.0 / 3.0))));
        for ($step = 0; $step < self::STEPS; $step++) {
            $largest = 0.0;
            for ($i = 0, $o = 0; $i < $n; $i++, $o += 6) {
                $d = $omega * ($share[$i] * ($base[$i] + $x[$near[$o]] + $x[$near[$o + 1]] + $x[$near[$o + 2]] + $x[$near[$o + 3]] + $x[$near[$o + 4]] + $x[$near[$o + 5]]) - $x[$i]);
                $x[$i] += $d;
                $d = $d < 0.0 ? -$d : $d;
                if ($d > $largest) {
                    $largest = $d;
                }
            }
            if ($largest < $still) {
                break;
            }
        }

        return $x;
    }

    /**
     * Takes off of what was made up what ends in the open: beside a rim that stays the solution goes on to the wall of its box.
     *
     * @param  array{positions: array<int, float>, quads: array<int, int>, support: array<int, int>, cells: array<int, float>}  $surface
     * @return array{array{positions: array<int, float>, quads: array<int, int>, support: array<int, int>, cells: array<int, float>}, array<int, int>} see closed()
     */
    private static function withoutFlaps(Volume $volume, array $surface): array
    {
        $made = [];
        for ($v = 0, $n = count($surface['support']); $v < $n; $v++) {
            if (self::isMade($volume, $surface['cells'], 3 * $v)) {
                $made[] = $v;
            }
        }
        $joined = new DisjointSets($made);
        $quads = $surface['quads'];
        $half = [];
        foreach ($quads as $h => $v) {
            $w = $quads[$h % 4 === 3 ? $h - 3 : $h + 1];
            if ($joined->has($v) || $joined->has($w)) {
                $half[$v << 32 | $w] = true;
            }
            if ($joined->has($v) && $joined->has($w)) {
                $joined->join($v, $w);
            }
        }
        $open = [];
        foreach ($half as $edge => $_) {
            [$v, $w] = [$edge >> 32, $edge & 0xFFFFFFFF];
            if (! isset($half[$w << 32 | $v])) {
                $open[$joined->of($joined->has($v) ? $v : $w)] = true;
            }
        }
        $kept = [];
        for ($q = 0, $n = count($quads); $q < $n; $q += 4) {
            foreach ([$quads[$q], $quads[$q + 1], $quads[$q + 2], $quads[$q + 3]] as $v) {
                if ($joined->has($v) && isset($open[$joined->of($v)])) {
                    continue 2;
                }
            }
            array_push($kept, $quads[$q], $quads[$q + 1], $quads[$q + 2], $quads[$q + 3]);
        }

        return [['quads' => $kept] + $surface, array_flip($made)];
    }

    /**
     * Does a cell have a corner that was made up?
     *
     * @param  array<int, float>  $cells
     */
    private static function isMade(Volume $volume, array $cells, int $o): bool
    {
        foreach (self::corners($volume, $cells, $o) as $k) {
            if ($volume->weight[$k] === self::MADE) {
                return true;
            }
        }

        return false;
    }

    /**
     * @param  array<int, float>  $cells  lowest corners, mm
     * @return list<int> the eight voxels at the corners of a cell
     */
    private static function corners(Volume $volume, array $cells, int $o): array
    {
        $x = (int) round(($cells[$o] - $volume->x0) / $volume->voxel);
        $y = (int) round(($cells[$o + 1] - $volume->y0) / $volume->voxel);
        $z = (int) round(($cells[$o + 2] - $volume->z0) / $volume->voxel);
        $corners = [];
        for ($c = 0; $c < 8; $c++) {
            [$i, $j, $k] = [$x + ($c & 1), $y + ($c >> 1 & 1), $z + ($c >> 2)];
            $block = $volume->top[(($i >> 3) * $volume->by + ($j >> 3)) * $volume->bz + ($k >> 3)];
            $corners[] = $block << 9 | ($k & 7) << 6 | ($j & 7) << 3 | ($i & 7);
        }

        return $corners;
    }
}
