<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\Vector3;

/**
 * Short loops of edges around tunnels and under small bridges. Cut along one and closed on both sides, the surface has a handle less.
 *
 * Only loops around air count: one around material, about a wire say, would be cut through.
 *
 * Source    TreeCotree says where handles are; near each the shortest loop is looked for in the same way (Erickson & Whittlesey 2005).
 *
 * @internal
 */
final class HandleLoops
{
    /** A loop of more typical edges than these goes around something that is meant. */
    public const EDGES = 8.0;

    /** How many times as long as a loop a zigzag of edges along it may be; beyond the mouth of a tunnel it soon is longer. */
    private const FRONT = 2.0;

    /** Across tall faces it is longer for a while; so long it does not come back. */
    private const LOST = 6.0;

    /** The face beyond the edge of a region, and beyond a rim. */
    private const OUTSIDE = -1;

    /** @var array<int, list<int>> the half-edges that leave a vertex, of the vertices looked at so far */
    private array $leaving = [];

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array<int, int>  $twin
     * @param  array<int, int>  $first  of each vertex a half-edge that leaves it
     */
    private function __construct(private readonly array $p, private readonly array $f, private readonly array $twin, private readonly array $first)
    {
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array<int, int>  $twin  as Topology::twins() gives it
     * @param  float|null  $longest  way around that a loop may have; null: EDGES typical edges
     * @return list<array{loop: list<int>, wall: list<int>}> the vertices around each, the shortest way first, no two with a vertex in common; the faces between it and
     *                                                       the mouths, none where it lies in both of them
     */
    public static function of(array $p, array $f, array $twin, ?float $longest = null): array
    {
        if ($f === []) {
            return [];
        }
        $longest ??= self::EDGES * Measure::typicalEdge($p, $f);
        $first = array_fill(0, intdiv(count($p), 3), -1);
        foreach ($f as $h => $v) {
            // Where a vertex lies on a rim, the half-edge from which its whole fan is reached by turning one way.
            if ($first[$v] < 0 || $twin[$h % 3 === 0 ? $h + 2 : $h - 1] < 0) {
                $first[$v] = $h;
            }
        }
        $surface = new self($p, $f, $twin, $first);
        $loops = [];
        foreach (TreeCotree::ends($f, $twin, count($first)) as $vertex) {
            // The place may lie beside the handle: twice the way is looked over, then the loop drawn tight.
            $loop = $surface->drawnTight($surface->through($vertex, 2.0 * $longest));
            if ($loop !== null && $loop['length'] <= $longest) {
                $loops[] = $loop;
            }
        }
        usort($loops, fn (array $a, array $b) => $a['length'] <=> $b['length']);
        $taken = $cut = $apart = [];
        foreach ($loops as ['vertices' => $vertices, 'length' => $length]) {
            // Both mouths of a tunnel have a loop: cut along both, its wall would come off.
            if (array_intersect_key(array_flip($vertices), $taken) === [] && ! $surface->comesOff($vertices, $cut)) {
                $taken += array_flip($vertices);
                $cut += self::edges($vertices);
                $apart[] = ['loop' => $vertices, 'wall' => $surface->wall($vertices, $length)];
            }
        }

        return $apart;
    }

    /**
     * The shortest loop around air through a vertex along which nothing comes off by cutting.
     *
     * @return array{vertices: list<int>, length: float}|null
     */
    private function through(int $root, float $longest): ?array
    {
        ['way' => $way, 'from' => $from] = $this->ball($root, 0.5 * $longest);
        $parent = [self::OUTSIDE => self::OUTSIDE];
        $edges = $lengths = [];
        foreach ($way as $v => $_) {
            foreach ($this->leaving($v) as $h) {
                $w = $this->f[self::next($h)];
                $u = $this->f[self::previous($h)];
                if (isset($way[$w], $way[$u])) {
                    $parent[intdiv($h, 3)] = intdiv($h, 3);
                }
                if (isset($way[$w]) && ($this->twin[$h] < 0 || $h < $this->twin[$h]) && ($from[$w] ?? -1) !== $v && ($from[$v] ?? -1) !== $w) {
                    $edges[] = $h;
                    $lengths[] = $way[$v] + $way[$w] + $this->length($v, $w);
                }
            }
        }
        arsort($lengths);
        $over = [];
        foreach ($lengths as $k => $length) {
            $h = $edges[$k];
            $sides = array_map(fn (int $side) => $side >= 0 && isset($parent[intdiv($side, 3)]) ? intdiv($side, 3) : self::OUTSIDE, [$h, $this->twin[$h]]);
            if (! TreeCotree::union($parent, ...$sides) && $length <= $longest) {
                $over[] = $h;
            }
        }
        foreach (array_reverse($over) as $h) {
            $loop = $this->loop($h, $from);
            if (count($loop) > 2 && $this->isAroundAir($loop) && ! $this->comesOff($loop)) {
                return ['vertices' => $loop, 'length' => $this->around($loop)];
            }
        }

        return null;
    }

    /**
     * @param  array{vertices: list<int>, length: float}|null  $loop
     * @return array{vertices: list<int>, length: float}|null a loop around the same place, from the shortest that pass through one of its vertices
     */
    private function drawnTight(?array $loop): ?array
    {
        while ($loop !== null) {
            $best = $loop;
            foreach ($loop['vertices'] as $v) {
                $other = $this->through($v, $best['length']);
                if ($other !== null && $other['length'] < $best['length'] * (1.0 - 1e-9)) {
                    $best = $other;
                }
            }
            if ($best === $loop) {
                return $loop;
            }
            $loop = $best;
        }

        return null;
    }

    /**
     * Shortest ways along edges (Dijkstra) from a vertex.
     *
     * @return array{way: array<int, float>, from: array<int, int>} of the vertices within reach
     */
    private function ball(int $root, float $reach): array
    {
        $way = [$root => 0.0];
        $from = $done = [];
        $queue = new \SplPriorityQueue;
        $queue->insert($root, 0.0);
        while (! $queue->isEmpty()) {
            /** @var int $v */
            $v = $queue->extract();
            if (isset($done[$v])) {
                continue;
            }
            $done[$v] = true;
            foreach ($this->leaving($v) as $h) {
                foreach ([$this->f[self::next($h)], $this->f[self::previous($h)]] as $w) {
                    $there = $way[$v] + $this->length($v, $w);
                    if ($there <= $reach && $there < ($way[$w] ?? INF)) {
                        $way[$w] = $there;
                        $from[$w] = $v;
                        $queue->insert($w, -$there);
                    }
                }
            }
        }

        return ['way' => $way, 'from' => $from];
    }

    /**
     * The ring that an edge makes with the ways from its ends to where they meet.
     *
     * @param  array<int, int>  $from
     * @return list<int>
     */
    private function loop(int $h, array $from): array
    {
        $trails = [];
        foreach ([$this->f[$h], $this->f[self::next($h)]] as $v) {
            for ($trail = [$v]; isset($from[$v]); $trail[] = $v) {
                $v = $from[$v];
            }
            $trails[] = $trail;
        }
        [$a, $b] = $trails;
        while (count($a) > 1 && count($b) > 1 && $a[count($a) - 2] === $b[count($b) - 2]) {
            array_pop($a);
            array_pop($b);
        }
        array_pop($b);

        return [...$a, ...array_reverse($b)];
    }

    /**
     * Whether the surface along a ring looks to the middle of the ring.
     *
     * @param  list<int>  $ring
     */
    private function isAroundAir(array $ring): bool
    {
        $middle = [0.0, 0.0, 0.0];
        foreach ($ring as $v) {
            for ($k = 0; $k < 3; $k++) {
                $middle[$k] += $this->p[3 * $v + $k] / count($ring);
            }
        }
        $towards = 0.0;
        foreach ($ring as $v) {
            $at = $this->place($v);
            $normal = [0.0, 0.0, 0.0];
            foreach ($this->leaving($v) as $h) {
                $cross = Vector3::cross(Vector3::minus($this->place($this->f[self::next($h)]), $at), Vector3::minus($this->place($this->f[self::previous($h)]), $at));
                $normal = [$normal[0] + $cross[0], $normal[1] + $cross[1], $normal[2] + $cross[2]];
            }
            $towards += Vector3::dot($normal, Vector3::minus($middle, $at)) / max(1e-300, Vector3::length($normal));
        }

        return $towards > 0.0;
    }

    /**
     * Whether the surface falls into two along a ring: both sides grow in turn until they meet or one has no more to grow into.
     *
     * @param  list<int>  $ring
     * @param  array<int, true>  $cut  edges along which it is cut already
     */
    private function comesOff(array $ring, array $cut = []): bool
    {
        $cut += self::edges($ring);
        $left = null;
        foreach ($this->leaving($ring[0]) as $h) {
            $left = $this->f[self::next($h)] === $ring[1] && $this->twin[$h] >= 0 ? $h : $left;
        }
        if ($left === null) {
            return true;
        }
        $stacks = [[intdiv($left, 3)], [intdiv($this->twin[$left], 3)]];
        $side = [$stacks[0][0] => 0, $stacks[1][0] => 1];
        for ($turn = 0; $stacks[$turn] !== []; $turn = 1 - $turn) {
            $next = [];
            foreach ($stacks[$turn] as $t) {
                for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                    $v = $this->f[$h];
                    $w = $this->f[self::next($h)];
                    if ($this->twin[$h] < 0 || isset($cut[min($v, $w) << 32 | max($v, $w)])) {
                        continue;
                    }
                    $there = intdiv($this->twin[$h], 3);
                    if (! isset($side[$there])) {
                        $side[$there] = $turn;
                        $next[] = $there;
                    } elseif ($side[$there] !== $turn) {
                        return false;
                    }
                }
            }
            $stacks[$turn] = $next;
        }

        return true;
    }

