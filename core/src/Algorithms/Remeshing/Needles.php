<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

/**
 * Vertices that stand up like needles, put into the middle of their neighbours.
 *
 * @internal
 */
final class Needles
{
    private const ROUNDS = 12;

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f  all faces at the vertices that may move
     * @param  callable(array<int, float> $p): list<int>  $spikes  the vertices to lay down
     * @return array<int, float>
     */
    public static function laidDown(array $p, array $f, callable $spikes): array
    {
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $found = array_flip($spikes($p));
            if ($found === []) {
                break;
            }
            $around = [];
            foreach ($f as $h => $v) {
                if (isset($found[$v])) {
                    $around[$v][$f[$h % 3 === 2 ? $h - 2 : $h + 1]] = true;
                    $around[$v][$f[$h % 3 === 0 ? $h + 2 : $h - 1]] = true;
                }
            }
            foreach ($around as $v => $others) {
                for ($k = 0; $k < 3; $k++) {
                    $p[3 * $v + $k] = array_sum(array_map(fn (int $w) => $p[3 * $w + $k], array_keys($others))) / count($others);
                }
            }
        }

        return $p;
    }
}
