<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Emberstone\Core\Rigs\Part;

/** A field stone that weighs down the pomace: lumps of several sizes, no two sides alike. */
final class WeightStone implements Part
{
    /** @var list<array{float, float, float, float}> centre and radius of each lump */
    private readonly array $lumps;

    public function __construct(int $seed = 5, float $size = 40.0)
    {
        $gen = new Gen($seed);
        $lumps = [[0.0, 0.0, $size, 0.75 * $size]];
        for ($k = 0; $k < 9; $k++) {
            $u = $gen->float(-1.0, 1.0);
            $turn = $gen->float(0.0, 2.0 * M_PI);
            $away = 0.62 * $size;
            $r = $size * $gen->float(0.14, 0.42);
            $lumps[] = [$away * sqrt(1.0 - $u * $u) * cos($turn), $away * sqrt(1.0 - $u * $u) * sin($turn), $size + $away * $u, $r];
        }
        $this->lumps = $lumps;
    }

    public function name(): string
    {
        return 'weight stone';
    }

    public function distance(float $x, float $y, float $z): float
    {
        $d = 1e300;
        foreach ($this->lumps as [$cx, $cy, $cz, $r]) {
            $e = sqrt(($x - $cx) ** 2 + ($y - $cy) ** 2 + ($z - $cz) ** 2) - $r;
            if ($e < $d) {
                $d = $e;
            }
        }

        return $d;
    }

    public function bounds(): array
    {
        $least = $most = [0.0, 0.0, 0.0];
        foreach ($this->lumps as $lump) {
            for ($k = 0; $k < 3; $k++) {
                $least[$k] = min($least[$k], $lump[$k] - $lump[3]);
                $most[$k] = max($most[$k], $lump[$k] + $lump[3]);
            }
        }

        return [$least, $most];
    }

    public function features(): array
    {
        return [];
    }
}
