<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/** The middle of a part, and the radius of the ball around it that holds all of it. */
final readonly class Extent
{
    /** @param  array{float, float, float}  $centre */
    private function __construct(public array $centre, public float $reach)
    {
    }

    public static function of(Part $part): self
    {
        [$min, $max] = $part->bounds();

        return new self(
            [0.5 * ($min[0] + $max[0]), 0.5 * ($min[1] + $max[1]), 0.5 * ($min[2] + $max[2])],
            0.5 * sqrt(($max[0] - $min[0]) ** 2 + ($max[1] - $min[1]) ** 2 + ($max[2] - $min[2]) ** 2),
        );
    }
}
