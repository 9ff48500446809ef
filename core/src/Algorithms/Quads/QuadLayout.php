<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

use Closure;
use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;
use Emberstone\Core\Algorithms\HalfEdge\FeatureEdges;
use Emberstone\Core\Algorithms\Remeshing\IsotropicRemeshing;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Measure;

/**
 * Lays four-sided cells on a surface, their sides along its sharp edges, its rims, its lines of curvature, and strokes drawn by hand.
 *
 * Source    Jakob, Tarini, Panozzo & Sorkine-Hornung 2015, "Instant Field-Aligned Meshes": a field of crosses, then one of lattices. It is local and has no state that can fail, which a parametrisation
 *           (Bommes et al. 2013) has; what it lacks, a mesh that is whole, LatticeCollapse adds.
 * Departs   the fields live on an even mesh of three edges a cell that is laid first: fine enough for the lattice, and as fast for a scan of a million faces as for one of a hundred thousand.
 * Cost      the even mesh, as IsotropicRemeshing; the rest is linear in the cells, some 6 ms each on one core, most of it the fields.
 */
final class QuadLayout
{
    /** Edges of the even mesh a cell: vertices must lie at less than half a cell from each other. */
    private const FINER = 3.0;

    /** Rounds of the even mesh; its lengths need not be as even as those of a result. */
    private const ROUNDS = 4;

    /** Of the side of a cell: steps of the surface lower than this are no lines that cells keep to. */
    private const LOW = 0.3;

    /** Of the edges of a line: how many lie at such a step before it is one. */
    private const STEPS = 0.5;

    /** Of the angle from which an edge is kept: what continues a line over a gap. */
    private const WEAKER = 0.4;

    /** Of the side of a cell: lines that end in the open, and rings, that are shorter are none. Such as are no longer than SHORT are not continued over gaps either. */
    private const OPEN = 4.0;

    private const SHORT = 1.5;

    private const RING = 2.0;

    /** Cosine of the turn up to which a line goes straight on: 40 degrees. */
    private const STRAIGHT = 0.77;

    /** What the angles around a vertex lack of a full turn at a tip, radians. */
    private const TIP = 1.2;

    private readonly EditableMesh $mesh;

    /** @var list<int> vertices of the even mesh, in the order of the fields */
    private readonly array $vertices;

    private readonly FieldHierarchy $hierarchy;

    /** @var array<int, array{array<int, float>, array<int, int>}> the lines of the shape by number: flat xyz, and triangles without width */
    private array $lines = [];

