<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Measure;

/**
 * Small repairs on face lists: doubles, slivers, faces that look the other way.
 *
 * @internal
 */
final class MeshCleanup
{
    /** Edges up to this share of a mesh's diagonal have no length: about what single precision leaves of a coordinate. */
    public const NOTHING = 1e-7;

    /** So few faces behind a loop are a bump, not a part. */
    private const BUMP = 40;

    /**
     * Which faces to keep so that no three vertices carry more than one.
     *
     * @param  array<int, int>  $f
     * @return list<int>
     */
    public static function withoutDuplicates(array $f): array
    {
        $seen = [];
        $keep = [];
        for ($t = 0, $n = intdiv(count($f), 3); $t < $n; $t++) {
            $corners = [$f[3 * $t], $f[3 * $t + 1], $f[3 * $t + 2]];
            sort($corners);
            $key = pack('V3', ...$corners);
            if (! isset($seen[$key])) {
                $seen[$key] = true;
                $keep[] = $t;
            }
        }

        return $keep;
    }

    /**
     * Joins vertices that an edge of no length links, and turns the long edge of slivers, so that no face is without area.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f  (changed)
     * @param  float  $least  edges up to this length have none; faces of about its square no area
     * @param  array<int, true>|null  $near  only faces with one of these vertices
     * @return list<int> the faces to keep
     */
    public static function withoutDegenerates(array $p, array &$f, float $least, ?array $near = null): array
    {
        $joined = [];
        for ($h = 0, $n = count($f); $h < $n; $h++) {
            if ($near !== null && ! isset($near[$f[$h]])) {
                continue;
            }
            $a = self::root($joined, $f[$h]);
            $b = self::root($joined, $f[$h % 3 === 2 ? $h - 2 : $h + 1]);
            if ($a !== $b && self::distance($p, $a, $b) <= $least) {
                $joined[max($a, $b)] = min($a, $b);
            }
        }
        if ($joined !== []) {
            foreach ($f as $h => $v) {
                $f[$h] = self::root($joined, $v);
            }
        }
        $twin = null;
        for ($t = 0, $n = intdiv(count($f), 3); $t < $n; $t++) {
            $o = 3 * $t;
            if ($near !== null && ! isset($near[$f[$o]]) && ! isset($near[$f[$o + 1]]) && ! isset($near[$f[$o + 2]])) {
                continue;
            }
            $longest = 0.0;
            $h = -1;
            for ($k = 0; $k < 3; $k++) {
                $length = self::distance($p, $f[$o + $k], $f[$o + ($k + 1) % 3]);
                if ($length > $longest) {
                    $longest = $length;
                    $h = $o + $k;
                }
            }
            if ($h < 0 || self::area($p, $f, $o) > 10.0 * $least * $least) {
                continue;
            }
            $twin ??= Topology::twins($f);
            $g = $twin[$h];
            if ($g < 0) {
                continue;
            }
            // The corner c lies on the long edge; d is the corner across.
            $c = $h % 3 === 0 ? $h + 2 : $h - 1;
            $d = $f[$g % 3 === 0 ? $g + 2 : $g - 1];
            if ($f[$c] !== $d && intdiv($g, 3) !== $t && ! self::linked($f, $twin, $c, $d)) {
                Topology::flip($f, $twin, $h);
            }
        }
        $keep = [];
        for ($t = 0; $t < $n; $t++) {
            [$a, $b, $c] = [$f[3 * $t], $f[3 * $t + 1], $f[3 * $t + 2]];
            if ($a !== $b && $b !== $c && $c !== $a) {
                $keep[] = $t;
            }
        }

        return $keep;
    }

    /**
     * Turns faces until neighbours agree; of each connected part the smaller half turns.
     *
     * @param  array<int, int>  $f  (changed)
     */
    public static function agree(array &$f): void
    {
        $n = count($f);
        $sides = [];
        for ($h = 0; $h < $n; $h++) {
            $a = $f[$h];
            $b = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            $sides[$a < $b ? $a << 32 | $b : $b << 32 | $a][] = $h;
        }
        $near = [];
        foreach ($sides as $pair) {
            if (count($pair) === 2) {
                // Neighbours agree when they run along their edge in opposite directions.
                $turned = $f[$pair[0]] === $f[$pair[1]] ? 1 : 0;
                $near[intdiv($pair[0], 3)][] = [intdiv($pair[1], 3), $turned];
                $near[intdiv($pair[1], 3)][] = [intdiv($pair[0], 3), $turned];
            }
        }
        $turn = array_fill(0, intdiv($n, 3), -1);
        for ($seed = 0; $seed < intdiv($n, 3); $seed++) {
            if ($turn[$seed] >= 0) {
                continue;
            }
            $turn[$seed] = 0;
            $part = [$seed];
            for ($i = 0; $i < count($part); $i++) {
                foreach ($near[$part[$i]] ?? [] as [$t, $turned]) {
                    if ($turn[$t] < 0) {
                        $turn[$t] = $turn[$part[$i]] ^ $turned;
                        $part[] = $t;
                    }
                }
            }
            $many = array_sum(array_map(fn (int $t) => $turn[$t], $part));
            foreach ($part as $t) {
                if (($turn[$t] === 1) !== (2 * $many > count($part))) {
                    [$f[3 * $t + 1], $f[3 * $t + 2]] = [$f[3 * $t + 2], $f[3 * $t + 1]];
                }
            }
        }
    }

