<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Search;

use Emberstone\Core\Algorithms\Search\Visibility;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class VisibilityTest extends TestCase
{
    /** @return list<float> a square wall of points 1 apart, square to the axis, at a distance along it */
    private function wall(int $axis, float $away, int $half): array
    {
        $p = [];
        for ($i = -$half; $i <= $half; $i++) {
            for ($j = -$half; $j <= $half; $j++) {
                $q = [0.5 * $i, 0.5 * $j];
                array_splice($q, $axis, 0, [$away]);
                array_push($p, ...$q);
            }
        }

        return $p;
    }

    #[Test]
    #[TestWith([0, 100.0])]
    #[TestWith([0, -100.0])]
    #[TestWith([1, 100.0])]
    #[TestWith([1, -100.0])]
    #[TestWith([2, 100.0])]
    #[TestWith([2, -100.0])]
    public function what_stands_before_a_wall_that_was_seen_cannot_be_there(int $axis, float $away): void
    {
        $sight = Visibility::of($this->wall($axis, $away, 40), [0.0, 0.0, 0.0], 0.5);
        $inside = fn (float $at): array => $this->wall($axis, $at * $away, 20);
        self::assertSame(['agree' => 1681, 'before' => 0], $sight->judge($inside(1.0), 1.0), 'the wall itself');
        self::assertSame(['agree' => 0, 'before' => 1681], $sight->judge($inside(0.95), 1.0), 'five in front of it');
        self::assertSame(['agree' => 0, 'before' => 0], $sight->judge($inside(1.05), 1.0), 'behind it anything may be');
        self::assertSame(['agree' => 1681, 'before' => 0], $sight->judge($inside(0.995), 1.0), 'within the tolerance');
        self::assertSame(['agree' => 0, 'before' => 0], $sight->judge($inside(-1.0), 1.0), 'behind its back it saw nothing');
    }

    #[Test]
    public function the_rim_of_what_was_seen_accuses_nobody(): void
    {
        $sight = Visibility::of($this->wall(2, 100.0, 10), [0.0, 0.0, 0.0], 0.5);
        $verdict = $sight->judge([4.9, 4.9, 95.0, 20.0, 20.0, 95.0], 1.0);
        self::assertSame(['agree' => 0, 'before' => 0], $verdict);
    }
}
