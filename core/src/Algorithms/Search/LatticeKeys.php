<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Search;

use Emberstone\Core\Geometry\BoundingBox;

/**
 * Numbers the cubes of a lattice over some points, one integer each and none twice, for use as keys.
 *
 * PHP's hash tables look at the lowest bits of a key: numbers that stand close together share no bucket, while x << 40 | y << 20 | z puts a
 * whole layer into one. The cubes around the box have numbers too, so that a neighbour is a sum away.
 */
final readonly class LatticeKeys
{
    private function __construct(private float $w, private float $x0, private float $y0, private float $z0, public int $row, public int $layer)
    {
    }

    /**
     * @param  array<int, float>  $p  flat xyz; all that will be named
     * @param  float  $cell  edge of a cube
     */
    public static function of(array $p, float $cell): self
    {
        $box = BoundingBox::of($p);
        $row = (int) (($box->max[2] - $box->min[2]) / $cell) + 3;

        return new self(1.0 / $cell, $box->min[0] - $cell, $box->min[1] - $cell, $box->min[2] - $cell, $row, $row * ((int) (($box->max[1] - $box->min[1]) / $cell) + 3));
    }

    public function at(float $x, float $y, float $z): int
    {
        return (int) (($x - $this->x0) * $this->w) * $this->layer + (int) (($y - $this->y0) * $this->w) * $this->row + (int) (($z - $this->z0) * $this->w);
    }
}