    /**
     * Loops of three edges that no face fills, no longer than three typical edges, with more than a bump on both sides: places where the
     * surface is thinner than its own resolution.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return list<array{int, int, int}>
     */
    public static function necks(array $p, array $f): array
    {
        $around = $faces = [];
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            $corners = [$f[$o], $f[$o + 1], $f[$o + 2]];
            sort($corners);
            [$a, $b, $c] = $corners;
            $around[$a][$b] = $around[$a][$c] = $around[$b][$c] = true;
            $faces[$a][$b << 32 | $c] = true;
        }
        if ($f === []) {
            return [];
        }
        $longest = 3.0 * Measure::typicalEdge($p, $f);
        $necks = [];
        $twin = null;
        foreach ($around as $a => $above) {
            foreach ($above as $b => $_) {
                foreach ($around[$b] ?? [] as $c => $__) {
                    if (! isset($above[$c]) || isset($faces[$a][$b << 32 | $c])
                        || self::distance($p, $a, $b) + self::distance($p, $b, $c) + self::distance($p, $c, $a) > $longest) {
                        continue;
                    }
                    $twin ??= Topology::twins($f);
                    if (self::parts($f, $twin, $a, $b, $c)) {
                        $necks[] = [$a, $b, $c];
                    }
                }
            }
        }

        return $necks;
    }

    /**
     * Does a loop of three edges have more than a bump on both sides?
     *
     * @param  array<int, int>  $f
     * @param  array<int, int>  $twin
     */
    private static function parts(array $f, array $twin, int $a, int $b, int $c): bool
    {
        $edges = [self::edge($a, $b) => true, self::edge($b, $c) => true, self::edge($a, $c) => true];
        $first = array_search($a, $f, true);
        // One half-edge of the loop, found around its first corner.
        $start = -1;
        foreach ($first === false ? [] : Topology::fan($twin, $first) as $h) {
            if ($f[$h % 3 === 2 ? $h - 2 : $h + 1] === $b) {
                $start = $h;
            }
        }
        if ($start < 0 || $twin[$start] < 0) {
            return false;
        }
        foreach ([$start, $twin[$start]] as $h) {
            $part = [intdiv($h, 3)];
            $seen = [$part[0] => true];
            for ($i = 0; $i < count($part) && count($part) < self::BUMP; $i++) {
                for ($g = 3 * $part[$i]; $g < 3 * $part[$i] + 3; $g++) {
                    $t = $twin[$g] < 0 ? -1 : intdiv($twin[$g], 3);
                    if ($t >= 0 && ! isset($seen[$t]) && ! isset($edges[self::edge($f[$g], $f[$g % 3 === 2 ? $g - 2 : $g + 1])])) {
                        $seen[$t] = true;
                        $part[] = $t;
                    }
                }
            }
            if (count($part) < self::BUMP) {
                return false;
            }
        }

        return true;
    }

    private static function edge(int $a, int $b): int
    {
        return $a < $b ? $a << 32 | $b : $b << 32 | $a;
    }

    /**
     * What a vertex was joined to in the end.
     *
     * @param  array<int, int>  $joined
     */
    public static function root(array $joined, int $v): int
    {
        while (isset($joined[$v])) {
            $v = $joined[$v];
        }

        return $v;
    }

    /**
     * Does an edge lead from the vertex of corner $h to vertex $v?
     *
     * @param  array<int, int>  $f
     * @param  array<int, int>  $twin
     */
    private static function linked(array $f, array $twin, int $h, int $v): bool
    {
        foreach (Topology::fan($twin, $h) as $c) {
            if ($f[$c % 3 === 2 ? $c - 2 : $c + 1] === $v || $f[$c % 3 === 0 ? $c + 2 : $c - 1] === $v) {
                return true;
            }
        }

        return false;
    }

    /** @param  array<int, float>  $p */
    private static function distance(array $p, int $a, int $b): float
    {
        return sqrt(($p[3 * $a] - $p[3 * $b]) ** 2 + ($p[3 * $a + 1] - $p[3 * $b + 1]) ** 2 + ($p[3 * $a + 2] - $p[3 * $b + 2]) ** 2);
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     */
    private static function area(array $p, array $f, int $o): float
    {
        [$a, $b, $c] = [3 * $f[$o], 3 * $f[$o + 1], 3 * $f[$o + 2]];
        $x = ($p[$b + 1] - $p[$a + 1]) * ($p[$c + 2] - $p[$a + 2]) - ($p[$b + 2] - $p[$a + 2]) * ($p[$c + 1] - $p[$a + 1]);
        $y = ($p[$b + 2] - $p[$a + 2]) * ($p[$c] - $p[$a]) - ($p[$b] - $p[$a]) * ($p[$c + 2] - $p[$a + 2]);
        $z = ($p[$b] - $p[$a]) * ($p[$c + 1] - $p[$a + 1]) - ($p[$b + 1] - $p[$a + 1]) * ($p[$c] - $p[$a]);

        return 0.5 * sqrt($x * $x + $y * $y + $z * $z);
    }
}
