<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Brep;

use Emberstone\Core\Algorithms\HalfEdge\DisjointSets;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Shapes\TurnedShape;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\Vector3;

/**
 * Faces of endless shapes out of a mesh whose faces tell their shapes.
 *
 * Faces of one shape that hang together become one face. Where two shapes meet at an angle, their border is drawn onto the curve in which they cut each other (Newton's method on both distances);
 * where they go over into each other without a crease, that curve is not defined by them, and the smoothed border of the mesh half-way between them is taken. Corners are where three or
 * more meet. Triangles without a shape stay as they are, as flat faces, as long as there are few enough; else they are left out, and what is left is open there.
 *
 * Input     a mesh of which each edge has at most two faces
 * Error     see BoundaryRepresentation::$farthest
 * Cost      linear in the faces
 *
 * @phpstan-import-type Point from EdgeCurve
 */
final class ShapeSewing
{
    /** Means of edges that a place of a border may move, at most: farther away shapes do not meet where the mesh says. */
    private const REACH = 3.0;

    /** @var array<int, int> */
    private array $twin;

    private readonly FaceRegions $regions;

    private readonly float $reach;

    /** Radians that a rim turns at a corner. */
    private const CORNER = 0.7;

    /** Times that all is sewn, at most: each time fewer triangles are left to become slivers. */
    private const SEWN_AGAIN = 4;

    /** @var list<array{int, int}> corners that came to be one */
    private array $joined = [];

    /** @var array<int, int> corner of the result by vertex */
    private array $cornerOf = [];

    /** @var list<Point> */
    private array $corners = [];

    /** @var list<array{from: int, to: int, curve: EdgeCurve}> */
    private array $edges = [];

    /** @var array<int, int> signed edge that begins with a half-edge, or that it is within */
    private array $edgeAt = [];

    private float $farthest = 0.0;

    /**
     * @param  array<int, float>  $p  flat xyz, mm
     * @param  array<int, int>  $f  flat faces
     * @param  array<int, int>  $labels  of each face the place of its shape
     * @param  list<TurnedShape|null>  $of  shapes; null: its faces stay triangles
     * @param  int  $mostTriangles  that stay; when there are more, they are left out
     * @param  float  $tolerance  mm that a line or an arc may lie off the border that it is drawn for
     * @param  array<int, int>  $slivers  long side of triangles that shall not stay by themselves
     */
    private function __construct(private readonly array $p, private readonly array $f, array $labels, array $of, int $mostTriangles, private readonly float $tolerance, array $slivers = [])
    {
        $this->twin = Topology::twins($f);
        $this->reach = self::REACH * Measure::meanEdge($p, $f);
        $this->regions = new FaceRegions($p, $f, $this->twin, $labels, $of, $mostTriangles, $tolerance, $slivers);
    }

    /**
     * @param  array<int, float>  $p  flat xyz, mm
     * @param  array<int, int>  $f  flat faces
     * @param  array<int, int>  $labels  of each face the place of its shape
     * @param  list<TurnedShape|null>  $of  shapes; null: its faces stay triangles
     * @param  int  $mostTriangles  that stay; when there are more, they are left out
     * @param  float  $tolerance  mm that a line or an arc may lie off the border that it is drawn for
     */
    public static function of(array $p, array $f, array $labels, array $of, int $mostTriangles, float $tolerance): BoundaryRepresentation
    {
        // Triangles at a border may become slivers when it is drawn onto its shapes: then once more without them.
        $slivers = [];
        for ($round = 1; ; $round++) {
            $one = new self($p, $f, $labels, $of, $mostTriangles, $tolerance, $slivers);
            $sewn = $one->sewn();
            $more = $one->slivers();
            if ($more === [] || $round === self::SEWN_AGAIN) {
                return $sewn;
            }
            $slivers += $more;
        }
    }

    /**
     * A mesh as it is, with neighbours in one plane joined to one face.
     *
     * @param  array<int, float>  $p  flat xyz, mm
     * @param  array<int, int>  $f  flat faces
     */
    public static function flats(array $p, array $f): BoundaryRepresentation
    {
        return (new self($p, $f, array_fill(0, intdiv(count($f), 3), 0), [null], PHP_INT_MAX, 1e-3))->sewn();
    }

