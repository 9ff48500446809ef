<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mesh;

use Emberstone\Core\Algorithms\HalfEdge\DisjointSets;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

final class DisjointSetsTest extends TestCase
{
    #[Test]
    public function what_hangs_together_does_so_as_when_every_one_is_relabelled_with_every_pair(): void
    {
        for ($seed = 1; $seed <= 30; $seed++) {
            $random = new Randomizer(new Xoshiro256StarStar($seed));
            // Numbers with gaps between them, as those of vertices that were made up.
            $things = array_map(fn (int $k) => 3 * $k + 5, range(0, $random->getInt(1, 40)));
            $joined = new DisjointSets($things);
            $label = array_combine($things, $things);
            for ($k = $random->getInt(0, 30); $k > 0; $k--) {
                [$a, $b] = [$things[$random->getInt(0, count($things) - 1)], $things[$random->getInt(0, count($things) - 1)]];
                $joined->join($a, $b);
                $label = array_map(fn (int $of) => $of === $label[$b] ? $label[$a] : $of, $label);
            }
            foreach ($things as $a) {
                foreach ($things as $b) {
                    self::assertSame($label[$a] === $label[$b], $joined->of($a) === $joined->of($b), "seed $seed: $a and $b");
                }
            }
        }
        self::assertTrue($joined->has($things[0]));
        self::assertFalse($joined->has(4));
    }
}