    /**
     * The faces on both sides of a loop as far as the front that moves away from it stays about as long as it is.
     *
     * @param  list<int>  $ring
     * @return list<int>
     */
    private function wall(array $ring, float $length): array
    {
        $cut = self::edges($ring);
        $wall = [];
        $sides = [[], []];
        foreach ($ring as $k => $v) {
            foreach ($this->leaving($v) as $h) {
                if ($this->f[self::next($h)] === $ring[($k + 1) % count($ring)] && $this->twin[$h] >= 0) {
                    $sides[0][intdiv($h, 3)] = true;
                    $sides[1][intdiv($this->twin[$h], 3)] = true;
                }
            }
        }
        foreach ($sides as $swept) {
            for ($active = $swept, $kept = []; $active !== [];) {
                $front = 0.0;
                $next = [];
                foreach ($active as $t => $_) {
                    for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                        [$v, $w] = [$this->f[$h], $this->f[self::next($h)]];
                        $there = intdiv($this->twin[$h], 3);
                        if ($this->twin[$h] >= 0 && ! isset($swept[$there]) && ! isset($cut[min($v, $w) << 32 | max($v, $w)])) {
                            $front += $this->length($v, $w);
                            $next[$there] = true;
                        }
                    }
                }
                if ($front > self::LOST * $length) {
                    break;
                }
                $kept = $front <= self::FRONT * $length ? $swept : $kept;
                $swept += $next;
                $active = $next;
            }
            $wall += $kept;
        }

