<?php

declare(strict_types=1);

namespace Emberstone\Core\Measure;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;

/** What there is to say about a mesh: size, closedness, holes and faults. */
final readonly class Inspection
{
    /** Faces under which starting other processes costs more than they save. */
    public const WORTH_SPREADING = 100_000;

    /**
     * @param  list<array{edges: int, perimeter: float, diameter: float, centre: array{float, float, float}, outline: list<array{float, float, float}>}>  $holes  the widest first
     * @param  array<string, int>  $faults  by the keys of the language page
     * @param  float  $measured  share of the area
     * @param  array<string, float>  $madeUp  share of the area by how it was made up; none where that is nothing
     */
    private function __construct(
        public float $area,
        public ?float $volume,
        public bool $closed,
        public int $pieces,
        public int $genus,
        public array $holes,
        public array $faults,
        public float $measured,
        public array $madeUp,
    ) {
    }

    public static function of(TriangleMesh $mesh, Progress $progress = new NoProgress): self
    {
        return self::beside($mesh, [], $progress)[0];
    }

    /**
     * Spreads other work on the same mesh over the cores together with the inspection.
     *
     * @param  list<callable(): list<mixed>>  $work  that gives arrays, numbers and words only
     * @return array{self, list<list<mixed>>}
     */
    public static function beside(TriangleMesh $mesh, array $work, Progress $progress): array
    {
        [$p, $f, $n] = [$mesh->positions, $mesh->faces, $mesh->faceCount()];
        if ($n < self::WORTH_SPREADING) {
            $plain = self::plain($mesh, new PartProgress($progress, 0.0, 0.4));
            $crossings = Intersections::pairs($p, $f, null, fn (float $done) => $progress->advance('looking for faults', 0.4 + 0.5 * $done));
            $results = array_map(fn (callable $one) => $one(), $work);
            $progress->advance('looking for faults', 1.0);

            return [$plain->crossed(intdiv(count($crossings), 2)), $results];
        }
        $bvh = TriangleBvh::of($p, $f);
        // The longest first, the many short ones last: so the cores end at the same time.
        $tasks = [fn (): string => serialize(self::plain($mesh, new NoProgress)), ...array_map(fn (callable $one) => fn (): string => serialize($one()), $work)];
        $parts = 4 * Cores::count();
        for ($k = 0; $k < $parts; $k++) {
            $tasks[] = fn (): string => (string) intdiv(count(Intersections::among($p, $f, $bvh, null, intdiv($k * $n, $parts), intdiv(($k + 1) * $n, $parts))), 2);
        }
        $results = Fork::map($tasks, Cores::count(), $progress, 'looking for faults');
        $plain = unserialize($results[0], ['allowed_classes' => [self::class]]);
        assert($plain instanceof self);
        $crossings = array_sum(array_map(intval(...), array_slice($results, 1 + count($work))));

        return [$plain->crossed((int) $crossings), array_map(fn (string $one) => unserialize($one, ['allowed_classes' => false]), array_slice($results, 1, count($work)))];
    }

    /** All but the faces that pass through each other, which take longest. */
    private static function plain(TriangleMesh $mesh, Progress $progress): self
    {
        $p = $mesh->positions;
        $f = $mesh->faces;
        // Both sort all half-edges, which takes twice the memory of what is sorted: one after the other.
        $edges = self::edges($f, $mesh->vertexCount());
        $progress->advance('looking for faults', 0.3);
        $twin = Topology::twins($f);
        $progress->advance('looking for faults', 0.5);
        $areas = Measure::areas($p, $f);
        $rims = Topology::rims($f, $twin);
        $pieces = Topology::pieces($twin)['count'];
        $progress->advance('looking for faults', 0.7);
        $fans = self::nonManifoldVertices($f, $twin, $mesh->vertexCount());
        $progress->advance('looking for faults', 0.8);
        $faults = [
            'openEdges' => $edges['open'],
            'nonManifoldEdges' => $edges['nonManifold'],
            'nonManifoldVertices' => count($fans['bad']),
            'degenerateFaces' => count(self::degenerate($f, $areas, BoundingBox::of($p)->diagonal())),
            'duplicateFaces' => count(self::duplicates($f)),
            'inconsistentEdges' => $edges['inconsistent'],
            'selfIntersections' => 0,
            'spikes' => count(self::spikes($p, $f, $mesh->vertexCount())),
        ];
        $progress->advance('looking for faults', 1.0);
        $closed = $f !== [] && $edges['open'] + $edges['nonManifold'] + $edges['inconsistent'] + count($fans['bad']) === 0;
        $euler = $fans['used'] - $edges['all'] + $mesh->faceCount();
        $area = array_sum($areas);
        $madeUp = $mesh->madeUp($areas);

        return new self(
            $area, $closed ? Measure::volume($p, $f) : null, $closed, $pieces,
            max(0, intdiv(2 * $pieces - $euler - count($rims), 2)),
            BoundaryLoops::along($rims, $p)->widestFirst(), $faults,
            // What rounding leaves of a body that is all made up is nothing.
            max(0.0, round(1.0 - array_sum($madeUp), 12)), $madeUp,
        );
    }

    private function crossed(int $pairs): self
    {
        return new self($this->area, $this->volume, $this->closed, $this->pieces, $this->genus, $this->holes, array_replace($this->faults, ['selfIntersections' => $pairs]), $this->measured, $this->madeUp);
    }

    public function faultCount(): int
    {
        return array_sum($this->faults) - $this->faults['openEdges'];
    }

    /** @return array<string, mixed> the mesh part of the report of `inspect` */
    public function toArray(): array
    {
        return [
            'area' => $this->area, 'volume' => $this->volume, 'closed' => $this->closed, 'pieces' => $this->pieces,
            'genus' => $this->genus, 'holes' => array_map(fn (array $hole) => array_diff_key($hole, ['outline' => true]), $this->holes), 'faults' => $this->faults,
        ];
    }

    /**
     * @param  array<int, int>  $f
     * @return array{all: int, open: int, nonManifold: int, inconsistent: int}
     */
    private static function edges(array $f, int $vertices): array
    {
        $n = count($f);
        $keys = array_fill(0, $n, 0);
        for ($h = 0; $h < $n; $h++) {
            $a = $f[$h];
            $b = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            $keys[$h] = $a < $b ? ($a * $vertices + $b) * 2 : ($b * $vertices + $a) * 2 + 1;
        }
        sort($keys);
        $all = $open = $nonManifold = $inconsistent = 0;
        for ($i = 0; $i < $n; $i = $j) {
            $edge = $keys[$i] >> 1;
            for ($j = $i + 1; $j < $n && $edge === $keys[$j] >> 1; $j++) {
                continue;
            }
            $all++;
            if ($j - $i === 1) {
                $open++;
            } elseif ($j - $i > 2) {
                $nonManifold++;
            } elseif ($keys[$i] === $keys[$i + 1]) {
                $inconsistent++;
            }
        }

        return ['all' => $all, 'open' => $open, 'nonManifold' => $nonManifold, 'inconsistent' => $inconsistent];
    }

    /**
     * Vertices whose faces fall into more than one fan.
     *
     * @param  array<int, int>  $f
     * @param  array<int, int>  $twin
     * @return array{bad: list<int>, used: int}
     */
    public static function nonManifoldVertices(array $f, array $twin, int $vertices): array
    {
        $valence = array_fill(0, $vertices, 0);
        $first = array_fill(0, $vertices, -1);
        foreach ($f as $h => $v) {
            $valence[$v]++;
            $first[$v] = $h;
        }
        $bad = [];
        $used = 0;
        for ($v = 0; $v < $vertices; $v++) {
            if ($valence[$v] === 0) {
                continue;
            }
            $used++;
            if (count(Topology::fan($twin, $first[$v])) !== $valence[$v]) {
                $bad[] = $v;
            }
        }

        return ['bad' => $bad, 'used' => $used];
    }

    /**
     * @param  array<int, int>  $f
     * @param  array<int, float>  $areas
     * @return list<int> faces
     */
    public static function degenerate(array $f, array $areas, float $diagonal): array
    {
        $least = 1e-14 * $diagonal * $diagonal;
        $faces = [];
        foreach ($areas as $t => $area) {
            $o = 3 * $t;
            if ($area <= $least || $f[$o] === $f[$o + 1] || $f[$o + 1] === $f[$o + 2] || $f[$o] === $f[$o + 2]) {
                $faces[] = $t;
            }
        }

        return $faces;
    }

    /**
     * @param  array<int, int>  $f
     * @return list<int> faces that lie where an earlier one does
     */
    public static function duplicates(array $f): array
    {
        $seen = $more = $faces = [];
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            $a = $f[$o];
            $b = $f[$o + 1];
            $c = $f[$o + 2];
            $low = $a < $b ? ($a < $c ? $a : $c) : ($b < $c ? $b : $c);
            $high = $a > $b ? ($a > $c ? $a : $c) : ($b > $c ? $b : $c);
            $key = $low << 32 | $high;
            $middle = $a + $b + $c - $low - $high;
            if (! isset($seen[$key])) {
                $seen[$key] = $middle;
            } elseif ($seen[$key] === $middle || isset($more["$key-$middle"])) {
                $faces[] = intdiv($o, 3);
            } else {
                $more["$key-$middle"] = true;
            }
        }

        return $faces;
    }

    /** A vertex is a needle where the normals around it, weighed by area, sum to less than this share of what they would if they were alike: a tip of 29 degrees. */
    private const NEEDLE = 0.25;

    /** Below this share it is looked at from near: a tip of 67 degrees on a flat. The corner of a cube has 0.577. */
    private const STEEP = 0.55;

    /**
     * Such a vertex is a spike where half of its faces are bent by more than this against the face beyond the edge that lies opposite the vertex: cosine of 30 degrees. Corners, edges and
     * true tips of a part go on beyond the next vertex.
     */
    private const BENT = 0.866;

    /** All edges of such a spike run within this cosine (44 degrees) of their mean: at raised corners, such as those of letters, two edges are square to each other. */
    private const ONE_WAY = 0.72;

    /** Longest edge of such a spike, share of the mesh's diagonal: what is larger is a shape with few faces. */
    private const LARGEST = 0.2;

    /**
     * Vertices that stand up, like needles or steeper than all around them allows; not on knife edges, where the normals of the two sides cancel as well.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @return list<int>
     */
    public static function spikes(array $p, array $f, int $vertices): array
    {
        $sum = array_fill(0, 3 * $vertices, 0.0);
        $all = array_fill(0, $vertices, 0.0);
        $crosses = Measure::crosses($p, $f);
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            $x = $crosses[$o];
            $y = $crosses[$o + 1];
            $z = $crosses[$o + 2];
            $l = sqrt($x * $x + $y * $y + $z * $z);
            foreach ([$f[$o], $f[$o + 1], $f[$o + 2]] as $v) {
                $sum[3 * $v] += $x;
                $sum[3 * $v + 1] += $y;
                $sum[3 * $v + 2] += $z;
                $all[$v] += $l;
            }
        }
        $spikes = $steep = [];
        for ($v = 0; $v < $vertices; $v++) {
            $alike = sqrt($sum[3 * $v] ** 2 + $sum[3 * $v + 1] ** 2 + $sum[3 * $v + 2] ** 2);
            if ($alike < self::STEEP * $all[$v]) {
                if ($alike < self::NEEDLE * $all[$v]) {
                    $spikes[$v] = $v;
                } else {
                    $steep[$v] = true;
                }
            }
        }
        $spikes += self::leaning($p, $f, $crosses, $steep);

        return array_values(array_diff_key($spikes, self::onKnifeEdges($p, $f, $crosses, $spikes)));
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array<int, float>  $crosses  normals of the faces, of twice their area
     * @param  array<int, true>  $steep
     * @return array<int, int> those of the vertices that are pointed and stand off what is around them
     */
    private static function leaning(array $p, array $f, array $crosses, array $steep): array
    {
        if ($steep === []) {
            return [];
        }
        $steep = self::pointed($p, $f, $steep, self::LARGEST * BoundingBox::of($p)->diagonal());
        // Of each edge that lies opposite such a vertex, the face beyond it.
        $opposite = [];
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            for ($k = 0; $k < 3; $k++) {
                if (isset($steep[$f[$o + $k]])) {
                    $opposite[$f[$o + ($k + 2) % 3] << 32 | $f[$o + ($k + 1) % 3]] = [$f[$o + $k], $o];
                }
            }
        }
        $bends = [];
        foreach ($f as $h => $v) {
            $key = $v << 32 | $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            if (isset($opposite[$key])) {
                [$tip, $o] = $opposite[$key];
                $u = $h - $h % 3;
                $one = [$crosses[$o], $crosses[$o + 1], $crosses[$o + 2]];
                $other = [$crosses[$u], $crosses[$u + 1], $crosses[$u + 2]];
                $bends[$tip][] = Vector3::dot($one, $other) / max(1e-300, Vector3::length($one) * Vector3::length($other));
            }
        }
        $leaning = array_keys(array_filter($bends, fn (array $of) => Median::of($of) < self::BENT));

        return array_combine($leaning, $leaning);
    }

    /**
     * Vertices from which all edges run one way and none is too long.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array<int, true>  $vertices
     * @param  float  $longest  mm
     * @return array<int, true>
     */
    private static function pointed(array $p, array $f, array $vertices, float $longest): array
    {
        $ways = [];
        foreach ($f as $h => $v) {
            $next = $f[$h % 3 === 2 ? $h - 2 : $h + 1];
            foreach ([[$v, $next], [$next, $v]] as [$from, $to]) {
                if (isset($vertices[$from])) {
                    $ways[$from][$to] = [$p[3 * $to] - $p[3 * $from], $p[3 * $to + 1] - $p[3 * $from + 1], $p[3 * $to + 2] - $p[3 * $from + 2]];
                }
            }
        }
        $pointed = [];
        foreach ($ways as $v => $edges) {
            $lengths = array_map(Vector3::length(...), $edges);
            if (min($lengths) <= 0.0 || max($lengths) > $longest) {
                continue;
            }
            $edges = array_map(Vector3::unit(...), $edges);
            $sum = array_reduce($edges, Vector3::plus(...), [0.0, 0.0, 0.0]);
            $least = self::ONE_WAY * Vector3::length($sum);
            if (array_filter($edges, fn (array $way) => Vector3::dot($way, $sum) < $least) === []) {
                $pointed[$v] = true;
            }
        }

        return $pointed;
    }

    /** The two ways that a knife edge leaves a vertex stand apart by more than this: the cosine of 120 degrees. */
    private const APART = -0.5;

    /**
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  array<int, float>  $crosses  normals of the faces, of twice their area
     * @param  array<int, int>  $vertices  that are asked for
     * @return array<int, true> those of them from which two edges run opposite ways whose faces look away from each other
     */
    private static function onKnifeEdges(array $p, array $f, array $crosses, array $vertices): array
    {
        if ($vertices === []) {
            return [];
        }
        // Of each edge at such a vertex, the normals of its faces.
        $normals = [];
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            for ($k = 0; $k < 3; $k++) {
                $v = $f[$o + $k];
                $normal = [$crosses[$o], $crosses[$o + 1], $crosses[$o + 2]];
                if (isset($vertices[$v]) && Vector3::length($normal) > 0.0) {
                    $normal = Vector3::unit($normal);
                    $normals[$v][$f[$o + ($k + 1) % 3]][] = $normal;
                    $normals[$v][$f[$o + ($k + 2) % 3]][] = $normal;
                }
            }
        }
        $on = [];
        foreach ($normals as $v => $edges) {
            $ways = [];
            foreach ($edges as $w => $pair) {
                $way = [$p[3 * $w] - $p[3 * $v], $p[3 * $w + 1] - $p[3 * $v + 1], $p[3 * $w + 2] - $p[3 * $v + 2]];
                if (count($pair) === 2 && Vector3::dot($pair[0], $pair[1]) < self::APART && Vector3::length($way) > 0.0) {
                    $ways[] = Vector3::unit($way);
                }
            }
            foreach ($ways as $k => $one) {
                foreach (array_slice($ways, $k + 1) as $other) {
                    if (Vector3::dot($one, $other) < self::APART) {
                        $on[$v] = true;
                    }
                }
            }
        }

        return $on;
    }
}
