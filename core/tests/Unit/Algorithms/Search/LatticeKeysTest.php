<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Search;

use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class LatticeKeysTest extends TestCase
{
    #[Test]
    #[TestWith([1, 0.3])]
    #[TestWith([2, 2.5])]
    #[TestWith([3, 500.0])]
    public function cubes_have_one_name_each_and_neighbours_are_a_sum_away(int $seed, float $cell): void
    {
        $gen = new Gen($seed);
        $p = $gen->points(3000, 20.0);
        $names = LatticeKeys::of($p, $cell);
        [$x0, $y0, $z0] = [min(array_map(fn (int $k) => $p[3 * $k], range(0, 2999))), min(array_map(fn (int $k) => $p[3 * $k + 1], range(0, 2999))), min(array_map(fn (int $k) => $p[3 * $k + 2], range(0, 2999)))];
        $known = $cubes = [];
        for ($o = 0; $o < 9000; $o += 3) {
            // The lattice begins a cube before the box.
            $at = [(int) (($p[$o] - ($x0 - $cell)) * (1.0 / $cell)), (int) (($p[$o + 1] - ($y0 - $cell)) * (1.0 / $cell)), (int) (($p[$o + 2] - ($z0 - $cell)) * (1.0 / $cell))];
            $name = $names->at($p[$o], $p[$o + 1], $p[$o + 2]);
            $key = implode(' ', $at);
            self::assertSame($known[$key] ?? $name, $name);
            self::assertSame($cubes[$name] ?? $key, $key, 'no name twice');
            $known[$key] = $name;
            $cubes[$name] = $key;
        }
        foreach ($known as $key => $name) {
            [$x, $y, $z] = array_map(intval(...), explode(' ', (string) $key));
            foreach ([[1, 0, 0, $names->layer], [0, 1, 0, $names->row], [0, 0, 1, 1], [-1, 1, 0, $names->row - $names->layer]] as [$dx, $dy, $dz, $step]) {
                $there = ($x + $dx).' '.($y + $dy).' '.($z + $dz);
                if (isset($known[$there])) {
                    self::assertSame($known[$there], $name + $step);
                } else {
                    self::assertArrayNotHasKey($name + $step, $cubes, 'nor anyone else there');
                }
            }
        }
    }
}
