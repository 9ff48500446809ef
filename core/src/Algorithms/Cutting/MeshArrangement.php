<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\Predicates\ImplicitPoints;
use Emberstone\Core\Algorithms\Predicates\Orient3d;

/**
 * Two meshes parted along the curves in which they meet, so that their faces have whole edges and corners in common or nothing at all; faces that lie on each other in one plane are parted along each
 * other's edges.
 *
 * Source    after Zhou, Grinspun, Zorin & Jacobson 2016, "Mesh Arrangements for Solid Geometry". Neither mesh crosses itself here, so curves meet in points where an edge of one meets a face or an edge of
 *           the other, or in corners: every question can be asked of corners that are given, and the few that parting a face asks are asked of Attene's implicit points (see ImplicitPoints).
 * Input     two closed meshes without faults of their own; corners in the same place are one vertex.
 * Error     what meets what, and where points lie on edges and faces, is exact; the coordinates of new points are rounded.
 * Cost      the pairs of faces whose boxes meet, and n log n for what lies in each face.
 *
 * @internal
 */
final class MeshArrangement
{
    /** @var list<int> flat vertex indices of the parted faces; those of the first mesh come first */
    public array $faces = [];

    /** @var list<int> of each parted face, which face it is of */
    public array $source = [];

    /** @var array<string, array{int, int}> by ends, "low high": an edge of the parted faces that both meshes share */
    public array $seams = [];

    /** @var array<string, array<int, true>> the faces of both meshes, before they were parted, in which a seam lies */
    public array $facesAt = [];

    /** @var array<int, array<int, true>> faces of the other mesh that lie on a face, in one plane */
    public array $onIt = [];

    public ImplicitPoints $points;

    /** @var array{float, float, float}|null where faces cannot be parted: a mesh crosses itself or has a face without an area there */
    public ?array $trouble = null;

    /** @var array<int, array{int, int, int}> of a face: the coordinates in which it is seen against the clock, and the third */
    private array $views = [];

    /** @var array<int, array<int, true>> edge => points strictly between its ends */
    private array $onEdge = [];

    /** @var array<int, array<int, true>> face => points strictly inside */
    private array $inFace = [];

    /** @var array<int, array<string, array{int, int}>> face => seams in it that are not parts of its edges */
    private array $across = [];

    /** @var array<string, int> crossings by what meets there */
    private array $crossings = [];

    /**
     * @param  array<int, float>  $positions
     * @param  array<int, int>  $f  flat vertex indices of both meshes
     */
    private function __construct(array $positions, private readonly array $f)
    {
        $this->points = new ImplicitPoints($positions);
    }

    /**
     * @param  array<int, float>  $p  flat xyz of both meshes
     * @param  array<int, int>  $f
     * @param  int  $split  the first face of the second mesh
     * @param  (callable(float): void)|null  $breathe  told the share done; may throw to stop
     */
    public static function of(array $p, array $f, int $split, ?callable $breathe = null): self
    {
        $one = new self($p, $f);
        $pairs = FacePairs::of($p, $f, $split);
        for ($k = 0, $n = count($pairs); $k < $n && $one->trouble === null; $k += 2) {
            if (($k & 1023) === 0 && $breathe !== null) {
                $breathe(0.6 * $k / $n);
            }
            $one->meet($pairs[$k], $pairs[$k + 1]);
        }
        if ($one->trouble === null) {
            $one->part($breathe);
        }

        return $one;
    }

    /** What a face of the first mesh and one of the second have in common. */
    private function meet(int $t, int $u): void
    {
        $sidesT = $this->sides($t, $u);
        if (min($sidesT) > 0 || max($sidesT) < 0) {
            return;
        }
        $sidesU = $this->sides($u, $t);
        if (min($sidesU) > 0 || max($sidesU) < 0) {
            return;
        }
        if ($sidesT === [0, 0, 0]) {
            $this->meetFlat($t, $u);

            return;
        }
        $found = $this->cornersOn($t, $sidesT, $u) + $this->cornersOn($u, $sidesU, $t) + $this->edgesThrough($t, $sidesT, $u) + $this->edgesThrough($u, $sidesU, $t);
        $this->seam(array_keys($found), $t, $u);
    }

