<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\HalfEdge\Topology;

/**
 * Two open meshes whose rims run side by side, joined by strips between these (Lofting): each rim with the one of the other mesh that lies where it does.
 *
 * Error     vertices stay where they are, to the bit; a strip is straight across the gap.
 * Cost      that of the strips, and a look for crossings in them.
 *
 * @internal
 */
final class RimGraft
{
    /**
     * @param  list<int>  $strips  flat faces, vertices of the other mesh numbered after those of the first
     * @param  string|null  $trouble  why they cannot be joined
     */
    private function __construct(public readonly array $strips, public readonly ?string $trouble)
    {
    }

    /**
     * @param  array{list<float>, list<int>}  $one  positions and faces
     * @param  array{list<float>, list<int>}  $other
     */
    public static function of(array $one, array $other): self
    {
        $vertices = intdiv(count($one[0]), 3);
        $rims = [];
        foreach ([[$one[1], 0], [$other[1], $vertices]] as [$faces, $first]) {
            $next = [];
            foreach (Topology::twins($faces) as $h => $twin) {
                if ($twin < 0) {
                    if (isset($next[$first + $faces[$h]])) {
                        return new self([], 'The rim of the cut meets itself.');
                    }
                    $next[$first + $faces[$h]] = $first + $faces[$h % 3 === 2 ? $h - 2 : $h + 1];
                }
            }
            $rims[] = RimLines::of($next);
        }
        $positions = [...$one[0], ...$other[0]];
        $place = fn (int $v): array => [$positions[3 * $v], $positions[3 * $v + 1], $positions[3 * $v + 2]];
        $pairs = RimLines::pairs($rims[0], $rims[1], $place);
        if (is_string($pairs)) {
            return new self([], "Where the parts meet they are not the same: $pairs");
        }
        $strips = [];
        foreach ($pairs as [$rim, $beside, $isClosed]) {
            $line = [...$rim, ...$beside];
            foreach (Lofting::between(array_map($place, $rim), array_map($place, $beside), $isClosed) as [$a, $b, $c]) {
                array_push($strips, $line[$a], $line[$b], $line[$c]);
            }
        }
        $faces = [...$one[1], ...array_map(fn (int $v) => $vertices + $v, $other[1]), ...$strips];
        $first = intdiv(count($one[1]) + count($other[1]), 3);

        return new self($strips, min(Topology::twins($faces)) < 0 ? 'The parts do not close where they meet.' : RimLines::crossing($positions, $faces, range($first, intdiv(count($faces), 3) - 1)));
    }
}
