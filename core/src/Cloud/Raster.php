<?php

declare(strict_types=1);

namespace Emberstone\Core\Cloud;

/**
 * The grid of rays of a structured capture: which ray each point came back on. Rays without a point are holes: sky, glass, shine, or cut away.
 */
final readonly class Raster
{
    /**
     * @param  list<int>  $cells  row * columns + column of each point, rising in the order the scanner swept or in any other
     */
    private function __construct(
        public int $columns,
        public int $rows,
        public array $cells,
    ) {
    }

    /** @param  array<int, int>  $cells */
    public static function of(int $columns, int $rows, array $cells): self
    {
        assert($columns > 0 && $rows > 0 && array_is_list($cells));
        assert($cells === [] || (min($cells) >= 0 && max($cells) < $columns * $rows));

        return new self($columns, $rows, $cells);
    }

    /** Share of the rays on which nothing came back. */
    public function empty(): float
    {
        return 1.0 - count(array_flip($this->cells)) / ($this->columns * $this->rows);
    }

    /** @return array<int, int> point of each ray, -1 where there is none */
    public function points(): array
    {
        $points = array_fill(0, $this->columns * $this->rows, -1);
        foreach ($this->cells as $i => $cell) {
            $points[$cell] = $i;
        }

        return $points;
    }

    /** The rays of the points whose byte in $mask is not zero. */
    public function kept(string $mask): self
    {
        $cells = [];
        foreach ($this->cells as $i => $cell) {
            if ($mask[$i] !== "\0") {
                $cells[] = $cell;
            }
        }

        return new self($this->columns, $this->rows, $cells);
    }
}
