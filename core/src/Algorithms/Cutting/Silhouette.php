<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\Search\CurveOrder;

/**
 * The outline of faces seen along a direction: the edge of all that they cover, with the openings through which nothing is seen.
 *
 * Method    every face is taken as seen from its front, so that edges between two faces that are seen from the same side cancel; what is left, edges of contours and open edges, is parted where it crosses
 *           (PlanarArrangement), and what has something on its left and nothing on its right is the outline. This is done for small groups of faces first and then for their outlines, four by four: on a wall
 *           that stands along the direction, noise makes thousands of contours that cross each other, and what one group covers is out of the way before it meets the others.
 * Error     corners move to a lattice of 2^28 steps across the larger side: less than a millionth of a millimetre on a part of 120 mm. The outline of the corners so moved is exact, but for slots and points
 *           narrower than STEPS of these, which are left out.
 * Cost      grows with the faces, and with the crossings of contours in each group.
 *
 * @internal
 */
final class Silhouette
{
    /** Steps of the lattice: what is narrower comes from the rounding of corners that lie on each other. */
    private const STEPS = 4;

    /** Faces of a group: few enough that contours cross little, many enough that the rims between groups are short beside them. */
    private const GROUP = 4000;

    /** Groups lie within a slab of the depth that many edges thick. */
    private const SLAB = 4.0;

    /** Outlines put together at once. */
    private const AT_ONCE = 4;

    /** Bits of a coordinate in the key of a place. */
    private const BITS = 29;

    /**
     * @param  list<float>  $seen  of each vertex: across, up, and how far away
     * @param  array<int, int>  $faces  flat
     * @param  list<array{int, int}>  $rims  edges (from and to vertex) of areas that are covered though there are no faces, these on the left; they close
     * @param  callable(float): void  $onProgress
     * @return list<list<array{float, float}>> closed lines, what is covered on their left: around against the clock, openings with it; the longest first
     */
    public static function of(array $seen, array $faces, array $rims, callable $onProgress): array
    {
        $box = [INF, INF, INF, -INF, -INF, -INF];
        foreach ($faces as $v) {
            for ($k = 0; $k < 3; $k++) {
                $x = $seen[3 * $v + $k];
                $x >= $box[$k] || $box[$k] = $x;
                $x <= $box[3 + $k] || $box[3 + $k] = $x;
            }
        }
        $step = max($box[3] - $box[0], $box[4] - $box[1]) / (PlanarArrangement::REACH - 1);
        if ($faces === [] || $step <= 0.0) {
            return [];
        }
        $places = $corner = [];
        for ($o = 0, $n = count($seen); $o < $n; $o += 3) {
            // Vertices without faces may lie anywhere.
            $places[] = (((int) round(($seen[$o] - $box[0]) / $step) & PlanarArrangement::REACH - 1) << self::BITS) | ((int) round(($seen[$o + 1] - $box[1]) / $step) & PlanarArrangement::REACH - 1);
        }
        foreach ($faces as $v) {
            $corner[$places[$v]] ??= $v;
        }
        $groups = array_map(fn (array $group) => self::contours($places, $faces, $group), self::groups($seen, $faces, $box));
        $groups[] = self::arranged(array_merge(...array_map(fn (array $edge) => [$places[$edge[0]], $places[$edge[1]]], $rims)));
        $onProgress(0.1);
        $loops = self::traced(self::united($groups, fn (float $done) => $onProgress(0.1 + 0.9 * $done)));
        usort($loops, fn (array $a, array $b) => self::length($b) <=> self::length($a) ?: $a <=> $b);
        // Corners of faces are given back as they were; crossings alone come from the lattice.
        $place = function (array $at) use ($seen, $corner, $box, $step): array {
            $v = $corner[($at[0] << self::BITS) | $at[1]] ?? null;

            return $v === null ? [$box[0] + $step * $at[0], $box[1] + $step * $at[1]] : [$seen[3 * $v], $seen[3 * $v + 1]];
        };

        return array_map(fn (array $loop) => array_map($place, $loop), $loops);
    }

    /**
     * The outline of plane areas that are told by their borders.
     *
     * @param  list<list<array{float, float}>>  $borders  closed lines; what they wind around more often against the clock than with it is covered
     * @return list<list<array{float, float}>> see of()
     */
    public static function ofLines(array $borders): array
    {
        $all = array_merge(...$borders);
        if ($all === []) {
            return [];
        }
        [$x, $y] = [array_column($all, 0), array_column($all, 1)];
        [$left, $low] = [min($x), min($y)];
        $step = max(max($x) - $left, max($y) - $low) / (PlanarArrangement::REACH - 1);
        if ($step <= 0.0) {
            return [];
        }
        $lines = new PlanarArrangement;
        foreach ($borders as $border) {
            $nodes = array_map(fn (array $at) => $lines->node((int) round(($at[0] - $left) / $step), (int) round(($at[1] - $low) / $step)), $border);
            foreach ($nodes as $k => $node) {
                $next = $nodes[($k + 1) % count($nodes)];
                $node === $next || $lines->add($node, $next, 1);
            }
        }
        $lines->settle();
        $edge = self::arranged(self::outline($lines));
        $edge->settle();

        return array_map(fn (array $loop) => array_map(fn (array $at) => [$left + $step * $at[0], $low + $step * $at[1]], $loop), self::traced($edge));
    }