        return array_keys($wall);
    }

    /**
     * @param  list<int>  $ring
     * @return array<int, true> by both ends, the lower one first
     */
    private static function edges(array $ring): array
    {
        $edges = [];
        foreach ($ring as $k => $v) {
            $w = $ring[($k + 1) % count($ring)];
            $edges[min($v, $w) << 32 | max($v, $w)] = true;
        }

        return $edges;
    }

    /** @return list<int> half-edges that leave a vertex */
    private function leaving(int $v): array
    {
        if (isset($this->leaving[$v])) {
            return $this->leaving[$v];
        }
        $leaving = [];
        for ($h = $this->first[$v]; $h >= 0;) {
            $leaving[] = $h;
            $h = $this->twin[$h] < 0 ? -1 : self::next($this->twin[$h]);
            if ($h === $this->first[$v]) {
                break;
            }
        }

        return $this->leaving[$v] = $leaving;
    }

    private function length(int $v, int $w): float
    {
        return Vector3::length(Vector3::minus($this->place($v), $this->place($w)));
    }

    /** @return array{float, float, float} */
    private function place(int $v): array
    {
        return [$this->p[3 * $v], $this->p[3 * $v + 1], $this->p[3 * $v + 2]];
    }

    /** @param  list<int>  $ring */
    private function around(array $ring): float
    {
        $length = 0.0;
        foreach ($ring as $k => $v) {
            $length += $this->length($v, $ring[($k + 1) % count($ring)]);
        }

        return $length;
    }

    private static function next(int $h): int
    {
        return $h % 3 === 2 ? $h - 2 : $h + 1;
    }

    private static function previous(int $h): int
    {
        return $h % 3 === 0 ? $h + 2 : $h - 1;
    }
}
