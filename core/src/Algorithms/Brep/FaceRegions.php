<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Brep;

use Emberstone\Core\Algorithms\Shapes\TurnedShape;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\Vector3;

/**
 * Which face of a boundary representation each triangle of a mesh goes to: those of one shape that hang together become one face, others one for every flat.
 *
 * @internal
 *
 * @phpstan-import-type Point from EdgeCurve
 */
final class FaceRegions
{
    /** mm below which a triangle is too flat to tell its plane, whatever the tolerance: a hundredth of what programs that read such files take for one place. */
    public const SAME = 1e-6;

    /** Triangles of an area without any place inside: all its corners are on its border, which would fold up when it is smoothed. */
    private const SPECK = 4;

    /** Share of the mean edge by which corners of one flat may lie off its plane: the rounding of coordinates. */
    private const FLAT = 3e-6;

    /** @var list<int> face of the result that each triangle goes to; -1: left out */
    public array $region = [];

    /** @var list<TurnedShape> by face of the result */
    public array $shapes = [];

    /** @var list<bool> by face of the result: a flat one whose corners stay where they are */
    public array $stays = [];

    private readonly float $meanEdge;

    /**
     * @param  array<int, float>  $p  flat xyz, mm
     * @param  array<int, int>  $f  flat faces
     * @param  array<int, int>  $twin  see Topology::twins
     * @param  array<int, int>  $labels  of each face the place of its shape
     * @param  list<TurnedShape|null>  $of  shapes; null: its triangles stay
     * @param  int  $mostTriangles  that stay; when there are more, they are left out
     * @param  float  $tolerance  mm that a line or an arc may lie off the border that it is drawn for
     * @param  array<int, int>  $slivers  long side of triangles that shall not stay by themselves
     */
    public function __construct(private readonly array $p, private readonly array $f, private readonly array $twin, array $labels, array $of, int $mostTriangles, private readonly float $tolerance, array $slivers)
    {
        $this->meanEdge = Measure::meanEdge($p, $f);
        $this->divide($labels, $of, $mostTriangles, $slivers);
    }

