<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Linear;

use Emberstone\Core\Algorithms\Predicates\Orient3d;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class Orient3dTest extends TestCase
{
    /** @param  list<float>  $p  four points */
    private static function side(array $p): int
    {
        return Orient3d::side($p, 0, 3, 6, 9);
    }

    #[Test]
    public function a_point_above_below_and_in_a_plane(): void
    {
        $plane = [0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0];
        self::assertSame([-1, 1, 0], [self::side([...$plane, 0.2, 0.2, 1e-300]), self::side([...$plane, 0.2, 0.2, -1.0]), self::side([...$plane, 7.0, -3.0, 0.0])]);
        self::assertSame(0, self::side(array_fill(0, 12, 0.1)));
    }

    #[Test]
    public function it_agrees_with_integers_where_floating_point_does_not(): void
    {
        $gen = new Gen(7);
        $wrong = 0;
        for ($round = 0; $round < 3000; $round++) {
            // Long thin tetrahedra: c nearly on the line through a and b, d nearly in their plane; all sums fit into 63 bits.
            $u = [$gen->int(-40_000, 40_000), $gen->int(-40_000, 40_000), $gen->int(-40_000, 40_000)];
            $v = [$gen->int(-9, 9), $gen->int(-9, 9), $gen->int(-9, 9)];
            $a = [$gen->int(-90_000, 90_000), $gen->int(-90_000, 90_000), $gen->int(-90_000, 90_000)];
            [$b, $c, $d] = array_map(fn (int $i, int $j) => array_map(fn (int $k) => $a[$k] + $i * $u[$k] + $j * $v[$k], [0, 1, 2]), [3, 5, 7], [1, -2, 4]);
            $d[$gen->int(0, 2)] += $gen->int(-1, 1);
            [$x, $y, $z] = array_map(fn (array $q) => array_map(fn (int $k) => $q[$k] - $d[$k], [0, 1, 2]), [$a, $b, $c]);
            $exact = $x[2] * ($y[0] * $z[1] - $z[0] * $y[1]) + $y[2] * ($z[0] * $x[1] - $x[0] * $z[1]) + $z[2] * ($x[0] * $y[1] - $y[0] * $x[1]);
            self::assertIsInt($exact);
            // A power of two changes no digit.
            $p = array_map(fn (int $q) => $q / 1024.0, [...$a, ...$b, ...$c, ...$d]);
            self::assertSame($exact <=> 0, self::side($p));
            [$x, $y, $z] = array_map(fn (array $q) => array_map(fn (int $k) => 0.1 * $q[$k] - 0.1 * $d[$k], [0, 1, 2]), [$a, $b, $c]);
            $naive = $x[2] * ($y[0] * $z[1] - $z[0] * $y[1]) + $y[2] * ($z[0] * $x[1] - $x[0] * $z[1]) + $z[2] * ($x[0] * $y[1] - $y[0] * $x[1]);
            $wrong += ($naive <=> 0.0) === ($exact <=> 0) ? 0 : 1;
        }
        self::assertGreaterThan(100, $wrong, 'the cases are hard');
    }

    #[Test]
    public function the_last_digit_of_a_coordinate_decides(): void
    {
        $gen = new Gen(8);
        for ($round = 0; $round < 500; $round++) {
            $a = [$gen->int(-1000, 1000), $gen->int(-1000, 1000), $gen->int(-1000, 1000)];
            [$u, $v] = [[$gen->int(-1000, 1000), $gen->int(-1000, 1000), $gen->int(-1000, 1000)], [$gen->int(-1000, 1000), $gen->int(-1000, 1000), $gen->int(-1000, 1000)]];
            $up = $u[0] * $v[1] - $u[1] * $v[0];
            if ($up === 0) {
                continue;
            }
            // Far away in the plane, where doubles still hold whole numbers and 1/512.
            [$i, $j] = [$gen->int(1, 1 << 31), $gen->int(1, 1 << 31)];
            $d = array_map(fn (int $k) => (float) ($a[$k] + $i * $u[$k] + $j * $v[$k]), [0, 1, 2]);
            $plane = array_map(floatval(...), [...$a, ...array_map(fn (int $k) => $a[$k] + $u[$k], [0, 1, 2]), ...array_map(fn (int $k) => $a[$k] + $v[$k], [0, 1, 2])]);
            self::assertSame(0, self::side([...$plane, ...$d]));
            $least = 1.0 / 512.0;
            self::assertSame(-($up <=> 0), self::side([...$plane, $d[0], $d[1], $d[2] + $least]));
            self::assertSame($up <=> 0, self::side([...$plane, $d[0], $d[1], $d[2] - $least]));
        }
    }

    #[Test]
    public function turning_three_points_keeps_the_side_and_swapping_two_changes_it(): void
    {
        $gen = new Gen(9);
        for ($round = 0; $round < 500; $round++) {
            // Tenths are no doubles: what is nearly flat is decided by what rounding made of it.
            $p = array_map(fn () => $gen->int(-3, 3) * 0.1, range(1, 12));
            $side = self::side($p);
            self::assertSame([$side, $side, -$side, -$side], [Orient3d::side($p, 3, 6, 0, 9), Orient3d::side($p, 6, 0, 3, 9), Orient3d::side($p, 3, 0, 6, 9), Orient3d::side($p, 0, 3, 9, 6)]);
        }
    }
}