    /** @return array{int, int, int} for each corner of t, on which side of the plane of u it lies: 1 behind, -1 in front */
    private function sides(int $t, int $u): array
    {
        $p = $this->points->positions;
        $f = $this->f;
        [$a, $b, $c] = [3 * $f[3 * $u], 3 * $f[3 * $u + 1], 3 * $f[3 * $u + 2]];

        return [Orient3d::side($p, $a, $b, $c, 3 * $f[3 * $t]), Orient3d::side($p, $a, $b, $c, 3 * $f[3 * $t + 1]), Orient3d::side($p, $a, $b, $c, 3 * $f[3 * $t + 2])];
    }

    /** @return array{int, int, int} the coordinates in which a face is seen against the clock, and the third */
    public function view(int $t): array
    {
        if (! isset($this->views[$t])) {
            $p = $this->points->positions;
            [$a, $b, $c] = [3 * $this->f[3 * $t], 3 * $this->f[3 * $t + 1], 3 * $this->f[3 * $t + 2]];
            $size = [];
            for ($k = 0; $k < 3; $k++) {
                [$i, $j] = [($k + 1) % 3, ($k + 2) % 3];
                $size[] = abs(($p[$b + $i] - $p[$a + $i]) * ($p[$c + $j] - $p[$a + $j]) - ($p[$b + $j] - $p[$a + $j]) * ($p[$c + $i] - $p[$a + $i]));
            }
            $k = (int) array_search(max($size), $size, true);
            [$i, $j] = [($k + 1) % 3, ($k + 2) % 3];
            $turn = Orient3d::turn($p, $a, $b, $c, $i, $j);
            if ($turn === 0) {
                $this->trouble = [$p[$a], $p[$a + 1], $p[$a + 2]];
            }
            $this->views[$t] = $turn < 0 ? [$j, $i, $k] : [$i, $j, $k];
        }

        return $this->views[$t];
    }

    /**
     * Where a point in the plane of a face lies.
     *
     * @return list<int>|null the edges of the face that it is on, by the corner that they begin at: none inside, two at a corner; null where it lies outside
     */
    public function locate(int $v, int $t): ?array
    {
        [$i, $j] = $this->view($t);
        $on = [];
        for ($k = 0; $k < 3; $k++) {
            $turn = $this->points->turn($this->f[3 * $t + $k], $this->f[3 * $t + ($k + 1) % 3], $v, $i, $j);
            if ($turn < 0) {
                return null;
            }
            if ($turn === 0) {
                $on[] = $k;
            }
        }

        return $on;
    }

    private function edge(int $t, int $k): int
    {
        [$a, $b] = [$this->f[3 * $t + $k], $this->f[3 * $t + ($k + 1) % 3]];

        return $a < $b ? $a << 32 | $b : $b << 32 | $a;
    }

    /** Notes a given vertex that lies in the plane of a face: true where it lies in the face or on its rim. */
    private function note(int $v, int $t): bool
    {
        $on = $this->locate($v, $t);
        if ($on === []) {
            $this->inFace[$t][$v] = true;
        } elseif ($on !== null && count($on) === 1) {
            $this->onEdge[$this->edge($t, $on[0])][$v] = true;
        }

        return $on !== null;
    }

    /**
     * @param  array{int, int, int}  $sides
     * @return array<int, true> corners of t that lie on u
     */
    private function cornersOn(int $t, array $sides, int $u): array
    {
        $found = [];
        foreach ($sides as $k => $side) {
            $v = $this->f[3 * $t + $k];
            if ($side === 0 && $this->note($v, $u)) {
                $found[$v] = true;
            }
        }

        return $found;
    }

    /**
     * @param  array{int, int, int}  $sides
     * @return array<int, true> points where edges of t pass through u
     */
    private function edgesThrough(int $t, array $sides, int $u): array
    {
        $found = [];
        for ($k = 0; $k < 3; $k++) {
            if ($sides[$k] * $sides[($k + 1) % 3] >= 0) {
                continue;
            }
            $v = $this->through($this->f[3 * $t + $k], $this->f[3 * $t + ($k + 1) % 3], $this->edge($t, $k), $u);
            if ($v >= 0) {
                $found[$v] = true;
            }
        }

        return $found;
    }

