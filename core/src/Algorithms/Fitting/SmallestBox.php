<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Fitting;

use Emberstone\Core\Geometry\Vector3;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/**
 * The turned box of least volume around points.
 *
 * Source    the volume as a function of the turn, searched from many starts and then by ever smaller turns about random axes; only a few outermost
 *           points are looked at, and those that a found box leaves outside are added until there are none (cutting planes, Kelley 1960).
 * Gives up  proof: a box smaller by some parts in a thousand may hide between the starts. Deterministic.
 *
 * @internal
 */
final class SmallestBox
{
    private const STARTS = 600;

    /** The best of the starts that are followed. */
    private const FOLLOWED = 8;

    private const FIRST_STEP = 0.15;

    private const LAST_STEP = 1e-6;

    /** Turns tried before the step is halved. */
    private const TRIES = 14;

    private const MOST_ROUNDS = 40;

    /** All sides count as longer by this share of the longest: of sheets without thickness the smallest is wanted too. */
    private const THICK = 1e-4;

    /**
     * @param  array<int, float>  $p  flat xyz, at least one point
     * @return array{axes: list<array{float, float, float}>, sides: list<float>} unit axes, right-handed, the shortest side first
     */
    public static function around(array $p): array
    {
        $random = new Randomizer(new Xoshiro256StarStar(1902));
        $outer = self::outermost($p, self::directions($random, 60));
        $best = [INF, [1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0]];
        for ($round = 0; $round < self::MOST_ROUNDS; $round++) {
            $starts = [$best[1], [1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0]];
            for ($k = 0; $round === 0 && $k < self::STARTS; $k++) {
                $starts[] = self::anyTurn($random);
            }
            $tried = array_map(fn (array $turn) => [self::volume($outer, $turn), $turn], $starts);
            usort($tried, fn (array $a, array $b) => $a[0] <=> $b[0]);
            $followed = array_map(fn (array $one) => self::follow($outer, $one[0], $one[1], $random), array_slice($tried, 0, $round === 0 ? self::FOLLOWED : 1));
            usort($followed, fn (array $a, array $b) => $a[0] <=> $b[0]);
            $best = $followed[0];
            $more = self::outermost($p, array_chunk($best[1], 3));
            if (self::volume([...$outer, ...$more], $best[1]) <= $best[0] * (1.0 + 1e-9)) {
                break;
            }
            $outer = [...$outer, ...$more];
        }
        $sides = self::sides($p, $best[1]);
        asort($sides);
        $order = array_keys($sides);
        $axes = array_map(fn (int $k): array => [$best[1][3 * $k], $best[1][3 * $k + 1], $best[1][3 * $k + 2]], $order);
        // A swap of two of the axes would mirror.
        $axes[2] = Vector3::cross($axes[0], $axes[1]);

        return ['axes' => $axes, 'sides' => array_values($sides)];
    }

    /**
     * Smaller and smaller turns, each kept if the box becomes smaller.
     *
     * @param  list<float>  $p
     * @param  list<float>  $turn  rows of a rotation
     * @return array{float, list<float>}
     */
    private static function follow(array $p, float $volume, array $turn, Randomizer $random): array
    {
        for ($step = self::FIRST_STEP; $step > self::LAST_STEP; $step *= 0.5) {
            for ($k = 0; $k < self::TRIES; $k++) {
                // About its own axes both ways, then about any: what is flat must not tilt while it turns in its plane.
                $o = 3 * ($k >> 1);
                $next = $k < 6 ? self::turned($turn, [$turn[$o], $turn[$o + 1], $turn[$o + 2]], $k & 1 ? -$step : $step) : self::turned($turn, self::direction($random), $step);
                $smaller = self::volume($p, $next);
                if ($smaller < $volume * (1.0 - 1e-12)) {
                    [$volume, $turn, $k] = [$smaller, $next, -1];
                }
            }
        }

        return [$volume, $turn];
    }