    /**
     * @param  array<int, float>  $positions  flat xyz, mm
     * @param  array<int, int>  $faces  flat, of a manifold (EditableMesh::takes)
     * @param  array<int, int>  $twins  of its half-edges
     * @param  float  $sharpDeg  an edge whose faces turn by more is kept
     * @param  float  $cell  length of the side of a cell, mm
     * @param  GuideStrokes  $strokes  drawn by hand
     * @param  Closure(string, float): void  $progress  told what is done, and its share
     */
    public function __construct(array $positions, array $faces, array $twins, float $sharpDeg, private readonly float $cell, GuideStrokes $strokes, Closure $progress)
    {
        $even = $cell / self::FINER;
        $remeshing = new IsotropicRemeshing($positions, $faces, $twins, $sharpDeg, true, $even);
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $remeshing->round(fn (float $done) => $progress('laying an even mesh', 0.8 * ($round + $done) / self::ROUNDS));
            $remeshing->resize(max(0.8, min(1.25, $even / max(1e-300, $remeshing->measure()[0]))));
        }
        $this->mesh = $remeshing->mesh;
        foreach ($remeshing->lines as $number => $line) {
            $points = [];
            foreach ($line as $v) {
                array_push($points, $positions[3 * $v], $positions[3 * $v + 1], $positions[3 * $v + 2]);
            }
            $this->lines[$number] = [$points, range(0, count($line) - 1)];
        }
        $this->forgetLowSteps();
        $this->forgetCrumbs(self::SHORT);
        $this->bridgeGaps(self::WEAKER * $sharpDeg);
        $this->forgetCrumbs(self::OPEN);
        $this->joinStraight();
        foreach ($strokes->edgesOn($this->mesh, $even) as $number => $line) {
            $this->lines[$number] = $line;
        }
        $taken = $this->mesh->taken();
        $this->vertices = $taken['vertices'];
        $level = $this->level($taken['positions'], $taken['faces']);
        foreach ($strokes->flowAt($level->positions, $cell) as $v => $way) {
            $direction = FieldLevel::inPlane(...[...$way, array_slice($level->normals, 3 * $v, 3)]);
            if ($direction !== null) {
                $level->along[$v] ??= $direction;
            }
        }
        $this->hierarchy = new FieldHierarchy($level);
        $this->hierarchy->spreadConstraints();
        CrossField::settle($this->hierarchy, fn (float $done) => $progress('turning cells', 0.8 + 0.2 * $done));
    }

    /**
     * Cells of a side.
     *
     * @param  float  $cell  mm; at most some tenths off the one that the layout was made for
     * @param  Closure(string, float): void  $progress  told what is done, and its share
     */
    public function cells(float $cell, Closure $progress): CellMesh
    {
        PositionField::settle($this->hierarchy, $cell, fn (float $done) => $progress('placing cells', 0.8 * $done));
        $origins = $this->hierarchy->levels[0]->origins;
        $mesh = clone $this->mesh;
        foreach ($this->vertices as $k => $v) {
            $mesh->vertices[4 * $v] = $origins[3 * $k];
            $mesh->vertices[4 * $v + 1] = $origins[3 * $k + 1];
            $mesh->vertices[4 * $v + 2] = $origins[3 * $k + 2];
        }
        LatticeCollapse::run($mesh, $cell);
        $progress('placing cells', 1.0);

        return CellMesh::of($mesh, TrianglePairing::cells($mesh));
    }

    /** @return array<int, array{array<int, float>, array<int, int>}> the lines that cells keep to, by number: flat xyz, and triangles without width */
    public function lines(): array
    {
        return $this->lines;
    }

    /**
     * Where the surface steps up and down by little, as at raised letters, a line that turns one way runs close to one that turns the other: neither is kept to, or cells would be as small as the step.
     */
    private function forgetLowSteps(): void
    {
        $mesh = $this->mesh;
        $normals = $mesh->normals();
        $middles = [[], []];
        $of = [[], []];
        foreach ($mesh->features as $h => $line) {
            $g = $mesh->twins[$h];
            if ($line === 0 || ($h & 3) === 3 || $g < $h || $mesh->corners[$h | 3] === 0) {
                continue;
            }
            $a = 4 * $mesh->corners[$h];
            $b = 4 * $mesh->corners[EditableMesh::next($h)];
            $c = 4 * $mesh->corners[EditableMesh::previous($g)];
            $n = $h & ~3;
            $rise = 0.0;
            for ($k = 0; $k < 3; $k++) {
                $rise += $normals[$n + $k] * ($mesh->vertices[$c + $k] - $mesh->vertices[$a + $k]);
            }
            $way = $rise > 0.0 ? 1 : 0;
            for ($k = 0; $k < 3; $k++) {
                $middles[$way][] = 0.5 * ($mesh->vertices[$a + $k] + $mesh->vertices[$b + $k]);
            }
            $of[$way][] = $line;
        }
        if ($of[0] === [] || $of[1] === []) {
            return;
        }
        $edges = $low = [];
        foreach ([0, 1] as $way) {
            $others = range(0, count($of[1 - $way]) - 1);
            $faces = array_merge(...array_map(fn (int $v) => [$v, $v, $v], $others));
            $face = $distanceSq = [];
            TriangleBvh::of($middles[1 - $way], $faces)->closest($middles[$way], $face, $distanceSq);
            $limit = (self::LOW * $this->cell) ** 2;
            foreach ($of[$way] as $k => $line) {
                $edges[$line] = ($edges[$line] ?? 0) + 1;
                $low[$line] = ($low[$line] ?? 0) + ($distanceSq[$k] < $limit ? 1 : 0);
            }
        }
        $this->forget(array_filter($edges, fn (int $many, int $line) => $low[$line] > self::STEPS * $many, ARRAY_FILTER_USE_BOTH));
    }

    /** Lines that end in the open go on over edges that turn less, where those lead to another line: edges of a scan are rounded here and there. */
    private function bridgeGaps(float $leastDeg): void
    {
        $mesh = $this->mesh;
        $number = max([0, ...array_keys($this->lines)]) + 1;
        FeatureEdges::continued($mesh, $leastDeg, $number);
        $points = $segments = $degree = [];
        foreach ($mesh->features as $h => $line) {
            if ($line === 0 || ($h & 3) === 3 || $mesh->corners[$h | 3] === 0 || $mesh->twins[$h] > $h) {
                continue;
            }
            $ends = [$mesh->corners[$h], $mesh->corners[EditableMesh::next($h)]];
            foreach ($ends as $v) {
                $degree[$v] = ($degree[$v] ?? 0) + 1;
            }
            if ($line === $number) {
                $k = intdiv(count($points), 3);
                array_push($segments, $k, $k + 1, $k + 1);
                foreach ($ends as $v) {
                    array_push($points, $mesh->vertices[4 * $v], $mesh->vertices[4 * $v + 1], $mesh->vertices[4 * $v + 2]);
                }
            }
        }
        if ($segments === []) {
            return;
        }
        $this->lines[$number] = [$points, $segments];
        foreach ($mesh->features as $h => $line) {
            if ($line === $number && ($h & 3) !== 3) {
                $v = $mesh->corners[$h];
                $mesh->flags[$v] |= $degree[$v] === 2 && ($mesh->flags[$v] & EditableMesh::CORNER) === 0 ? EditableMesh::ON_FEATURE : EditableMesh::CORNER;
            }
        }
    }

    /**
     * Lines that end in the open after a few cells are where a rounding is sharper by chance, as on a pine cone: cells would crowd around them. So are rings that are hardly larger than a cell.
     *
     * @param  float  $cells  how many
     */
    private function forgetCrumbs(float $cells): void
    {
        $mesh = $this->mesh;
        do {
            $length = $ends = $degree = [];
            foreach ($mesh->features as $h => $line) {
                if ($line === 0 || ($h & 3) === 3 || $mesh->corners[$h | 3] === 0 || ($mesh->twins[$h] > $h)) {
                    continue;
                }
                $length[$line] = ($length[$line] ?? 0.0) + sqrt($mesh->lengthSq($h));
                foreach ([$mesh->corners[$h], $mesh->corners[EditableMesh::next($h)]] as $v) {
                    $degree[$v] = ($degree[$v] ?? 0) + 1;
                    $ends[$line][$v] = true;
                }
            }
            $gone = [];
            foreach ($length as $line => $far) {
                $isOpen = array_filter(array_keys($ends[$line]), fn (int $v) => $degree[$v] === 1 && ($mesh->flags[$v] & EditableMesh::AT_RIM) === 0) !== [];
                $isRing = array_filter(array_keys($ends[$line]), fn (int $v) => $degree[$v] !== 2) === [];
                $isRim = array_filter(array_keys($ends[$line]), fn (int $v) => ($mesh->flags[$v] & EditableMesh::AT_RIM) === 0) === [];
                if (! $isRim && (($isOpen && $far < $cells * $this->cell) || ($isRing && $far < self::RING * $this->cell))) {
                    $gone[$line] = true;
                }
            }
            $this->forget($gone);
        } while ($gone !== []);
    }

    /**
     * Along a line as far as half a cell, or as it goes on.
     *
     * @param  array<int, array<int, int>>  $near  by vertex: where lines lead from it
     */
    private function farAlong(array $near, int $from, int $to): int
    {
        $start = $from;
        for ($far = 0.0; count($near[$to]) === 2 && $to !== $start; [$from, $to] = [$to, $next]) {
            for ($k = 0, $sq = 0.0; $k < 3; $k++) {
                $sq += ($this->mesh->vertices[4 * $to + $k] - $this->mesh->vertices[4 * $from + $k]) ** 2;
            }
            $far += sqrt($sq);
            if ($far >= 0.5 * $this->cell) {
                break;
            }
            [$one, $two] = array_keys($near[$to]);
            $next = $one === $from ? $two : $one;
        }

        return $to;
    }

    /** Where a line goes straight on as another, seen over half a cell, both are one: others that ended there were forgotten, or it is jagged by less than cells can follow. */
    private function joinStraight(): void
    {
        $mesh = $this->mesh;
        $near = [];
        foreach ($mesh->features as $h => $line) {
            if ($line === 0 || ($h & 3) === 3 || $mesh->corners[$h | 3] === 0) {
                continue;
            }
            $a = $mesh->corners[$h];
            $b = $mesh->corners[EditableMesh::next($h)];
            $near[$a][$b] = $near[$b][$a] = $line;
        }
        /** @var array<int, int> $becomes  lines by number: the one that each is part of */
        $becomes = [];
        $root = function (int $line) use (&$becomes): int {
            while (isset($becomes[$line])) {
                $line = $becomes[$line];
            }

            return $line;
        };
        foreach ($near as $v => $others) {
            if (count($others) !== 2 || ($mesh->flags[$v] & EditableMesh::CORNER) === 0) {
                continue;
            }
            [$a, $b] = array_map(fn (int $to) => $this->farAlong($near, $v, $to), array_keys($others));
            $dot = $one = $two = 0.0;
            for ($k = 0; $k < 3; $k++) {
                $u = $mesh->vertices[4 * $v + $k] - $mesh->vertices[4 * $a + $k];
                $w = $mesh->vertices[4 * $b + $k] - $mesh->vertices[4 * $v + $k];
                $dot += $u * $w;
                $one += $u * $u;
                $two += $w * $w;
            }
            if ($dot < self::STRAIGHT * sqrt($one * $two)) {
                continue;
            }
            $mesh->flags[$v] = ($mesh->flags[$v] & ~EditableMesh::CORNER) | EditableMesh::ON_FEATURE;
            [$one, $two] = array_map($root, array_values($others));
            if ($one !== $two) {
                $becomes[$two] = $one;
            }
        }
        foreach ($becomes as $line => $_) {
            $into = $root($line);
            [$points, $segments] = $this->lines[$into];
            [$more, $other] = $this->lines[$line];
            $first = intdiv(count($points), 3);
            $this->lines[$into] = [array_merge($points, $more), array_merge($segments, array_map(fn (int $v) => $first + $v, $other))];
            unset($this->lines[$line]);
        }
        foreach ($mesh->features as $h => $line) {
            if (isset($becomes[$line])) {
                $mesh->features[$h] = $root($line);
            }
        }
    }

    /**
     * Vertices of these lines become free, and corners that no line ends in but for tips.
     *
     * @param  array<int, mixed>  $gone  by number of a line
     */
    private function forget(array $gone): void
    {
        $mesh = $this->mesh;
        $left = array_fill(0, count($mesh->out), 0);
        foreach ($mesh->features as $h => $line) {
            if (isset($gone[$line])) {
                $mesh->features[$h] = 0;
            } elseif ($line !== 0 && ($h & 3) !== 3 && $mesh->corners[$h | 3] !== 0) {
                $left[$mesh->corners[$h]]++;
                $left[$mesh->corners[EditableMesh::next($h)]]++;
            }
        }
        foreach ($mesh->out as $v => $h) {
            if ($h >= 0 && $left[$v] === 0 && $mesh->flags[$v] !== 0 && ($mesh->flags[$v] & EditableMesh::AT_RIM) === 0 && ! self::isTip($mesh, $v)) {
                $mesh->flags[$v] = 0;
            }
        }
        $this->lines = array_diff_key($this->lines, $gone);
    }

    /** Do the angles around a vertex lack much of a full turn, as at the tip of a cone? */
    private static function isTip(EditableMesh $mesh, int $v): bool
    {
        $sum = 0.0;
        $h = $first = $mesh->out[$v];
        do {
            $p = EditableMesh::previous($h);
            $a = $mesh->lengthSq($h);
            $b = $mesh->lengthSq($p);
            $sum += acos(max(-1.0, min(1.0, 0.5 * ($a + $b - $mesh->lengthSq(EditableMesh::next($h))) / max(1e-300, sqrt($a * $b)))));
            $h = $mesh->twins[$p];
        } while ($h >= 0 && $h !== $first);

        return 2.0 * M_PI - $sum > self::TIP;
    }

    /**
     * @param  list<float>  $positions  flat xyz
     * @param  list<int>  $faces  flat
     */
    private function level(array $positions, array $faces): FieldLevel
    {
        $mesh = $this->mesh;
        $n = count($this->vertices);
        $areas = array_fill(0, $n, 0.0);
        foreach (Measure::areas($positions, $faces) as $t => $area) {
            for ($o = 3 * $t; $o < 3 * $t + 3; $o++) {
                $areas[$faces[$o]] += $area / 3.0;
            }
        }
        $at = array_flip($this->vertices);
        $near = $onLine = [];
        foreach ($mesh->twins as $h => $g) {
            if (($h & 3) === 3 || $mesh->corners[$h | 3] === 0) {
                continue;
            }
            $a = $at[$mesh->corners[$h]];
            $b = $at[$mesh->corners[EditableMesh::next($h)]];
            $near[$a][] = $b;
            if ($g < 0) {
                $near[$b][] = $a;
            }
            if ($mesh->features[$h] !== 0) {
                $onLine[$a][$b] = $onLine[$b][$a] = true;
            }
        }
        $first = $to = $weight = $along = $held = [];
        for ($v = 0; $v < $n; $v++) {
            $first[] = count($to);
            foreach ($near[$v] ?? [] as $other) {
                $to[] = $other;
                $weight[] = 1.0;
            }
        }
        $first[] = count($to);
        $normals = Measure::vertexNormals($positions, $faces);
        foreach ($this->vertices as $k => $v) {
            $here = [$positions[3 * $k], $positions[3 * $k + 1], $positions[3 * $k + 2]];
            if (($mesh->flags[$v] & EditableMesh::CORNER) !== 0) {
                $held[$k] = [...$here, 0.0, 0.0, 0.0];
            } elseif (count($onLine[$k] ?? []) === 2) {
                [$a, $b] = array_keys($onLine[$k]);
                $direction = FieldLevel::inPlane($positions[3 * $b] - $positions[3 * $a], $positions[3 * $b + 1] - $positions[3 * $a + 1], $positions[3 * $b + 2] - $positions[3 * $a + 2], array_slice($normals, 3 * $k, 3));
                if ($direction !== null) {
                    $along[$k] = $direction;
                    $held[$k] = [...$here, ...$direction];
                }
            }
        }

        return new FieldLevel($positions, $normals, $areas, $first, $to, $weight, $along, $held);
    }
}
