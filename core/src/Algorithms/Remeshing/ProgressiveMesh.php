<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Remeshing;

/**
 * A mesh with all edge collapses that make it lighter, in order: replayed up to any of them it is the mesh at that count of faces.
 *
 * Source    Hoppe 1996, "Progressive Meshes"; the collapses are those of QuadricCollapse.
 * Departs   kept from fine to coarse: whoever shows it holds the whole mesh anyhow, so what is sent is the collapses alone.
 * Cost      a replay of all collapses 0.13 microseconds a face of the whole mesh (180 k faces); 24 bytes a collapse where it is packed.
 *
 * @phpstan-type Level array{positions: list<float>, faces: list<int>, of: array<int, int>}
 */
final class ProgressiveMesh
{
    /** @var list<int> the vertex that each collapse moves */
    public array $kept = [];

    /** @var list<int> the vertex whose place it takes */
    public array $gone = [];

    /** @var list<float> flat xyz: where the collapse moves it to, from `middle` */
    public array $places = [];

    /** @var list<int> faces left after each collapse */
    public array $left = [];

    /** @var array{float, float, float} */
    public array $middle = [0.0, 0.0, 0.0];

    /** @var list<int> the number that each vertex of the round had in the whole mesh */
    private array $number;

    private int $faceCount;

    /**
     * @param  array<int, float>  $positions  flat xyz
     * @param  array<int, int>  $faces  flat
     */
    public function __construct(private readonly array $positions, private readonly array $faces)
    {
        $this->number = $positions === [] ? [] : range(0, intdiv(count($positions), 3) - 1);
        $this->faceCount = intdiv(count($faces), 3);
    }

    /**
     * Writes down a round of collapses.
     *
     * @param  list<int>  $went  the vertex that goes in the high bits, then in 31 bits the one that stays, in the lowest bit whether two faces went
     * @param  array<int, float>  $vertices  four numbers a vertex: the first three say where it is now
     *
     * @internal
     */
    public function record(array $went, array $vertices): void
    {
        foreach ($went as $one) {
            $a = $one >> 1 & 0x7FFFFFFF;
            $b = $one >> 32;
            $this->kept[] = $this->number[$a];
            $this->gone[] = $this->number[$b];
            $this->places[] = $vertices[4 * $a];
            $this->places[] = $vertices[4 * $a + 1];
            $this->places[] = $vertices[4 * $a + 2];
            $this->left[] = $this->faceCount -= 1 + ($one & 1);
        }
        // The rounds number anew what is left.
        foreach ($went as $one) {
            unset($this->number[$one >> 32]);
        }
        $this->number = array_values($this->number);
    }

    /** The number of collapses to carry out until no more than this count of faces is left. Where the shape does not allow so few: all collapses. */
    public function collapsesTo(int $faces): int
    {
        [$low, $high] = [0, count($this->left)];
        while ($low < $high) {
            $middle = $low + $high >> 1;
            if ($this->left[$middle] <= $faces) {
                $high = $middle;
            } else {
                $low = $middle + 1;
            }
        }

        return min(count($this->left), $low + (int) ($faces < $this->facesAt(0)));
    }

    /** The count of faces once this number of collapses has been carried out. */
    public function facesAt(int $collapses): int
    {
        return $collapses > 0 ? $this->left[$collapses - 1] : intdiv(count($this->faces), 3);
    }

    /**
     * The mesh once this number of collapses has been carried out. The vertices that are left keep the order that they have in the whole mesh.
     *
     * @return Level `of`: the vertex of the level that stands for each vertex of the whole mesh
     */
    public function at(int $collapses): array
    {
        $P = $this->positions;
        $n = intdiv(count($P), 3);
        $of = $n === 0 ? [] : range(0, $n - 1);
        [$x, $y, $z] = $this->middle;
        for ($k = 0, $i = 0; $k < $collapses; $k++, $i += 3) {
            $of[$this->gone[$k]] = $this->kept[$k];
            $o = 3 * $this->kept[$k];
            $P[$o] = $this->places[$i] + $x;
            $P[$o + 1] = $this->places[$i + 1] + $y;
            $P[$o + 2] = $this->places[$i + 2] + $z;
        }
        // Backwards: who took a vertex's place has lost its own later, if at all, and points to who stands there by then.
        for ($k = $collapses - 1; $k >= 0; $k--) {
            $of[$this->gone[$k]] = $of[$this->kept[$k]];
        }
        $positions = $new = [];
        for ($v = 0, $m = 0; $v < $n; $v++) {
            if ($of[$v] === $v) {
                $new[$v] = $m++;
                $positions[] = $P[3 * $v];
                $positions[] = $P[3 * $v + 1];
                $positions[] = $P[3 * $v + 2];
            }
        }
        foreach ($of as $v => $stands) {
            $of[$v] = $new[$stands];
        }
        $faces = [];
        for ($h = 0, $e = count($this->faces); $h < $e; $h += 3) {
            $a = $of[$this->faces[$h]];
            $b = $of[$this->faces[$h + 1]];
            $c = $of[$this->faces[$h + 2]];
            if ($a !== $b && $b !== $c && $c !== $a) {
                $faces[] = $a;
                $faces[] = $b;
                $faces[] = $c;
            }
        }

        return ['positions' => $positions, 'faces' => $faces, 'of' => $of];
    }
}