    /** @return array<int, int> long side by face, of triangles that stay and whose corners have come to lie in a line */
    private function slivers(): array
    {
        $slivers = [];
        foreach ($this->regions->region as $t => $face) {
            if ($face >= 0 && $this->regions->stays[$face]) {
                $corners = array_map(fn (int $v) => isset($this->cornerOf[$v]) ? $this->corners[$this->cornerOf[$v]] : $this->at($v), array_slice($this->f, 3 * $t, 3));
                $side = $this->regions->longSideOfSliver($corners);
                if ($side !== null) {
                    $slivers[$t] = 3 * $t + $side;
                }
            }
        }

        return $slivers;
    }

    private function sewn(): BoundaryRepresentation
    {
        $this->chains();
        $loops = array_fill(0, count($this->regions->shapes), []);
        $seen = [];
        for ($h = 0, $n = count($this->f); $h < $n; $h++) {
            $face = $this->regions->region[intdiv($h, 3)];
            if ($face < 0 || isset($seen[$h]) || ! $this->isBorder($h)) {
                continue;
            }
            $loop = [];
            for ($g = $h; ! isset($seen[$g]); $g = $this->nextBorder($g)) {
                $seen[$g] = true;
                $edge = $this->edgeAt[$g];
                if ($edge !== 0 && ($loop === [] || $loop[count($loop) - 1] !== $edge)) {
                    $loop[] = $edge;
                }
            }
            // Begun within an edge: its end comes last again.
            if (count($loop) > 1 && $loop[0] === $loop[count($loop) - 1]) {
                array_pop($loop);
            }
            $loop === [] || $loops[$face][] = $loop;
        }

        return $this->result($loops);
    }

    /** @param  list<list<list<int>>>  $loops  of each face */
    private function result(array $loops): BoundaryRepresentation
    {
        $facing = array_fill(0, count($this->regions->shapes), 0.0);
        $crosses = Measure::crosses($this->p, $this->f);
        $centres = Measure::centres($this->p, $this->f);
        foreach ($this->regions->region as $t => $face) {
            if ($face >= 0) {
                $facing[$face] += Vector3::dot([$crosses[3 * $t], $crosses[3 * $t + 1], $crosses[3 * $t + 2]], $this->regions->shapes[$face]->normal($centres[3 * $t], $centres[3 * $t + 1], $centres[3 * $t + 2]));
            }
        }
        $faces = [];
        $sets = new DisjointSets(array_keys($this->regions->shapes));
        $uses = [];
        foreach ($this->regions->shapes as $face => $shape) {
            if ($loops[$face] === [] && ! $shape->isRound()) {
                // So small that all its edges have shrunk to nothing: its neighbours meet there.
                continue;
            }
            $faces[$face] = ['shape' => $shape, 'facesOut' => $facing[$face] >= 0.0, 'loops' => $loops[$face]];
            foreach (array_merge(...$loops[$face]) as $edge) {
                $uses[abs($edge)][] = $face;
            }
        }
        foreach ($uses as $users) {
            foreach ($users as $other) {
                $sets->join($users[0], $other);
            }
        }
        $shells = $open = [];
        foreach (array_keys($faces) as $face) {
            $shells[$sets->of($face)][] = $face;
        }
        foreach ($uses as $users) {
            if (count($users) !== 2) {
                $open[$sets->of($users[0])] = true;
            }
        }

        $number = array_flip(array_keys($faces));
        $shells = array_map(fn (int $root, array $shell) => ['faces' => array_map(fn (int $face) => $number[$face], $shell), 'isClosed' => ! isset($open[$root])], array_keys($shells), $shells);

        $same = new DisjointSets(array_keys($this->corners));
        foreach ($this->joined as [$a, $b]) {
            $same->join($a, $b);
        }
        $edges = array_map(fn (array $edge) => ['from' => $same->of($edge['from']), 'to' => $same->of($edge['to']), 'curve' => $edge['curve']], $this->edges);

        return new BoundaryRepresentation($this->corners, $edges, array_values($faces), $shells, $this->farthest);
    }

