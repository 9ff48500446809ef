<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

/**
 * How a surface crosses a cell: for every pattern of signs at the eight corners, the closed loops of crossed edges.
 *
 * On an ambiguous face (signs alternate around it) the two ways of pairing its four crossings are both right; by default the
 * corners inside the part are kept apart. A variant is a pattern with some of its ambiguous faces paired the other way.
 *
 * Source    loops after marching cubes (Lorensen & Cline 1987), one vertex a loop after Nielson 2004, "Dual Marching Cubes".
 *
 * Corner c has x = c & 1, y = c >> 1 & 1, z = c >> 2. Edge e = 4 * axis + index: see EDGES.
 *
 * @internal
 */
final class CellLoops
{
    /** corner pairs of the twelve edges: four along x, four along y, four along z */
    public const EDGES = [
        [0, 1], [2, 3], [4, 5], [6, 7], [0, 2], [1, 3], [4, 6], [5, 7], [0, 4], [1, 5], [2, 6], [3, 7],
    ];

    /** corners of the six faces, counter-clockwise seen from outside: -x +x -y +y -z +z */
    private const FACES = [
        [0, 4, 6, 2], [1, 3, 7, 5], [0, 1, 5, 4], [2, 6, 7, 3], [0, 2, 3, 1], [4, 5, 7, 6],
    ];

    /** @var list<int> pattern * 64 + mask of flipped faces, a variant each; the first 256 have no flips */
    public array $variants = [];

    /** @var array<int, int> pattern * 64 + mask => variant */
    private array $byKey = [];

    /** @var list<list<list<int>>> loops of edges of each variant */
    public array $loops = [];

    /** @var list<int> loop that holds an edge, at 12 * variant + edge; -1 when not crossed */
    public array $loopOfEdge = [];

    /** @var list<int> faces (bits) on which one loop passes twice, of each variant */
    public array $risky = [];

    public function __construct()
    {
        for ($pattern = 0; $pattern < 256; $pattern++) {
            $this->variant($pattern, 0);
        }
    }

    /** The variant of $variant with one more face paired the other way. */
    public function flipped(int $variant, int $face): int
    {
        $key = $this->variants[$variant];

        return $this->variant($key >> 6, ($key & 63) ^ (1 << $face));
    }

    private function variant(int $pattern, int $mask): int
    {
        $key = $pattern << 6 | $mask;
        if (isset($this->byKey[$key])) {
            return $this->byKey[$key];
        }
        $next = [];
        $faceOf = [];
        foreach (self::FACES as $f => $corners) {
            foreach (self::segments($corners, $pattern, ($mask >> $f & 1) === 1) as [$from, $to]) {
                $next[$from] = $to;
                $faceOf[$from] = $f;
            }
        }
        $loops = [];
        $loopOfEdge = array_fill(0, 12, -1);
        $risky = 0;
        foreach (array_keys($next) as $start) {
            if ($loopOfEdge[$start] >= 0) {
                continue;
            }
            $loop = [];
            $faces = [];
            for ($edge = $start; $loopOfEdge[$edge] < 0; $edge = $next[$edge]) {
                $loopOfEdge[$edge] = count($loops);
                $loop[] = $edge;
                $bit = 1 << $faceOf[$edge];
                if (isset($faces[$bit])) {
                    $risky |= $bit;
                }
                $faces[$bit] = true;
            }
            $loops[] = $loop;
        }
        $number = count($this->variants);
        $this->variants[] = $key;
        $this->byKey[$key] = $number;
        $this->loops[] = $loops;
        array_push($this->loopOfEdge, ...$loopOfEdge);
        $this->risky[] = $risky;

        return $number;
    }

    /**
     * Directed segments on a face from crossing to crossing, with the inside of the part on their left seen from outside the cell.
     *
     * @param  array{int, int, int, int}  $corners
     * @return list<array{int, int}>
     */
    private static function segments(array $corners, int $pattern, bool $flipped): array
    {
        $inside = array_map(fn (int $c) => ($pattern >> $c & 1) === 1, $corners);
        $enter = $leave = [];
        for ($k = 0; $k < 4; $k++) {
            $edge = self::edgeBetween($corners[$k], $corners[($k + 1) % 4]);
            if (! $inside[$k] && $inside[($k + 1) % 4]) {
                $enter[] = [$k, $edge];
            }
            if ($inside[$k] && ! $inside[($k + 1) % 4]) {
                $leave[] = [$k, $edge];
            }
        }
        $segments = [];
        foreach ($leave as [$k, $edge]) {
            // Walking on around the face, an inside run ends at "leave"; it began at the "enter" before it.
            $best = $enter[0];
            foreach ($enter as $candidate) {
                $back = ($k - $candidate[0] + 4) % 4;
                $bestBack = ($k - $best[0] + 4) % 4;
                if ($flipped ? $back > $bestBack : $back < $bestBack) {
                    $best = $candidate;
                }
            }
            $segments[] = [$edge, $best[1]];
        }

        return $segments;
    }

    private static function edgeBetween(int $a, int $b): int
    {
        foreach (self::EDGES as $e => [$c, $d]) {
            if (($a === $c && $b === $d) || ($a === $d && $b === $c)) {
                return $e;
            }
        }
        throw new \LogicException("corners $a and $b share no edge");
    }
}
