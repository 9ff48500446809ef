<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Quads;

/**
 * The vertices of a mesh, or of a coarser picture of it, with what the fields need of each.
 *
 * Lists of three numbers a vertex are flat xyz, mm. Neighbours of vertex v stand in `to` and `weight` from first[v] up to first[v + 1].
 *
 * @internal
 */
final class FieldLevel
{
    /** @var array<int, int> by vertex: the one of the next coarser level that it went into */
    public array $parent = [];

    /** @var array<int, float> three numbers a vertex: a unit vector along one of the four directions of its cross */
    public array $directions = [];

    /** @var array<int, float> three numbers a vertex: a point of its lattice near it */
    public array $origins = [];

    /**
     * @param  array<int, float>  $positions  flat xyz
     * @param  array<int, float>  $normals  flat xyz, unit
     * @param  array<int, float>  $areas  what of the surface each stands for
     * @param  array<int, int>  $first
     * @param  array<int, int>  $to
     * @param  array<int, float>  $weight
     * @param  array<int, array{float, float, float}>  $along  by vertex: a unit vector that its cross keeps to; few have one
     * @param  array<int, array{float, float, float, float, float, float}>  $held  by vertex: a place that a line of its lattice runs through, and the direction of that; no direction where a point of the lattice lies there
     */
    public function __construct(
        public readonly array $positions,
        public readonly array $normals,
        public readonly array $areas,
        public readonly array $first,
        public readonly array $to,
        public readonly array $weight,
        public array $along = [],
        public array $held = [],
    ) {
    }

    /** Vertices. */
    public function count(): int
    {
        return count($this->areas);
    }

    /**
     * A vector laid into the plane across a normal.
     *
     * @param  array<int, float>  $normal  unit
     * @return array{float, float, float}|null unit; null where it stands upright
     */
    public static function inPlane(float $x, float $y, float $z, array $normal): ?array
    {
        $d = $x * $normal[0] + $y * $normal[1] + $z * $normal[2];
        $all = sqrt($x * $x + $y * $y + $z * $z);
        $x -= $d * $normal[0];
        $y -= $d * $normal[1];
        $z -= $d * $normal[2];
        $length = sqrt($x * $x + $y * $y + $z * $z);

        return $length <= 0.2 * $all || $all === 0.0 ? null : [$x / $length, $y / $length, $z / $length];
    }
}
