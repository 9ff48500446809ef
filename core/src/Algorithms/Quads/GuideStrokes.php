<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Search\TriangleFeet;

/**
 * Strokes drawn on a surface to guide cells: along a flow stroke their sides run in its direction, and an edge stroke becomes a row of their sides.
 *
 * @internal
 */
final class GuideStrokes
{
    /** Of the side of a cell: how far from a flow stroke crosses keep to it. */
    private const REACH = 1.0;

    /** Of the length of an even edge: how finely strokes are looked along. */
    private const STEP = 0.5;

    /** How much longer a way over an edge is counted for each edge length that it lies off the stroke: the path keeps to it rather than being short. */
    private const OFF = 4.0;

    /**
     * @param  list<list<array{float, float, float}>>  $flow  places along each stroke, mm
     * @param  list<list<array{float, float, float}>>  $edges
     */
    public function __construct(private readonly array $flow = [], private readonly array $edges = [])
    {
    }

    /**
     * Makes edge strokes lines of a mesh: a path of edges is looked for along each, and moved onto it.
     *
     * @param  EditableMesh  $mesh  (changed)
     * @param  float  $even  mm, the length of its edges
     * @return array<int, array{list<float>, list<int>}> by the number of the line: flat xyz, and triangles without width
     */
    public function edgesOn(EditableMesh $mesh, float $even): array
    {
        $lines = [];
        if ($this->edges === []) {
            return $lines;
        }
        $number = max($mesh->features);
        $taken = $mesh->taken();
        $surface = TriangleBvh::of($taken['positions'], $taken['faces']);
        foreach ($this->edges as $stroke) {
            $face = $distanceSq = [];
            $points = self::dense($stroke, self::STEP * $even);
            $surface->closest($points, $face, $distanceSq);
            $points = TriangleFeet::of($points, $face, $taken['positions'], $taken['faces']);
            $number++;
            $path = self::path($mesh, $points, $even);
            if (count($path) < 2) {
                continue;
            }
            $lines[$number] = [$points, self::segments(intdiv(count($points), 3))];
            self::lay($mesh, $path, $number, $lines[$number]);
        }

        return $lines;
    }

    /**
     * The directions that flow strokes ask for.
     *
     * @param  array<int, float>  $places  flat xyz
     * @param  float  $cell  mm
     * @return array<int, array{float, float, float}> along the nearest stroke, of the places that lie near one, by number
     */
    public function flowAt(array $places, float $cell): array
    {
        $along = [];
        foreach ($this->flow as $stroke) {
            $face = $distanceSq = [];
            TriangleBvh::of(array_merge(...$stroke), self::segments(count($stroke)))->closest($places, $face, $distanceSq, (self::REACH * $cell) ** 2);
            foreach ($face as $k => $segment) {
                if ($segment >= 0) {
                    [$a, $b] = [$stroke[$segment], $stroke[$segment + 1]];
                    $along[$k] = [$b[0] - $a[0], $b[1] - $a[1], $b[2] - $a[2]];
                }
            }
        }

        return $along;
    }

    /**
     * @param  list<array{float, float, float}>  $stroke
     * @return list<float> flat xyz: the places of a stroke with more between them
     */
    private static function dense(array $stroke, float $step): array
    {
        $points = $stroke[0];
        for ($k = 1; $k < count($stroke); $k++) {
            [$a, $b] = [$stroke[$k - 1], $stroke[$k]];
            $pieces = max(1, (int) ceil(sqrt(($b[0] - $a[0]) ** 2 + ($b[1] - $a[1]) ** 2 + ($b[2] - $a[2]) ** 2) / $step));
            for ($j = 1; $j <= $pieces; $j++) {
                for ($c = 0; $c < 3; $c++) {
                    $points[] = $a[$c] + $j / $pieces * ($b[$c] - $a[$c]);
                }
            }
        }

        return $points;
    }

    /**
     * @param  list<float>  $positions  flat xyz
     * @param  array<int, float>  $place
     */
    private static function nearest(array $positions, array $place): int
    {
        $best = INF;
        $at = 0;
        for ($o = 0, $e = count($positions); $o < $e; $o += 3) {
            $d = ($positions[$o] - $place[0]) ** 2 + ($positions[$o + 1] - $place[1]) ** 2 + ($positions[$o + 2] - $place[2]) ** 2;
            if ($d < $best) {
                $best = $d;
                $at = intdiv($o, 3);
            }
        }

        return $at;
    }

    /** @return list<int> triangles without width from each of some points to the next */
    private static function segments(int $points): array
    {
        $segments = [];
        for ($k = 1; $k < $points; $k++) {
            array_push($segments, $k - 1, $k, $k);
        }

        return $segments;
    }

