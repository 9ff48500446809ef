<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Algorithms\Icp\DescriptorMatching;
use Emberstone\Core\Algorithms\Icp\FpfhDescriptors;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Who looks most like whom, against looking at all of them. */
final class DescriptorMatchingTest extends TestCase
{
    #[Test]
    public function the_three_most_alike_are_those_that_a_look_at_all_finds(): void
    {
        for ($seed = 1; $seed <= 20; $seed++) {
            $gen = new Gen($seed);
            [$here, $there] = array_map(fn (int $many) => array_map(fn () => $gen->float(0.0, 1.0) ** 3, range(1, FpfhDescriptors::BINS * $many)), [$gen->int(1, 60), $gen->int(1, 80)]);
            $expected = [];
            foreach (array_chunk($here, FpfhDescriptors::BINS) as $a) {
                $distances = array_map(fn (array $b) => array_sum(array_map(fn (float $x, float $y) => ($x - $y) ** 2, $a, $b)), array_chunk($there, FpfhDescriptors::BINS));
                asort($distances);
                array_push($expected, ...array_pad(array_slice(array_keys($distances), 0, DescriptorMatching::ALIKE), DescriptorMatching::ALIKE, -1));
            }
            [$a, $b] = DescriptorMatching::of([$here, $there]);
            self::assertSame($expected, $a->mostLike($b), "seed $seed");
        }
        [$none, $nobody] = DescriptorMatching::of([[], []]);
        self::assertSame([], $none->mostLike($nobody));
    }
}