    /**
     * Faces that lie together: slab by slab of the depth, and in a slab along a curve through its cells.
     *
     * @param  list<float>  $seen
     * @param  array<int, int>  $faces
     * @param  array<int, float>  $box
     * @return list<list<int>>
     */
    private static function groups(array $seen, array $faces, array $box): array
    {
        $middles = $depths = [];
        $edges = 0.0;
        for ($o = 0, $n = count($faces); $o < $n; $o += 3) {
            [$a, $b, $c] = [3 * $faces[$o], 3 * $faces[$o + 1], 3 * $faces[$o + 2]];
            array_push($middles, ($seen[$a] + $seen[$b] + $seen[$c]) / 3.0, ($seen[$a + 1] + $seen[$b + 1] + $seen[$c + 1]) / 3.0, 0.0);
            $depths[] = ($seen[$a + 2] + $seen[$b + 2] + $seen[$c + 2]) / 3.0;
            $edges += sqrt(($seen[$a] - $seen[$b]) ** 2 + ($seen[$a + 1] - $seen[$b + 1]) ** 2 + ($seen[$a + 2] - $seen[$b + 2]) ** 2);
        }
        $thick = max(self::SLAB * $edges / count($depths), ($box[5] - $box[2]) / 1000.0, 1e-300);
        $slabs = [];
        foreach (CurveOrder::ofPoints($middles, [$box[0], $box[1], 0.0, $box[3], $box[4], 0.0]) as $key) {
            $t = $key & CurveOrder::NUMBER;
            $slabs[(int) (($depths[$t] - $box[2]) / $thick)][] = $t;
        }
        ksort($slabs);

        return array_merge(...array_map(fn (array $slab) => array_chunk($slab, self::GROUP), $slabs));
    }

    /**
     * The edges of a group that do not cancel.
     *
     * @param  list<int>  $places  of each vertex
     * @param  array<int, int>  $faces
     * @param  list<int>  $group
     */
    private static function contours(array $places, array $faces, array $group): PlanarArrangement
    {
        $lines = new PlanarArrangement;
        $mask = (1 << self::BITS) - 1;
        foreach ($group as $t) {
            [$p, $q, $r] = [$places[$faces[3 * $t]], $places[$faces[3 * $t + 1]], $places[$faces[3 * $t + 2]]];
            [$x, $y] = [$p >> self::BITS, $p & $mask];
            $turn = (($q >> self::BITS) - $x) * (($r & $mask) - $y) - (($q & $mask) - $y) * (($r >> self::BITS) - $x);
            if ($turn !== 0) {
                [$a, $b, $c] = [$lines->node($x, $y), $lines->node($q >> self::BITS, $q & $mask), $lines->node($r >> self::BITS, $r & $mask)];
                $turn > 0 || [$b, $c] = [$c, $b];
                $lines->add($a, $b, 1);
                $lines->add($b, $c, 1);
                $lines->add($c, $a, 1);
            }
        }

        return $lines;
    }

    /** @param  list<int>  $edges  places, from and to */
    private static function arranged(array $edges): PlanarArrangement
    {
        $lines = new PlanarArrangement;
        $mask = (1 << self::BITS) - 1;
        for ($k = 0, $n = count($edges); $k < $n; $k += 2) {
            if ($edges[$k] !== $edges[$k + 1]) {
                $lines->add($lines->node($edges[$k] >> self::BITS, $edges[$k] & $mask), $lines->node($edges[$k + 1] >> self::BITS, $edges[$k + 1] & $mask), 1);
            }
        }

        return $lines;
    }

    /**
     * @param  list<PlanarArrangement>  $groups
     * @param  callable(float): void  $onProgress
     * @return PlanarArrangement what they cover together: its edge alone, covered on the left
     */
    private static function united(array $groups, callable $onProgress): PlanarArrangement
    {
        // A third more than there are groups, as they are put together by fours.
        $all = 1 + 4 * count($groups) / 3;
        for ($done = 0; ;) {
            $outlines = [];
            foreach ($groups as $k => $lines) {
                $lines->settle();
                $outlines[] = self::outline($lines);
                unset($groups[$k]);
                $onProgress(min(1.0, ++$done / $all));
            }
            $groups = array_map(fn (array $some) => self::arranged(array_merge(...$some)), array_chunk($outlines, self::AT_ONCE));
            if (count($outlines) === 1) {
                $groups[0]->settle();

                return $groups[0];
            }
        }
    }

