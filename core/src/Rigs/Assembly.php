<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/** Parts where they belong, as one. */
final class Assembly implements Part
{
    /** @var list<Part> */
    private readonly array $parts;

    public function __construct(private readonly string $name, Part ...$parts)
    {
        $this->parts = array_values($parts);
    }

    public function name(): string
    {
        return $this->name;
    }

    public function distance(float $x, float $y, float $z): float
    {
        $nearest = INF;
        foreach ($this->parts as $part) {
            $d = $part->distance($x, $y, $z);
            if ($d < $nearest) {
                $nearest = $d;
            }
        }

        return $nearest;
    }

    public function bounds(): array
    {
        $bounds = array_map(fn (Part $part) => $part->bounds(), $this->parts);
        $corner = fn (int $end, callable $pick): array => [$pick(array_column(array_column($bounds, $end), 0)), $pick(array_column(array_column($bounds, $end), 1)), $pick(array_column(array_column($bounds, $end), 2))];

        return [$corner(0, min(...)), $corner(1, max(...))];
    }

    public function features(): array
    {
        $features = [];
        foreach ($this->parts as $part) {
            $features[$part->name()] = $part->features();
        }

        return $features;
    }
}
