<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\HalfEdge;

/**
 * What a collapse works on, in lists whose strides are powers of two: PHP rounds the length of a list up to one, and strides of three and ten
 * waste a third of it.
 *
 * @internal
 */
final class CollapsingMesh
{
    /** A vertex at an open edge, or at one of more than two faces. */
    public const AT_RIM = 1;

    /** A vertex that a collapse of this round has moved. */
    public const BUSY = 2;

    /** A vertex whose place another took in this round. */
    public const GONE = 4;

    /** A vertex that stays where it is, with all its edges. */
    public const LOCKED = 8;

    /** Above the flag of a face: its errors count by the weight. */
    public const WEIGHTED = 1 << 16;

    /** What stands above the flags of a vertex: its support. */
    public const SUPPORT_SHIFT = 4;

    /** @var array<int, float> four numbers a vertex: x, y, z from the middle, and the area of its faces, mm2 */
    public array $vertices;

    /** @var array<int, float> the first eight numbers of a quadric (see Quadrics), a vertex; of the round alone */
    public array $quadrics = [];

    /** @var array<int, float> the last two */
    public array $rests = [];

    /** @var array<int, int> flags and support, a vertex */
    public array $states;

    /** @var array<int, int> four numbers a face: its corners and a flag, 0 dead, else 1 + origin, and WEIGHTED */
    public array $corners;

    /** By how much the errors of weighted faces count more than those of the others. */
    public float $weight = 1.0;

    public int $vertexCount;

    public int $faceCount;

    /** @var array{float, float, float} mean of the vertices: quadrics lose digits far from the origin */
    public readonly array $middle;

    /**
     * @param  array<int, float>  $positions  flat xyz
     * @param  array<int, int>  $faces  flat
     * @param  array<int, int>  $support  a vertex, or empty
     * @param  array<int, int>  $origin  a face, or empty
     */
    public function __construct(array $positions, array $faces, array $support, array $origin)
    {
        $this->vertexCount = $n = intdiv(count($positions), 3);
        $x = $y = $z = 0.0;
        for ($i = 0, $e = 3 * $n; $i < $e; $i += 3) {
            $x += $positions[$i];
            $y += $positions[$i + 1];
            $z += $positions[$i + 2];
        }
        $x /= max(1, $n);
        $y /= max(1, $n);
        $z /= max(1, $n);
        $this->middle = [$x, $y, $z];
        $V = array_fill(0, 4 * $n, 0.0);
        for ($i = 0, $o = 0; $i < $e; $i += 3, $o += 4) {
            $V[$o] = $positions[$i] - $x;
            $V[$o + 1] = $positions[$i + 1] - $y;
            $V[$o + 2] = $positions[$i + 2] - $z;
        }
        $this->vertices = $V;
        $states = array_fill(0, $n, 0);
        if ($support !== []) {
            for ($v = 0; $v < $n; $v++) {
                $states[$v] = $support[$v] << self::SUPPORT_SHIFT;
            }
        }
        $this->states = $states;
        $this->faceCount = intdiv(count($faces), 3);
        $T = array_fill(0, 4 * $this->faceCount, 1);
        for ($f = 0, $i = 0, $j = 0, $m = $this->faceCount; $f < $m; $f++, $i += 3, $j += 4) {
            $T[$j] = $faces[$i];
            $T[$j + 1] = $faces[$i + 1];
            $T[$j + 2] = $faces[$i + 2];
            if ($origin !== []) {
                $T[$j + 3] = 1 + $origin[$f];
            }
        }
        $this->corners = $T;
    }

    /**
     * Flags the vertices at rims.
     *
     * @return bool are there any?
     */
    public function markRims(Stars $stars): bool
    {
        $atRim = $stars->atRim($this->corners);
        $states = $this->states;
        $this->states = [];
        for ($v = 0, $n = $this->vertexCount; $v < $n; $v++) {
            $states[$v] |= $atRim[$v];
        }
        $this->states = $states;

        return in_array(1, $atRim, true);
    }

