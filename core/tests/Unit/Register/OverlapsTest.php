<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Register\Coarse\Overlaps;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** How passes hang together by what they have in common. */
final class OverlapsTest extends TestCase
{
    /** Two threes, 0 to 2 and 3 to 5, with a tenth in common by one pair. */
    private const PAIRS = [[0, 1], [1, 2], [0, 2], [3, 4], [4, 5], [2, 3]];

    private const SHARES = [0.5, 0.4, 0.3, 0.6, 0.2, 0.1];

    #[Test]
    public function the_weakest_tie_parts_the_threes_and_every_tie_parts_something(): void
    {
        self::assertSame(['share' => 0.1, 'one' => [0, 1, 2], 'other' => [3, 4, 5]], Overlaps::weakest(6, self::PAIRS, self::SHARES));
        $partings = Overlaps::partings(6, self::PAIRS, self::SHARES);
        self::assertSame([0.1, 0.2, 0.4, 0.5, 0.6], array_column($partings, 'share'), 'the tie of 0.3 is not needed');
        self::assertSame(['share' => 0.2, 'one' => [0, 1, 2, 3, 4], 'other' => [5]], $partings[1]);
        self::assertSame([], Overlaps::partings(7, self::PAIRS, self::SHARES), 'the seventh hangs on nothing');
        self::assertNull(Overlaps::weakest(7, self::PAIRS, self::SHARES));
    }

    /** Of any ties: the sides of a parting are all passes, hold each other in themselves, and no tie across is stronger than the one that was cut. */
    #[Test]
    public function a_parting_has_no_stronger_tie_across(): void
    {
        $gen = new Gen(11);
        for ($round = 0; $round < 50; $round++) {
            $n = $gen->int(2, 9);
            $pairs = $shares = [];
            for ($i = 1; $i < $n; $i++) {
                for ($j = 0; $j < $i; $j++) {
                    if ($j === $i - 1 || $gen->float(0.0, 1.0) < 0.4) {
                        $pairs[] = [$i, $j];
                        $shares[] = $gen->float(0.05, 1.0);
                    }
                }
            }
            $partings = Overlaps::partings($n, $pairs, $shares);
            self::assertCount($n - 1, $partings);
            foreach ($partings as ['share' => $cut, 'one' => $one, 'other' => $other]) {
                $both = [...$one, ...$other];
                sort($both);
                self::assertSame(range(0, $n - 1), $both);
                self::assertSame(0, $one[0]);
                foreach ($pairs as $k => [$i, $j]) {
                    if (in_array($i, $one, true) !== in_array($j, $one, true)) {
                        self::assertLessThanOrEqual($cut, $shares[$k]);
                    }
                }
            }
        }
    }

    #[Test]
    public function beyond_lie_those_that_no_chain_of_strong_ties_leads_to(): void
    {
        $mutual = array_fill(0, 6, []);
        foreach (self::PAIRS as $k => [$i, $j]) {
            $mutual[$i][$j] = $mutual[$j][$i] = self::SHARES[$k];
        }
        self::assertSame([], Overlaps::beyond($mutual, [0], 0.1));
        self::assertSame([3, 4, 5], Overlaps::beyond($mutual, [0], 0.15));
        self::assertSame([5], Overlaps::beyond($mutual, [0, 3], 0.25));
        self::assertSame([0, 1, 2, 5], Overlaps::beyond($mutual, [4], 0.55));
    }
}