    /** @return int where the edge from a to b passes through a face whose plane has a and b on different sides; -1 where it passes by */
    private function through(int $a, int $b, int $edge, int $u): int
    {
        $p = $this->points->positions;
        $sides = $on = [];
        for ($k = 0; $k < 3; $k++) {
            $sides[] = $side = Orient3d::side($p, 3 * $a, 3 * $b, 3 * $this->f[3 * $u + $k], 3 * $this->f[3 * $u + ($k + 1) % 3]);
            if ($side === 0) {
                $on[] = $k;
            }
        }
        if (min($sides) < 0 && max($sides) > 0) {
            return -1;
        }
        if (count($on) > 1) {
            // Two edges of the face: their common corner.
            $v = $on === [0, 1] ? $this->f[3 * $u + 1] : ($on === [1, 2] ? $this->f[3 * $u + 2] : $this->f[3 * $u]);
            $this->onEdge[$edge][$v] = true;

            return $v;
        }
        $other = $on === [] ? null : $this->edge($u, $on[0]);
        $key = $other === null ? "$edge $u" : min($edge, $other).'|'.max($edge, $other);
        [$low, $high] = [$edge >> 32, $edge & 0xFFFFFFFF];
        // A second holder of the coordinates would make the next point copy them all.
        unset($p);
        $v = $this->crossings[$key] ??= $this->points->onPlane($low, $high, $this->f[3 * $u], $this->f[3 * $u + 1], $this->f[3 * $u + 2]);
        $this->onEdge[$edge][$v] = true;
        if ($other === null) {
            $this->inFace[$u][$v] = true;
        } else {
            $this->onEdge[$other][$v] = true;
        }

        return $v;
    }

    /** What two faces in one plane have in common. */
    private function meetFlat(int $t, int $u): void
    {
        $this->onIt[$t][$u] = $this->onIt[$u][$t] = true;
        // Along each edge of each of the two, the points that are on the other as well: two where they share a length.
        $along = [[[], [], []], [[], [], []]];
        foreach ([[$t, $u, 0], [$u, $t, 1]] as [$one, $other, $which]) {
            for ($k = 0; $k < 3; $k++) {
                $v = $this->f[3 * $one + $k];
                if (! $this->note($v, $other)) {
                    continue;
                }
                $along[$which][$k][$v] = $along[$which][($k + 2) % 3][$v] = true;
                foreach ($this->locate($v, $other) ?? [] as $on) {
                    $along[1 - $which][$on][$v] = true;
                }
            }
        }
        for ($k = 0; $k < 3; $k++) {
            for ($l = 0; $l < 3; $l++) {
                $v = $this->crossing($t, $k, $u, $l);
                if ($v >= 0) {
                    $along[0][$k][$v] = $along[1][$l][$v] = true;
                }
            }
        }
        foreach ($along as $edges) {
            foreach ($edges as $points) {
                $this->seam(array_keys($points), $t, $u);
            }
        }
    }

    /** @return int where an edge of one face and an edge of another in its plane cross strictly between their ends; -1 where they do not */
    private function crossing(int $t, int $k, int $u, int $l): int
    {
        [$i, $j] = $this->view($t);
        [$a, $b] = [$this->f[3 * $t + $k], $this->f[3 * $t + ($k + 1) % 3]];
        [$c, $d] = [$this->f[3 * $u + $l], $this->f[3 * $u + ($l + 1) % 3]];
        if ($this->points->turn($a, $b, $c, $i, $j) * $this->points->turn($a, $b, $d, $i, $j) >= 0 || $this->points->turn($c, $d, $a, $i, $j) * $this->points->turn($c, $d, $b, $i, $j) >= 0) {
            return -1;
        }
        [$one, $two] = [$this->edge($t, $k), $this->edge($u, $l)];
        $v = $this->crossings[min($one, $two).'|'.max($one, $two)] ??= $this->points->onLine($one >> 32, $one & 0xFFFFFFFF, $two >> 32, $two & 0xFFFFFFFF, $i, $j);
        $this->onEdge[$one][$v] = $this->onEdge[$two][$v] = true;

        return $v;
    }

