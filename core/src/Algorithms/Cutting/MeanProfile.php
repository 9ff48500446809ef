<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\Linear\Median;

/**
 * The profile of a part that is turned about an axis: the mean of half-sections all around it, with how they differ.
 *
 * Method    one half-section leads (the one whose length is the median); places along it look for the others across it, and move to the mean of those that are not far from their median. Twice, so that the one that
 *           led no longer matters. Where less than half of them have anything (bolt holes, a keyway, a rib) there is no profile.
 * Source    means of curves by correspondence along normals; outliers by the median absolute deviation (Rousseeuw & Croux 1993).
 * Input     half-planes: r (from the axis, not less than 0) and h (along it) of curves as PlaneSection gives them, the inside on their left.
 * Error     of n half-sections with independent errors s: s / sqrt(n) across the profile; corners are rounded by a step.
 * Cost      20 us a place and half-section.
 */
final class MeanProfile
{
    /** Steps along the profile, as a share of the size of the half-section; and how far across it the others are looked for. */
    private const STEP = 0.004;

    private const REACH = 0.03;

    /** Share of the half-sections that must have something at a place. */
    private const SHARE = 0.5;

    /** Deviations from the median, in median absolute deviations, beyond which one does not count. */
    private const FAR = 4.0;

    /** Cosine between the ways of two curves up to which they count as one: 45 degrees. */
    private const ALIKE = 0.7;

    /**
     * @param  non-empty-list<list<array{closed: bool, points: list<float>}>>  $halves  flat r, h a curve
     * @return list<array{closed: bool, points: list<float>, spread: list<float>}> flat r, h of what is the same all around; the standard deviation across it at each place
     */
    public static function of(array $halves): array
    {
        $size = self::size($halves);
        $lengths = array_map(self::length(...), $halves);
        $middle = Median::of($lengths);
        $off = array_map(fn (float $length) => abs($length - $middle), $lengths);
        $leads = $halves[(int) array_search(min($off), $off, true)];
        $sides = array_map(fn (array $half) => self::sides($half, self::REACH * $size), $halves);
        $profile = array_map(fn (array $curve) => ['closed' => $curve['closed'], 'points' => self::stepped($curve['points'], $curve['closed'], self::STEP * $size)], $leads);
        $profile = self::moved($profile, $sides, $size);

        return self::moved(array_map(fn (array $curve) => ['closed' => $curve['closed'], 'points' => $curve['points']], $profile), $sides, $size);
    }

    /** @param  non-empty-list<list<array{closed: bool, points: list<float>}>>  $halves */
    private static function size(array $halves): float
    {
        $least = [INF, INF];
        $most = [-INF, -INF];
        foreach ($halves as $half) {
            foreach ($half as $curve) {
                foreach ($curve['points'] as $k => $v) {
                    $least[$k % 2] = min($least[$k % 2], $v);
                    $most[$k % 2] = max($most[$k % 2], $v);
                }
            }
        }

        return max(1e-9, hypot($most[0] - $least[0], $most[1] - $least[1]));
    }

    /** @param  list<array{closed: bool, points: list<float>}>  $half */
    private static function length(array $half): float
    {
        $sum = 0.0;
        foreach ($half as ['closed' => $isClosed, 'points' => $p]) {
            $n = count($p);
            for ($o = $isClosed ? 0 : 2; $o < $n; $o += 2) {
                $b = ($o + $n - 2) % $n;
                $sum += hypot($p[$o] - $p[$b], $p[$o + 1] - $p[$b + 1]);
            }
        }

        return $sum;
    }

    /**
     * Places along a curve, a step apart at most.
     *
     * @param  list<float>  $p
     * @return list<float>
     */
    private static function stepped(array $p, bool $isClosed, float $step): array
    {
        $n = count($p);
        $points = $isClosed ? [] : [$p[0], $p[1]];
        // Of many short pieces not each becomes a place.
        $left = $step;
        for ($o = $isClosed ? 0 : 2; $o < $n; $o += 2) {
            $b = ($o + $n - 2) % $n;
            [$x, $y] = [$p[$b], $p[$b + 1]];
            $long = hypot($p[$o] - $x, $p[$o + 1] - $y);
            for ($at = $left; $at <= $long; $at += $step) {
                $t = $at / $long;
                array_push($points, $x + $t * ($p[$o] - $x), $y + $t * ($p[$o + 1] - $y));
            }
            $left = $at - $long;
        }
        $isClosed || array_push($points, $p[$n - 2], $p[$n - 1]);

        return $points;
    }