    /** Whether a half-edge is where its face of the result ends. */
    private function isBorder(int $h): bool
    {
        $twin = $this->twin[$h];

        return $twin < 0 || $this->regions->region[intdiv($twin, 3)] !== $this->regions->region[intdiv($h, 3)];
    }

    /** The border half-edge of the same face of the result that begins where this one ends. */
    private function nextBorder(int $h): int
    {
        $g = $h % 3 === 2 ? $h - 2 : $h + 1;
        while (! $this->isBorder($g)) {
            $twin = $this->twin[$g];
            $g = $twin % 3 === 2 ? $twin - 2 : $twin + 1;
        }

        return $g;
    }

    /** @return Point */
    private function at(int $v): array
    {
        return [$this->p[3 * $v], $this->p[3 * $v + 1], $this->p[3 * $v + 2]];
    }

    /** The face of the result on the other side of a half-edge; -1: none. */
    private function across(int $h): int
    {
        return $this->twin[$h] < 0 ? -1 : $this->regions->region[intdiv($this->twin[$h], 3)];
    }

    /** Cuts the borders into edges between corners. */
    private function chains(): void
    {
        // Borders with the same faces on both sides meet at most in pairs at a vertex: where it is otherwise there is a corner.
        $sides = [];
        for ($h = 0, $n = count($this->f); $h < $n; $h++) {
            $left = $this->regions->region[intdiv($h, 3)];
            if ($left < 0 || ! $this->isBorder($h)) {
                continue;
            }
            $right = $this->across($h);
            $ends = [$this->f[$h], $this->f[$h % 3 === 2 ? $h - 2 : $h + 1]];
            foreach ([0, 1] as $k) {
                // A border with faces on both sides comes twice.
                $sides[$ends[$k]][] = [min($left, $right), max($left, $right), $right < 0 ? 2 : 1, $ends[1 - $k]];
            }
        }
        $isCorner = [];
        foreach ($sides as $v => $list) {
            [$a, $b] = $list[0];
            $isOnePair = array_sum(array_column($list, 2)) === 4 && array_filter($list, fn (array $side) => $side[0] !== $a || $side[1] !== $b) === [];
            $mayBend = ! ($a >= 0 && $this->regions->stays[$a]) && ! ($b >= 0 && $this->regions->stays[$b]);
            $isRim = min($a, $b) < 0;
            // Where triangles stay, and on a rim, a border runs as the mesh has it.
            if (! $isOnePair || ($isRim || ! $mayBend) && $this->turnAt($v, array_values(array_unique(array_column($list, 3)))) > ($mayBend ? self::CORNER : 1e-6)) {
                $isCorner[$v] = true;
            }
        }
        for ($h = 0, $n = count($this->f); $h < $n; $h++) {
            if ($this->regions->region[intdiv($h, 3)] >= 0 && $this->isBorder($h) && isset($isCorner[$this->f[$h]]) && ! isset($this->edgeAt[$h])) {
                $this->chain($h, $isCorner);
            }
        }
        // What is left runs round without a corner.
        for ($h = 0; $h < $n; $h++) {
            if ($this->regions->region[intdiv($h, 3)] >= 0 && $this->isBorder($h) && ! isset($this->edgeAt[$h])) {
                $this->chain($h, [$this->f[$h] => true]);
            }
        }
    }

    /**
     * How far a border turns at a vertex, in radians.
     *
     * @param  list<int>  $neighbours  along it
     */
    private function turnAt(int $v, array $neighbours): float
    {
        [$a, $b] = array_map(fn (int $w) => Vector3::minus($this->at($w), $this->at($v)), $neighbours);

        return atan2(Vector3::length(Vector3::cross($a, $b)), -Vector3::dot($a, $b));
    }