    /**
     * The cheapest way over edges from where a stroke begins to where it ends (Dijkstra), where edges off the stroke cost more.
     *
     * @param  list<float>  $points  flat xyz, on the mesh
     * @return list<int> half-edges in turn
     */
    private static function path(EditableMesh $mesh, array $points, float $even): array
    {
        $vertices = array_keys(array_filter($mesh->out, fn (int $h) => $h >= 0));
        $positions = [];
        foreach ($vertices as $v) {
            array_push($positions, $mesh->vertices[4 * $v], $mesh->vertices[4 * $v + 1], $mesh->vertices[4 * $v + 2]);
        }
        $face = $distanceSq = [];
        TriangleBvh::of($points, self::segments(intdiv(count($points), 3)) ?: [0, 0, 0])->closest($positions, $face, $distanceSq);
        $off = [];
        foreach ($vertices as $k => $v) {
            $off[$v] = sqrt($distanceSq[$k]) / $even;
        }
        $start = $vertices[self::nearest($positions, array_slice($points, 0, 3))];
        $end = $vertices[self::nearest($positions, array_slice($points, -3))];
        // A closed stroke goes round by way of its middle.
        if ($start === $end && count($points) > 9) {
            $middle = 3 * intdiv(intdiv(count($points), 3), 2);
            $half = self::path($mesh, array_slice($points, 0, $middle + 3), $even);

            return [...$half, ...self::path($mesh, array_slice($points, $middle), $even)];
        }
        $cost = [$start => 0.0];
        $by = $done = [];
        $queue = new \SplPriorityQueue;
        $queue->insert($start, 0.0);
        while (! $queue->isEmpty()) {
            $v = $queue->extract();
            if ($v === $end) {
                break;
            }
            if (isset($done[$v])) {
                continue;
            }
            $done[$v] = true;
            $h = $first = $mesh->out[$v];
            do {
                $ways = [[$h, $mesh->corners[EditableMesh::next($h)]]];
                $p = EditableMesh::previous($h);
                if ($mesh->twins[$p] < 0) {
                    $ways[] = [$p, $mesh->corners[$p]];
                }
                foreach ($ways as [$over, $to]) {
                    $new = $cost[$v] + sqrt($mesh->lengthSq($over)) * (1.0 + self::OFF * ($off[$v] + $off[$to]));
                    if ($new < ($cost[$to] ?? INF)) {
                        $cost[$to] = $new;
                        $by[$to] = [$over, $v];
                        $queue->insert($to, -$new);
                    }
                }
                $h = $mesh->twins[$p];
            } while ($h >= 0 && $h !== $first);
        }
        $path = [];
        for ($v = $end; $v !== $start && isset($by[$v]); $v = $by[$v][1]) {
            array_unshift($path, $by[$v][0]);
        }

        return $path;
    }

    /**
     * Marks a path as a line and moves its free vertices onto the stroke; where it begins, ends, or meets another line is a corner.
     *
     * @param  list<int>  $path  half-edges
     * @param  array{list<float>, list<int>}  $line
     */
    private static function lay(EditableMesh $mesh, array $path, int $number, array $line): void
    {
        $times = [];
        foreach ($path as $h) {
            $ends = [$mesh->corners[$h], $mesh->corners[EditableMesh::next($h)]];
            if ($mesh->features[$h] !== 0) {
                // It runs along a line that is there.
                continue;
            }
            $mesh->features[$h] = $number;
            if ($mesh->twins[$h] >= 0) {
                $mesh->features[$mesh->twins[$h]] = $number;
            }
            foreach ($ends as $v) {
                $times[$v] = ($times[$v] ?? 0) + 1;
            }
        }
        $free = $places = $face = $distanceSq = [];
        foreach ($times as $v => $many) {
            if ($many === 2 && $mesh->flags[$v] === 0) {
                $mesh->flags[$v] |= EditableMesh::ON_FEATURE;
            } else {
                $mesh->flags[$v] |= EditableMesh::CORNER;
            }
            if (($mesh->flags[$v] & EditableMesh::AT_RIM) === 0) {
                $free[] = $v;
                array_push($places, $mesh->vertices[4 * $v], $mesh->vertices[4 * $v + 1], $mesh->vertices[4 * $v + 2]);
            }
        }
        TriangleBvh::of(...$line)->closest($places, $face, $distanceSq);
        foreach (TriangleFeet::of($places, $face, ...$line) as $k => $value) {
            $mesh->vertices[4 * $free[intdiv($k, 3)] + $k % 3] = $value;
        }
    }
}