    /**
     * Which face of the result every face of the mesh goes to.
     *
     * @param  array<int, int>  $labels
     * @param  list<TurnedShape|null>  $of
     * @param  array<int, int>  $slivers  long side by face
     */
    private function divide(array $labels, array $of, int $mostTriangles, array $slivers): void
    {
        $count = count($labels);
        $this->region = array_fill(0, $count, -1);
        $labels = $this->withoutSpecks($labels, $of);
        $free = 0;
        foreach ($labels as $label) {
            $free += $of[$label] === null ? 1 : 0;
        }
        $crosses = Measure::crosses($this->p, $this->f);
        for ($seed = 0; $seed < $count; $seed++) {
            $shape = $of[$labels[$seed]];
            if ($this->region[$seed] >= 0 || $shape === null && $free > $mostTriangles) {
                continue;
            }
            if ($shape === null && ! isset($slivers[$seed]) && ($side = $this->longSideOfSliver($this->cornersOf($seed))) !== null) {
                $slivers[$seed] = 3 * $seed + $side;
            }
            if (isset($slivers[$seed])) {
                continue;
            }
            $number = count($this->shapes);
            $stays = $shape === null;
            $this->shapes[] = $shape ?? $this->flat($seed, $crosses);
            $this->stays[] = $stays;
            $this->region[$seed] = $number;
            for ($stack = [$seed]; $stack !== [];) {
                $t = array_pop($stack);
                for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                    $g = $this->twin[$h] < 0 ? -1 : intdiv($this->twin[$h], 3);
                    if ($g >= 0 && $this->region[$g] < 0 && ! isset($slivers[$g]) && $labels[$g] === $labels[$seed] && (! $stays || $this->liesIn($g, $this->shapes[$number], $crosses))) {
                        $this->region[$g] = $number;
                        $stack[] = $g;
                    }
                }
            }
        }
        $this->giveAway($slivers);
    }

    /**
     * Labels with those specks that lie apart from the rest of their shape given to the neighbour with the longest border.
     *
     * @param  array<int, int>  $labels
     * @param  list<TurnedShape|null>  $of
     * @return array<int, int>
     */
    private function withoutSpecks(array $labels, array $of): array
    {
        $seen = [];
        $faces = array_count_values($labels);
        foreach (array_keys($labels) as $seed) {
            if (isset($seen[$seed]) || $of[$labels[$seed]] === null) {
                continue;
            }
            $seen[$seed] = true;
            $area = [$seed];
            $borders = [];
            for ($k = 0; $k < count($area); $k++) {
                for ($h = 3 * $area[$k]; $h < 3 * $area[$k] + 3; $h++) {
                    $g = $this->twin[$h] < 0 ? -1 : intdiv($this->twin[$h], 3);
                    if ($g >= 0 && $labels[$g] !== $labels[$seed]) {
                        $borders[$labels[$g]] = ($borders[$labels[$g]] ?? 0.0) + Vector3::length(Vector3::minus($this->at($this->f[$this->twin[$h]]), $this->at($this->f[$h])));
                    } elseif ($g >= 0 && ! isset($seen[$g])) {
                        $seen[$g] = true;
                        $area[] = $g;
                    }
                }
            }
            if (count($area) <= self::SPECK && count($area) < $faces[$labels[$seed]] && $borders !== []) {
                arsort($borders);
                foreach ($area as $t) {
                    $labels[$t] = array_key_first($borders);
                }
            }
        }

        return $labels;
    }

    /**
     * The longest side of a triangle so flat that its plane hangs on the rounding of its corners; null when it is none.
     *
     * @param  list<Point>  $corners
     * @return int<0, 2>|null
     */
    public function longSideOfSliver(array $corners): ?int
    {
        $sides = [];
        foreach ([0, 1, 2] as $k) {
            $sides[$k] = Vector3::length(Vector3::minus($corners[($k + 1) % 3], $corners[$k]));
        }
        $side = $sides[0] >= $sides[1] && $sides[0] >= $sides[2] ? 0 : ($sides[1] >= $sides[2] ? 1 : 2);
        $doubled = Vector3::length(Vector3::cross(Vector3::minus($corners[1], $corners[0]), Vector3::minus($corners[2], $corners[0])));

        return $doubled < $sides[$side] * max(0.5 * $this->tolerance, self::SAME) ? $side : null;
    }

    /**
     * Slivers go to the face beyond their long side: no corner of theirs lies farther off it than they are high.
     *
     * @param  array<int, int>  $slivers  long side by face
     */
    private function giveAway(array $slivers): void
    {
        do {
            $given = false;
            foreach ($slivers as $t => $side) {
                $to = $this->twin[$side] < 0 ? -1 : $this->region[intdiv($this->twin[$side], 3)];
                if ($to >= 0) {
                    $this->region[$t] = $to;
                    unset($slivers[$t]);
                    $given = true;
                }
            }
        } while ($given);
    }

    /** @param  list<float>  $crosses */
    private function flat(int $t, array $crosses): TurnedShape
    {
        $normal = [$crosses[3 * $t], $crosses[3 * $t + 1], $crosses[3 * $t + 2]];
        $long = Vector3::length($normal);

        return TurnedShape::plane($this->at($this->f[3 * $t]), $long > 0.0 ? Vector3::scaled($normal, 1.0 / $long) : [0.0, 0.0, 1.0]);
    }

    /**
     * Whether a triangle lies in a plane, to the rounding of its coordinates.
     *
     * @param  list<float>  $crosses
     */
    private function liesIn(int $t, TurnedShape $plane, array $crosses): bool
    {
        $corners = array_merge(...$this->cornersOf($t));

        return Vector3::dot([$crosses[3 * $t], $crosses[3 * $t + 1], $crosses[3 * $t + 2]], $plane->direction()) > 0.0 && max(array_map(abs(...), $plane->distances($corners))) <= self::FLAT * $this->meanEdge;
    }

    /** @return list<Point> */
    private function cornersOf(int $t): array
    {
        return array_map($this->at(...), array_slice($this->f, 3 * $t, 3));
    }

    /** @return Point */
    private function at(int $v): array
    {
        return [$this->p[3 * $v], $this->p[3 * $v + 1], $this->p[3 * $v + 2]];
    }
}