    /**
     * An edge from a half-edge to the next corner.
     *
     * @param  array<int, true>  $isCorner
     */
    private function chain(int $h, array $isCorner): void
    {
        $halves = [$h];
        $vertices = [$this->f[$h]];
        for ($g = $h; ; $g = $next) {
            $end = $this->f[$g % 3 === 2 ? $g - 2 : $g + 1];
            $vertices[] = $end;
            if (isset($isCorner[$end])) {
                break;
            }
            $next = $this->nextBorder($g);
            $halves[] = $next;
        }
        $edge = $this->edge($vertices, $this->regions->region[intdiv($h, 3)], $this->across($h));
        foreach ($halves as $half) {
            $this->edgeAt[$half] = $edge;
            if ($this->across($half) >= 0) {
                $this->edgeAt[$this->twin[$half]] = -$edge;
            }
        }
    }

    /**
     * @param  non-empty-list<int>  $vertices
     * @return int number of the edge, from 1; 0 when it has shrunk to nothing
     */
    private function edge(array $vertices, int $left, int $right): int
    {
        $last = count($vertices) - 1;
        $isClosed = $vertices[0] === $vertices[$last];
        $between = [$left, ...($right < 0 ? [] : [$right])];
        if (array_filter($between, fn (int $face) => $this->regions->stays[$face]) !== []) {
            $points = [$this->corners[$this->corner($vertices[0])], $this->corners[$this->corner($vertices[$last])]];
        } else {
            $points = BorderLine::drawn(array_map($this->at(...), $vertices), array_map(fn (int $face) => $this->regions->shapes[$face], $between), $isClosed, $this->reach);
            if (! $isClosed) {
                $points[0] = $this->corners[$this->corner($vertices[0])];
                $points[$last] = $this->corners[$this->corner($vertices[$last])];
            }
        }
        $points = BorderLine::inOrder($points);
        if ($isClosed ? count($points) < 4 : count($points) < 3 && Vector3::length(Vector3::minus($points[count($points) - 1], $points[0])) < FaceRegions::SAME) {
            // Shrunk to nothing: what it led from and to is one place.
            $isClosed || $this->joined[] = [$this->corner($vertices[0]), $this->corner($vertices[$last])];

            return 0;
        }
        $curve = EdgeCurve::through($points, $isClosed, $this->tolerance);
        if ($isClosed && ! isset($this->cornerOf[$vertices[0]])) {
            $this->cornerOf[$vertices[0]] = count($this->corners);
            $this->corners[] = $curve->points[0];
        }
        foreach ($between as $face) {
            $this->farthest = max($this->farthest, ...array_map(abs(...), $this->regions->shapes[$face]->distances(array_merge(...$points))));
        }
        $this->edges[] = ['from' => $this->corner($vertices[0]), 'to' => $this->corner($vertices[$last]), 'curve' => $curve];

        return count($this->edges);
    }

    /** The corner at a vertex: where all shapes around it meet, or as near as they come. */
    private function corner(int $v): int
    {
        if (isset($this->cornerOf[$v])) {
            return $this->cornerOf[$v];
        }
        $this->cornerOf[$v] = count($this->corners);
        $this->corners[] = BorderLine::onto($this->at($v), array_map(fn (int $face) => $this->regions->shapes[$face], $this->facesAround($v)), $this->reach);

        return $this->cornerOf[$v];
    }

    /** @return list<int> */
    private function facesAround(int $v): array
    {
        $this->cornerHalf ??= self::halves($this->f);
        $faces = [];
        foreach (Topology::fan($this->twin, $this->cornerHalf[$v]) as $h) {
            $face = $this->regions->region[intdiv($h, 3)];
            if ($face >= 0 && ! $this->regions->stays[$face]) {
                $faces[$face] = $face;
            }
        }

        return array_values($faces);
    }

    /** @var array<int, int>|null a half-edge that leaves each vertex */
    private ?array $cornerHalf = null;

    /**
     * @param  array<int, int>  $f
     * @return array<int, int>
     */
    private static function halves(array $f): array
    {
        $half = [];
        foreach ($f as $h => $v) {
            $half[$v] ??= $h;
        }

        return $half;
    }
}