    /** @param  array<int, int>  $vertices  those that stay where they are */
    public function lock(array $vertices): void
    {
        foreach ($vertices as $v) {
            $this->states[$v] |= self::LOCKED;
        }
    }

    /** @param  array<int, int>  $faces  whose errors count by a weight */
    public function weigh(array $faces, float $weight): void
    {
        $this->weight = $weight;
        foreach ($faces as $t) {
            $this->corners[4 * $t + 3] |= self::WEIGHTED;
        }
    }

    /** @return array{list<int>, list<int>} faces, flat, and their origin */
    public function faces(): array
    {
        $F = $origin = [];
        for ($j = 0, $e = 4 * $this->faceCount; $j < $e; $j += 4) {
            $F[] = $this->corners[$j];
            $F[] = $this->corners[$j + 1];
            $F[] = $this->corners[$j + 2];
            $origin[] = ($this->corners[$j + 3] & self::WEIGHTED - 1) - 1;
        }

        return [$F, $origin];
    }

    /** @return list<float> flat xyz, where the mesh was */
    public function positions(): array
    {
        [$x, $y, $z] = $this->middle;
        $P = [];
        for ($i = 0, $e = 4 * $this->vertexCount; $i < $e; $i += 4) {
            $P[] = $this->vertices[$i] + $x;
            $P[] = $this->vertices[$i + 1] + $y;
            $P[] = $this->vertices[$i + 2] + $z;
        }

        return $P;
    }

    /** @return list<int> a vertex */
    public function support(): array
    {
        $S = [];
        for ($v = 0, $n = $this->vertexCount; $v < $n; $v++) {
            $S[] = $this->states[$v] >> self::SUPPORT_SHIFT;
        }

        return $S;
    }

    /**
     * Closes the gaps that a round left in the lists. What stands behind the last one stays until half of a list is waste: to cut it off is to copy the rest.
     *
     * @return int how many faces went
     */
    public function compact(): int
    {
        // Arrays behind a property are slow to write to; they live in locals meanwhile.
        [$V, $states, $T] = [$this->vertices, $this->states, $this->corners];
        $this->vertices = $this->quadrics = $this->rests = $this->states = $this->corners = [];
        $map = array_fill(0, $this->vertexCount, 0);
        $k = 0;
        for ($v = 0, $n = $this->vertexCount; $v < $n; $v++) {
            $state = $states[$v];
            if (($state & self::GONE) !== 0) {
                continue;
            }
            $map[$v] = $k;
            $states[$k] = $state & ~self::BUSY;
            if ($k !== $v) {
                // Written out: a loop here costs a twentieth of the whole.
                $i = $v << 2;
                $o = $k << 2;
                $V[$o] = $V[$i];
                $V[$o + 1] = $V[$i + 1];
                $V[$o + 2] = $V[$i + 2];
            }
            $k++;
        }
        $f = 0;
        for ($j = 0, $e = 4 * $this->faceCount; $j < $e; $j += 4) {
            if ($T[$j + 3] !== 0) {
                $T[$f] = $map[$T[$j]];
                $T[$f + 1] = $map[$T[$j + 1]];
                $T[$f + 2] = $map[$T[$j + 2]];
                $T[$f + 3] = $T[$j + 3];
                $f += 4;
            }
        }
        $map = [];
        if (2 * $k > count($states)) {
            [$this->vertices, $this->states, $this->corners] = [$V, $states, $T];
        } else {
            // One after the other: the old list goes before the next one is copied.
            $this->corners = array_slice($T, 0, $f);
            $T = [];
            $this->vertices = array_slice($V, 0, 4 * $k);
            $V = [];
            $this->states = array_slice($states, 0, $k);
        }
        $went = $this->faceCount - intdiv($f, 4);
        $this->vertexCount = $k;
        $this->faceCount -= $went;

        return $went;
    }
}
