<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;

/**
 * Joins triangles in pairs to four-sided cells: those first whose cells come nearest to rectangles, then along alternating paths so that few are left over.
 *
 * Source    Remacle et al. 2012, "Blossom-Quad", for the measure of a cell (equation 2) and for seeing it as a matching; own: greedy with augmenting paths, without blossoms, as almost all pairs are told by the lattice.
 *
 * @internal
 */
final class TrianglePairing
{
    /** The least quality of a cell: 0 has a corner of 180 or of 0 degrees. */
    private const LEAST = 0.3;

    /** Pairs that are undone in turn to find a partner for one that has none, at most. */
    private const LONGEST = 12;

    /** Edges that a vertex within the surface needs. */
    private const VALENCE = 3;

    /** @var array<int, int> by face: the half-edge across which its partner lies; -1 of one without */
    private array $across = [];

    /** @var array<int, float> by half-edge: the quality of the cell that its two faces make */
    private array $quality = [];

    /** @var array<int, int> edges by vertex that are not taken away */
    private array $valence = [];

    private function __construct(private readonly EditableMesh $mesh)
    {
    }

    /**
     * @return list<array{int, int, int, int}> corners of the cells, vertices of the mesh counter-clockwise; the last is -1 of a triangle
     */
    public static function cells(EditableMesh $mesh): array
    {
        $pairing = new self($mesh);
        $pairing->measure();
        $pairing->greedy();
        $pairing->augment();

        return $pairing->read();
    }

    private function measure(): void
    {
        $mesh = $this->mesh;
        foreach ($mesh->twins as $h => $g) {
            if (($h & 3) === 3 || $mesh->corners[$h | 3] === 0) {
                continue;
            }
            $this->across[$h >> 2] = -1;
            $v = $mesh->corners[$h];
            $this->valence[$v] = ($this->valence[$v] ?? 0) + 1;
            if ($g < 0) {
                // At a rim vertices have one edge more than faces, and need one less: as if all around them were there.
                $this->valence[$v] += 2;
            } elseif ($g > $h && $mesh->features[$h] === 0) {
                $quality = self::cellQuality($mesh, $h);
                if ($quality > self::LEAST) {
                    $this->quality[$h] = $quality;
                }
            }
        }
    }

    /** 1 minus the largest difference of a corner from a right angle, as a share of it. */
    private static function cellQuality(EditableMesh $mesh, int $h): float
    {
        $V = $mesh->vertices;
        $g = $mesh->twins[$h];
        $corners = [4 * $mesh->corners[$h], 4 * $mesh->corners[EditableMesh::previous($g)], 4 * $mesh->corners[$g], 4 * $mesh->corners[EditableMesh::previous($h)]];
        $worst = 0.0;
        for ($k = 0; $k < 4; $k++) {
            [$a, $b, $c] = [$corners[($k + 3) % 4], $corners[$k], $corners[($k + 1) % 4]];
            $dot = $one = $two = 0.0;
            for ($i = 0; $i < 3; $i++) {
                $u = $V[$a + $i] - $V[$b + $i];
                $w = $V[$c + $i] - $V[$b + $i];
                $dot += $u * $w;
                $one += $u * $u;
                $two += $w * $w;
            }
            $angle = $one * $two > 0.0 ? acos(max(-1.0, min(1.0, $dot / sqrt($one * $two)))) : 0.0;
            $worst = max($worst, abs(0.5 * M_PI - $angle));
        }

        return 1.0 - $worst / (0.5 * M_PI);
    }

    private function greedy(): void
    {
        arsort($this->quality);
        foreach ($this->quality as $h => $_) {
            $g = $this->mesh->twins[$h];
            if ($this->across[$h >> 2] < 0 && $this->across[$g >> 2] < 0 && $this->isFree($h)) {
                $this->join($h);
            }
        }
    }

    /** May the edge go without leaving a vertex with two edges? */
    private function isFree(int $h): bool
    {
        return $this->valence[$this->mesh->corners[$h]] > self::VALENCE && $this->valence[$this->mesh->corners[EditableMesh::next($h)]] > self::VALENCE;
    }

    private function join(int $h): void
    {
        $this->across[$h >> 2] = $h;
        $this->across[$this->mesh->twins[$h] >> 2] = $this->mesh->twins[$h];
        $this->valence[$this->mesh->corners[$h]]--;
        $this->valence[$this->mesh->corners[EditableMesh::next($h)]]--;
    }

    private function part(int $h): void
    {
        $this->across[$h >> 2] = $this->across[$this->mesh->twins[$h] >> 2] = -1;
        $this->valence[$this->mesh->corners[$h]]++;
        $this->valence[$this->mesh->corners[EditableMesh::next($h)]]++;
    }

    private function augment(): void
    {
        foreach (array_keys($this->across) as $t) {
            if ($this->across[$t] < 0) {
                $this->augmentFrom($t);
            }
        }
    }

    /** Looks breadth first for a way to another triangle without partner, over joined pairs, and joins along it. */
    private function augmentFrom(int $start): void
    {
        $mesh = $this->mesh;
        $reached = [$start => true];
        // How a triangle was come to: the half-edge that it would be joined over, and the triangle that this frees.
        $by = [];
        $front = [$start];
        for ($step = 0; $step < self::LONGEST && $front !== []; $step++) {
            $next = [];
            foreach ($front as $t) {
                for ($h = 4 * $t; $h < 4 * $t + 3; $h++) {
                    $g = $mesh->twins[$h];
                    if ($g < 0 || ! isset($this->quality[min($h, $g)]) || isset($reached[$g >> 2])) {
                        continue;
                    }
                    $u = $g >> 2;
                    $reached[$u] = true;
                    if ($this->across[$u] < 0) {
                        $this->rejoin($start, $t, $h, $by);

                        return;
                    }
                    $freed = $mesh->twins[$this->across[$u]] >> 2;
                    if (! isset($reached[$freed])) {
                        $reached[$freed] = true;
                        $by[$freed] = [$h, $t];
                        $next[] = $freed;
                    }
                }
            }
            $front = $next;
        }
    }

    /** @param  array<int, array{int, int}>  $by */
    private function rejoin(int $start, int $t, int $h, array $by): void
    {
        $joins = [$h];
        $parts = [];
        for (; $t !== $start; [$h, $t] = $by[$t]) {
            $parts[] = $this->across[$t];
            $joins[] = $by[$t][0];
        }
        foreach ($parts as $part) {
            $this->part($part);
        }
        foreach ($joins as $k => $join) {
            if (! $this->isFree($join)) {
                // It would leave a vertex with two edges: all as before.
                foreach (array_slice($joins, 0, $k) as $done) {
                    $this->part($done);
                }
                foreach ($parts as $part) {
                    $this->join($part);
                }

                return;
            }
            $this->join($join);
        }
    }

    /** @return list<array{int, int, int, int}> */
    private function read(): array
    {
        $C = $this->mesh->corners;
        $cells = [];
        foreach ($this->across as $t => $h) {
            if ($h < 0) {
                $cells[] = [$C[4 * $t], $C[4 * $t + 1], $C[4 * $t + 2], -1];
            } elseif ($t < $this->mesh->twins[$h] >> 2) {
                $g = $this->mesh->twins[$h];
                $cells[] = [$C[$h], $C[EditableMesh::previous($g)], $C[$g], $C[EditableMesh::previous($h)]];
            }
        }

        return $cells;
    }
}
