<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\Predicates\ImplicitPoints;
use Emberstone\Core\Algorithms\Predicates\Orient3d;

/**
 * Triangles of an area in a plane that is bounded by edges, nested as they like, with no corners but those of the edges, which have the area on their left; or of one triangle, with points and edges in
 * it that must be there.
 *
 * Source    points by a sweep along their order, each joined to the hull that it sees; flips after Lawson 1977; edges recovered by flips after Sloan 1993, "A fast algorithm for generating constrained
 *           Delaunay triangulations".
 * Error     every turn is decided exactly, so triangles never overlap. The test of the circle is not exact: it shapes triangles, and does not decide whether they are right.
 * Cost      n log n for the order, and some flips a point.
 *
 * Long, since sweep, insertion, recovery and flips all change the half-edges of one triangulation in place: apart, they would hand six arrays to and fro at every flip.
 *
 * @internal
 */
final class ConstrainedTriangulation
{
    /** Of the size of its terms, what the determinant of the circle test must exceed for a flip: a hundred times its rounding, or four corners on one circle would be flipped for ever. */
    private const CIRCLE = 1e-13;

    /** @var list<int> the vertex that each half-edge leaves; three a triangle, against the clock */
    private array $corners = [];

    /** @var array<int, int> the half-edge on the other side, -1 at the hull */
    private array $twins = [];

    /** @var array<int, int> a half-edge that leaves each vertex */
    private array $out = [];

    /** @var array<string, true> directed edges that bound the area, "from to" */
    private array $bounds = [];

    /** @var array{float, float, float}|null where the edges cross, meet in the middle of one, or do not close */
    private ?array $trouble = null;

    /**
     * @param  array<int, float>  $p  flat xyz; only the coordinates i and j count
     * @param  int  $i  0 to 2
     * @param  int  $j  0 to 2
     */
    private function __construct(private readonly array $p, private readonly int $i, private readonly int $j, private readonly ?ImplicitPoints $implicit = null)
    {
    }

    /**
     * A triangle parted so that points on its rim and in it are corners, and edges between them are edges.
     *
     * @param  array{int, int, int}  $corners  against the clock as seen in i and j
     * @param  array{list<int>, list<int>, list<int>}  $rim  points on the edge from each corner to the next, in their order from there
     * @param  list<int>  $inner  points strictly inside
     * @param  list<array{int, int}>  $edges  between corners, rim and inner points; they meet in their ends alone
     * @return array{faces: list<int>, trouble: array{float, float, float}|null} none, and a place, where points lie elsewhere or edges cross
     */
    public static function ofTriangle(ImplicitPoints $points, array $corners, array $rim, array $inner, array $edges, int $i, int $j): array
    {
        $one = new self($points->positions, $i, $j, $points);
        foreach ($edges as [$a, $b]) {
            $one->bounds["$a $b"] = true;
        }
        $one->add(...$corners);
        foreach ($rim as $k => $on) {
            $h = $on === [] ? -1 : $one->between($corners[$k], $corners[($k + 1) % 3]);
            foreach ($on as $v) {
                $h = $one->splitRim($h, $v);
            }
        }
        $last = 0;
        foreach ($inner as $v) {
            $last = $one->insert($v, $last);
        }
        if ($one->trouble === null) {
            $one->legalise(array_keys($one->corners));
        }
        foreach ($edges as [$a, $b]) {
            if ($one->trouble === null) {
                $one->recover($a, $b);
            }
        }

        return ['faces' => $one->trouble === null ? $one->corners : [], 'trouble' => $one->trouble];
    }

