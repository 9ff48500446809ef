<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\HalfEdge;

/**
 * Which edges of a mesh are lines of the shape: where faces turn sharply, and rims. Marks them and their vertices on an editable mesh.
 *
 * Source    own: a threshold on the angle between faces; short crumbs that noise makes are dropped, corners are told from zigzag by looking further along the line.
 *
 * @internal
 */
final class FeatureEdges
{
    /** Of the angle that makes a feature: what still continues one. */
    private const WEAKER = 0.5;

    /** Edges that a line is continued over, where it becomes weaker. */
    private const FARTHER = 12;

    /** Cosine of the turn from an edge to one that continues it: 50 degrees. */
    private const GOES_ON = 0.64;

    /** What the angles around a vertex may lack of a full turn, or have too much, before it is a tip, radians. */
    private const TIP = 1.2;

    /** Lines of fewer edges that end in the open are noise. */
    private const LEAST = 6;

    /** Steps along the line over which a corner must still be one, at most. */
    private const STEPS = 12;

    /** Cosine of the turn of a line at a corner, from one edge to the next: 35 degrees. */
    private const TURN = 0.82;

    /** The same over some way along the line: 50 degrees. */
    private const TURN_FAR = 0.64;

    /**
     * Marks features and the vertices on them; lines are numbered from corner to corner.
     *
     * @param  float  $sharpDeg  faces that turn by more make a feature
     * @param  float  $reach  mm along a line over which it must turn to have a corner: teeth that are shorter are none
     * @return array<int, list<int>> the edges of each line by its number, as triangles without width: first, second, second again
     */
    public static function mark(EditableMesh $mesh, float $sharpDeg, bool $rims, float $reach): array
    {
        $turns = self::markSharp($mesh, $sharpDeg, $rims);
        self::continueLines($mesh, $turns, self::WEAKER * deg2rad($sharpDeg));
        self::dropSpurs($mesh);
        self::dropCrumbs($mesh);
        $lines = self::lines($mesh);
        self::markVertices($mesh, $lines, $reach);
        self::markTips($mesh);

        return self::numberLines($mesh, $lines);
    }

    /**
     * Continues lines that end in the open over edges that turn less, on a mesh whose features are marked: a gap that noise made may be seen to be none once the mesh is even.
     *
     * @param  float  $leastDeg  faces that turn by less continue no line
     * @param  int  $number  of the line that all new edges become
     */
    public static function continued(EditableMesh $mesh, float $leastDeg, int $number): void
    {
        self::continueLines($mesh, self::turns($mesh), deg2rad($leastDeg), $number);
    }

    /**
     * @param  array<int, list<int>>  $lines
     * @return array<int, list<int>> see mark()
     */
    private static function numberLines(EditableMesh $mesh, array $lines): array
    {
        // Edges are joined over the vertices that are no corners.
        $edges = $at = [];
        foreach ($mesh->features as $h => $is) {
            if ($is !== 0 && ($mesh->twins[$h] < 0 || $h < $mesh->twins[$h])) {
                $edges[] = $h;
            }
        }
        $sets = new DisjointSets($edges);
        foreach ($edges as $h) {
            foreach ([$mesh->corners[$h], $mesh->corners[EditableMesh::next($h)]] as $v) {
                if (($mesh->flags[$v] & EditableMesh::CORNER) === 0) {
                    isset($at[$v]) ? $sets->join($at[$v], $h) : $at[$v] = $h;
                }
            }
        }
        $number = $segments = [];
        foreach ($edges as $h) {
            $line = $number[$sets->of($h)] ??= count($number) + 1;
            $a = $mesh->corners[$h];
            $b = $mesh->corners[EditableMesh::next($h)];
            $segments[$line] ??= [];
            array_push($segments[$line], $a, $b, $b);
            $mesh->features[$h] = $line;
            if ($mesh->twins[$h] >= 0) {
                $mesh->features[$mesh->twins[$h]] = $line;
            }
        }

        return $segments;
    }

    /** @return array<int, float> how far the faces turn at each half-edge, radians */
    private static function markSharp(EditableMesh $mesh, float $sharpDeg, bool $rims): array
    {
        $turns = self::turns($mesh);
        $least = deg2rad($sharpDeg);
        foreach ($turns as $h => $turn) {
            if (($h & 3) !== 3) {
                $mesh->features[$h] = $mesh->twins[$h] < 0 ? ($rims ? 1 : 0) : ($turn > $least ? 1 : 0);
            }
        }

        return $turns;
    }

