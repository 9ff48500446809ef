<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\HalfEdge;

/**
 * The half-edges that leave each vertex, in one list with a start a vertex. Half-edge 4 t + c leaves corner c of face t; faces have
 * stride four, three corners and a flag.
 *
 * @internal
 */
final readonly class Stars
{
    /**
     * @param  array<int, int>  $start  a vertex, and one more
     * @param  array<int, int>  $halfEdges
     * @param  int  $faces  how many faces of the list count
     */
    private function __construct(public array $start, public array $halfEdges, public int $faces)
    {
    }

    /**
     * @param  array<int, int>  $T  faces of stride four
     * @param  int|null  $faces  how many of them count; all when null
     */
    public static function of(array $T, int $vertices, ?int $faces = null): self
    {
        $start = array_fill(0, $vertices + 1, 0);
        $faces ??= intdiv(count($T), 4);
        $e = 4 * $faces;
        for ($j = 0; $j < $e; $j += 4) {
            $start[$T[$j]]++;
            $start[$T[$j + 1]]++;
            $start[$T[$j + 2]]++;
        }
        $sum = 0;
        for ($v = 0; $v < $vertices; $v++) {
            $sum += $start[$v];
            $start[$v] = $sum;
        }
        $start[$vertices] = $sum;
        $H = array_fill(0, $sum, 0);
        for ($j = $e - 4; $j >= 0; $j -= 4) {
            $v = $T[$j + 2];
            $k = $start[$v] - 1;
            $start[$v] = $k;
            $H[$k] = $j + 2;
            $v = $T[$j + 1];
            $k = $start[$v] - 1;
            $start[$v] = $k;
            $H[$k] = $j + 1;
            $v = $T[$j];
            $k = $start[$v] - 1;
            $start[$v] = $k;
            $H[$k] = $j;
        }

        return new self($start, $H, $faces);
    }

    /**
     * Is there a half-edge from $a to $b?
     *
     * @param  array<int, int>  $T
     */
    public function hold(array $T, int $a, int $b): bool
    {
        for ($i = $this->start[$a], $end = $this->start[$a + 1]; $i < $end; $i++) {
            $h = $this->halfEdges[$i];
            if ($T[($h & 3) === 2 ? $h - 2 : $h + 1] === $b) {
                return true;
            }
        }

        return false;
    }

    /**
     * Vertices at an open edge, or at one of more than two faces: where not every half-edge that leaves has one that comes.
     *
     * @param  array<int, int>  $T
     * @return array<int, int> a vertex, 0 or 1
     */
    public function atRim(array $T): array
    {
        $n = count($this->start) - 1;
        $atRim = array_fill(0, $n, 0);
        $mark = array_fill(0, $n, -1);
        for ($v = 0; $v < $n; $v++) {
            $balance = 0;
            $end = $this->start[$v + 1];
            for ($i = $this->start[$v]; $i < $end; $i++) {
                $h = $this->halfEdges[$i];
                $w = $T[($h & 3) === 2 ? $h - 2 : $h + 1];
                if ($mark[$w] === $v) {
                    $atRim[$v] = 1;
                }
                $mark[$w] = $v;
                $balance++;
            }
            for ($i = $this->start[$v]; $i < $end; $i++) {
                $h = $this->halfEdges[$i];
                if ($mark[$T[($h & 3) === 0 ? $h + 2 : $h - 1]] === $v) {
                    $balance--;
                }
            }
            if ($balance !== 0) {
                $atRim[$v] = 1;
            }
        }

        return $atRim;
    }
}
