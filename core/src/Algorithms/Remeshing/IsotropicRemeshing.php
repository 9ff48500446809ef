<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

use Closure;
use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;
use Emberstone\Core\Algorithms\HalfEdge\FeatureEdges;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Search\TriangleFeet;
use Emberstone\Core\Algorithms\Surface\Measure;

/**
 * Triangles as equal-sided as can be, on the same surface: edges that are too long are split, too short ones collapsed, valences evened by flips, vertices moved along the surface to
 * the middle of their faces and back onto the input, in rounds. Features (sharp edges, rims) stay lines, their ends and turns stay points.
 *
 * Source    Botsch & Kobbelt 2004, A remeshing approach to multiresolution modeling; sizes by curvature: Dunyach, Vanderhaeghe, Barthe & Botsch 2013, equation 5.
 * Departs   sizes are carried by the vertices and set anew from curvature and from the distances measured, instead of being computed once; features are polylines that their vertices
 *           are brought back to, as the surface is.
 * Cost      a round is linear in the result, and one nearest place on the input a vertex.
 */
final class IsotropicRemeshing
{
    /** Rings of faces that change around a place that is made finer. */
    private const RINGS = 3;

    /** Of the size of a vertex: how far from the surface it must be to be moved back to it even if a face turns far. */
    private const OFF = 0.03;

    /** Length of the sum of the normals around a vertex, as a share of the sum of their lengths, below which they cancel. */
    private const CANCEL = 0.5;

    /** How much finer (1 / this) than the edge asked for places may become to be kept within a deviation: beyond it only noise is followed. */
    private const FINEST = 8.0;

    /** The result so far; features carry the numbers of their lines. */
    public readonly EditableMesh $mesh;

    private readonly TriangleBvh $tree;

    /** @var list<float> normals of the input's faces, twice their areas long */
    private readonly array $crosses;

    /** @var array<int, TriangleBvh> each line of the features, as triangles without width */
    private array $lineTrees = [];

    /** @var array<int, list<int>> corners of those triangles, vertices of the input */
    public readonly array $lines;

    private readonly SizeField $sizes;

    private readonly EdgeEvening $edges;

    /**
     * @param  array<int, float>  $positions  flat xyz, mm
     * @param  array<int, int>  $faces  flat, of a manifold (EditableMesh::takes)
     * @param  array<int, int>  $twins  of its half-edges
     * @param  float  $sharpDeg  an edge whose faces turn by more is kept
     * @param  bool  $keepRims  rims keep their shape too
     * @param  float  $edge  length of edges to come, mm
     */
    public function __construct(private readonly array $positions, private readonly array $faces, array $twins, float $sharpDeg, bool $keepRims, private readonly float $edge)
    {
        $this->mesh = new EditableMesh($positions, $faces, [], $twins);
        $this->tree = TriangleBvh::of($positions, $faces);
        $this->crosses = Measure::crosses($positions, $faces);
        $this->sizes = new SizeField($this->mesh);
        $this->edges = new EdgeEvening($this->mesh);
        $this->sizes->even($edge);
        $this->lines = FeatureEdges::mark($this->mesh, $sharpDeg, $keepRims, $edge);
        foreach ($this->lines as $number => $line) {
            $this->lineTrees[$number] = TriangleBvh::of($positions, $line);
        }
    }

    /** The length of edge that gives a number of faces: of equal-sided triangles the area is the square of it times a quarter of the root of 3. */
    public static function edgeFor(float $area, float $faces): float
    {
        return sqrt($area / max(1.0, $faces) / (0.25 * sqrt(3.0)));
    }

    /**
     * One round at the sizes that the vertices carry.
     *
     * @param  Closure(float): void  $progress  told the share done
     */
    public function round(Closure $progress): void
    {
        $this->edges->split();
        $progress(0.15);
        $this->edges->collapse();
        $progress(0.45);
        $this->edges->flip();
        $progress(0.6);
        $this->relax();
        $progress(1.0);
    }