    /**
     * The pieces of a half-section by the cells that they go through.
     *
     * @param  list<array{closed: bool, points: list<float>}>  $half
     * @return array{cell: float, cells: array<string, list<array{float, float, float, float}>>}
     */
    private static function sides(array $half, float $cell): array
    {
        $cells = [];
        foreach ($half as ['closed' => $isClosed, 'points' => $p]) {
            $n = count($p);
            for ($o = $isClosed ? 0 : 2; $o < $n; $o += 2) {
                $b = ($o + $n - 2) % $n;
                $piece = [$p[$b], $p[$b + 1], $p[$o], $p[$o + 1]];
                [$x0, $x1] = [(int) floor(min($piece[0], $piece[2]) / $cell), (int) floor(max($piece[0], $piece[2]) / $cell)];
                [$y0, $y1] = [(int) floor(min($piece[1], $piece[3]) / $cell), (int) floor(max($piece[1], $piece[3]) / $cell)];
                for ($x = $x0; $x <= $x1; $x++) {
                    for ($y = $y0; $y <= $y1; $y++) {
                        $cells["$x $y"][] = $piece;
                    }
                }
            }
        }

        return ['cell' => $cell, 'cells' => $cells];
    }

    /**
     * Each place at the mean of what lies across it; curves end where too few have anything.
     *
     * @param  list<array{closed: bool, points: list<float>}>  $profile
     * @param  list<array{cell: float, cells: array<string, list<array{float, float, float, float}>>}>  $sides
     * @return list<array{closed: bool, points: list<float>, spread: list<float>}>
     */
    private static function moved(array $profile, array $sides, float $size): array
    {
        $curves = [];
        foreach ($profile as ['closed' => $isClosed, 'points' => $p]) {
            $n = intdiv(count($p), 2);
            $places = [];
            for ($k = 0; $k < $n && $n > 2; $k++) {
                $a = $isClosed ? ($k + $n - 1) % $n : max(0, $k - 1);
                $b = $isClosed ? ($k + 1) % $n : min($n - 1, $k + 1);
                [$x, $y] = [$p[2 * $b] - $p[2 * $a], $p[2 * $b + 1] - $p[2 * $a + 1]];
                $long = hypot($x, $y);
                $places[] = $long > 0.0 ? self::across($p[2 * $k], $p[2 * $k + 1], $x / $long, $y / $long, $sides, self::REACH * $size) : null;
            }
            array_push($curves, ...self::parts($places, $isClosed));
        }

        return $curves;
    }

    /**
     * @param  list<array{cell: float, cells: array<string, list<array{float, float, float, float}>>}>  $sides
     * @return array{float, float, float}|null r, h and spread
     */
    private static function across(float $x, float $y, float $dx, float $dy, array $sides, float $reach): ?array
    {
        $found = [];
        foreach ($sides as ['cell' => $cell, 'cells' => $cells]) {
            $nearest = INF;
            [$cx, $cy] = [(int) floor($x / $cell), (int) floor($y / $cell)];
            for ($i = $cx - 1; $i <= $cx + 1; $i++) {
                for ($j = $cy - 1; $j <= $cy + 1; $j++) {
                    foreach ($cells["$i $j"] ?? [] as [$ax, $ay, $bx, $by]) {
                        // Along the profile the piece must pass the place, and go the same way.
                        $from = ($ax - $x) * $dx + ($ay - $y) * $dy;
                        $to = ($bx - $x) * $dx + ($by - $y) * $dy;
                        if ($to <= $from || $from > 0.0 || $to < 0.0 || $to - $from < self::ALIKE * hypot($bx - $ax, $by - $ay)) {
                            continue;
                        }
                        $t = $from / ($from - $to);
                        $off = -($ax + $t * ($bx - $ax) - $x) * $dy + ($ay + $t * ($by - $ay) - $y) * $dx;
                        $nearest = abs($off) < abs($nearest) ? $off : $nearest;
                    }
                }
            }
            if (abs($nearest) <= $reach) {
                $found[] = $nearest;
            }
        }
        if (count($found) < max(2.0, self::SHARE * count($sides))) {
            return null;
        }
        $middle = Median::of($found);
        $far = self::FAR * 1.4826 * Median::of(array_map(fn (float $v) => abs($v - $middle), $found)) + 1e-12 * $reach;
        $kept = array_filter($found, fn (float $v) => abs($v - $middle) <= $far);
        $mean = array_sum($kept) / count($kept);
        $squares = array_sum(array_map(fn (float $v) => ($v - $mean) ** 2, $kept));

        return [$x - $mean * $dy, $y + $mean * $dx, sqrt($squares / max(1, count($kept) - 1))];
    }

    /**
     * @param  list<array{float, float, float}|null>  $places
     * @return list<array{closed: bool, points: list<float>, spread: list<float>}>
     */
    private static function parts(array $places, bool $isClosed): array
    {
        $gaps = array_keys($places, null, true);
        if ($isClosed && $gaps !== []) {
            // Begins after a gap, so that no part is cut where the curve happens to begin.
            $places = [...array_slice($places, $gaps[0]), ...array_slice($places, 0, $gaps[0])];
        }
        $parts = [];
        $now = ['closed' => $isClosed && $gaps === [], 'points' => [], 'spread' => []];
        foreach ([...$places, null] as $place) {
            if ($place !== null) {
                array_push($now['points'], $place[0], $place[1]);
                $now['spread'][] = $place[2];
            } else {
                count($now['spread']) > 2 && $parts[] = $now;
                $now = ['closed' => false, 'points' => [], 'spread' => []];
            }
        }

        return $parts;
    }
}