    /**
     * @param  array<int, float>  $p  flat xyz
     * @param  list<array{int, int}>  $edges  from and to vertex
     * @param  array{float, float, float}  $normal  of the plane, on the side that the area is seen from; need not have length 1
     * @return array{faces: list<int>, trouble: array{float, float, float}|null} triangles that look along the normal; none, and a place, where the edges bound no area
     */
    public static function within(array $p, array $edges, array $normal): array
    {
        $size = array_map(abs(...), $normal);
        $k = $size[0] >= $size[1] && $size[0] >= $size[2] ? 0 : ($size[1] >= $size[2] ? 1 : 2);
        // Seen from the other side, the axes change places.
        [$i, $j] = $normal[$k] > 0.0 ? [($k + 1) % 3, ($k + 2) % 3] : [($k + 2) % 3, ($k + 1) % 3];
        $one = new self($p, $i, $j);
        $one->triangulate($edges);

        $faces = $one->trouble === null ? $one->inside() : [];

        return ['faces' => $faces, 'trouble' => $one->trouble];
    }

    /** @param  list<array{int, int}>  $edges */
    private function triangulate(array $edges): void
    {
        $vertices = [];
        foreach ($edges as [$a, $b]) {
            $vertices[$a] = $vertices[$b] = true;
            $this->bounds["$a $b"] = true;
        }
        $this->sweep(array_keys($vertices));
        if ($this->trouble === null) {
            $this->legalise(array_keys($this->corners));
            foreach ($edges as [$a, $b]) {
                $this->recover($a, $b);
                if ($this->trouble !== null) {
                    return;
                }
            }
            $this->legalise(array_keys($this->corners));
        }
    }

    /** @return int 1 where c lies to the left of the way from a to b */
    private function turn(int $a, int $b, int $c): int
    {
        return $this->implicit?->turn($a, $b, $c, $this->i, $this->j) ?? Orient3d::turn($this->p, 3 * $a, 3 * $b, 3 * $c, $this->i, $this->j);
    }

    /**
     * Puts a vertex on an edge of the hull.
     *
     * @return int the half-edge from it to the far end
     */
    private function splitRim(int $h, int $v): int
    {
        [$h1, $h2] = [self::next($h), self::previous($h)];
        [$b, $c] = [$this->corners[$h1], $this->corners[$h2]];
        $far = $this->twins[$h1];
        $this->corners[$h1] = $v;
        $new = $this->add($v, $b, $c);
        $this->pair($new + 1, $far);
        $this->pair($h1, $new + 2);
        $this->out[$v] = $new;
        $this->out[$c] = $h2;

        return $new;
    }

    /**
     * Puts a vertex into the triangle or on the edge where it lies.
     *
     * @param  int  $t  a triangle to begin the search with, near it for speed
     * @return int a triangle at it
     */
    private function insert(int $v, int $t): int
    {
        $t = $this->find($v, $t);
        if ($t < 0) {
            $this->trouble = $this->place($v);

            return 0;
        }
        $on = array_values(array_filter([3 * $t, 3 * $t + 1, 3 * $t + 2], fn (int $h) => $this->turn($this->corners[$h], $this->corners[self::next($h)], $v) === 0));
        if (count($on) > 1 || ($on !== [] && $this->twins[$on[0]] < 0)) {
            $this->trouble = $this->place($v);

            return 0;
        }
        $stack = $on === [] ? $this->splitFace($t, $v) : $this->splitEdge($on[0], $v);
        $this->legalise($stack);

        return intdiv($this->out[$v], 3);
    }

    /** @return int the triangle that holds a vertex, by a walk from triangle to triangle towards it; -1 where none does */
    private function find(int $v, int $t): int
    {
        $triangles = intdiv(count($this->corners), 3);
        for ($steps = 0, $from = -1; $steps < $triangles + 10; $steps++) {
            $to = -1;
            for ($h = 3 * $t; $h < 3 * $t + 3 && $to < 0; $h++) {
                if ($this->twins[$h] >= 0 && intdiv($this->twins[$h], 3) !== $from && $this->turn($this->corners[$h], $this->corners[self::next($h)], $v) < 0) {
                    $to = intdiv($this->twins[$h], 3);
                }
            }
            if ($to < 0) {
                break;
            }
            [$from, $t] = [$t, $to];
        }
        // A walk can go astray or round in a circle where triangles are not those of Delaunay: then all are asked.
        foreach ($this->holds($t, $v) ? [$t] : range(0, $triangles - 1) as $t) {
            if ($this->holds($t, $v)) {
                return $t;
            }
        }

        return -1;
    }