    /** Makes all sizes larger or smaller. */
    public function resize(float $by): void
    {
        $this->sizes->resize($by);
    }

    /** Sets sizes by curvature; see SizeField::byCurvature(). */
    public function sizeByCurvature(float $edge, float $deviation, float $share): void
    {
        $this->sizes->byCurvature($edge, $deviation, $share);
    }

    /** @return array{float, int} the mean length of the edges, mm, and the number of faces */
    public function measure(): array
    {
        $sum = 0.0;
        $edges = $halves = 0;
        foreach ($this->mesh->twins as $h => $g) {
            if (($h & 3) !== 3 && $this->mesh->corners[$h | 3] !== 0) {
                $halves++;
                if ($g < $h) {
                    $sum += sqrt($this->mesh->lengthSq($h));
                    $edges++;
                }
            }
        }

        return [$edges === 0 ? 0.0 : $sum / $edges, intdiv($halves, 3)];
    }

    /**
     * Makes the surface finer at some vertices; from now on nothing changes but around them.
     *
     * @param  list<int>  $vertices
     * @param  list<int>  $also  those around which things may change at the size that they are
     */
    public function refine(array $vertices, float $by, array $also): void
    {
        $this->edges->active = array_fill_keys([...$vertices, ...$also], true);
        foreach ($vertices as $v) {
            $this->mesh->vertices[4 * $v + 3] = max($by * $this->mesh->vertices[4 * $v + 3], $this->edge / self::FINEST);
        }
        for ($ring = 0; $ring < self::RINGS; $ring++) {
            foreach (array_keys($this->edges->active) as $v) {
                $h = $first = $this->mesh->out[$v];
                do {
                    $this->edges->active[$this->mesh->corners[EditableMesh::next($h)]] = true;
                    $q = EditableMesh::previous($h);
                    $this->edges->active[$this->mesh->corners[$q]] = true;
                    $h = $this->mesh->twins[$q];
                } while ($h >= 0 && $h !== $first);
            }
        }
        $this->sizes->grade();
    }

    /** Brings a vertex to a place of the input that the surface missed, and keeps it there. */
    public function pin(int $vertex, float $x, float $y, float $z): void
    {
        $this->mesh->vertices[4 * $vertex] = $x;
        $this->mesh->vertices[4 * $vertex + 1] = $y;
        $this->mesh->vertices[4 * $vertex + 2] = $z;
        $this->mesh->flags[$vertex] |= EditableMesh::CORNER;
    }

    /**
     * Which of some vertices may have changed since refine().
     *
     * @param  list<int>  $vertices
     * @return array<int, true> by their place in the list
     */
    public function changing(array $vertices): array
    {
        return array_fill_keys(array_keys(array_filter($vertices, fn (int $v) => $this->edges->active === null || isset($this->edges->active[$v]))), true);
    }

    /**
     * Moves vertices.
     *
     * @param  list<int>  $vertices
     * @param  array<int, float>  $positions  flat xyz, of each
     */
    public function place(array $vertices, array $positions): void
    {
        foreach ($vertices as $k => $v) {
            $this->mesh->vertices[4 * $v] = $positions[3 * $k];
            $this->mesh->vertices[4 * $v + 1] = $positions[3 * $k + 1];
            $this->mesh->vertices[4 * $v + 2] = $positions[3 * $k + 2];
        }
    }

