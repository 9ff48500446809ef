<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Linear;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Linear\SparseCholesky;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class SparseCholeskyTest extends TestCase
{
    /**
     * A square of nodes that are bound to some of their neighbours, and a little to the ground.
     *
     * @return array{list<array<int, float>>, list<array{float, float, float}>}
     */
    private function net(Gen $gen, int $side): array
    {
        $rows = array_fill(0, $side * $side, []);
        $places = [];
        for ($k = 0; $k < $side * $side; $k++) {
            $rows[$k][$k] = ($rows[$k][$k] ?? 0.0) + $gen->float(0.01, 0.2);
            $places[] = [(float) ($k % $side), (float) intdiv($k, $side), $gen->float()];
            foreach ([$k % $side < $side - 1 ? $k + 1 : null, $k + $side < $side * $side ? $k + $side : null, $gen->int(0, $side * $side - 1)] as $other) {
                if ($other === null || $other === $k) {
                    continue;
                }
                $w = $gen->float(0.1, 3.0);
                foreach ([[$k, $other], [$other, $k]] as [$i, $j]) {
                    $rows[$i][$i] = ($rows[$i][$i] ?? 0.0) + $w;
                    $rows[$i][$j] = ($rows[$i][$j] ?? 0.0) - $w;
                }
            }
        }

        return [$rows, $places];
    }

    #[Test]
    #[TestWith([1, 3])]
    #[TestWith([2, 7])]
    #[TestWith([3, 11])]
    public function it_finds_what_elimination_finds(int $seed, int $side): void
    {
        $gen = new Gen($seed);
        [$rows, $places] = $this->net($gen, $side);
        $n = $side * $side;
        $right = $gen->points($n);
        $dense = array_fill(0, $n * $n, 0.0);
        foreach ($rows as $i => $row) {
            foreach ($row as $j => $v) {
                $dense[$n * $i + $j] = $v;
            }
        }
        $x = SparseCholesky::solve($rows, $right, 3, $places, fn () => null);
        self::assertNotNull($x);
        for ($c = 0; $c < 3; $c++) {
            $truth = Dense::solve($dense, array_map(fn (int $i) => $right[3 * $i + $c], range(0, $n - 1)), $n);
            self::assertNotNull($truth);
            foreach ($truth as $i => $v) {
                self::assertEqualsWithDelta($v, $x[3 * $i + $c], 1e-9 * max(1.0, abs($v)));
            }
        }
    }

    #[Test]
    public function a_large_system_leaves_next_to_no_residual_and_can_be_stopped(): void
    {
        $gen = new Gen(8);
        [$rows, $places] = $this->net($gen, 40);
        $right = array_fill(0, 1600, 1.0);
        $x = SparseCholesky::solve($rows, $right, 1, $places, fn () => null);
        self::assertNotNull($x);
        foreach ($rows as $i => $row) {
            $sum = 0.0;
            foreach ($row as $j => $v) {
                $sum += $v * $x[$j];
            }
            self::assertEqualsWithDelta(1.0, $sum, 1e-8);
        }
        $this->expectExceptionMessage('enough');
        SparseCholesky::solve($rows, $right, 1, $places, fn () => throw new \RuntimeException('enough'));
    }

    #[Test]
    public function what_is_not_positive_definite_has_no_answer(): void
    {
        self::assertNull(SparseCholesky::solve([[0 => 1.0, 1 => 2.0], [0 => 2.0, 1 => 1.0]], [1.0, 1.0], 1, [[0.0, 0.0, 0.0], [1.0, 0.0, 0.0]], fn () => null));
        self::assertSame([2.5], SparseCholesky::solve([[0 => 2.0]], [5.0], 1, [[0.0, 0.0, 0.0]], fn () => null));
    }

    #[Test]
    public function unknowns_all_in_one_place_are_solved_too(): void
    {
        [$rows] = $this->net(new Gen(4), 12);
        $x = SparseCholesky::solve($rows, array_fill(0, 144, 1.0), 1, array_fill(0, 144, [0.0, 0.0, 0.0]), fn () => null);
        self::assertNotNull($x);
        self::assertEqualsWithDelta(1.0, array_sum(array_map(fn (int $j) => $rows[5][$j] * $x[$j], array_keys($rows[5]))), 1e-9);
    }
}
