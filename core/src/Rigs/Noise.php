<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Random\Engine\Xoshiro256StarStar;

/** Random numbers that are the same for the same seed, for scans that are simulated. */
final class Noise
{
    private readonly Xoshiro256StarStar $engine;

    private ?float $spare = null;

    public function __construct(int $seed)
    {
        $this->engine = new Xoshiro256StarStar($seed);
    }

    /** Evenly between 0 and 1. */
    public function even(): float
    {
        return ((unpack('P', $this->engine->generate()) ?: [1 => 0])[1] >> 11 & 0x1FFFFFFFFFFFFF) / 9007199254740992.0;
    }

    /** Normally distributed, mean 0, deviation 1 (Box & Muller 1958). */
    public function normal(): float
    {
        if ($this->spare !== null) {
            $value = $this->spare;
            $this->spare = null;

            return $value;
        }
        $r = sqrt(-2.0 * log(1.0 - $this->even()));
        $a = 2.0 * M_PI * $this->even();
        $this->spare = $r * sin($a);

        return $r * cos($a);
    }

    /** @return array{float, float, float} a unit vector in any direction */
    public function direction(): array
    {
        [$x, $y, $z] = [$this->normal(), $this->normal(), $this->normal()];
        $w = 1.0 / sqrt($x * $x + $y * $y + $z * $z);

        return [$x * $w, $y * $w, $z * $w];
    }
}