    /** Moves every vertex along the surface to the middle of its faces, those on features along them, and back onto the input. */
    private function relax(): void
    {
        $before = $this->mesh->crosses();
        [$sum, $normal] = $this->around($before);
        $V = $this->mesh->vertices;
        $which = $places = $lineWhich = $linePlaces = [];
        $numbers = [];
        $line = $this->alongFeatures($numbers);
        foreach ($this->mesh->out as $v => $h) {
            $flags = $this->mesh->flags[$v];
            if ($h < 0 || ($flags & EditableMesh::CORNER) !== 0 || ($this->edges->active !== null && ! isset($this->edges->active[$v]))) {
                continue;
            }
            $o = $v << 2;
            if ($flags !== 0) {
                if (($line[$o + 3] ?? 0.0) > 0.0) {
                    $lineWhich[$numbers[$v]][] = $v;
                    $linePlaces[$numbers[$v]] ??= [];
                    array_push($linePlaces[$numbers[$v]], $line[$o] / $line[$o + 3], $line[$o + 1] / $line[$o + 3], $line[$o + 2] / $line[$o + 3]);
                }

                continue;
            }
            $w = $sum[$o + 3];
            $nx = $normal[$o];
            $ny = $normal[$o + 1];
            $nz = $normal[$o + 2];
            $nn = $nx * $nx + $ny * $ny + $nz * $nz;
            if ($w <= 0.0 || $nn <= 0.0) {
                continue;
            }
            $w = 1.0 / (3.0 * $w);
            $qx = $sum[$o] * $w;
            $qy = $sum[$o + 1] * $w;
            $qz = $sum[$o + 2] * $w;
            // Where faces are folded over each other their normals say nothing: to the middle, and down from there.
            $d = $nn < self::CANCEL * self::CANCEL * $normal[$o + 3] * $normal[$o + 3] ? 0.0 : (($V[$o] - $qx) * $nx + ($V[$o + 1] - $qy) * $ny + ($V[$o + 2] - $qz) * $nz) / $nn;
            $which[] = $v;
            $places[] = $qx + $d * $nx;
            $places[] = $qy + $d * $ny;
            $places[] = $qz + $d * $nz;
        }
        $face = $distanceSq = [];
        $this->tree->closest($places, $face, $distanceSq);
        $places = $this->onOwnSide($which, TriangleFeet::of($places, $face, $this->positions, $this->faces), $face, $normal);
        foreach ($lineWhich as $number => $vertices) {
            $this->lineTrees[$number]->closest($linePlaces[$number], $face, $distanceSq);
            foreach (TriangleFeet::of($linePlaces[$number], $face, $this->positions, $this->lines[$number]) as $value) {
                $places[] = $value;
            }
            foreach ($vertices as $v) {
                $which[] = $v;
            }
        }
        $old = $V;
        foreach ($which as $k => $v) {
            $o = $v << 2;
            $V[$o] = $places[3 * $k];
            $V[$o + 1] = $places[3 * $k + 1];
            $V[$o + 2] = $places[3 * $k + 2];
        }
        $this->mesh->vertices = $this->withoutFolds($V, $old, $before);
    }

    /**
     * What lies around each vertex.
     *
     * @param  array<int, float>  $crosses  see EditableMesh::crosses()
     * @return array{array<int, float>, array<int, float>} four numbers a vertex each: the weighted sum of the middles of its faces, three times over, and the weight; the sum of their normals, and of the
     *                                                     lengths of these
     */
    private function around(array $crosses): array
    {
        [$V, $C] = [$this->mesh->vertices, $this->mesh->corners];
        $n = count($this->mesh->out);
        $sum = $normal = array_fill(0, 4 * $n, 0.0);
        for ($o = 0, $e = count($C); $o < $e; $o += 4) {
            if ($C[$o + 3] === 0) {
                continue;
            }
            $i = $C[$o] << 2;
            $j = $C[$o + 1] << 2;
            $k = $C[$o + 2] << 2;
            $ax = $V[$i];
            $ay = $V[$i + 1];
            $az = $V[$i + 2];
            $bx = $V[$j];
            $by = $V[$j + 1];
            $bz = $V[$j + 2];
            $cx = $V[$k];
            $cy = $V[$k + 1];
            $cz = $V[$k + 2];
            $x = $crosses[$o];
            $y = $crosses[$o + 1];
            $z = $crosses[$o + 2];
            // By area over the cube of the size, so that where sizes change the larger faces do not pull.
            $s = $V[$i + 3] + $V[$j + 3] + $V[$k + 3];
            $area = sqrt($x * $x + $y * $y + $z * $z);
            $w = $area / ($s * $s * $s);
            $mx = $w * ($ax + $bx + $cx);
            $my = $w * ($ay + $by + $cy);
            $mz = $w * ($az + $bz + $cz);
            $sum[$i] += $mx;
            $sum[$i + 1] += $my;
            $sum[$i + 2] += $mz;
            $sum[$i + 3] += $w;
            $sum[$j] += $mx;
            $sum[$j + 1] += $my;
            $sum[$j + 2] += $mz;
            $sum[$j + 3] += $w;
            $sum[$k] += $mx;
            $sum[$k + 1] += $my;
            $sum[$k + 2] += $mz;
            $sum[$k + 3] += $w;
            $normal[$i] += $x;
            $normal[$i + 1] += $y;
            $normal[$i + 2] += $z;
            $normal[$i + 3] += $area;
            $normal[$j] += $x;
            $normal[$j + 1] += $y;
            $normal[$j + 2] += $z;
            $normal[$j + 3] += $area;
            $normal[$k] += $x;
            $normal[$k + 1] += $y;
            $normal[$k + 2] += $z;
            $normal[$k + 3] += $area;
        }

        return [$sum, $normal];
    }

