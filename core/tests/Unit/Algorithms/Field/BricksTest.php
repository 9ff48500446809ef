<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Field;

use Emberstone\Core\Algorithms\Field\Bricks;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class BricksTest extends TestCase
{
    private const VOXEL = 0.5;

    #[Test]
    public function every_cell_near_a_point_is_owned_once_and_its_brick_has_all_points_around_it(): void
    {
        foreach (range(1, 6) as $seed) {
            $gen = new Gen($seed);
            // A bent sheet, and a lump aside.
            $p = [];
            for ($i = 0; $i < 3000; $i++) {
                [$u, $v] = [$gen->float(0.0, 60.0), $gen->float(0.0, 200.0)];
                array_push($p, $u, $v, $i % 10 === 0 ? 150.0 + $gen->float(0.0, 9.0) : 12.0 * sin($v / 20.0));
            }
            $corner = [-2.0, -2.0, -14.0];
            $blocks = Bricks::blocks($corner, [62.0, 202.0, 161.0], self::VOXEL);
            $counts = Bricks::counted($p, $blocks);
            self::assertSame(3000, array_sum($counts));
            $bricks = Bricks::of($counts, $blocks, $corner, self::VOXEL, 1.0, 5.0, $gen->float(300.0, 3000.0));
            self::assertGreaterThan(1, count($bricks->boxes));
            $shared = $bricks->shared($p);
            for ($try = 0; $try < 60; $try++) {
                // A cell within the reach of a point: 2.5 voxels.
                $o = 3 * $gen->int(0, 2999);
                $cell = [];
                for ($c = 0; $c < 3; $c++) {
                    $cell[] = $corner[$c] + self::VOXEL * floor(($p[$o + $c] + $gen->float(-2.5, 2.5) * self::VOXEL - $corner[$c]) / self::VOXEL);
                }
                $owners = array_keys(array_filter(array_map(fn (int $brick) => $bricks->names($cell, $brick)[1][0], array_keys($bricks->boxes))));
                self::assertCount(1, $owners);
                $names = array_unique(array_map(fn (int $brick) => $bricks->names($cell, $brick)[0][0], array_keys($bricks->boxes)));
                self::assertCount(1, $names, 'one name in all bricks');
                $has = array_flip($shared[$owners[0]]);
                for ($i = 0; $i < 3000; $i++) {
                    if (max(abs($p[3 * $i] - $cell[0]), abs($p[3 * $i + 1] - $cell[1]), abs($p[3 * $i + 2] - $cell[2])) < 5.0 * self::VOXEL) {
                        self::assertArrayHasKey($i, $has);
                    }
                }
            }
        }
    }

    #[Test]
    public function vertices_of_one_cell_are_told_apart(): void
    {
        $blocks = Bricks::blocks([0.0, 0.0, 0.0], [9.0, 9.0, 9.0], 1.0);
        $bricks = Bricks::of(Bricks::counted([1.0, 1.0, 1.0], $blocks), $blocks, [0.0, 0.0, 0.0], 1.0, 1.0, 1.0, 10.0);
        [$names] = $bricks->names([3.0, 4.0, 5.0, 3.0, 4.0, 5.0, 3.0, 4.0, 6.0], 0);
        self::assertCount(3, array_unique($names));
    }

    #[Test]
    public function blocks_far_from_others_with_few_points_go(): void
    {
        $sheet = [];
        for ($i = 0; $i < 400; $i++) {
            array_push($sheet, (float) ($i % 20), (float) intdiv($i, 20), 0.0);
        }
        $blocks = Bricks::blocks([0.0, 0.0, 0.0], [301.0, 20.0, 1.0], 0.5);
        $counts = Bricks::counted([...$sheet, 300.0, 0.0, 0.0, 300.5, 0.0, 0.0], $blocks);
        self::assertSame(400, array_sum(Bricks::withoutLone($counts, $blocks, 30)));
        self::assertEquals($counts, Bricks::withoutLone($counts, $blocks, 1));
    }
}
