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
    /** Edges longer than this times the size asked for are split, shorter than the next are collapsed: Botsch & Kobbelt show that both then come nearer to it. */
    private const LONG = 1.3333333;

    private const SHORT = 0.8;

    /** Neighbours in size differ by this factor an edge at most, or triangles between them are no more equal-sided. */
    private const GRADING = 1.35;

    /** Cosine that normals of faces keep to their own of before, when a vertex is merged into another. */
    private const KEEPS = 0.5;

    /** The same when an edge is flipped: it must lie along the surface. */
    private const FLAT = 0.9;

    /** Rings of faces that change around a place that is made finer. */
    private const RINGS = 3;

    /** Of the sum of the sizes of two corners: nearer than this they are one. */
    private const ONE = 0.02;

    /** Height of a face over its edge, as a share of that, below which it is a sliver whose normal says nothing. */
    private const SLIVER = 0.06;

    /** Of the size of a vertex: how far from the surface it must be to be moved back to it even if a face turns far. */
    private const OFF = 0.03;

    /** Length of the sum of the normals around a vertex, as a share of the sum of their lengths, below which they cancel. */
    private const CANCEL = 0.5;

    /** How much finer (1 / this) than the edge asked for places may become to be kept within a deviation: beyond it only noise is followed. */
    private const FINEST = 8.0;

    /** How much finer (1 / this) or coarser than the size asked for curvature may make it. */
    private const SPAN = 5.0;

    private readonly EditableMesh $mesh;

    private readonly TriangleBvh $tree;

    /** @var list<float> normals of the input's faces, twice their areas long */
    private readonly array $crosses;

    /** @var array<int, float> four numbers a face, the first three its normal when a round of collapses began */
    private array $normals = [];

    /** @var array<int, TriangleBvh> each line of the features, as triangles without width */
    private array $lineTrees = [];

    /** @var array<int, true>|null vertices that may change; null for all */
    private ?array $active = null;

    /** @var array<int, list<int>> corners of those */
    private readonly array $lines;

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
        $this->size($edge);
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
        $this->split();
        $progress(0.15);
        $this->collapse();
        $progress(0.45);
        $this->flip();
        $progress(0.6);
        $this->relax();
        $progress(1.0);
    }

    /** Sets the size of every vertex. */
    private function size(float $edge): void
    {
        for ($o = 3, $n = count($this->mesh->vertices); $o < $n; $o += 4) {
            $this->mesh->vertices[$o] = $edge;
        }
    }

    /** Makes all sizes larger or smaller. */
    public function resize(float $by): void
    {
        for ($o = 3, $n = count($this->mesh->vertices); $o < $n; $o += 4) {
            $this->mesh->vertices[$o] *= $by;
        }
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
     * Sets sizes by curvature: an edge of size s on a circle of radius r lies s * s / (8 r) off it, and a triangle up to s * s / (6 r) off a ball.
     *
     * @param  float  $edge  the size where nothing is asked
     * @param  float  $deviation  mm that faces may lie off a curved surface
     * @param  float  $share  0 for even sizes, 1 for those that curvature asks for
     */
    public function sizeByCurvature(float $edge, float $deviation, float $share): void
    {
        $V = $this->mesh->vertices;
        foreach ($this->curvatures() as $v => $k) {
            // Dunyach et al., equation 5.
            $size = $k > 0.0 ? sqrt(max(0.0, 6.0 * $deviation / $k - 3.0 * $deviation * $deviation)) : INF;
            $size = max($edge / self::SPAN, min($edge * self::SPAN, $size));
            $V[4 * $v + 3] = $edge ** (1.0 - $share) * $size ** $share;
        }
        $this->mesh->vertices = $V;
        // As many faces as there are now, shared out otherwise.
        $this->resize(sqrt($this->predicted() / max(1, $this->measure()[1])));
        $this->grade();
    }

    /** How many faces the sizes ask for. */
    private function predicted(): float
    {
        [$V, $C] = [$this->mesh->vertices, $this->mesh->corners];
        $sum = 0.0;
        $N = FeatureEdges::crosses($this->mesh);
        for ($o = 0, $e = count($C); $o < $e; $o += 4) {
            if ($C[$o + 3] !== 0) {
                $s = ($V[4 * $C[$o] + 3] + $V[4 * $C[$o + 1] + 3] + $V[4 * $C[$o + 2] + 3]) / 3.0;
                $sum += 0.5 * sqrt($N[$o] * $N[$o] + $N[$o + 1] * $N[$o + 1] + $N[$o + 2] * $N[$o + 2]) / (0.25 * sqrt(3.0) * $s * $s);
            }
        }

        return $sum;
    }

    /**
     * Makes the surface finer at some vertices; from now on nothing changes but around them.
     *
     * @param  list<int>  $vertices
     * @param  list<int>  $also  those around which things may change at the size that they are
     */
    public function refine(array $vertices, float $by, array $also): void
    {
        $this->active = array_fill_keys([...$vertices, ...$also], true);
        foreach ($vertices as $v) {
            $this->mesh->vertices[4 * $v + 3] = max($by * $this->mesh->vertices[4 * $v + 3], $this->edge / self::FINEST);
        }
        for ($ring = 0; $ring < self::RINGS; $ring++) {
            foreach (array_keys($this->active) as $v) {
                $h = $first = $this->mesh->out[$v];
                do {
                    $this->active[$this->mesh->corners[EditableMesh::next($h)]] = true;
                    $q = EditableMesh::previous($h);
                    $this->active[$this->mesh->corners[$q]] = true;
                    $h = $this->mesh->twins[$q];
                } while ($h >= 0 && $h !== $first);
            }
        }
        $this->grade();
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
        return array_fill_keys(array_keys(array_filter($vertices, fn (int $v) => $this->active === null || isset($this->active[$v]))), true);
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

    /** Lowers sizes until none is more than GRADING times that of a neighbour. */
    private function grade(): void
    {
        $V = $this->mesh->vertices;
        $C = $this->mesh->corners;
        do {
            $changed = false;
            for ($o = 0, $e = count($C); $o < $e; $o += 4) {
                if ($C[$o + 3] === 0) {
                    continue;
                }
                $i = 4 * $C[$o] + 3;
                $j = 4 * $C[$o + 1] + 3;
                $k = 4 * $C[$o + 2] + 3;
                $least = $V[$i] < $V[$j] ? $V[$i] : $V[$j];
                $most = self::GRADING * ($V[$k] < $least ? $V[$k] : $least);
                if ($V[$i] > $most) {
                    $V[$i] = $most;
                    $changed = true;
                }
                if ($V[$j] > $most) {
                    $V[$j] = $most;
                    $changed = true;
                }
                if ($V[$k] > $most) {
                    $V[$k] = $most;
                    $changed = true;
                }
            }
        } while ($changed);
        $this->mesh->vertices = $V;
    }

    /** @return array<int, float> 1/mm, of each vertex that is there: how much normals turn a millimetre, without the turns at features */
    private function curvatures(): array
    {
        [$C, $twins, $features] = [$this->mesh->corners, $this->mesh->twins, $this->mesh->features];
        $N = FeatureEdges::normals($this->mesh);
        // Noise turns normals of neighbours against each other: the mean with the three next to it.
        for ($round = 0; $round < 2; $round++) {
            $M = $N;
            for ($h = 0, $e = count($C); $h < $e; $h += 4) {
                for ($c = $h; $c < $h + 3 && $C[$h + 3] !== 0; $c++) {
                    if ($twins[$c] >= 0 && $features[$c] === 0) {
                        $g = $twins[$c] & ~3;
                        $M[$h] += $N[$g];
                        $M[$h + 1] += $N[$g + 1];
                        $M[$h + 2] += $N[$g + 2];
                    }
                }
                $n = sqrt($M[$h] * $M[$h] + $M[$h + 1] * $M[$h + 1] + $M[$h + 2] * $M[$h + 2]);
                $n = $n > 0.0 ? 1.0 / $n : 0.0;
                $M[$h] *= $n;
                $M[$h + 1] *= $n;
                $M[$h + 2] *= $n;
            }
            $N = $M;
        }
        $most = [];
        foreach ($this->mesh->out as $v => $h) {
            if ($h >= 0) {
                $most[$v] = 0.0;
            }
        }
        for ($h = 0; $h < $e; $h++) {
            $g = $twins[$h];
            if (($h & 3) === 3 || $C[$h | 3] === 0 || $g < $h || $features[$h] !== 0) {
                continue;
            }
            $i = $h & ~3;
            $j = $g & ~3;
            $x = $N[$i] - $N[$j];
            $y = $N[$i + 1] - $N[$j + 1];
            $z = $N[$i + 2] - $N[$j + 2];
            $k = sqrt($x * $x + $y * $y + $z * $z) / max(1e-12, $this->between($i, $j));
            foreach ([$C[$h], $C[EditableMesh::next($h)]] as $v) {
                if ($k > $most[$v]) {
                    $most[$v] = $k;
                }
            }
        }

        return $most;
    }

    /** mm from the middle of a face to that of another. */
    private function between(int $i, int $j): float
    {
        [$V, $C] = [&$this->mesh->vertices, &$this->mesh->corners];
        $sum = 0.0;
        for ($k = 0; $k < 3; $k++) {
            $d = ($V[4 * $C[$i] + $k] + $V[4 * $C[$i + 1] + $k] + $V[4 * $C[$i + 2] + $k] - $V[4 * $C[$j] + $k] - $V[4 * $C[$j + 1] + $k] - $V[4 * $C[$j + 2] + $k]) / 3.0;
            $sum += $d * $d;
        }

        return sqrt($sum);
    }

    /** Splits what is longer than LONG times the mean size of its ends; new edges are looked at in their turn. */
    private function split(): void
    {
        $mesh = $this->mesh;
        $limit = 0.25 * self::LONG * self::LONG;
        $active = $this->active;
        for ($h = 0; $h < count($mesh->corners); $h++) {
            if (($h & 3) === 3 || $mesh->corners[$h | 3] === 0 || $mesh->twins[$h] > $h) {
                continue;
            }
            $V = &$mesh->vertices;
            $a = $mesh->corners[$h] << 2;
            $b = $mesh->corners[($h & 3) === 2 ? $h - 2 : $h + 1] << 2;
            $x = $V[$a] - $V[$b];
            $y = $V[$a + 1] - $V[$b + 1];
            $z = $V[$a + 2] - $V[$b + 2];
            $s = $V[$a + 3] + $V[$b + 3];
            if ($x * $x + $y * $y + $z * $z > $limit * $s * $s) {
                // Beside a longer edge that may not be split, halving would have no end.
                if (! $this->isLongest($h)) {
                    continue;
                }
                if ($active !== null) {
                    if (! isset($active[$a >> 2], $active[$b >> 2])) {
                        continue;
                    }
                    $active[count($mesh->out)] = true;
                }
                $mesh->split($h);
                // What is left of it may still be too long.
                $h--;
            }
        }
        $this->active = $active;
    }

    /** Is no other edge of its faces longer? */
    private function isLongest(int $h): bool
    {
        $most = 0.9999 * $this->mesh->lengthSq($h);
        foreach ([$h, $this->mesh->twins[$h]] as $e) {
            if ($e >= 0 && ($this->mesh->lengthSq(EditableMesh::next($e)) * 0.9998 > $most || $this->mesh->lengthSq(EditableMesh::previous($e)) * 0.9998 > $most)) {
                return false;
            }
        }

        return true;
    }

    /** Collapses what is shorter than SHORT times the mean size of its ends, where the surface stays what it is and no edge becomes too long. */
    private function collapse(): void
    {
        $mesh = $this->mesh;
        $limit = 0.25 * self::SHORT * self::SHORT;
        $this->normals = FeatureEdges::normals($mesh);
        $active = $this->active;
        for ($h = 0, $e = count($mesh->corners); $h < $e; $h++) {
            $g = $mesh->twins[$h];
            if (($h & 3) === 3 || $mesh->corners[$h | 3] === 0 || $g > $h) {
                continue;
            }
            $a = $mesh->corners[$h];
            $b = $mesh->corners[($h & 3) === 2 ? $h - 2 : $h + 1];
            $i = $a << 2;
            $j = $b << 2;
            $x = $mesh->vertices[$i] - $mesh->vertices[$j];
            $y = $mesh->vertices[$i + 1] - $mesh->vertices[$j + 1];
            $z = $mesh->vertices[$i + 2] - $mesh->vertices[$j + 2];
            $s = $mesh->vertices[$i + 3] + $mesh->vertices[$j + 3];
            if ($x * $x + $y * $y + $z * $z >= $limit * $s * $s || ($active !== null && ! isset($active[$a], $active[$b]))) {
                continue;
            }
            // Whoever is freer goes: inside, on a feature or at a rim, a corner.
            $free = ($mesh->flags[$a] & EditableMesh::CORNER) !== 0 ? 2 : ($mesh->flags[$a] !== 0 ? 1 : 0);
            $other = ($mesh->flags[$b] & EditableMesh::CORNER) !== 0 ? 2 : ($mesh->flags[$b] !== 0 ? 1 : 0);
            if ($free > $other) {
                if ($g < 0) {
                    continue;
                }
                $from = $g;
                $least = $other;
            } else {
                $from = $h;
                $least = $free;
            }
            // On a feature or at a rim only along it; corners that lie on each other are one.
            if (($least === 2 && $x * $x + $y * $y + $z * $z > self::ONE * self::ONE * $s * $s) || ($least === 1 && $mesh->features[$h] === 0 && $g >= 0)) {
                continue;
            }
            $middle = $free === 0 && $other === 0;
            if ($this->mayCollapse($from, $middle)) {
                if ($middle) {
                    $mesh->vertices[$j] += 0.5 * $x;
                    $mesh->vertices[$j + 1] += 0.5 * $y;
                    $mesh->vertices[$j + 2] += 0.5 * $z;
                }
                $mesh->collapse($from);
            }
        }
    }

    /**
     * @param  bool  $middle  both ends go to the middle of the edge; else the start goes to the end
     */
    private function mayCollapse(int $h, bool $middle): bool
    {
        $mesh = $this->mesh;
        if (! $mesh->canCollapse($h)) {
            return false;
        }
        $i = $mesh->corners[$h] << 2;
        $j = $mesh->corners[($h & 3) === 2 ? $h - 2 : $h + 1] << 2;
        $x = $mesh->vertices[$j];
        $y = $mesh->vertices[$j + 1];
        $z = $mesh->vertices[$j + 2];
        if ($middle) {
            $x = 0.5 * ($x + $mesh->vertices[$i]);
            $y = 0.5 * ($y + $mesh->vertices[$i + 1]);
            $z = 0.5 * ($z + $mesh->vertices[$i + 2]);
        }

        return $this->fanKeeps($i >> 2, $j >> 2, $x, $y, $z) && (! $middle || $this->fanKeeps($j >> 2, $i >> 2, $x, $y, $z));
    }

    /** Do the faces around a vertex, but those of its edge to another, keep their side and no edge become too long when it goes to a place? */
    private function fanKeeps(int $v, int $but, float $x, float $y, float $z): bool
    {
        $mesh = $this->mesh;
        $C = &$mesh->corners;
        $V = &$mesh->vertices;
        $own = $V[4 * $v + 3];
        $N = &$this->normals;
        $limit = 0.25 * self::LONG * self::LONG;
        $h = $first = $mesh->out[$v];
        do {
            $n = ($h & 3) === 2 ? $h - 2 : $h + 1;
            $q = ($h & 3) === 0 ? $h + 2 : $h - 1;
            $b = $C[$n];
            $c = $C[$q];
            if ($b !== $but) {
                $b <<= 2;
                $bx = $V[$b];
                $by = $V[$b + 1];
                $bz = $V[$b + 2];
                $dx = $bx - $x;
                $dy = $by - $y;
                $dz = $bz - $z;
                $s = $own + $V[$b + 3];
                if ($dx * $dx + $dy * $dy + $dz * $dz > $limit * $s * $s) {
                    return false;
                }
                if ($c !== $but) {
                    $c <<= 2;
                    $ux = $V[$c] - $bx;
                    $uy = $V[$c + 1] - $by;
                    $uz = $V[$c + 2] - $bz;
                    // The face as it would be, against what it was when the round began: many small turns must not add up to a fold.
                    $o = $h & ~3;
                    $nx = $N[$o];
                    $ny = $N[$o + 1];
                    $nz = $N[$o + 2];
                    $mx = $uz * $dy - $uy * $dz;
                    $my = $ux * $dz - $uz * $dx;
                    $mz = $uy * $dx - $ux * $dy;
                    $dot = $nx * $mx + $ny * $my + $nz * $mz;
                    if ($dot <= 0.0 || $dot * $dot < self::KEEPS * self::KEEPS * ($nx * $nx + $ny * $ny + $nz * $nz) * ($mx * $mx + $my * $my + $mz * $mz)) {
                        return false;
                    }
                }
            }
            $h = $mesh->twins[$q];
        } while ($h >= 0 && $h !== $first);

        return true;
    }

    /** Flips edges where that brings the numbers of neighbours nearer to six, four at rims, and the surface stays as it lies. */
    private function flip(): void
    {
        $mesh = $this->mesh;
        $valence = array_fill(0, count($mesh->out), 0);
        for ($o = 0, $e = count($mesh->corners); $o < $e; $o += 4) {
            if ($mesh->corners[$o + 3] !== 0) {
                $valence[$mesh->corners[$o]]++;
                $valence[$mesh->corners[$o + 1]]++;
                $valence[$mesh->corners[$o + 2]]++;
            }
        }
        $active = $this->active;
        // At a rim there is one face less than edges: what is missing to the number wished for.
        foreach ($mesh->flags as $v => $flags) {
            $valence[$v] -= ($flags & EditableMesh::AT_RIM) !== 0 ? 3 : 6;
        }
        for ($h = 0; $h < $e; $h++) {
            $g = $mesh->twins[$h];
            if (($h & 3) === 3 || $g > $h || $g < 0 || $mesh->corners[$h | 3] === 0 || $mesh->features[$h] !== 0) {
                continue;
            }
            $a = $mesh->corners[$h];
            $b = $mesh->corners[$g];
            $c = $mesh->corners[($h & 3) === 0 ? $h + 2 : $h - 1];
            $d = $mesh->corners[($g & 3) === 0 ? $g + 2 : $g - 1];
            if ($active !== null && ! isset($active[$a], $active[$b])) {
                continue;
            }
            // Of the sum of squares: one less each at a and b, one more at c and d.
            $gain = $valence[$a] + $valence[$b] - $valence[$c] - $valence[$d] - 2;
            if ((($gain > 0 && $this->mayFlip($a, $b, $c, $d)) || $this->isSliver($a, $b, $c, $d)) && $mesh->canFlip($h)) {
                $mesh->flip($h);
                $valence[$a]--;
                $valence[$b]--;
                $valence[$c]++;
                $valence[$d]++;
            }
        }
    }

    /** Would the faces d c a and c d b lie along a b c and b a d, and be no worse slivers? */
    private function mayFlip(int $a, int $b, int $c, int $d): bool
    {
        $V = &$this->mesh->vertices;
        $a <<= 2;
        $b <<= 2;
        $c <<= 2;
        $d <<= 2;
        $ux = $V[$b] - $V[$a];
        $uy = $V[$b + 1] - $V[$a + 1];
        $uz = $V[$b + 2] - $V[$a + 2];
        $cx = $V[$c] - $V[$a];
        $cy = $V[$c + 1] - $V[$a + 1];
        $cz = $V[$c + 2] - $V[$a + 2];
        $dx = $V[$d] - $V[$a];
        $dy = $V[$d + 1] - $V[$a + 1];
        $dz = $V[$d + 2] - $V[$a + 2];
        // The sum of both faces' normals, twice their areas long.
        $wx = $cx - $dx;
        $wy = $cy - $dy;
        $wz = $cz - $dz;
        $nx = $uy * $wz - $uz * $wy;
        $ny = $uz * $wx - $ux * $wz;
        $nz = $ux * $wy - $uy * $wx;
        $all = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
        // a d c, and d b c.
        $px = $dy * $cz - $dz * $cy;
        $py = $dz * $cx - $dx * $cz;
        $pz = $dx * $cy - $dy * $cx;
        $ex = $ux - $dx;
        $ey = $uy - $dy;
        $ez = $uz - $dz;
        $qx = $ey * $wz - $ez * $wy;
        $qy = $ez * $wx - $ex * $wz;
        $qz = $ex * $wy - $ey * $wx;
        $p = sqrt($px * $px + $py * $py + $pz * $pz);
        $q = sqrt($qx * $qx + $qy * $qy + $qz * $qz);

        return $px * $nx + $py * $ny + $pz * $nz > self::FLAT * $p * $all && $qx * $nx + $qy * $ny + $qz * $nz > self::FLAT * $q * $all && $p > 0.1 * $q && $q > 0.1 * $p;
    }

    /** Is the face a b c or b a d so flat over the edge a b that the faces d c a and c d b are better, and do those look where the larger one of both looks? */
    private function isSliver(int $a, int $b, int $c, int $d): bool
    {
        $V = &$this->mesh->vertices;
        $a <<= 2;
        $b <<= 2;
        $c <<= 2;
        $d <<= 2;
        $ux = $V[$b] - $V[$a];
        $uy = $V[$b + 1] - $V[$a + 1];
        $uz = $V[$b + 2] - $V[$a + 2];
        $cx = $V[$c] - $V[$a];
        $cy = $V[$c + 1] - $V[$a + 1];
        $cz = $V[$c + 2] - $V[$a + 2];
        $dx = $V[$d] - $V[$a];
        $dy = $V[$d + 1] - $V[$a + 1];
        $dz = $V[$d + 2] - $V[$a + 2];
        $length = $ux * $ux + $uy * $uy + $uz * $uz;
        $mx = $uy * $cz - $uz * $cy;
        $my = $uz * $cx - $ux * $cz;
        $mz = $ux * $cy - $uy * $cx;
        $nx = $dy * $uz - $dz * $uy;
        $ny = $dz * $ux - $dx * $uz;
        $nz = $dx * $uy - $dy * $ux;
        $m = $mx * $mx + $my * $my + $mz * $mz;
        $n = $nx * $nx + $ny * $ny + $nz * $nz;
        $least = $m < $n ? $m : $n;
        if ($least > self::SLIVER * self::SLIVER * $length * $length) {
            return false;
        }
        if ($m > $n) {
            $nx = $mx;
            $ny = $my;
            $nz = $mz;
        }
        $px = $dy * $cz - $dz * $cy;
        $py = $dz * $cx - $dx * $cz;
        $pz = $dx * $cy - $dy * $cx;
        $ex = $ux - $dx;
        $ey = $uy - $dy;
        $ez = $uz - $dz;
        $wx = $cx - $dx;
        $wy = $cy - $dy;
        $wz = $cz - $dz;
        $qx = $ey * $wz - $ez * $wy;
        $qy = $ez * $wx - $ex * $wz;
        $qz = $ex * $wy - $ey * $wx;

        return $px * $nx + $py * $ny + $pz * $nz > 0.0 && $qx * $nx + $qy * $ny + $qz * $nz > 0.0 && $px * $px + $py * $py + $pz * $pz > 4.0 * $least && $qx * $qx + $qy * $qy + $qz * $qz > 4.0 * $least;
    }

    /** Moves every vertex along the surface to the middle of its faces, those on features along them, and back onto the input. */
    private function relax(): void
    {
        [$V, $C] = [$this->mesh->vertices, $this->mesh->corners];
        $n = count($this->mesh->out);
        // Of each vertex: the sum of its faces' middles and its weight, then that of their normals.
        $sum = $normal = array_fill(0, 4 * $n, 0.0);
        $before = array_fill(0, count($C), 0.0);
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
            $ux = $bx - $ax;
            $uy = $by - $ay;
            $uz = $bz - $az;
            $vx = $cx - $ax;
            $vy = $cy - $ay;
            $vz = $cz - $az;
            $x = $uy * $vz - $uz * $vy;
            $y = $uz * $vx - $ux * $vz;
            $z = $ux * $vy - $uy * $vx;
            $before[$o] = $x;
            $before[$o + 1] = $y;
            $before[$o + 2] = $z;
            // By area over the square of the size, so that where sizes change the larger faces do not pull.
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
        $which = $places = $lineWhich = $linePlaces = [];
        $numbers = [];
        $line = $this->alongFeatures($numbers);
        foreach ($this->mesh->out as $v => $h) {
            $flags = $this->mesh->flags[$v];
            if ($h < 0 || ($flags & EditableMesh::CORNER) !== 0 || ($this->active !== null && ! isset($this->active[$v]))) {
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
            if ($dot <= 0.0 || $dot * $dot < self::KEEPS * self::KEEPS * ($x * $x + $y * $y + $z * $z) * ($normal[$o] * $normal[$o] + $normal[$o + 1] * $normal[$o + 1] + $normal[$o + 2] * $normal[$o + 2])) {
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
                if ($dot <= 0.0 || $dot * $dot < self::KEEPS * self::KEEPS * ($x * $x + $y * $y + $z * $z) * ($bx * $bx + $by * $by + $bz * $bz)) {
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