    /** @return array<int, float> how far the faces turn at each half-edge, radians; 0 at rims */
    private static function turns(EditableMesh $mesh): array
    {
        $N = $mesh->normals();
        $turns = array_fill(0, count($mesh->corners), 0.0);
        for ($h = 0, $e = count($mesh->corners); $h < $e; $h++) {
            $g = $mesh->twins[$h];
            if (($h & 3) !== 3 && $h < $g && $mesh->corners[$h | 3] !== 0) {
                $i = $h & ~3;
                $j = $g & ~3;
                $turns[$h] = $turns[$g] = acos(max(-1.0, min(1.0, $N[$i] * $N[$j] + $N[$i + 1] * $N[$j + 1] + $N[$i + 2] * $N[$j + 2])));
            }
        }

        return $turns;
    }

    /**
     * Lines that end in the open go on over edges that turn less, straight ahead, if that leads them to another.
     *
     * @param  array<int, float>  $turns  see markSharp()
     * @param  int  $number  that new edges get
     */
    private static function continueLines(EditableMesh $mesh, array $turns, float $least, int $number = 1): void
    {
        $lines = self::lines($mesh);
        foreach ($lines as $end => $others) {
            if (count($others) !== 1) {
                continue;
            }
            [$from, $at] = [$others[0], $end];
            $way = $passed = [];
            for ($k = 0; $k < self::FARTHER; $k++) {
                $best = -1;
                $h = $first = $mesh->out[$at];
                do {
                    $to = $mesh->corners[EditableMesh::next($h)];
                    if ($to !== $from && ! isset($passed[$to]) && $turns[$h] > ($best < 0 ? $least : $turns[$best]) && self::cosine($mesh->vertices, $from, $at, $to) > self::GOES_ON) {
                        $best = $h;
                    }
                    $h = $mesh->twins[EditableMesh::previous($h)];
                } while ($h >= 0 && $h !== $first);
                if ($best < 0) {
                    break;
                }
                $way[] = $best;
                [$from, $at] = [$at, $mesh->corners[EditableMesh::next($best)]];
                $passed[$at] = true;
                if (isset($lines[$at])) {
                    foreach ($way as $h) {
                        $mesh->features[$h] = $number;
                        if ($mesh->twins[$h] >= 0) {
                            $mesh->features[$mesh->twins[$h]] = $number;
                        }
                    }
                    break;
                }
            }
        }
    }

    /** Tips of cones and spikes, away from features, stay where they are too. */
    private static function markTips(EditableMesh $mesh): void
    {
        [$C, $V] = [$mesh->corners, $mesh->vertices];
        $sum = array_fill(0, count($mesh->out), 0.0);
        for ($o = 0, $e = count($C); $o < $e; $o += 4) {
            for ($c = 0; $c < 3; $c++) {
                // The angle at a corner is what the way from the one before to the one after turns, taken from half a turn.
                $sum[$C[$o + $c]] += M_PI - acos(max(-1.0, min(1.0, self::cosine($V, $C[$o + ($c + 2) % 3], $C[$o + $c], $C[$o + ($c + 1) % 3]))));
            }
        }
        foreach ($sum as $v => $angle) {
            if ($mesh->flags[$v] === 0 && abs(2.0 * M_PI - $angle) > self::TIP) {
                $mesh->flags[$v] |= EditableMesh::CORNER;
            }
        }
    }

    /** @return array<int, list<int>> by vertex: where features lead from it, in the order of the half-edges */
    private static function lines(EditableMesh $mesh): array
    {
        $lines = [];
        foreach ($mesh->features as $h => $is) {
            if ($is !== 0 && ($h & 3) !== 3 && $mesh->corners[$h | 3] !== 0 && ($mesh->twins[$h] < 0 || $h < $mesh->twins[$h])) {
                $a = $mesh->corners[$h];
                $b = $mesh->corners[EditableMesh::next($h)];
                $lines[$a][] = $b;
                $lines[$b][] = $a;
            }
        }

        return $lines;
    }

    private static function dropCrumbs(EditableMesh $mesh): void
    {
        $lines = self::lines($mesh);
        $sets = new DisjointSets(array_keys($lines));
        foreach ($lines as $a => $others) {
            foreach ($others as $b) {
                $sets->join($a, $b);
            }
        }
        $edges = $ends = [];
        foreach ($lines as $a => $others) {
            $root = $sets->of($a);
            $edges[$root] = ($edges[$root] ?? 0) + count($others);
            $ends[$root] = ($ends[$root] ?? 0) + (count($others) === 1 ? 1 : 0);
        }
        foreach ($mesh->features as $h => $is) {
            if ($is !== 0) {
                $root = $sets->of($mesh->corners[$h]);
                if ($ends[$root] > 0 && $edges[$root] < 2 * self::LEAST) {
                    $mesh->features[$h] = 0;
                }
            }
        }
    }

