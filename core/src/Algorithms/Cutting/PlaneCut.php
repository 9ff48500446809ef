<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Cutting;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Geometry\BoundingBox;

/**
 * A mesh parted by a plane. Faces that cross it are cut along it; those that lie in it go to the side where their inside is. Vertices of the mesh stay where they are, to the bit.
 *
 * Error     a vertex nearer to the plane than SNAP of the size counts as lying in it, so that no face becomes narrower than that; new vertices lie in the plane to rounding.
 * Cost      linear in the faces.
 *
 * @internal
 */
final class PlaneCut
{
    /** Of the diagonal of the mesh: a tenth of a micrometre on a part of 100 mm, and ten times what Inspection calls a face without area. */
    public const SNAP = 1e-6;

    /**
     * @param  list<float>  $positions  flat xyz: those of the mesh first, then the new ones
     * @param  list<list<int>>  $faces  flat, of the part behind the plane and of that before it, where the normal points
     * @param  list<list<int>>  $source  for each of those faces the one that it was, or is a part of
     * @param  list<array{int, int, float}>  $between  for each new vertex the ends of the edge that it lies on, and how far from the first to the second
     * @param  array<int, true>  $inPlane  vertices that lie in the plane
     */
    private function __construct(public readonly array $positions, public readonly array $faces, public readonly array $source, public readonly array $between, public readonly array $inPlane)
    {
    }

    /**
     * @param  array<int, float>  $positions  flat xyz
     * @param  array<int, int>  $faces  flat
     * @param  array{float, float, float}  $point  of the plane
     * @param  array{float, float, float}  $normal  of length 1
     */
    public static function of(array $positions, array $faces, array $point, array $normal): self
    {
        [$nx, $ny, $nz] = $normal;
        $height = [];
        foreach (array_chunk($positions, 3) as [$x, $y, $z]) {
            $height[] = ($x - $point[0]) * $nx + ($y - $point[1]) * $ny + ($z - $point[2]) * $nz;
        }

        return self::atHeights($positions, $faces, $height, $normal);
    }

    /**
     * Parted where a height is 0 that is told for every vertex, and runs straight along every edge.
     *
     * @param  array<int, float>  $positions  flat xyz
     * @param  array<int, int>  $faces  flat
     * @param  list<float>  $height  of each vertex, mm
     * @param  array{float, float, float}  $normal  which way faces lie of which all is at height 0: those that look that way are behind
     */
    public static function atHeights(array $positions, array $faces, array $height, array $normal): self
    {
        $snap = self::SNAP * BoundingBox::of($positions)->diagonal();
        $inPlane = [];
        foreach ($height as $v => $one) {
            if (abs($one) <= $snap) {
                $height[$v] = 0.0;
                $inPlane[$v] = true;
            }
        }
        $cut = $between = [];
        $meet = function (int $a, int $b) use (&$positions, &$between, &$inPlane, &$cut, $height): int {
            // From the same end whichever face asks, so that both have the same vertex.
            [$a, $b] = $a < $b ? [$a, $b] : [$b, $a];
            if (isset($cut[$a][$b])) {
                return $cut[$a][$b];
            }
            $t = $height[$a] / ($height[$a] - $height[$b]);
            $v = intdiv(count($positions), 3);
            for ($k = 0; $k < 3; $k++) {
                $positions[] = $positions[3 * $a + $k] + $t * ($positions[3 * $b + $k] - $positions[3 * $a + $k]);
            }
            $between[] = [$a, $b, $t];
            $inPlane[$v] = true;

            return $cut[$a][$b] = $v;
        };
        $parts = $source = [[], []];
        for ($o = 0, $n = count($faces); $o < $n; $o += 3) {
            $t = intdiv($o, 3);
            $corners = [$faces[$o], $faces[$o + 1], $faces[$o + 2]];
            $heights = [$height[$corners[0]], $height[$corners[1]], $height[$corners[2]]];
            $least = min($heights);
            $most = max($heights);
            if ($least < 0.0 && $most > 0.0) {
                foreach (self::parted($corners, $heights, $meet) as $side => $polygon) {
                    for ($k = 2; $k < count($polygon); $k++) {
                        array_push($parts[$side], $polygon[0], $polygon[$k - 1], $polygon[$k]);
                        $source[$side][] = $t;
                    }
                }

                continue;
            }
            $side = $least < 0.0 || ($most === 0.0 && self::facing($positions, $corners, $normal) > 0.0) ? 0 : 1;
            array_push($parts[$side], ...$corners);
            $source[$side][] = $t;
        }

        return new self($positions, $parts, $source, $between, $inPlane);
    }

    /**
     * The corners of a face on both sides, with the places where its edges meet the plane. They begin at one of these where there are four, so that the diagonal is the same for any order of the corners.
     *
     * @param  array{int, int, int}  $corners
     * @param  array{float, float, float}  $heights
     * @param  callable(int, int): int  $meet
     * @return array{list<int>, list<int>} behind, before
     */
    private static function parted(array $corners, array $heights, callable $meet): array
    {
        $parts = [[], []];
        for ($c = 0; $c < 3; $c++) {
            $d = ($c + 1) % 3;
            $heights[$c] > 0.0 || $parts[0][] = $corners[$c];
            $heights[$c] < 0.0 || $parts[1][] = $corners[$c];
            if ($heights[$c] * $heights[$d] < 0.0) {
                $parts[0][] = $parts[1][] = $meet($corners[$c], $corners[$d]);
            }
        }
        foreach ($parts as $side => $polygon) {
            while (count($polygon) === 4 && $polygon[0] !== max($polygon)) {
                $polygon[] = array_shift($polygon);
            }
            $parts[$side] = $polygon;
        }

        return $parts;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array{int, int, int}  $corners
     * @param  array{float, float, float}  $normal
     * @return float more than 0 where a face looks along the normal
     */
    private static function facing(array $p, array $corners, array $normal): float
    {
        [$a, $b, $c] = array_map(fn (int $v) => 3 * $v, $corners);
        $u = [$p[$b] - $p[$a], $p[$b + 1] - $p[$a + 1], $p[$b + 2] - $p[$a + 2]];
        $v = [$p[$c] - $p[$a], $p[$c + 1] - $p[$a + 1], $p[$c + 2] - $p[$a + 2]];

        return $normal[0] * ($u[1] * $v[2] - $u[2] * $v[1]) + $normal[1] * ($u[2] * $v[0] - $u[0] * $v[2]) + $normal[2] * ($u[0] * $v[1] - $u[1] * $v[0]);
    }

    /**
     * What a part is open by in the plane, as edges that have the missing area on their left, seen from outside.
     *
     * @return list<array{int, int}> from and to vertex
     */
    public function rim(int $side): array
    {
        $faces = $this->faces[$side];
        $edges = [];
        foreach (Topology::twins($faces) as $h => $twin) {
            if ($twin < 0) {
                $o = $h - $h % 3;
                [$a, $b] = [$faces[$h], $faces[$o + ($h + 1) % 3]];
                if (isset($this->inPlane[$a], $this->inPlane[$b])) {
                    // Against the way of the face: what closes it goes along the other side.
                    $edges["$b $a"] = [$b, $a];
                }
            }
        }
        foreach ($edges as [$a, $b]) {
            // Where the part touches itself along an edge there is nothing to close.
            if (isset($edges["$b $a"])) {
                unset($edges["$a $b"], $edges["$b $a"]);
            }
        }

        return array_values($edges);
    }
}
