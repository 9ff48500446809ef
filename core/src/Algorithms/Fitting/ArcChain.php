<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Fitting;

/**
 * A line of points in a plane as few straight pieces and arcs that pass no point farther than a tolerance. Pieces begin and end at points of the line, so that they join without a gap.
 *
 * Method    from each end of a piece the longest next one is looked for by doubling and halving its reach, straight before round. Of the circles through both ends, a family with one number, the one
 *           with the least squares is taken, which is linear in that number. An arc is half a circle at most.
 * Limits    pieces need not be tangent where they meet.
 *
 * @internal
 */
final class ArcChain
{
    /** Points in an arc at least, besides its ends: any three points lie on a circle. */
    private const LEAST = 2;

    /**
     * @param  list<array{float, float}>  $points
     * @param  bool  $isClosed  the last is joined to the first
     * @return list<array{int, float}> for each piece where it ends (index of a point), and its bulge: the tangent of a quarter of its turn, positive against the clock, 0 when it is straight; and before them where the first begins
     */
    public static function of(array $points, bool $isClosed, float $tolerance): array
    {
        $n = count($points);
        $start = $isClosed ? self::sharpest($points) : 0;
        $line = [];
        for ($k = 0; $k < $n; $k++) {
            $line[] = $points[($start + $k) % $n];
        }
        if ($isClosed) {
            $line[] = $line[0];
        }
        $last = count($line) - 1;
        $pieces = [[$start, 0.0]];
        for ($from = 0; $from < $last; $from = $to) {
            [$to, $bulge] = self::longest($line, $from, $last, $tolerance);
            $pieces[] = [($start + $to) % $n, $bulge];
        }

        return $pieces;
    }

    /** @param  list<array{float, float}>  $points */
    private static function sharpest(array $points): int
    {
        $n = count($points);
        $most = 2.0;
        $sharpest = 0;
        foreach ($points as $k => [$x, $y]) {
            [[$a, $b], [$c, $d]] = [$points[($k + $n - 1) % $n], $points[($k + 1) % $n]];
            $along = (($x - $a) * ($c - $x) + ($y - $b) * ($d - $y)) / max(1e-300, hypot($x - $a, $y - $b) * hypot($c - $x, $d - $y));
            if ($along < $most) {
                [$most, $sharpest] = [$along, $k];
            }
        }

        return $sharpest;
    }

    /**
     * @param  list<array{float, float}>  $line
     * @return array{int, float} where the piece ends, and its bulge
     */
    private static function longest(array $line, int $from, int $last, float $tolerance): array
    {
        $straight = self::reach($from, $last, 2, fn (int $to) => self::isStraight($line, $from, $to, $tolerance) ? 0.0 : null);
        $round = self::reach($from, $last, self::LEAST + 1, fn (int $to) => self::bulge($line, $from, $to, $tolerance));

        return $round[0] > $straight[0] ? $round : $straight;
    }

    /**
     * @param  int  $step  the shortest reach that is looked at
     * @param  callable(int): ?float  $fits
     * @return array{int, float}
     */
    private static function reach(int $from, int $last, int $step, callable $fits): array
    {
        $best = [$from + 1, 0.0];
        for (; $from + $step <= $last && ($bulge = $fits($from + $step)) !== null; $step *= 2) {
            $best = [$from + $step, $bulge];
        }
        for ($low = $best[0], $high = min($last + 1, $from + $step); $low > $from + 1 && $high - $low > 1;) {
            $middle = ($low + $high) >> 1;
            $bulge = $fits($middle);
            if ($bulge === null) {
                $high = $middle;
            } else {
                [$low, $best] = [$middle, [$middle, $bulge]];
            }
        }

        return $best;
    }

    /** @param  list<array{float, float}>  $line */
    private static function isStraight(array $line, int $from, int $to, float $tolerance): bool
    {
        [[$a, $b], [$c, $d]] = [$line[$from], $line[$to]];
        $length = hypot($c - $a, $d - $b);
        for ($k = $from + 1; $k < $to; $k++) {
            [$x, $y] = $line[$k];
            $along = $length > 0.0 ? (($x - $a) * ($c - $a) + ($y - $b) * ($d - $b)) / $length : 0.0;
            $off = $along < 0.0 || $along > $length || $length === 0.0
                ? min(hypot($x - $a, $y - $b), hypot($x - $c, $y - $d))
                : abs(($x - $a) * ($d - $b) - ($y - $b) * ($c - $a)) / $length;
            if ($off > $tolerance) {
                return false;
            }
        }

        return true;
    }

    /**
     * @param  list<array{float, float}>  $line
     * @return float|null null where no arc fits
     */
    private static function bulge(array $line, int $from, int $to, float $tolerance): ?float
    {
        [[$a, $b], [$c, $d]] = [$line[$from], $line[$to]];
        $length = hypot($c - $a, $d - $b);
        if ($to - $from - 1 < self::LEAST || $length === 0.0) {
            return null;
        }
        // Seen from the middle of the ends, with the way between them as x: |q|^2 - (length / 2)^2 = 2 h y for points of the circle with its centre at height h.
        [$u, $v] = [($c - $a) / $length, ($d - $b) / $length];
        [$mx, $my] = [0.5 * ($a + $c), 0.5 * ($b + $d)];
        $top = $bottom = 0.0;
        $seen = [];
        for ($k = $from + 1; $k < $to; $k++) {
            $x = ($line[$k][0] - $mx) * $u + ($line[$k][1] - $my) * $v;
            $y = ($line[$k][1] - $my) * $u - ($line[$k][0] - $mx) * $v;
            $seen[] = [$x, $y];
            $top += ($x * $x + $y * $y - 0.25 * $length * $length) * $y;
            $bottom += $y * $y;
        }
        if ($bottom === 0.0) {
            return null;
        }
        $h = 0.5 * $top / $bottom;
        $r = hypot(0.5 * $length, $h);
        // The arc lies across from its centre.
        $side = $h > 0.0 ? -1.0 : 1.0;
        foreach ($seen as [$x, $y]) {
            if ($side * $y < -$tolerance || abs($x) > 0.5 * $length + $tolerance || abs(hypot($x, $y - $h) - $r) > $tolerance) {
                return null;
            }
        }

        // Below the way from end to end it turns against the clock.
        return -$side * 2.0 * ($r - abs($h)) / $length;
    }
}
