<?php

declare(strict_types=1);

namespace Emberstone\Core\Capture;

use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Cloud\PointCloud;

/**
 * Where a capture has seen the object so far, and how densely: points counted in the cells of a raster. Grows frame by frame and can be put away
 * as bytes between two of them.
 */
final class Coverage
{
    private const BITS = 20;

    /** Of the first frame's spacing: a cell of a surface seen once holds some eight points. */
    private const CELL = 2.8;

    /** Points, three frames' worth of eight, from which a cell is dense; with fewer than one worth it is thin. */
    public const DENSE = 24;

    public const THIN = 8;

    /**
     * @param  array<int, int>  $count  points by key of the cell
     * @param  array<int, float>  $sum  of their places, flat xyz in the order of $count
     * @param  array<int, int>  $at  key => index in $sum
     */
    private function __construct(private float $cell, private array $count = [], private array $sum = [], private array $at = [])
    {
    }

    public static function empty(): self
    {
        return new self(0.0);
    }

    /** @param  PointCloud  $cloud  in the coordinates of the capture */
    public function add(PointCloud $cloud): void
    {
        $p = $cloud->positions;
        if ($cloud->count() < 3) {
            return;
        }
        if ($this->cell === 0.0) {
            $this->cell = self::CELL * PointGrid::of($p)->medianSpacing(500);
        }
        $w = 1.0 / $this->cell;
        $mask = (1 << self::BITS) - 1;
        [$count, $sum, $at] = [$this->count, $this->sum, $this->at];
        $this->count = $this->sum = $this->at = [];
        for ($o = 0, $e = count($p); $o < $e; $o += 3) {
            $key = (((int) floor($p[$o] * $w) & $mask) << self::BITS | ((int) floor($p[$o + 1] * $w) & $mask)) << self::BITS | ((int) floor($p[$o + 2] * $w) & $mask);
            $k = $at[$key] ?? -1;
            if ($k < 0) {
                $k = $at[$key] = count($count);
                $count[] = 0;
                $sum[] = 0.0;
                $sum[] = 0.0;
                $sum[] = 0.0;
            }
            $count[$k]++;
            $sum[3 * $k] += $p[$o];
            $sum[3 * $k + 1] += $p[$o + 1];
            $sum[3 * $k + 2] += $p[$o + 2];
        }
        [$this->count, $this->sum, $this->at] = [$count, $sum, $at];
    }

    /** The middle of the points of each cell, its count as confidence. */
    public function cells(): PointCloud
    {
        $positions = $confidence = [];
        foreach ($this->count as $k => $many) {
            $positions[] = $this->sum[3 * $k] / $many;
            $positions[] = $this->sum[3 * $k + 1] / $many;
            $positions[] = $this->sum[3 * $k + 2] / $many;
            $confidence[] = (float) $many;
        }

        return PointCloud::fromFlat($positions, [], [], null, $confidence);
    }

    /** @return array{cells: int, cellMm: float, thin: float, dense: float} shares of the cells */
    public function figures(): array
    {
        $many = count($this->count);
        $share = fn (callable $is): float => $many === 0 ? 0.0 : round(count(array_filter($this->count, $is)) / $many, 4);

        return ['cells' => $many, 'cellMm' => round($this->cell, 3), 'thin' => $share(fn (int $n) => $n < self::THIN), 'dense' => $share(fn (int $n) => $n >= self::DENSE)];
    }

    public function toBytes(): string
    {
        return pack('eV', $this->cell, count($this->count)).Packed::ints($this->count).Packed::doubles($this->sum).pack('P*', ...array_keys($this->at));
    }

    /** As toBytes() has written it. */
    public static function fromBytes(string $bytes): self
    {
        /** @var array{cell: float, many: int} $head */
        $head = unpack('ecell/Vmany', $bytes);
        $many = $head['many'];
        $count = Packed::toInts(substr($bytes, 12, 4 * $many));
        $sum = Packed::toDoubles(substr($bytes, 12 + 4 * $many, 24 * $many));
        $keys = $many === 0 ? [] : array_values(unpack('P*', substr($bytes, 12 + 28 * $many)) ?: []);

        return new self($head['cell'], $count, $sum, array_flip($keys));
    }
}