    /** @return list<int> the edges with something on their left and nothing on their right, as places from and to */
    private static function outline(PlanarArrangement $lines): array
    {
        $edges = [];
        foreach ($lines->windings() as $k => $left) {
            $right = $left - $lines->weight[$k];
            if (($left > 0) !== ($right > 0)) {
                [$a, $b] = $left > 0 ? [$lines->from[$k], $lines->to[$k]] : [$lines->to[$k], $lines->from[$k]];
                array_push($edges, ($lines->x[$a] << self::BITS) | $lines->y[$a], ($lines->x[$b] << self::BITS) | $lines->y[$b]);
            }
        }

        return $edges;
    }

    /**
     * @param  PlanarArrangement  $lines  with something on their left and nothing on their right, or the other way round
     * @return list<list<array{int, int}>> in steps
     */
    private static function traced(PlanarArrangement $lines): array
    {
        $ways = [];
        foreach ($lines->weight as $k => $weight) {
            $ways[$weight > 0 ? $k : ~$k] = true;
        }
        $leaving = $lines->leaving();
        $loops = [];
        while (($line = array_key_first($ways)) !== null) {
            $loop = [];
            while (isset($ways[$line])) {
                unset($ways[$line]);
                $node = $line >= 0 ? $lines->from[$line] : $lines->to[~$line];
                $loop[] = [$lines->x[$node], $lines->y[$node]];
                $around = $leaving[$line >= 0 ? $lines->to[$line] : $lines->from[~$line]];
                $n = count($around);
                $back = array_search(~$line, $around, true);
                // The first with the clock from the way back: what is covered lies between.
                for ($i = 1; $i <= $n; $i++) {
                    $next = $around[($back - $i + $n) % $n];
                    if (isset($ways[$next])) {
                        $line = $next;

                        break;
                    }
                }
            }
            $loop = self::straightened($loop);
            if (count($loop) > 2 && abs(self::area($loop)) > 0.5 * self::STEPS * self::length($loop)) {
                $loops[] = $loop;
            }
        }

        return $loops;
    }

    /**
     * Without the points that lie on the way between others, where lines met that do not belong to the outline.
     *
     * @param  list<array{int, int}>  $loop
     * @return list<array{int, int}>
     */
    private static function straightened(array $loop): array
    {
        $n = count($loop);
        if ($n < 4) {
            return $loop;
        }
        // Begins at the leftmost point, which is a corner.
        $first = array_search(min($loop), $loop, true);
        $loop = [...array_slice($loop, (int) $first), ...array_slice($loop, 0, (int) $first)];
        $loop[] = $loop[0];
        $kept = [$loop[0]];
        for ($from = 0; $from < $n;) {
            for ($to = $from + 1; $to < $n && self::isStraight($loop, $from, $to + 1); $to++);
            $from = $to;
            $from === $n || $kept[] = $loop[$from];
        }

        return $kept;
    }

    /** @param  list<array{int, int}>  $loop */
    private static function isStraight(array $loop, int $from, int $to): bool
    {
        [$x, $y] = $loop[$from];
        $ux = $loop[$to][0] - $x;
        $uy = $loop[$to][1] - $y;
        $bound = self::STEPS * sqrt($ux * $ux + $uy * $uy);
        $far = 0;
        for ($k = $from + 1; $k < $to; $k++) {
            $along = $ux * ($loop[$k][0] - $x) + $uy * ($loop[$k][1] - $y);
            if (abs($ux * ($loop[$k][1] - $y) - $uy * ($loop[$k][0] - $x)) > $bound || $along < $far - $bound) {
                return false;
            }
            $far = max($far, $along);
        }

        return $ux * $ux + $uy * $uy > 0 && $far <= $ux * $ux + $uy * $uy + $bound;
    }

    /** @param  list<array{int, int}>  $loop */
    private static function area(array $loop): float
    {
        $sum = 0.0;
        $n = count($loop);
        [$x, $y] = $loop[0];
        for ($k = 1; $k < $n - 1; $k++) {
            $sum += ($loop[$k][0] - $x) * ($loop[$k + 1][1] - $y) - ($loop[$k][1] - $y) * ($loop[$k + 1][0] - $x);
        }

        return 0.5 * $sum;
    }

    /** @param  list<array{int|float, int|float}>  $loop */
    private static function length(array $loop): float
    {
        $sum = 0.0;
        foreach ($loop as $k => [$x, $y]) {
            [$u, $v] = $loop[($k + 1) % count($loop)];
            $sum += sqrt(($u - $x) ** 2 + ($v - $y) ** 2);
        }

        return $sum;
    }
}