    /**
     * Notes the edge between two points that two faces share.
     *
     * @param  list<int>  $ends  one point alone makes no edge
     */
    private function seam(array $ends, int $t, int $u): void
    {
        if (count($ends) < 2) {
            return;
        }
        if (count($ends) > 2) {
            $this->trouble = $this->points->place($ends[0]);

            return;
        }
        [$a, $b] = [min($ends), max($ends)];
        $key = "$a $b";
        $this->seams[$key] = [$a, $b];
        $this->facesAt[$key][$t] = $this->facesAt[$key][$u] = true;
        foreach ([$t, $u] as $face) {
            if (! $this->areOnOneEdge($a, $b, $face)) {
                $this->across[$face][$key] = [$a, $b];
            }
        }
    }

    private function areOnOneEdge(int $a, int $b, int $t): bool
    {
        for ($k = 0; $k < 3; $k++) {
            $ends = [$this->f[3 * $t + $k], $this->f[3 * $t + ($k + 1) % 3]];
            $on = $this->onEdge[$this->edge($t, $k)] ?? [];
            if ((isset($on[$a]) || in_array($a, $ends, true)) && (isset($on[$b]) || in_array($b, $ends, true))) {
                return true;
            }
        }

        return false;
    }

    /** @param  (callable(float): void)|null  $breathe */
    private function part(?callable $breathe): void
    {
        $faces = intdiv(count($this->f), 3);
        for ($t = 0; $t < $faces; $t++) {
            if (($t & 4095) === 0 && $breathe !== null) {
                $breathe(0.6 + 0.4 * $t / $faces);
            }
            [$a, $b, $c] = [$this->f[3 * $t], $this->f[3 * $t + 1], $this->f[3 * $t + 2]];
            if (! isset($this->inFace[$t]) && ! isset($this->across[$t]) && ! isset($this->onEdge[$a < $b ? $a << 32 | $b : $b << 32 | $a])
                && ! isset($this->onEdge[$b < $c ? $b << 32 | $c : $c << 32 | $b]) && ! isset($this->onEdge[$c < $a ? $c << 32 | $a : $a << 32 | $c])) {
                $this->faces[] = $a;
                $this->faces[] = $b;
                $this->faces[] = $c;
                $this->source[] = $t;

                continue;
            }
            $parts = $this->parts($t);
            if ($this->trouble !== null) {
                return;
            }
            foreach ($parts as $v) {
                $this->faces[] = $v;
            }
            for ($k = count($parts); $k > 0; $k -= 3) {
                $this->source[] = $t;
            }
        }
    }

    /** @return list<int> flat vertex indices */
    private function parts(int $t): array
    {
        [$i, $j] = $this->view($t);
        $rim = [$this->alongEdge($t, 0), $this->alongEdge($t, 1), $this->alongEdge($t, 2)];
        $made = ConstrainedTriangulation::ofTriangle(
            $this->points, [$this->f[3 * $t], $this->f[3 * $t + 1], $this->f[3 * $t + 2]], $rim, array_keys($this->inFace[$t] ?? []), array_values($this->across[$t] ?? []), $i, $j,
        );
        $this->trouble ??= $made['trouble'];

        return $made['faces'];
    }

    /** @return list<int> the points on an edge, in the order of the face */
    private function alongEdge(int $t, int $k): array
    {
        $on = array_keys($this->onEdge[$this->edge($t, $k)] ?? []);
        if (count($on) > 1) {
            $p = $this->points->positions;
            [$a, $b] = [3 * $this->f[3 * $t + $k], 3 * $this->f[3 * $t + ($k + 1) % 3]];
            $ways = [$p[$b] - $p[$a], $p[$b + 1] - $p[$a + 1], $p[$b + 2] - $p[$a + 2]];
            $sizes = array_map(abs(...), $ways);
            $axis = (int) array_search(max($sizes), $sizes, true);
            usort($on, fn (int $v, int $w) => $ways[$axis] > 0.0 ? $this->points->compare($v, $w, $axis) : $this->points->compare($w, $v, $axis));
        }

        return $on;
    }
}