    /**
     * @param  array<int, float>  $p
     * @param  list<float>  $turn
     */
    private static function volume(array $p, array $turn): float
    {
        [$a, $b, $c] = self::sides($p, $turn);

        $thick = self::THICK * max($a, $b, $c);

        return ($a + $thick) * ($b + $thick) * ($c + $thick);
    }

    /**
     * @param  array<int, float>  $p
     * @param  list<float>  $turn
     * @return list<float> along its three rows
     */
    private static function sides(array $p, array $turn): array
    {
        [$ax, $ay, $az, $bx, $by, $bz, $cx, $cy, $cz] = $turn;
        $a0 = $b0 = $c0 = INF;
        $a1 = $b1 = $c1 = -INF;
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $x = $p[$o];
            $y = $p[$o + 1];
            $z = $p[$o + 2];
            $v = $ax * $x + $ay * $y + $az * $z;
            if ($v < $a0) {
                $a0 = $v;
            }
            if ($v > $a1) {
                $a1 = $v;
            }
            $v = $bx * $x + $by * $y + $bz * $z;
            if ($v < $b0) {
                $b0 = $v;
            }
            if ($v > $b1) {
                $b1 = $v;
            }
            $v = $cx * $x + $cy * $y + $cz * $z;
            if ($v < $c0) {
                $c0 = $v;
            }
            if ($v > $c1) {
                $c1 = $v;
            }
        }

        return [$a1 - $a0, $b1 - $b0, $c1 - $c0];
    }

    /**
     * The farthest points each way along some directions.
     *
     * @param  array<int, float>  $p
     * @param  list<array<int, float>>  $directions
     * @return list<float>
     */
    private static function outermost(array $p, array $directions): array
    {
        $out = [];
        foreach ($directions as [$dx, $dy, $dz]) {
            $least = $most = 0;
            $low = INF;
            $high = -INF;
            for ($o = 0, $n = count($p); $o < $n; $o += 3) {
                $v = $dx * $p[$o] + $dy * $p[$o + 1] + $dz * $p[$o + 2];
                if ($v < $low) {
                    $low = $v;
                    $least = $o;
                }
                if ($v > $high) {
                    $high = $v;
                    $most = $o;
                }
            }
            array_push($out, $p[$least], $p[$least + 1], $p[$least + 2], $p[$most], $p[$most + 1], $p[$most + 2]);
        }

        return $out;
    }

    private static function between(Randomizer $random, float $least, float $most): float
    {
        return $least + ($most - $least) * $random->getInt(0, 1 << 30) / (1 << 30);
    }

    /** @return array{float, float, float} unit, as likely any way */
    private static function direction(Randomizer $random): array
    {
        $z = self::between($random, -1.0, 1.0);
        $a = self::between($random, 0.0, 2.0 * M_PI);
        $r = sqrt(1.0 - $z * $z);

        return [$r * cos($a), $r * sin($a), $z];
    }

    /** @return list<array{float, float, float}> */
    private static function directions(Randomizer $random, int $many): array
    {
        return array_map(fn () => self::direction($random), range(1, $many));
    }

    /** @return list<float> */
    private static function anyTurn(Randomizer $random): array
    {
        return self::turned([1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0], self::direction($random), self::between($random, 0.0, M_PI));
    }

    /**
     * Each row turned about an axis (Rodrigues).
     *
     * @param  list<float>  $rows
     * @param  array{float, float, float}  $axis  unit
     * @return list<float>
     */
    private static function turned(array $rows, array $axis, float $angle): array
    {
        [$x, $y, $z] = $axis;
        $c = cos($angle);
        $s = sin($angle);
        $out = [];
        for ($o = 0; $o < 9; $o += 3) {
            [$u, $v, $w] = [$rows[$o], $rows[$o + 1], $rows[$o + 2]];
            $k = (1.0 - $c) * ($x * $u + $y * $v + $z * $w);
            array_push($out, $c * $u + $s * ($y * $w - $z * $v) + $k * $x, $c * $v + $s * ($z * $u - $x * $w) + $k * $y, $c * $w + $s * ($x * $v - $y * $u) + $k * $z);
        }

        return $out;
    }
}
