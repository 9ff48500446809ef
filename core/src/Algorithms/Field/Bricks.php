<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

use Emberstone\Core\Algorithms\Search\LatticeKeys;

/**
 * The lattice of a volume cut into bricks of whole blocks, so that a surface too large for memory is made brick by brick. Each brick computes one block more on every side than it owns: what it owns is
 * then what it would be in the whole volume, and the bricks' surfaces share their vertices by the name of the cell.
 *
 * Departs   the usual pairing of ambiguous faces (see DualSurface::resolve) may run from cell to cell; a chain longer than the block of overlap would be resolved differently on its two sides.
 *
 * @internal
 */
final readonly class Bricks
{
    /** Added to the name of a cell for its second vertex, twice for its third: more than the lattice has cells, (8 * 60,000)^3 = 1.1e17, and four times as much (a cell has four vertices at most) still fits in an integer. */
    private const CELLS = 1 << 58;

    /** Blocks along the longest axis at most, so that cells have names (see CELLS): 480 m at a voxel of 1 mm. */
    public const MOST_BLOCKS = 60_000;

    /** Blocks along a side below which a brick is not cut: its overlap would be as large as itself. */
    private const LEAST_SIDE = 4;

    /** Cells before the lattice that have names: bricks reckon with two blocks around them. */
    private const MARGIN = 16;

    /** Blocks at most this many steps apart belong to one group of points: 2 blocks are 16 voxels, as far as whole volumes take them for one (MergedPasses::APART). */
    private const NEAR = 2;

    /**
     * @param  array{float, float, float}  $corner  of the lattice, mm
     * @param  LatticeKeys  $blocks  numbers of the blocks; those of the first layer along an axis are at 1
     * @param  list<array{list<int>, list<int>}>  $boxes  first and last block of each brick along the axes
     * @param  array<int, list<int>>  $of  the bricks that need the points of a block, by its number
     * @param  float  $most  work of the heaviest
     */
    private function __construct(public float $voxel, public array $corner, private LatticeKeys $blocks, public array $boxes, private array $of, public float $most)
    {
    }

    /**
     * Numbers for the blocks of a lattice.
     *
     * @param  array{float, float, float}  $corner  of the lattice
     * @param  array{float, float, float}  $far  no point lies beyond it
     */
    public static function blocks(array $corner, array $far, float $voxel): LatticeKeys
    {
        return LatticeKeys::of([...$corner, ...$far], 8.0 * $voxel);
    }

    /**
     * How many points lie in each block.
     *
     * @param  array<int, float>  $p  flat xyz
     * @return array<int, int> by number of the block
     */
    public static function counted(array $p, LatticeKeys $blocks): array
    {
        $counts = [];
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $block = $blocks->at($p[$o], $p[$o + 1], $p[$o + 2]);
            $counts[$block] = ($counts[$block] ?? 0) + 1;
        }

        return $counts;
    }

    /**
     * Without blocks that are far from all others and hold too few points to make a surface.
     *
     * @param  array<int, int>  $counts  as counted() gave them
     * @param  int  $fewest  points of a group that stays
     * @return array<int, int>
     */
    public static function withoutLone(array $counts, LatticeKeys $blocks, int $fewest): array
    {
        $kept = $done = [];
        foreach ($counts as $seed => $_) {
            if (isset($done[$seed])) {
                continue;
            }
            $done[$seed] = true;
            $group = [$seed];
            $points = 0;
            for ($k = 0; $k < count($group); $k++) {
                $points += $counts[$group[$k]];
                foreach (self::near($group[$k], $blocks, self::NEAR) as $near) {
                    if (isset($counts[$near]) && ! isset($done[$near])) {
                        $done[$near] = true;
                        $group[] = $near;
                    }
                }
            }
            foreach ($points >= $fewest ? $group : [] as $block) {
                $kept[$block] = $counts[$block];
            }
        }

        return $kept;
    }

    /**
     * Bricks of at most about so much work; halved across their longest side as long as they have more.
     *
     * @param  array<int, int>  $counts  points by number of their block
     * @param  array{float, float, float}  $corner  of the lattice, mm
     * @param  float  $aPoint  what a point adds to the work of its brick, and $aBlock a block that has any
     */
    public static function of(array $counts, LatticeKeys $blocks, array $corner, float $voxel, float $aPoint, float $aBlock, float $most): self
    {
        $waiting = [[array_keys($counts), array_fill(0, 3, 0), array_fill(0, 3, PHP_INT_MAX >> 1)]];
        $regions = [];
        while ($waiting !== []) {
            [$members, $from, $to] = array_pop($waiting);
            $places = array_map(fn (int $block) => self::place($block, $blocks), $members);
            [$low, $high] = self::bounds($places);
            $sides = array_map(fn (int $a, int $b) => $b - $a + 1, $low, $high);
            $axis = (int) array_search(max($sides), $sides, true);
            $layers = [];
            foreach ($members as $k => $block) {
                $layers[$places[$k][$axis]] = ($layers[$places[$k][$axis]] ?? 0.0) + $aBlock + $aPoint * $counts[$block];
            }
            if (array_sum($layers) <= $most || $sides[$axis] < 2 * self::LEAST_SIDE) {
                $regions[] = [$from, $to];

                continue;
            }
            $cut = self::middle($layers, $low[$axis] + self::LEAST_SIDE, $high[$axis] + 1 - self::LEAST_SIDE);
            $isAbove = array_map(fn (array $place) => $place[$axis] >= $cut, $places);
            $waiting[] = [array_values(array_intersect_key($members, array_filter($isAbove))), array_replace($from, [$axis => $cut]), $to];
            $waiting[] = [array_values(array_diff_key($members, array_filter($isAbove))), $from, array_replace($to, [$axis => $cut - 1])];
        }

        return self::around($regions, $counts, $blocks, $corner, $voxel, $aPoint, $aBlock);
    }

    /**
     * Bricks that own a region of space each, as far as any surface can be in it.
     *
     * @param  list<array{array<int, int>, array<int, int>}>  $regions  that share out all blocks there can be
     * @param  array<int, int>  $counts
     * @param  array{float, float, float}  $corner
     */
    private static function around(array $regions, array $counts, LatticeKeys $blocks, array $corner, float $voxel, float $aPoint, float $aBlock): self
    {
        $boxes = $of = [];
        $most = 0.0;
        foreach ($regions as $brick => [$from, $to]) {
            $members = [];
            $work = 0.0;
            foreach ($counts as $block => $points) {
                $place = self::place($block, $blocks);
                if (self::isWithin($place, $from, $to, 1)) {
                    $of[$block][] = $brick;
                    $members[] = $place;
                    $work += $aBlock + $aPoint * $points;
                }
            }
            $most = max($most, $work);
            [$low, $high] = self::bounds($members);
            $boxes[] = [array_map(fn (int $a, int $b) => max($a, $b - 1), $from, $low), array_map(fn (int $a, int $b) => min($a, $b + 1), $to, $high)];
        }

        return new self($voxel, $corner, $blocks, $boxes, $of, $most);
    }

    /**
     * The points that each brick needs; those near a border go to several, lone ones to none.
     *
     * @param  array<int, float>  $p  flat xyz
     * @return array<int, list<int>> numbers of the points by brick, rising
     */
    public function shared(array $p): array
    {
        $of = $this->of;
        $blocks = $this->blocks;
        $shared = array_fill(0, count($this->boxes), []);
        for ($i = 0, $o = 0, $e = count($p); $o < $e; $i++, $o += 3) {
            foreach ($of[$blocks->at($p[$o], $p[$o + 1], $p[$o + 2])] ?? [] as $brick) {
                $shared[$brick][] = $i;
            }
        }

        return array_filter($shared);
    }

    /** The part of the volume that a brick works in: what it owns, a block around it that is computed too, and one more for what reaches into that. */
    public function volume(int $brick): Volume
    {
        [$low, $high] = $this->boxes[$brick];
        $start = array_map(fn (float $corner, int $block) => $corner + 8.0 * ($block - 3) * $this->voxel, $this->corner, $low);

        return new Volume($this->voxel, $start[0], $start[1], $start[2], ...array_map(fn (int $a, int $b) => $b - $a + 5, $low, $high));
    }

    /**
     * A name for each vertex that it has in every brick: its cell in the whole lattice, and its number among those of the cell.
     *
     * @param  array<int, float>  $cells  lower corner of each vertex' cell; vertices of one cell follow each other
     * @return array{list<int>, list<bool>} the names, and whether this brick owns them
     */
    public function names(array $cells, int $brick): array
    {
        $w = 1.0 / $this->voxel;
        [$x0, $y0, $z0] = $this->corner;
        [$low, $high] = $this->boxes[$brick];
        [$ax, $ay, $az] = array_map(fn (int $block) => 8 * $block - 8, $low);
        [$ex, $ey, $ez] = array_map(fn (int $block) => 8 * $block - 1, $high);
        // Numbers row by row, and those of a cell's further vertices beyond all others: numbers that share their lowest bits would share a bucket of PHP's hash tables.
        $row = 8 * $this->blocks->row + 2 * self::MARGIN;
        $layer = $row * (8 * intdiv($this->blocks->layer, $this->blocks->row) + 2 * self::MARGIN);
        $names = $isOwn = [];
        $before = $loop = -1;
        for ($o = 0, $n = count($cells); $o < $n; $o += 3) {
            $x = (int) floor(($cells[$o] - $x0) * $w + 0.5);
            $y = (int) floor(($cells[$o + 1] - $y0) * $w + 0.5);
            $z = (int) floor(($cells[$o + 2] - $z0) * $w + 0.5);
            $cell = ($x + self::MARGIN) * $layer + ($y + self::MARGIN) * $row + $z + self::MARGIN;
            $loop = $cell === $before ? $loop + 1 : 0;
            $before = $cell;
            $names[] = $cell + $loop * self::CELLS;
            $isOwn[] = $x >= $ax && $x <= $ex && $y >= $ay && $y <= $ey && $z >= $az && $z <= $ez;
        }

        return [$names, $isOwn];
    }

    /**
     * @param  array<int, int>  $place
     * @param  array<int, int>  $from
     * @param  array<int, int>  $to
     */
    private static function isWithin(array $place, array $from, array $to, int $margin): bool
    {
        return $place[0] >= $from[0] - $margin && $place[0] <= $to[0] + $margin && $place[1] >= $from[1] - $margin && $place[1] <= $to[1] + $margin && $place[2] >= $from[2] - $margin && $place[2] <= $to[2] + $margin;
    }

    /**
     * Where to cut so that both sides have about the same.
     *
     * @param  array<int, float>  $layers  work by layer of blocks
     * @param  int  $first  layer that may begin the upper side, and $last
     */
    private static function middle(array $layers, int $first, int $last): int
    {
        ksort($layers);
        $half = 0.5 * array_sum($layers);
        $sum = 0.0;
        foreach ($layers as $layer => $work) {
            if ($sum + 0.5 * $work >= $half) {
                return max($first, min($last, $layer));
            }
            $sum += $work;
        }

        return $last;
    }

    /** @return array{int, int, int} */
    private static function place(int $block, LatticeKeys $blocks): array
    {
        return [intdiv($block, $blocks->layer), intdiv($block % $blocks->layer, $blocks->row), $block % $blocks->row];
    }

    /**
     * The blocks around a block and itself, up to a number of steps along each axis.
     *
     * @return list<int> their numbers. At the border of the lattice some belong to no block, or to one elsewhere at the border that has no points
     */
    private static function near(int $block, LatticeKeys $blocks, int $steps): array
    {
        $near = [];
        for ($a = -$steps; $a <= $steps; $a++) {
            for ($b = -$steps; $b <= $steps; $b++) {
                for ($c = -$steps; $c <= $steps; $c++) {
                    $near[] = $block + $a * $blocks->layer + $b * $blocks->row + $c;
                }
            }
        }

        return $near;
    }

    /**
     * @param  array<int, array<int, int>>  $places
     * @return array{list<int>, list<int>}
     */
    private static function bounds(array $places): array
    {
        $low = array_fill(0, 3, PHP_INT_MAX);
        $high = array_fill(0, 3, PHP_INT_MIN);
        foreach ($places as $place) {
            for ($c = 0; $c < 3; $c++) {
                $low[$c] = min($low[$c], $place[$c]);
                $high[$c] = max($high[$c], $place[$c]);
            }
        }

        return [$low, $high];
    }
}
