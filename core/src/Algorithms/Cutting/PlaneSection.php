<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

/**
 * The curves in which parallel planes meet a mesh. The mesh's inside lies on their left, seen from where the normal points: outer curves run against the clock, those of openings with it.
 *
 * Error     a vertex in a plane counts as before it. So every face has two crossed edges or none, and neighbours agree: curves of a closed mesh are closed, whatever the rounding. Points are right to rounding.
 * Cost      linear in the faces once, and in the faces that each plane meets.
 *
 * @internal
 */
final class PlaneSection
{
    /** @var list<float> of each vertex, along the normal */
    private array $height = [];

    /**
     * @param  array<int, float>  $positions  flat xyz
     * @param  array<int, int>  $faces  flat, neighbours facing the same way
     * @param  array{float, float, float}  $normal  of length 1
     */
    public function __construct(private readonly array $positions, private readonly array $faces, array $normal)
    {
        [$nx, $ny, $nz] = $normal;
        for ($o = 0, $n = count($positions); $o < $n; $o += 3) {
            $this->height[] = $positions[$o] * $nx + $positions[$o + 1] * $ny + $positions[$o + 2] * $nz;
        }
    }

    /**
     * @param  non-empty-list<float>  $levels  heights of the planes along the normal, rising
     * @return list<list<array{closed: bool, points: list<float>}>> for each plane its curves; a closed one does not repeat its first point
     */
    public function at(array $levels): array
    {
        $f = $this->faces;
        $h = $this->height;
        $met = array_fill(0, count($levels), []);
        for ($o = 0, $n = count($f), $most = count($levels); $o < $n; $o += 3) {
            $a = $h[$f[$o]];
            $b = $h[$f[$o + 1]];
            $c = $h[$f[$o + 2]];
            $low = $a < $b ? ($a < $c ? $a : $c) : ($b < $c ? $b : $c);
            $high = $a > $b ? ($a > $c ? $a : $c) : ($b > $c ? $b : $c);
            // The first level above the lowest corner.
            $from = 0;
            $to = $most;
            while ($from < $to) {
                $middle = ($from + $to) >> 1;
                if ($levels[$middle] > $low) {
                    $to = $middle;
                } else {
                    $from = $middle + 1;
                }
            }
            for (; $from < $most && $levels[$from] <= $high; $from++) {
                $met[$from][] = $o;
            }
        }

        return array_map(fn (int $k) => $this->curves($met[$k], $levels[$k]), array_keys($levels));
    }

    /**
     * @param  list<int>  $met  faces that have corners on both sides, by their first place in the list
     * @return list<array{closed: bool, points: list<float>}>
     */
    private function curves(array $met, float $level): array
    {
        [$f, $h] = [$this->faces, $this->height];
        /** @var array<int, list<int>> $next crossed edges, by the one where a face is entered: the one where it is left */
        $next = [];
        $comes = [];
        foreach ($met as $o) {
            $in = $out = 0;
            for ($c = 0; $c < 3; $c++) {
                $u = $f[$o + $c];
                $v = $f[$o + ($c + 1) % 3];
                $isUp = $h[$u] >= $level;
                if ($isUp !== ($h[$v] >= $level)) {
                    $edge = $u < $v ? $u << 32 | $v : $v << 32 | $u;
                    // With the inside on its left, a curve enters a face where it comes down.
                    $isUp ? $in = $edge : $out = $edge;
                }
            }
            $next[$in][] = $out;
            $comes[$out] = true;
        }
        $curves = [];
        // Open ones first, from where nothing comes.
        foreach ([array_keys(array_diff_key($next, $comes)), array_keys($next)] as $round => $starts) {
            foreach ($starts as $start) {
                while (($next[$start] ?? []) !== []) {
                    $edges = [$start];
                    for ($edge = $start; ($next[$edge] ?? []) !== []; $edges[] = $edge) {
                        $edge = array_pop($next[$edge]);
                        if ($round === 1 && $edge === $start) {
                            break;
                        }
                    }
                    $curve = $this->curve($edges, $level, $round === 1 && $edge === $start);
                    if ($curve !== null) {
                        $curves[] = $curve;
                    }
                }
            }
        }

        return $curves;
    }

    /**
     * @param  list<int>  $edges
     * @return array{closed: bool, points: list<float>}|null null where it is no more than a point, or a way there and back
     */
    private function curve(array $edges, float $level, bool $isClosed): ?array
    {
        [$p, $h] = [$this->positions, $this->height];
        $points = [];
        foreach ($edges as $edge) {
            $u = $edge >> 32;
            $v = $edge & 0xFFFFFFFF;
            $t = ($level - $h[$u]) / ($h[$v] - $h[$u]);
            $place = [];
            for ($k = 0; $k < 3; $k++) {
                // Where the plane goes through a vertex all its edges give that vertex to the bit.
                $place[] = $t === 1.0 ? $p[3 * $v + $k] : $p[3 * $u + $k] + $t * ($p[3 * $v + $k] - $p[3 * $u + $k]);
            }
            if ($points === [] || $place !== array_slice($points, -3)) {
                array_push($points, ...$place);
            }
        }
        if ($isClosed && array_slice($points, 0, 3) === array_slice($points, -3)) {
            array_splice($points, -3);
        }

        return count($points) < ($isClosed ? 9 : 6) ? null : ['closed' => $isClosed, 'points' => $points];
    }
}
