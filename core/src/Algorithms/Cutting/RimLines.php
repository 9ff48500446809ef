<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\Surface\Intersections;

/**
 * Rims that two cuts leave, as lines of vertices: paired where they run side by side, and the strips between them looked through.
 *
 * @internal
 */
final class RimLines
{
    /**
     * @param  array<int, int>  $next  the vertex that follows each on a rim
     * @return list<array{list<int>, bool}> lines, and whether the last vertex is joined to the first
     */
    public static function of(array $next): array
    {
        $lines = [];
        // Open lines begin where none comes from.
        foreach ([...array_keys(array_diff_key($next, array_flip($next))), ...array_keys($next)] as $start) {
            if (! isset($next[$start])) {
                continue;
            }
            $line = [$start];
            for ($v = $start; isset($next[$v]); $v = $to) {
                $to = $next[$v];
                unset($next[$v]);
                $line[] = $to;
            }
            $isClosed = $v === $start;
            if ($isClosed) {
                array_pop($line);
            }
            $lines[] = [$line, $isClosed];
        }

        return $lines;
    }

    /**
     * Each line of one cut with that of the other which lies there too: the one whose box is most like its own.
     *
     * @param  list<array{list<int>, bool}>  $ones
     * @param  list<array{list<int>, bool}>  $others
     * @param  callable(int): array{float, float, float}  $place  of a vertex, as the lines are compared
     * @return list<array{list<int>, list<int>, bool}>|string both running the same way, and whether they are closed; or what is wrong
     */
    public static function pairs(array $ones, array $others, callable $place): array|string
    {
        if (count($ones) !== count($others) || $ones === []) {
            return sprintf('it is cut in %d lines and in %d.', count($ones), count($others));
        }
        $boxes = array_map(fn (array $other) => self::box($other[0], $place), $others);
        $pairs = [];
        foreach ($ones as [$one, $isClosed]) {
            $own = self::box($one, $place);
            $best = null;
            $least = INF;
            foreach ($boxes as $k => $box) {
                $apart = array_sum(array_map(fn (float $a, float $b) => abs($a - $b), $own, $box));
                if ($apart < $least && $others[$k][1] === $isClosed) {
                    [$least, $best] = [$apart, $k];
                }
            }
            if ($best === null || $least > $own[3] - $own[0] + $own[4] - $own[1] + $own[5] - $own[2]) {
                return 'the lines of the cuts lie elsewhere.';
            }
            // Its faces lie on the other side, so that it runs the other way round.
            $pairs[] = [$one, array_reverse($others[$best][0]), $isClosed];
            unset($boxes[$best]);
        }

        return $pairs;
    }

    /**
     * @param  list<int>  $line
     * @param  callable(int): array{float, float, float}  $place
     * @return non-empty-list<float>
     */
    private static function box(array $line, callable $place): array
    {
        $at = array_map($place, $line);
        [$x, $y, $z] = [array_column($at, 0), array_column($at, 1), array_column($at, 2)];

        return [min($x), min($y), min($z), max($x), max($y), max($z)];
    }

    /**
     * @param  list<float>  $positions  flat xyz
     * @param  list<int>  $faces  flat
     * @param  list<int>  $asked  faces of strips
     * @return string|null where they cross the surface, in words; null where they do not
     */
    public static function crossing(array $positions, array $faces, array $asked): ?string
    {
        $pairs = Intersections::pairs($positions, $faces, $asked);
        if ($pairs === []) {
            return null;
        }
        $o = 3 * $faces[3 * $pairs[0]];

        return sprintf('The blend crosses the surface near (%.2f, %.2f, %.2f).', $positions[$o], $positions[$o + 1], $positions[$o + 2]);
    }
}