    private function holds(int $t, int $v): bool
    {
        for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
            if ($this->turn($this->corners[$h], $this->corners[self::next($h)], $v) < 0) {
                return false;
            }
        }

        return true;
    }

    /** @return list<int> half-edges opposite to the vertex that was put in */
    private function splitFace(int $t, int $v): array
    {
        [$h, $h1, $h2] = [3 * $t, 3 * $t + 1, 3 * $t + 2];
        [$a, $b, $c] = [$this->corners[$h], $this->corners[$h1], $this->corners[$h2]];
        [$bc, $ca] = [$this->twins[$h1], $this->twins[$h2]];
        $this->corners[$h2] = $v;
        $one = $this->add($b, $c, $v);
        $two = $this->add($c, $a, $v);
        $this->pair($one, $bc);
        $this->pair($two, $ca);
        $this->pair($h1, $one + 2);
        $this->pair($one + 1, $two + 2);
        $this->pair($two + 1, $h2);
        [$this->out[$a], $this->out[$b], $this->out[$c], $this->out[$v]] = [$h, $one, $two, $h2];

        return [$h, $one, $two];
    }

    /** @return list<int> half-edges opposite to the vertex that was put in */
    private function splitEdge(int $h, int $v): array
    {
        $g = $this->twins[$h];
        [$h1, $h2, $g1, $g2] = [self::next($h), self::previous($h), self::next($g), self::previous($g)];
        [$a, $b, $c, $d] = [$this->corners[$h], $this->corners[$g], $this->corners[$h2], $this->corners[$g2]];
        [$bc, $db] = [$this->twins[$h1], $this->twins[$g2]];
        // The triangles of h and g keep a; two new ones take b.
        $this->corners[$h1] = $v;
        $this->corners[$g] = $v;
        $one = $this->add($v, $b, $c);
        $two = $this->add($b, $v, $d);
        $this->pair($h, $g);
        $this->pair($one + 1, $bc);
        $this->pair($one + 2, $h1);
        $this->pair($two, $one);
        $this->pair($two + 1, $g2);
        $this->pair($two + 2, $db);
        [$this->out[$a], $this->out[$b], $this->out[$c], $this->out[$d], $this->out[$v]] = [$h, $two, $h2, $g2, $g];

        return [$h2, $one + 1, $g1, $two + 2];
    }

    /** @return array{float, float, float} */
    private function place(int $v): array
    {
        return [$this->p[3 * $v], $this->p[3 * $v + 1], $this->p[3 * $v + 2]];
    }

    /**
     * All points as triangles of their hull: sorted, each sees some edges of the hull of those before it, and makes a triangle with each.
     *
     * @param  list<int>  $vertices
     */
    private function sweep(array $vertices): void
    {
        [$p, $i, $j] = [$this->p, $this->i, $this->j];
        usort($vertices, fn (int $a, int $b) => [$p[3 * $a + $i], $p[3 * $a + $j]] <=> [$p[3 * $b + $i], $p[3 * $b + $j]]);
        foreach ($vertices as $k => $v) {
            if ($k > 0 && $p[3 * $v + $i] === $p[3 * $vertices[$k - 1] + $i] && $p[3 * $v + $j] === $p[3 * $vertices[$k - 1] + $j]) {
                $this->trouble = $this->place($v);

                return;
            }
        }
        // The first ones may lie on one line: with the next beside it they make a fan.
        for ($line = 2, $n = count($vertices); $line < $n && $this->turn($vertices[0], $vertices[1], $vertices[$line]) === 0; $line++);
        if ($line >= $n) {
            $this->trouble = $vertices === [] ? [0.0, 0.0, 0.0] : $this->place($vertices[0]);

            return;
        }
        $apex = $vertices[$line];
        $side = $this->turn($vertices[0], $vertices[1], $apex);
        /** @var array<int, int> $next the hull, against the clock */
        $next = $previous = $edge = [];
        $link = function (int $a, int $b, int $h) use (&$next, &$previous, &$edge): void {
            [$next[$a], $previous[$b], $edge[$a]] = [$b, $a, $h];
        };
        $before = -1;
        for ($k = 1; $k < $line; $k++) {
            [$a, $b] = $side > 0 ? [$vertices[$k - 1], $vertices[$k]] : [$vertices[$k], $vertices[$k - 1]];
            $h = $this->add($a, $b, $apex);
            $link($a, $b, $h);
            // Neighbours in the fan share the edge to the apex.
            [$back, $fore] = $side > 0 ? [$h + 2, $h + 1] : [$h + 1, $h + 2];
            if ($before >= 0) {
                $this->pair($before, $back);
            } else {
                $side > 0 ? $link($apex, $a, $back) : $link($b, $apex, $back);
            }
            $before = $fore;
        }
        $last = $vertices[$line - 1];
        $side > 0 ? $link($last, $apex, $before) : $link($apex, $last, $before);

        $newest = $apex;
        for ($k = $line + 1; $k < $n; $k++) {
            $v = $vertices[$k];
            // The newest is the foremost: what v sees lies on both sides of it.
            for ($to = $newest; $this->turn($to, $next[$to], $v) < 0; $to = $next[$to]);
            for ($from = $newest; $this->turn($previous[$from], $from, $v) < 0; $from = $previous[$from]);
            $before = -1;
            for ($a = $from; $a !== $to; $a = $b) {
                $b = $next[$a];
                $h = $this->add($b, $a, $v);
                $this->pair($h, $edge[$a]);
                if ($before >= 0) {
                    $this->pair($before, $h + 1);
                } else {
                    $link($a, $v, $h + 1);
                }
                $before = $h + 2;
            }
            $link($v, $to, $before);
            $newest = $v;
        }
    }

    /** @return int the half-edge from a to b of the new triangle */
    private function add(int $a, int $b, int $c): int
    {
        $h = count($this->corners);
        array_push($this->corners, $a, $b, $c);
        $this->twins[$h] = $this->twins[$h + 1] = $this->twins[$h + 2] = -1;
        $this->out[$a] = $h;
        $this->out[$b] = $h + 1;
        $this->out[$c] = $h + 2;

        return $h;
    }

    private function pair(int $h, int $g): void
    {
        $this->twins[$h] = $g;
        if ($g >= 0) {
            $this->twins[$g] = $h;
        }
    }

    private static function next(int $h): int
    {
        return $h % 3 === 2 ? $h - 2 : $h + 1;
    }

    private static function previous(int $h): int
    {
        return $h % 3 === 0 ? $h + 2 : $h - 1;
    }

    /** The other diagonal of the two triangles of an edge: from c to d instead of from a to b. */
    private function flip(int $h): void
    {
        $g = $this->twins[$h];
        [$h1, $h2, $g1, $g2] = [self::next($h), self::previous($h), self::next($g), self::previous($g)];
        [$a, $b, $c, $d] = [$this->corners[$h], $this->corners[$g], $this->corners[$h2], $this->corners[$g2]];
        [$bc, $ad] = [$this->twins[$h1], $this->twins[$g1]];
        // Triangle of h: d c, c a, a d; that of g: c d, d b, b c.
        [$this->corners[$h], $this->corners[$h1], $this->corners[$h2]] = [$d, $c, $a];
        [$this->corners[$g], $this->corners[$g1], $this->corners[$g2]] = [$c, $d, $b];
        [$ca, $db] = [$this->twins[$h2], $this->twins[$g2]];
        $this->pair($h1, $ca);
        $this->pair($h2, $ad);
        $this->pair($g1, $db);
        $this->pair($g2, $bc);
        [$this->out[$a], $this->out[$b], $this->out[$c], $this->out[$d]] = [$h2, $g2, $h1, $g1];
    }

    /** @return list<int> all half-edges that leave a vertex */
    private function around(int $v): array
    {
        $found = [];
        for ($h = $first = $this->out[$v]; ;) {
            $found[] = $h;
            $h = $this->twins[self::previous($h)];
            if ($h === $first) {
                return $found;
            }
            if ($h < 0) {
                break;
            }
        }
        // The hull is in the way: the other way round.
        for ($g = $this->twins[$first]; $g >= 0; $g = $this->twins[$h]) {
            $found[] = $h = self::next($g);
        }

        return $found;
    }

    /** @return int the half-edge from one vertex to another, or that the other way where it is the only one; -1 without an edge */
    private function between(int $a, int $b): int
    {
        foreach ($this->around($a) as $h) {
            if ($this->corners[self::next($h)] === $b) {
                return $h;
            }
            if ($this->corners[self::previous($h)] === $b) {
                return self::previous($h);
            }
        }

        return -1;
    }

    private function isBound(int $h): bool
    {
        [$a, $b] = [$this->corners[$h], $this->corners[self::next($h)]];

        return isset($this->bounds["$a $b"]) || isset($this->bounds["$b $a"]);
    }

    /** Do the two triangles of an edge make a quad that bulges at both ends of it? */
    private function mayFlip(int $h): bool
    {
        $g = $this->twins[$h];
        [$a, $b, $c, $d] = [$this->corners[$h], $this->corners[$g], $this->corners[self::previous($h)], $this->corners[self::previous($g)]];

        return $this->turn($d, $b, $c) > 0 && $this->turn($c, $a, $d) > 0;
    }

    /** Makes a straight edge between two vertices by flipping all that cross it. */
    private function recover(int $a, int $b): void
    {
        if ($this->between($a, $b) >= 0) {
            return;
        }
        $crossing = $this->crossing($a, $b);
        // Each flip takes a crossing away or puts it off; Sloan shows that it comes to an end.
        for ($rounds = 0; $crossing !== [] && $this->trouble === null; $rounds++) {
            [$c, $d] = array_shift($crossing);
            $h = $this->between($c, $d);
            if ($this->isBound($h) || $rounds > 1_000_000) {
                $this->trouble = $this->place($c);
            } elseif (! $this->mayFlip($h)) {
                $crossing[] = [$c, $d];
            } else {
                $this->flip($h);
                [$c, $d] = [$this->corners[$h], $this->corners[self::next($h)]];
                if ($c !== $a && $c !== $b && $d !== $a && $d !== $b && $this->turn($a, $b, $c) * $this->turn($a, $b, $d) < 0) {
                    $crossing[] = [$c, $d];
                }
            }
        }
    }

    /** @return list<array{int, int}> ends of the edges that the straight way from a to b crosses, in their order */
    private function crossing(int $a, int $b): array
    {
        $h = -1;
        foreach ($this->around($a) as $leaving) {
            $opposite = self::next($leaving);
            [$c, $d] = [$this->corners[$opposite], $this->corners[self::next($opposite)]];
            [$right, $left] = [$this->turn($a, $b, $c), $this->turn($a, $b, $d)];
            foreach ([[$c, $right], [$d, $left]] as [$v, $side]) {
                if ($side === 0 && $this->isAhead($a, $b, $v)) {
                    $this->trouble = $this->place($v);

                    return [];
                }
            }
            if ($right < 0 && $left > 0) {
                $h = $opposite;
            }
        }
        $crossed = [];
        while ($h >= 0) {
            $crossed[] = [$this->corners[$h], $this->corners[self::next($h)]];
            $g = $this->twins[$h];
            $apex = $g < 0 ? $b : $this->corners[self::previous($g)];
            if ($apex === $b) {
                return $crossed;
            }
            $side = $this->turn($a, $b, $apex);
            if ($side === 0) {
                $h = -1;
                $this->trouble = $this->place($apex);
            } else {
                // g goes from the left of the way to its right; the apex parts that.
                $h = $side > 0 ? self::next($g) : self::previous($g);
            }
        }
        $this->trouble ??= $this->place($a);

        return [];
    }

    /** Of a vertex on the line from a to b: does it lie from a towards b? */
    private function isAhead(int $a, int $b, int $v): bool
    {
        $axis = abs($this->p[3 * $b + $this->i] - $this->p[3 * $a + $this->i]) > abs($this->p[3 * $b + $this->j] - $this->p[3 * $a + $this->j]) ? $this->i : $this->j;
        $order = fn (int $q, int $r): int => $this->implicit?->compare($q, $r, $axis) ?? $this->p[3 * $q + $axis] <=> $this->p[3 * $r + $axis];

        return $v !== $b && $order($a, $v) === $order($a, $b);
    }

    /**
     * Flips edges, but no bounds, until the circle through three corners of a triangle holds no corner of its neighbours.
     *
     * @param  list<int>  $stack  half-edges to look at
     */
    private function legalise(array $stack): void
    {
        // Far more than a sensible triangulation needs; it bounds what rounding could do.
        for ($left = 100 * count($this->corners); $stack !== [] && $left > 0; $left--) {
            $h = array_pop($stack);
            $g = $this->twins[$h];
            if ($g < 0 || $this->isBound($h) || ! $this->isInCircle($h, self::previous($g)) || ! $this->mayFlip($h)) {
                continue;
            }
            $this->flip($h);
            array_push($stack, self::next($h), self::previous($h), self::next($g), self::previous($g));
        }
    }

    /** Does the corner of a half-edge lie in the circle through the triangle of another? */
    private function isInCircle(int $h, int $corner): bool
    {
        [$i, $j] = [$this->i, $this->j];
        $d = 3 * $this->corners[$corner];
        [$x, $y] = [$this->p[$d + $i], $this->p[$d + $j]];
        $rows = [];
        foreach ([$h, self::next($h), self::previous($h)] as $e) {
            $o = 3 * $this->corners[$e];
            $dx = $this->p[$o + $i] - $x;
            $dy = $this->p[$o + $j] - $y;
            $rows[] = [$dx, $dy, $dx * $dx + $dy * $dy];
        }
        [$a, $b, $c] = $rows;
        $det = $size = 0.0;
        foreach ([[$a, $b, $c], [$b, $c, $a], [$c, $a, $b]] as [$r, $s, $t]) {
            $det += $r[2] * ($s[0] * $t[1] - $s[1] * $t[0]);
            $size += $r[2] * (abs($s[0] * $t[1]) + abs($s[1] * $t[0]));
        }

        return $det > self::CIRCLE * $size;
    }

    /** @return list<int> triangles to the left of the bounds, and what is joined to them without crossing one */
    private function inside(): array
    {
        $isInside = $stack = [];
        foreach (array_keys($this->corners) as $h) {
            [$a, $b] = [$this->corners[$h], $this->corners[self::next($h)]];
            if (isset($this->bounds["$a $b"])) {
                $stack[] = intdiv($h, 3);
            }
        }
        if (count($stack) < count($this->bounds)) {
            // A bound of the hull that has the area outside.
            $this->trouble = $this->place($this->corners[0]);
        }
        while ($stack !== []) {
            $t = array_pop($stack);
            if (isset($isInside[$t])) {
                continue;
            }
            $isInside[$t] = true;
            for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                [$a, $b] = [$this->corners[$h], $this->corners[self::next($h)]];
                if (isset($this->bounds["$a $b"])) {
                    continue;
                }
                // Past the hull, or a bound that has the area on its other side: the edges bound nothing.
                if ($this->twins[$h] < 0 || isset($this->bounds["$b $a"])) {
                    $this->trouble = $this->place($a);

                    return [];
                }
                $stack[] = intdiv($this->twins[$h], 3);
            }
        }
        $faces = [];
        foreach (array_keys($isInside) as $t) {
            array_push($faces, $this->corners[3 * $t], $this->corners[3 * $t + 1], $this->corners[3 * $t + 2]);
        }

        return $faces;
    }
}