    /**
     * Whoever would come to lie beyond a crease, on surface that looks elsewhere, stays where it is; but for those that were off the surface.
     *
     * @param  list<int>  $which  vertices
     * @param  array<int, float>  $places  flat xyz: where each would go
     * @param  array<int, int>  $face  of the input, there
     * @param  array<int, float>  $normal  four numbers a vertex, the first three a normal
     * @return array<int, float> as places
     */
    private function onOwnSide(array $which, array $places, array $face, array $normal): array
    {
        $V = $this->mesh->vertices;
        $beyond = $old = [];
        foreach ($which as $k => $v) {
            $o = 4 * $v;
            $i = 3 * $face[$k];
            $x = $this->crosses[$i];
            $y = $this->crosses[$i + 1];
            $z = $this->crosses[$i + 2];
            $dot = $x * $normal[$o] + $y * $normal[$o + 1] + $z * $normal[$o + 2];
            if (self::CANCEL * self::CANCEL * $normal[$o + 3] ** 2 > $normal[$o] ** 2 + $normal[$o + 1] ** 2 + $normal[$o + 2] ** 2) {
                continue;
            }
            if ($dot <= 0.0 || $dot * $dot < EdgeEvening::KEEPS * EdgeEvening::KEEPS * ($x * $x + $y * $y + $z * $z) * ($normal[$o] * $normal[$o] + $normal[$o + 1] * $normal[$o + 1] + $normal[$o + 2] * $normal[$o + 2])) {
                $beyond[] = $k;
                array_push($old, $V[$o], $V[$o + 1], $V[$o + 2]);
            }
        }
        $distanceSq = [];
        $this->tree->closest($old, $face, $distanceSq);
        foreach ($beyond as $n => $k) {
            $size = $V[4 * $which[$k] + 3];
            if ($distanceSq[$n] <= self::OFF * self::OFF * $size * $size) {
                $places[3 * $k] = $old[3 * $n];
                $places[3 * $k + 1] = $old[3 * $n + 1];
                $places[3 * $k + 2] = $old[3 * $n + 2];
            }
        }

        return $places;
    }

