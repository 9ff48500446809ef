<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Brep;

use Emberstone\Core\Algorithms\HalfEdge\DisjointSets;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
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
    /** Share of the larger eigenvalue of the normals that meet: below it they are one normal, and nothing is solved across them. Two normals at 20 degrees to each other have 0.031. */
    private const ONE_NORMAL = 0.03;

    /** Rounds in which a border is smoothed: enough to take the teeth of triangles out of it, and small against its bends. */
    private const ROUNDS = 6;

    /** Means of edges that a place of a border may move, at most: farther away shapes do not meet where the mesh says. */
    private const REACH = 3.0;

    /** @var array<int, int> */
    private array $twin;

    /** @var list<int> face of the result that each face of the mesh goes to; -1: left out */
    private array $region = [];

    /** @var list<TurnedShape> by face of the result */
    private array $shapes = [];

    /** @var list<bool> by face of the result: a flat one whose corners stay where they are */
    private array $stays = [];

    private float $reach;

    /** mm within which two places are one: a hundredth of what programs that read such files take for one. */
    private const SAME = 1e-6;

    /** Radians that a rim turns at a corner. */
    private const CORNER = 0.7;

    /** Triangles of an area without any place inside: all its corners are on its border, which would fold up when it is smoothed. */
    private const SPECK = 4;

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
        $this->divide($labels, $of, $mostTriangles, $slivers);
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

    /**
     * Which face of the result every face of the mesh goes to.
     *
     * @param  array<int, int>  $labels
     * @param  list<TurnedShape|null>  $of
     * @param  array<int, int>  $slivers  long side by face
     */
    private function divide(array $labels, array $of, int $mostTriangles, array $slivers): void
    {
        $count = count($labels);
        $this->region = array_fill(0, $count, -1);
        $labels = $this->withoutSpecks($labels, $of);
        $free = 0;
        foreach ($labels as $label) {
            $free += $of[$label] === null ? 1 : 0;
        }
        $crosses = Measure::crosses($this->p, $this->f);
        for ($seed = 0; $seed < $count; $seed++) {
            $shape = $of[$labels[$seed]];
            if ($this->region[$seed] >= 0 || $shape === null && $free > $mostTriangles) {
                continue;
            }
            if ($shape === null && ! isset($slivers[$seed]) && ($side = $this->longSideOfSliver($this->cornersOf($seed))) !== null) {
                $slivers[$seed] = 3 * $seed + $side;
            }
            if (isset($slivers[$seed])) {
                continue;
            }
            $number = count($this->shapes);
            $stays = $shape === null;
            $this->shapes[] = $shape ?? $this->flat($seed, $crosses);
            $this->stays[] = $stays;
            $this->region[$seed] = $number;
            for ($stack = [$seed]; $stack !== [];) {
                $t = array_pop($stack);
                for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                    $g = $this->twin[$h] < 0 ? -1 : intdiv($this->twin[$h], 3);
                    if ($g >= 0 && $this->region[$g] < 0 && ! isset($slivers[$g]) && $labels[$g] === $labels[$seed] && (! $stays || $this->liesIn($g, $this->shapes[$number], $crosses))) {
                        $this->region[$g] = $number;
                        $stack[] = $g;
                    }
                }
            }
        }
        $this->giveAway($slivers);
    }

    /**
     * Labels with those specks that lie apart from the rest of their shape given to the neighbour with the longest border.
     *
     * @param  array<int, int>  $labels
     * @param  list<TurnedShape|null>  $of
     * @return array<int, int>
     */
    private function withoutSpecks(array $labels, array $of): array
    {
        $seen = [];
        $faces = array_count_values($labels);
        foreach (array_keys($labels) as $seed) {
            if (isset($seen[$seed]) || $of[$labels[$seed]] === null) {
                continue;
            }
            $seen[$seed] = true;
            $area = [$seed];
            $borders = [];
            for ($k = 0; $k < count($area); $k++) {
                for ($h = 3 * $area[$k]; $h < 3 * $area[$k] + 3; $h++) {
                    $g = $this->twin[$h] < 0 ? -1 : intdiv($this->twin[$h], 3);
                    if ($g >= 0 && $labels[$g] !== $labels[$seed]) {
                        $borders[$labels[$g]] = ($borders[$labels[$g]] ?? 0.0) + Vector3::length(Vector3::minus($this->at($this->f[$this->twin[$h]]), $this->at($this->f[$h])));
                    } elseif ($g >= 0 && ! isset($seen[$g])) {
                        $seen[$g] = true;
                        $area[] = $g;
                    }
                }
            }
            if (count($area) <= self::SPECK && count($area) < $faces[$labels[$seed]] && $borders !== []) {
                arsort($borders);
                foreach ($area as $t) {
                    $labels[$t] = array_key_first($borders);
                }
            }
        }

        return $labels;
    }

    /** @return list<Point> */
    private function cornersOf(int $t): array
    {
        return array_map($this->at(...), array_slice($this->f, 3 * $t, 3));
    }

    /**
     * The longest side of a triangle so flat that its plane hangs on the rounding of its corners; null when it is none.
     *
     * @param  list<Point>  $corners
     * @return int<0, 2>|null
     */
    private function longSideOfSliver(array $corners): ?int
    {
        $sides = [];
        foreach ([0, 1, 2] as $k) {
            $sides[$k] = Vector3::length(Vector3::minus($corners[($k + 1) % 3], $corners[$k]));
        }
        $side = $sides[0] >= $sides[1] && $sides[0] >= $sides[2] ? 0 : ($sides[1] >= $sides[2] ? 1 : 2);
        $doubled = Vector3::length(Vector3::cross(Vector3::minus($corners[1], $corners[0]), Vector3::minus($corners[2], $corners[0])));

        return $doubled < $sides[$side] * max(0.5 * $this->tolerance, self::SAME) ? $side : null;
    }

    /** @return array<int, int> long side by face, of triangles that stay and whose corners have come to lie in a line */
    private function slivers(): array
    {
        $slivers = [];
        foreach ($this->region as $t => $face) {
            if ($face >= 0 && $this->stays[$face]) {
                $corners = array_map(fn (int $v) => isset($this->cornerOf[$v]) ? $this->corners[$this->cornerOf[$v]] : $this->at($v), array_slice($this->f, 3 * $t, 3));
                $side = $this->longSideOfSliver($corners);
                if ($side !== null) {
                    $slivers[$t] = 3 * $t + $side;
                }
            }
        }

        return $slivers;
    }

    /**
     * Slivers go to the face beyond their long side: no corner of theirs lies farther off it than they are high.
     *
     * @param  array<int, int>  $slivers  long side by face
     */
    private function giveAway(array $slivers): void
    {
        do {
            $given = false;
            foreach ($slivers as $t => $side) {
                $to = $this->across($side);
                if ($to >= 0) {
                    $this->region[$t] = $to;
                    unset($slivers[$t]);
                    $given = true;
                }
            }
        } while ($given);
    }

    /** @param  list<float>  $crosses */
    private function flat(int $t, array $crosses): TurnedShape
    {
        $normal = [$crosses[3 * $t], $crosses[3 * $t + 1], $crosses[3 * $t + 2]];
        $long = Vector3::length($normal);

        return TurnedShape::plane($this->at($this->f[3 * $t]), $long > 0.0 ? Vector3::scaled($normal, 1.0 / $long) : [0.0, 0.0, 1.0]);
    }

    /**
     * Whether a triangle lies in a plane, to the rounding of its coordinates.
     *
     * @param  list<float>  $crosses
     */
    private function liesIn(int $t, TurnedShape $plane, array $crosses): bool
    {
        $corners = array_merge(...$this->cornersOf($t));

        return Vector3::dot([$crosses[3 * $t], $crosses[3 * $t + 1], $crosses[3 * $t + 2]], $plane->direction()) > 0.0 && max(array_map(abs(...), $plane->distances($corners))) <= 1e-6 * $this->reach;
    }

    private function sewn(): BoundaryRepresentation
    {
        $this->chains();
        $loops = array_fill(0, count($this->shapes), []);
        $seen = [];
        for ($h = 0, $n = count($this->f); $h < $n; $h++) {
            $face = $this->region[intdiv($h, 3)];
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
        $facing = array_fill(0, count($this->shapes), 0.0);
        $crosses = Measure::crosses($this->p, $this->f);
        $centres = Measure::centres($this->p, $this->f);
        foreach ($this->region as $t => $face) {
            if ($face >= 0) {
                $facing[$face] += Vector3::dot([$crosses[3 * $t], $crosses[3 * $t + 1], $crosses[3 * $t + 2]], $this->shapes[$face]->normal($centres[3 * $t], $centres[3 * $t + 1], $centres[3 * $t + 2]));
            }
        }
        $faces = [];
        $sets = new DisjointSets(array_keys($this->shapes));
        $uses = [];
        foreach ($this->shapes as $face => $shape) {
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
        $shells = [];
        foreach (array_keys($faces) as $face) {
            $root = $sets->of($face);
            $shells[$root] ??= ['faces' => [], 'isClosed' => true];
            $shells[$root]['faces'][] = $face;
        }
        foreach ($uses as $users) {
            if (count($users) !== 2) {
                $shells[$sets->of($users[0])]['isClosed'] = false;
            }
        }

        $number = array_flip(array_keys($faces));
        $shells = array_map(fn (array $shell) => ['faces' => array_map(fn (int $face) => $number[$face], $shell['faces']), 'isClosed' => $shell['isClosed']], array_values($shells));

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

        return $twin < 0 || $this->region[intdiv($twin, 3)] !== $this->region[intdiv($h, 3)];
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
        return $this->twin[$h] < 0 ? -1 : $this->region[intdiv($this->twin[$h], 3)];
    }

    /** Cuts the borders into edges between corners. */
    private function chains(): void
    {
        // Borders with the same faces on both sides meet at most in pairs at a vertex: where it is otherwise there is a corner.
        $sides = [];
        for ($h = 0, $n = count($this->f); $h < $n; $h++) {
            $left = $this->region[intdiv($h, 3)];
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
            $mayBend = ! ($a >= 0 && $this->stays[$a]) && ! ($b >= 0 && $this->stays[$b]);
            $isRim = min($a, $b) < 0;
            // Where triangles stay, and on a rim, a border runs as the mesh has it.
            if (! $isOnePair || ($isRim || ! $mayBend) && $this->turnAt($v, array_values(array_unique(array_column($list, 3)))) > ($mayBend ? self::CORNER : 1e-6)) {
                $isCorner[$v] = true;
            }
        }
        for ($h = 0, $n = count($this->f); $h < $n; $h++) {
            if ($this->region[intdiv($h, 3)] >= 0 && $this->isBorder($h) && isset($isCorner[$this->f[$h]]) && ! isset($this->edgeAt[$h])) {
                $this->chain($h, $isCorner);
            }
        }
        // What is left runs round without a corner.
        for ($h = 0; $h < $n; $h++) {
            if ($this->region[intdiv($h, 3)] >= 0 && $this->isBorder($h) && ! isset($this->edgeAt[$h])) {
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
        $edge = $this->edge($vertices, $this->region[intdiv($h, 3)], $this->across($h));
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
        if (array_filter($between, fn (int $face) => $this->stays[$face]) !== []) {
            $points = [$this->corners[$this->corner($vertices[0])], $this->corners[$this->corner($vertices[$last])]];
        } else {
            $isClosed || [$this->corner($vertices[0]), $this->corner($vertices[$last])];
            $points = $this->drawn($vertices, $between, $isClosed);
        }
        $points = self::inOrder($points);
        if ($isClosed ? count($points) < 4 : count($points) < 3 && Vector3::length(Vector3::minus($points[count($points) - 1], $points[0])) < self::SAME) {
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
            $this->farthest = max($this->farthest, ...array_map(abs(...), $this->shapes[$face]->distances(array_merge(...$points))));
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
        $around = $this->around[$v] ??= $this->facesAround($v);
        $this->cornerOf[$v] = count($this->corners);
        $this->corners[] = $this->onto($this->at($v), $around);

        return $this->cornerOf[$v];
    }

    /** @var array<int, list<int>> faces of the result around corners */
    private array $around = [];

    /** @return list<int> */
    private function facesAround(int $v): array
    {
        $this->cornerHalf ??= self::halves($this->f);
        $faces = [];
        foreach (Topology::fan($this->twin, $this->cornerHalf[$v]) as $h) {
            $face = $this->region[intdiv($h, 3)];
            if ($face >= 0 && ! $this->stays[$face]) {
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

    /**
     * The border between shapes: smoothed, and drawn onto them. A rim is not smoothed: it has no teeth.
     *
     * @param  non-empty-list<int>  $vertices
     * @param  list<int>  $between
     * @return list<Point>
     */
    private function drawn(array $vertices, array $between, bool $isClosed): array
    {
        $points = array_map($this->at(...), $vertices);
        $last = count($points) - 1;
        for ($round = count($between) === 1 ? self::ROUNDS : 0; $round < self::ROUNDS; $round++) {
            $before = $points;
            for ($k = $isClosed ? 0 : 1; $k < $last; $k++) {
                $a = $before[$k === 0 ? $last - 1 : $k - 1];
                $b = $before[$k + 1];
                $points[$k] = [0.5 * $before[$k][0] + 0.25 * ($a[0] + $b[0]), 0.5 * $before[$k][1] + 0.25 * ($a[1] + $b[1]), 0.5 * $before[$k][2] + 0.25 * ($a[2] + $b[2])];
            }
            if ($isClosed) {
                $points[$last] = $points[0];
            }
        }
        $points = array_map(fn (array $point) => $this->onto($point, $between), $points);
        if (! $isClosed) {
            $points[0] = $this->corners[$this->corner($vertices[0])];
            $points[$last] = $this->corners[$this->corner($vertices[$last])];
        }

        return $points;
    }

    /**
     * A point moved the least way to where it lies on all of some shapes, or, where these do not meet at an angle, half-way between them.
     *
     * @param  Point  $point
     * @param  list<int>  $faces
     * @return Point
     */
    private function onto(array $point, array $faces): array
    {
        $x = $point;
        for ($round = 0; $round < 12; $round++) {
            $m = [0.0, 0.0, 0.0, 0.0, 0.0, 0.0];
            $right = [0.0, 0.0, 0.0];
            foreach ($faces as $face) {
                [$d] = $this->shapes[$face]->distances($x);
                [$a, $b, $c] = $this->shapes[$face]->normal($x[0], $x[1], $x[2]);
                $m = [$m[0] + $a * $a, $m[1] + $a * $b, $m[2] + $a * $c, $m[3] + $b * $b, $m[4] + $b * $c, $m[5] + $c * $c];
                $right = [$right[0] - $d * $a, $right[1] - $d * $b, $right[2] - $d * $c];
            }
            [$values, $ways] = Symmetric3::eigen(...$m);
            $step = [0.0, 0.0, 0.0];
            foreach ($values as $k => $value) {
                if ($value > self::ONE_NORMAL * $values[2]) {
                    $step = Vector3::plus($step, Vector3::scaled($ways[$k], Vector3::dot($ways[$k], $right) / $value));
                }
            }
            $x = Vector3::plus($x, $step);
            if (Vector3::length(Vector3::minus($x, $point)) > $this->reach) {
                return $point;
            }
            if (Vector3::length($step) < 1e-12 * (1.0 + $this->reach)) {
                break;
            }
        }

        return $x;
    }

    /**
     * Without points that lie on the one before, and without those from which the way would go back: drawn onto a curve, the teeth of a border come to lie on it out of order.
     *
     * @param  list<Point>  $points
     * @return list<Point>
     */
    private static function inOrder(array $points): array
    {
        $last = count($points) - 1;
        $long = 0.0;
        for ($k = 0; $k < $last; $k++) {
            $long += Vector3::length(Vector3::minus($points[$k + 1], $points[$k]));
        }
        $least = 0.2 * $long / max(1, $last);
        $kept = [$points[0]];
        for ($k = 1; $k < $last; $k++) {
            $from = $kept[count($kept) - 1];
            $way = Vector3::minus($points[$k], $from);
            $onward = Vector3::minus($points[min($last, $k + 2)], $from);
            if (Vector3::length($way) >= $least && Vector3::dot($way, $onward) > 0.0) {
                $kept[] = $points[$k];
            }
        }
        while (count($kept) > 1 && Vector3::length(Vector3::minus($points[$last], $kept[count($kept) - 1])) < $least) {
            array_pop($kept);
        }
        if ($long > 1e-9 * (1.0 + Vector3::length($points[0]))) {
            $kept[] = $points[$last];
        }

        return $kept;
    }
}
