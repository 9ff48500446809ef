<?php

declare(strict_types=1);

namespace Emberstone\Core\Measure;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * The open rims of a mesh with their sizes, and which of them is meant by a place.
 *
 * Steps that come later move and renumber vertices; so rims are named by places: by a pick on or near them, and remembered by their middle.
 *
 * @phpstan-type Place array{float, float, float}
 * @phpstan-type Hole array{edges: int, perimeter: float, diameter: float, centre: Place, outline: list<Place>}
 */
final readonly class BoundaryLoops
{
    /** Corners of the outline that is told of a hole: enough to draw it, and to know its rim by. */
    private const OUTLINE = 16;

    /** A remembered middle means a rim whose own middle is this share of its size away at most. */
    private const SAME = 0.5;

    /** Rims whose widths differ by less than this factor may be one hole, seen at another voxel or after cleaning its rim. */
    private const AS_WIDE = 1.5;

    /** Edges of the rim that it may have moved by, however small it is. */
    private const EDGES_ASIDE = 3.0;

    /**
     * @param  list<list<int>>  $rims  vertices in the direction of the open half-edges
     * @param  array<int, float>  $positions
     * @param  list<Hole>  $holes  a rim, mm
     */
    private function __construct(public array $rims, private array $positions, public array $holes)
    {
    }

    public static function of(TriangleMesh $mesh): self
    {
        return self::along(Topology::rims($mesh->faces, Topology::twins($mesh->faces)), $mesh->positions);
    }

    /**
     * @param  list<list<int>>  $rims
     * @param  array<int, float>  $positions
     */
    public static function along(array $rims, array $positions): self
    {
        return new self($rims, $positions, array_map(fn (array $rim) => self::measure($rim, $positions), $rims));
    }

    /** @return list<Hole> */
    public function widestFirst(): array
    {
        $holes = $this->holes;
        usort($holes, fn (array $a, array $b) => $b['diameter'] <=> $a['diameter']);

        return $holes;
    }

    /**
     * The rim and the corner of it that a pick is nearest to.
     *
     * @param  Place  $at
     * @return array{rim: int, corner: int, distance: float}|null null when there is no rim
     */
    public function nearest(array $at): ?array
    {
        $best = null;
        $p = $this->positions;
        foreach ($this->rims as $k => $rim) {
            foreach ($rim as $corner => $v) {
                $d = ($p[3 * $v] - $at[0]) ** 2 + ($p[3 * $v + 1] - $at[1]) ** 2 + ($p[3 * $v + 2] - $at[2]) ** 2;
                if ($best === null || $d < $best['distance']) {
                    $best = ['rim' => $k, 'corner' => $corner, 'distance' => $d];
                }
            }
        }

        return $best === null ? null : ['distance' => sqrt($best['distance'])] + $best;
    }

    /**
     * The rim near a pick that is about as wide as the one that was picked: after steps were run again with other numbers, the nearest rim may be that of another hole.
     *
     * @param  Place  $at
     * @param  float  $diameter  mm, of the rim that was picked
     * @return array{at: Place, distance: float}|null the place of it that is nearest to the pick; null where there is none
     */
    public function alike(array $at, float $diameter): ?array
    {
        $best = null;
        foreach ($this->rims as $k => $rim) {
            ['diameter' => $now, 'perimeter' => $perimeter, 'edges' => $edges] = $this->holes[$k];
            if (max($now, $diameter) > self::AS_WIDE * min($now, $diameter)) {
                continue;
            }
            ['distance' => $distance, 'corner' => $corner] = (new self([$rim], $this->positions, [$this->holes[$k]]))->nearest($at) ?? ['distance' => INF, 'corner' => 0];
            // Coarser surface has its rim some edges aside.
            if ($distance <= max(self::SAME * $diameter, self::EDGES_ASIDE * $perimeter / max(1, $edges)) && ($best === null || $distance < $best['distance'])) {
                $v = 3 * $rim[$corner];
                $best = ['at' => [$this->positions[$v], $this->positions[$v + 1], $this->positions[$v + 2]], 'distance' => $distance];
            }
        }

        return $best;
    }

    /**
     * The rims that picks are nearest to.
     *
     * @param  list<Place>  $places
     * @return array<int, true> by number of the rim
     */
    public function named(array $places): array
    {
        $named = [];
        foreach ($places as $at) {
            $near = $this->nearest($at);
            if ($near !== null) {
                $named[$near['rim']] = true;
            }
        }

        return $named;
    }

    /**
     * The rims that none of the remembered middles means.
     *
     * @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $middles  each with the width of its rim, where that is known
     * @return array<int, true> by number of the rim
     */
    public function not(array $middles): array
    {
        return array_map(fn () => true, array_filter($this->holes, fn (array $hole) => ! self::isMeant($hole, $middles)));
    }

    /**
     * Whether one of the remembered middles means this hole. A middle without a hole near it stands for one that is closed by now.
     *
     * @param  array{diameter: float, centre: Place}  $hole
     * @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $middles  each with the width of its rim, where that is known
     */
    public static function isMeant(array $hole, array $middles): bool
    {
        [$x, $y, $z] = $hole['centre'];
        foreach ($middles as $at) {
            // Beside a small hole that has been closed since there may be a wide one.
            if (isset($at[3]) && max($at[3], $hole['diameter']) > self::AS_WIDE * min($at[3], $hole['diameter'])) {
                continue;
            }
            if (sqrt(($x - $at[0]) ** 2 + ($y - $at[1]) ** 2 + ($z - $at[2]) ** 2) <= self::SAME * $hole['diameter']) {
                return true;
            }
        }

        return false;
    }

    /**
     * Where the vertices of rims are, to know them by when vertices have been renumbered.
     *
     * @param  list<list<int>>  $rims
     * @param  array<int, float>  $p
     * @return array<string, true>
     */
    public static function places(array $rims, array $p): array
    {
        $places = [];
        foreach ($rims as $rim) {
            foreach ($rim as $v) {
                $places[self::place($p, $v)] = true;
            }
        }

        return $places;
    }

    /**
     * A name for where a vertex is, to the last bit.
     *
     * @param  array<int, float>  $p
     */
    public static function place(array $p, int $v): string
    {
        return pack('e3', $p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]);
    }

    /**
     * The share of vertices that are in known places.
     *
     * @param  array<string, true>  $places
     * @param  list<int>  $vertices
     * @param  array<int, float>  $p
     */
    public static function shareAt(array $places, array $vertices, array $p): float
    {
        $known = 0;
        foreach ($vertices as $v) {
            $known += isset($places[self::place($p, $v)]) ? 1 : 0;
        }

        return $known / count($vertices);
    }

    /**
     * @param  list<int>  $rim
     * @param  array<int, float>  $p
     * @return Hole
     */
    private static function measure(array $rim, array $p): array
    {
        $perimeter = $x = $y = $z = 0.0;
        $points = [];
        $n = count($rim);
        foreach ($rim as $k => $v) {
            $w = $rim[($k + 1) % $n];
            $perimeter += sqrt(($p[3 * $v] - $p[3 * $w]) ** 2 + ($p[3 * $v + 1] - $p[3 * $w + 1]) ** 2 + ($p[3 * $v + 2] - $p[3 * $w + 2]) ** 2);
            array_push($points, $p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]);
            $x += $p[3 * $v] / $n;
            $y += $p[3 * $v + 1] / $n;
            $z += $p[3 * $v + 2] / $n;
        }

        return ['edges' => $n, 'perimeter' => $perimeter, 'diameter' => BoundingBox::of($points)->diagonal(), 'centre' => [$x, $y, $z], 'outline' => self::outline($rim, $p)];
    }

    /**
     * Some corners, evenly chosen.
     *
     * @param  list<int>  $rim
     * @param  array<int, float>  $p
     * @return list<Place>
     */
    private static function outline(array $rim, array $p): array
    {
        $n = count($rim);
        $many = min($n, self::OUTLINE);
        $outline = [];
        for ($k = 0; $k < $many; $k++) {
            $v = $rim[intdiv($k * $n, $many)];
            $outline[] = [round($p[3 * $v], 4), round($p[3 * $v + 1], 4), round($p[3 * $v + 2], 4)];
        }

        return $outline;
    }
}