    /**
     * @param  array<int, int>  $numbers  (changed) by vertex: the line that it lies on
     * @return array<int, float> four numbers a vertex on a feature: the sum of the middles of its two edges by length, and that length
     */
    private function alongFeatures(array &$numbers): array
    {
        [$V, $C, $out] = [$this->mesh->vertices, $this->mesh->corners, []];
        foreach ($this->mesh->features as $h => $is) {
            if ($is === 0 || ($h & 3) === 3 || $C[$h | 3] === 0 || $this->mesh->twins[$h] > $h) {
                continue;
            }
            $i = $C[$h] << 2;
            $j = $C[EditableMesh::next($h)] << 2;
            $x = $V[$i] - $V[$j];
            $y = $V[$i + 1] - $V[$j + 1];
            $z = $V[$i + 2] - $V[$j + 2];
            $w = sqrt($x * $x + $y * $y + $z * $z) / ($V[$i + 3] + $V[$j + 3]);
            $numbers[$i >> 2] = $numbers[$j >> 2] = $is;
            foreach ([$i, $j] as $o) {
                $out[$o] = ($out[$o] ?? 0.0) + 0.5 * $w * ($V[$i] + $V[$j]);
                $out[$o + 1] = ($out[$o + 1] ?? 0.0) + 0.5 * $w * ($V[$i + 1] + $V[$j + 1]);
                $out[$o + 2] = ($out[$o + 2] ?? 0.0) + 0.5 * $w * ($V[$i + 2] + $V[$j + 2]);
                $out[$o + 3] = ($out[$o + 3] ?? 0.0) + $w;
            }
        }

        return $out;
    }

    /**
     * Where a face was turned over by the moves of its vertices, they go back.
     *
     * @param  array<int, float>  $V  four numbers a vertex, moved
     * @param  array<int, float>  $old  before
     * @param  array<int, float>  $before  four numbers a face, the first three its normal before
     * @return array<int, float> as V
     */
    private function withoutFolds(array $V, array $old, array $before): array
    {
        $C = $this->mesh->corners;
        $loose = $held = [];
        for ($round = 0; $round < 4; $round++) {
            $folded = [];
            for ($o = 0, $e = count($C); $o < $e; $o += 4) {
                if ($C[$o + 3] === 0) {
                    continue;
                }
                $i = $C[$o] << 2;
                $j = $C[$o + 1] << 2;
                $k = $C[$o + 2] << 2;
                $ux = $V[$j] - $V[$i];
                $uy = $V[$j + 1] - $V[$i + 1];
                $uz = $V[$j + 2] - $V[$i + 2];
                $vx = $V[$k] - $V[$i];
                $vy = $V[$k + 1] - $V[$i + 1];
                $vz = $V[$k + 2] - $V[$i + 2];
                $x = $uy * $vz - $uz * $vy;
                $y = $uz * $vx - $ux * $vz;
                $z = $ux * $vy - $uy * $vx;
                $bx = $before[$o];
                $by = $before[$o + 1];
                $bz = $before[$o + 2];
                $dot = $x * $bx + $y * $by + $z * $bz;
                if ($dot <= 0.0 || $dot * $dot < EdgeEvening::KEEPS * EdgeEvening::KEEPS * ($x * $x + $y * $y + $z * $z) * ($bx * $bx + $by * $by + $bz * $bz)) {
                    $folded[$i] = $folded[$j] = $folded[$k] = true;
                }
            }
            if ($folded === []) {
                break;
            }
            foreach ($folded as $i => $_) {
                // Whoever was off the surface had to come down to it.
                if (isset($loose[$i])) {
                    continue;
                }
                if (! isset($held[$i])) {
                    $face = $distanceSq = [];
                    $this->tree->closest([$old[$i], $old[$i + 1], $old[$i + 2]], $face, $distanceSq);
                    if ($distanceSq[0] > self::OFF * self::OFF * $V[$i + 3] * $V[$i + 3]) {
                        $loose[$i] = true;

                        continue;
                    }
                    $held[$i] = true;
                }
                $V[$i] = $old[$i];
                $V[$i + 1] = $old[$i + 1];
                $V[$i + 2] = $old[$i + 2];
            }
        }

        return $V;
    }

    /** @return array{positions: list<float>, faces: list<int>, labels: list<int>, vertices: list<int>} see EditableMesh::taken() */
    public function taken(): array
    {
        return $this->mesh->taken();
    }
}