    /** Short branches that end in the open go. */
    private static function dropSpurs(EditableMesh $mesh): void
    {
        $lines = self::lines($mesh);
        $gone = [];
        foreach ($lines as $end => $others) {
            if (count($others) !== 1 || ($mesh->flags[$end] & EditableMesh::AT_RIM) !== 0) {
                continue;
            }
            [$from, $at] = [$end, $others[0]];
            $way = [[$from, $at]];
            while (count($lines[$at]) === 2 && count($way) < self::LEAST) {
                [$from, $at] = [$at, $lines[$at][0] === $from ? $lines[$at][1] : $lines[$at][0]];
                $way[] = [$from, $at];
            }
            if (count($lines[$at]) > 2 && count($way) < self::LEAST) {
                foreach ($way as [$a, $b]) {
                    $gone[$a < $b ? $a << 32 | $b : $b << 32 | $a] = true;
                }
            }
        }
        foreach ($mesh->features as $h => $is) {
            if ($is !== 0) {
                $a = $mesh->corners[$h];
                $b = $mesh->corners[EditableMesh::next($h)];
                if (isset($gone[$a < $b ? $a << 32 | $b : $b << 32 | $a])) {
                    $mesh->features[$h] = 0;
                }
            }
        }
    }

    /** @param  array<int, list<int>>  $lines */
    private static function markVertices(EditableMesh $mesh, array $lines, float $reach): void
    {
        $turn = [];
        foreach ($lines as $v => $others) {
            if (count($others) !== 2) {
                $mesh->flags[$v] |= EditableMesh::CORNER;

                continue;
            }
            $mesh->flags[$v] |= EditableMesh::ON_FEATURE;
            if (self::cosine($mesh->vertices, $others[0], $v, $others[1]) < self::TURN) {
                $cosine = self::cosine($mesh->vertices, self::along($mesh, $lines, $v, $others[0], $reach), $v, self::along($mesh, $lines, $v, $others[1], $reach));
                if ($cosine < self::TURN_FAR) {
                    $turn[$v] = $cosine;
                }
            }
        }
        // Of neighbours that all turn, the one that turns most is the corner.
        foreach ($turn as $v => $cosine) {
            foreach ($lines[$v] as $other) {
                for ($k = 0, $from = $v; $k < self::STEPS && count($lines[$other]) === 2; $k++) {
                    if (isset($turn[$other]) && ($turn[$other] < $cosine || ($turn[$other] === $cosine && $other < $v))) {
                        continue 3;
                    }
                    $next = $lines[$other][0] === $from ? $lines[$other][1] : $lines[$other][0];
                    [$from, $other] = [$other, $next];
                }
            }
            $mesh->flags[$v] |= EditableMesh::CORNER;
        }
    }

    /**
     * Along a line as far as it takes to be some way off, or as it goes on.
     *
     * @param  array<int, list<int>>  $lines
     */
    private static function along(EditableMesh $mesh, array $lines, int $start, int $to, float $reach): int
    {
        $V = $mesh->vertices;
        $from = $start;
        for ($k = 1; $k < self::STEPS && count($lines[$to]) === 2; $k++) {
            $x = $V[4 * $to] - $V[4 * $start];
            $y = $V[4 * $to + 1] - $V[4 * $start + 1];
            $z = $V[4 * $to + 2] - $V[4 * $start + 2];
            if ($x * $x + $y * $y + $z * $z >= $reach * $reach) {
                break;
            }
            [$from, $to] = [$to, $lines[$to][0] === $from ? $lines[$to][1] : $lines[$to][0]];
        }

        return $to;
    }

    /** @param  array<int, float>  $V  four numbers a vertex */
    private static function cosine(array $V, int $a, int $b, int $c): float
    {
        $u = $w = [];
        for ($k = 0; $k < 3; $k++) {
            $u[] = $V[4 * $b + $k] - $V[4 * $a + $k];
            $w[] = $V[4 * $c + $k] - $V[4 * $b + $k];
        }
        $length = sqrt(($u[0] * $u[0] + $u[1] * $u[1] + $u[2] * $u[2]) * ($w[0] * $w[0] + $w[1] * $w[1] + $w[2] * $w[2]));

        return $length > 0.0 ? ($u[0] * $w[0] + $u[1] * $w[1] + $u[2] * $w[2]) / $length : 1.0;
    }
}
