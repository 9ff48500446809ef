<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/** A demo part: a signed distance (mm, negative inside) with features known exactly. */
interface Part
{
    public function name(): string;

    /** Never larger than the true distance outside the part, so that rays may step by it. */
    public function distance(float $x, float $y, float $z): float;

    /** @return array{array{float, float, float}, array{float, float, float}} least and greatest corner */
    public function bounds(): array;

    /** @return array<string, mixed> exact features, for truth.json */
    public function features(): array;
}
