<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\Surface\Intersections;

/**
 * Takes triangles that pass through each other apart by evening out the vertices around them.
 *
 * Each round moves the corners of crossing triangles halfway to the middle of their neighbours (Laplacian smoothing), and a ring more
 * of them from round to round: first as little as can be, then as much as must be.
 *
 * @internal
 */
final class Untangle
{
    private const ROUNDS = 16;

    /** Rings of faces around the crossings that are looked at again after each round. */
    private const REGION = 8;

    /**
     * @param  array<int, float>  $p  (changed)
     * @param  array<int, int>  $f
     * @param  int  $firstMovable  vertices before this one stay where they are
     * @param  list<int>|null  $asked  only crossings of these faces count; all when null
     * @param  (callable(float): void)|null  $breathe  told the share done; may throw to stop
     * @return array{found: int, left: int} pairs of crossing triangles before and after
     */
    public static function run(array &$p, array $f, int $firstMovable = 0, ?array $asked = null, ?callable $breathe = null): array
    {
        $bad = Intersections::pairs($p, $f, $asked, $breathe === null ? null : fn (float $done) => $breathe(0.7 * $done));
        $found = intdiv(count($bad), 2);
        if ($found === 0) {
            return ['found' => 0, 'left' => 0];
        }
        $region = self::region($f, $bad, intdiv(count($p), 3));
        $around = self::neighbours($region['faces']);
        $fixed = $region['edge'];
        $f = $region['faces'];
        $corners = self::corners($bad, $region['all']);
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $moving = $corners;
            for ($ring = intdiv($round, 4); $ring > 0; $ring--) {
                foreach (array_keys($moving) as $v) {
                    foreach ($around[$v] as $w => $_) {
                        $moving[$w] = true;
                    }
                }
            }
            $next = [];
            foreach ($moving as $v => $_) {
                if ($v < $firstMovable || isset($fixed[$v])) {
                    continue;
                }
                $x = $y = $z = 0.0;
                foreach ($around[$v] as $w => $_) {
                    $x += $p[3 * $w];
                    $y += $p[3 * $w + 1];
                    $z += $p[3 * $w + 2];
                }
                $k = 0.5 / count($around[$v]);
                $next[$v] = [0.5 * $p[3 * $v] + $k * $x, 0.5 * $p[3 * $v + 1] + $k * $y, 0.5 * $p[3 * $v + 2] + $k * $z];
            }
            foreach ($next as $v => $to) {
                [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]] = $to;
            }
            if ($breathe !== null) {
                $breathe(0.7 + 0.3 * $round / self::ROUNDS);
            }
            $bad = Intersections::pairs($p, $f);
            if ($bad === []) {
                break;
            }
            $corners = self::corners($bad, $f);
        }

        return ['found' => $found, 'left' => intdiv(count($bad), 2)];
    }

    /**
     * The faces within some rings of the given ones, and the vertices at the edge of that region, which must not move.
     *
     * @param  array<int, int>  $f
     * @param  list<int>  $bad
     * @return array{faces: list<int>, edge: array<int, true>, all: array<int, int>}
     */
    private static function region(array $f, array $bad, int $vertices): array
    {
        $near = array_fill(0, $vertices, 0);
        foreach ($bad as $t) {
            $near[$f[3 * $t]] = $near[$f[3 * $t + 1]] = $near[$f[3 * $t + 2]] = 1;
        }
        for ($ring = 1; $ring < self::REGION; $ring++) {
            for ($o = 0, $n = count($f); $o < $n; $o += 3) {
                $a = $near[$f[$o]];
                $b = $near[$f[$o + 1]];
                $c = $near[$f[$o + 2]];
                if ($a === $ring || $b === $ring || $c === $ring) {
                    if ($a === 0) {
                        $near[$f[$o]] = $ring + 1;
                    }
                    if ($b === 0) {
                        $near[$f[$o + 1]] = $ring + 1;
                    }
                    if ($c === 0) {
                        $near[$f[$o + 2]] = $ring + 1;
                    }
                }
            }
        }
        $faces = [];
        $edge = [];
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            [$a, $b, $c] = [$f[$o], $f[$o + 1], $f[$o + 2]];
            if ($near[$a] === 0 && $near[$b] === 0 && $near[$c] === 0) {
                continue;
            }
            if ($near[$a] > 0 && $near[$b] > 0 && $near[$c] > 0) {
                array_push($faces, $a, $b, $c);
            }
            if ($near[$a] === 0 || $near[$b] === 0 || $near[$c] === 0) {
                $edge[$a] = $edge[$b] = $edge[$c] = true;
            }
        }

        return ['faces' => $faces, 'edge' => $edge, 'all' => $f];
    }

    /**
     * @param  list<int>  $f
     * @return array<int, array<int, true>>
     */
    private static function neighbours(array $f): array
    {
        $around = [];
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            [$a, $b, $c] = [$f[$o], $f[$o + 1], $f[$o + 2]];
            $around[$a][$b] = $around[$a][$c] = $around[$b][$a] = $around[$b][$c] = $around[$c][$a] = $around[$c][$b] = true;
        }

        return $around;
    }

    /**
     * @param  list<int>  $faces
     * @param  array<int, int>  $f
     * @return array<int, true>
     */
    private static function corners(array $faces, array $f): array
    {
        $corners = [];
        foreach ($faces as $t) {
            $corners[$f[3 * $t]] = $corners[$f[3 * $t + 1]] = $corners[$f[3 * $t + 2]] = true;
        }

        return $corners;
    }
}
