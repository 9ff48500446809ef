<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

/**
 * A sparse volume of signed distances: a dense table of 8x8x8 blocks. Positive outside. Shared by the kernels of this folder.
 *
 * @internal
 */
final class Volume
{
    /** @var array<int, int> block number of each table entry, or -1 */
    public array $top;

    /** @var list<int> table entry of each block */
    public array $blocks = [];

    /** @var array<int, float> signed distance in mm, 512 a block, x fastest; only where weight is over 0 */
    public array $distance = [];

    /** @var array<int, float> */
    public array $weight = [];

    /** Passes to a set of bits. A set's next bit, of the first one alone, says that only passes of later sets saw the voxel. */
    public const PASSES_A_SET = 60;

    /** @var array<int, int> bit set of the first passes that saw the voxel; 0 where none at all did */
    public array $seen = [];

    /** @var list<array<int, int>> the sets of the passes after them, by voxel */
    public array $seenByMore = [];

    public function __construct(
        public readonly float $voxel,
        public readonly float $x0,
        public readonly float $y0,
        public readonly float $z0,
        public readonly int $bx,
        public readonly int $by,
        public readonly int $bz,
    ) {
        $this->top = array_fill(0, $bx * $by * $bz, -1);
    }

    /**
     * A volume that covers a box with a margin of four voxels.
     *
     * @param  array{float, float, float}  $min
     * @param  array{float, float, float}  $max
     */
    public static function around(array $min, array $max, float $voxel): self
    {
        $blocks = [];
        for ($k = 0; $k < 3; $k++) {
            $blocks[] = (int) ceil((($max[$k] - $min[$k]) / $voxel + 8.0) / 8.0) + 1;
        }

        return new self($voxel, $min[0] - 4.0 * $voxel, $min[1] - 4.0 * $voxel, $min[2] - 4.0 * $voxel, ...$blocks);
    }

    /**
     * Takes what Splat::slab() found of all blocks, in their order.
     *
     * @param  array<int, float>  $distance
     * @param  array<int, array<int, int>>  $sets  of passes, PASSES_A_SET each
     */
    public function fill(array $distance, array $sets): void
    {
        $this->distance = $distance;
        $this->seen = $sets[0];
        $this->seenByMore = array_slice($sets, 1);
        $weight = [];
        foreach ($this->seen as $passes) {
            $weight[] = $passes === 0 ? 0.0 : 1.0;
        }
        $this->weight = $weight;
    }

    /** The voxel some steps away along each axis, or -1 where no block is. */
    public function neighbour(int $voxel, int $dx, int $dy, int $dz): int
    {
        $t = $this->blocks[$voxel >> 9];
        $z = 8 * ($t % $this->bz) + ($voxel >> 6 & 7) + $dz;
        $r = intdiv($t, $this->bz);
        $y = 8 * ($r % $this->by) + ($voxel >> 3 & 7) + $dy;
        $x = 8 * intdiv($r, $this->by) + ($voxel & 7) + $dx;
        if ($x < 0 || $y < 0 || $z < 0 || $x >= 8 * $this->bx || $y >= 8 * $this->by || $z >= 8 * $this->bz) {
            return -1;
        }
        $block = $this->top[(($x >> 3) * $this->by + ($y >> 3)) * $this->bz + ($z >> 3)];

        return $block < 0 ? -1 : $block << 9 | ($z & 7) << 6 | ($y & 7) << 3 | ($x & 7);
    }
}
