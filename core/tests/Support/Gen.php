<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/** Seeded random values; a failing property prints its seed. */
final class Gen
{
    private readonly Randomizer $random;

    public function __construct(public readonly int $seed)
    {
        $this->random = new Randomizer(new Xoshiro256StarStar($seed));
    }

    /** How many seeds a property is tried with: some by day, all with bin/test --nightly. */
    public static function seeds(int $byDay, int $nightly): int
    {
        return getenv('EMBERSTONE_NIGHTLY') === '1' ? $nightly : $byDay;
    }

    public function int(int $min, int $max): int
    {
        return $this->random->getInt($min, $max);
    }

    public function float(float $min = 0.0, float $max = 1.0): float
    {
        return $min + ($max - $min) * $this->random->getInt(0, 1 << 52) / (1 << 52);
    }

    /** @return list<float> */
    public function points(int $count, float $size = 1.0): array
    {
        $p = [];
        for ($i = 0; $i < 3 * $count; $i++) {
            $p[] = $this->float(-$size, $size);
        }

        return $p;
    }

    /**
     * @template T
     *
     * @param  list<T>  $values
     * @return list<T> the same in any order
     */
    public function shuffled(array $values): array
    {
        return array_values($this->random->shuffleArray($values));
    }
}
