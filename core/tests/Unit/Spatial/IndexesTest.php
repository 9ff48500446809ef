<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Spatial;

use Emberstone\Core\Spatial\KdTree;
use Emberstone\Core\Spatial\PointGrid;
use Emberstone\Core\Spatial\TriangleBvh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class IndexesTest extends TestCase
{
    #[Test]
    #[TestWith([1])]
    #[TestWith([7])]
    #[TestWith([500])]
    public function the_kd_tree_finds_what_brute_force_finds(int $count): void
    {
        $gen = new Gen($count);
        $p = $gen->points($count);
        $q = $gen->points(60, 1.5);
        $tree = KdTree::of($p);
        $nearest = $distanceSq = [];
        $tree->nearest($q, 10.0, $nearest, $distanceSq);
        for ($i = 0; $i < 60; $i++) {
            $best = INF;
            for ($o = 0; $o < 3 * $count; $o += 3) {
                $best = min($best, ($p[$o] - $q[3 * $i]) ** 2 + ($p[$o + 1] - $q[3 * $i + 1]) ** 2 + ($p[$o + 2] - $q[3 * $i + 2]) ** 2);
            }
            self::assertEqualsWithDelta($best, $distanceSq[$i], 1e-15);
        }
    }

    #[Test]
    public function the_kd_tree_finds_nothing_beyond_the_limit(): void
    {
        $nearest = $distanceSq = [];
        KdTree::of([0.0, 0.0, 0.0])->nearest([0.0, 0.0, 2.0], 1.0, $nearest, $distanceSq);
        self::assertSame([-1], $nearest);
    }

    #[Test]
    public function points_far_from_all_others_have_exact_neighbours_too(): void
    {
        $p = [...(new Gen(4))->points(400), 900.0, 0.0, 0.0, 0.0, -3000.0, 1.0];
        $grid = PointGrid::of($p, 0.02);
        $slot = array_flip($grid->order);
        $all = $grid->neighbourhoods(4)['spacing'];
        foreach ([400, 401] as $i) {
            $d = [];
            for ($j = 0; $j < 402; $j++) {
                $d[] = sqrt(($p[3 * $i] - $p[3 * $j]) ** 2 + ($p[3 * $i + 1] - $p[3 * $j + 1]) ** 2 + ($p[3 * $i + 2] - $p[3 * $j + 2]) ** 2);
            }
            sort($d);
            self::assertEqualsWithDelta(($d[1] + $d[2] + $d[3]) / 3, $all[$slot[$i]], 1e-9);
        }
        self::assertSame([$all[7], $all[3]], $grid->neighbourhoods(4, [7, 3])['spacing'], 'chosen points only');
    }

    #[Test]
    public function mean_neighbour_distances_equal_brute_force(): void
    {
        $p = (new Gen(3))->points(300);
        $grid = PointGrid::of($p);
        $slot = array_flip($grid->order);
        $spacing = $grid->neighbourhoods(5)['spacing'];
        for ($i = 0; $i < 300; $i += 7) {
            $d = [];
            for ($j = 0; $j < 300; $j++) {
                $d[] = sqrt(($p[3 * $i] - $p[3 * $j]) ** 2 + ($p[3 * $i + 1] - $p[3 * $j + 1]) ** 2 + ($p[3 * $i + 2] - $p[3 * $j + 2]) ** 2);
            }
            sort($d);
            self::assertEqualsWithDelta(($d[1] + $d[2] + $d[3] + $d[4]) / 4, $spacing[$slot[$i]], 1e-12);
        }
    }

    #[Test]
    public function normals_of_a_plane_are_its_normal(): void
    {
        $gen = new Gen(5);
        $p = [];
        for ($i = 0; $i < 400; $i++) {
            [$x, $y] = [$gen->float(), $gen->float()];
            array_push($p, $x, $y, 0.5 * $x - 0.25 * $y);
        }
        $normals = PointGrid::of($p)->neighbourhoods(12)['normals'];
        $l = sqrt(0.5 ** 2 + 0.25 ** 2 + 1);
        for ($o = 0; $o < 1200; $o += 3) {
            self::assertEqualsWithDelta(1.0, abs(-0.5 * $normals[$o] + 0.25 * $normals[$o + 1] + $normals[$o + 2]) / $l, 1e-9);
        }
    }

    #[Test]
    public function the_closest_point_on_a_sphere_is_its_radius_away(): void
    {
        $mesh = MeshBuilder::icosphere(4, 2.0);
        $q = (new Gen(9))->points(200, 6.0);
        $face = $distanceSq = [];
        TriangleBvh::of($mesh->positions, $mesh->faces)->closest($q, $face, $distanceSq);
        foreach ($distanceSq as $i => $d) {
            $r = sqrt($q[3 * $i] ** 2 + $q[3 * $i + 1] ** 2 + $q[3 * $i + 2] ** 2);
            self::assertEqualsWithDelta(abs($r - 2.0), sqrt($d), 0.004);
        }
    }

    #[Test]
    public function triangles_without_area_are_no_obstacle(): void
    {
        $face = $distanceSq = [];
        TriangleBvh::of([0.0, 0.0, 0.0, 1.0, 0.0, 0.0], [0, 1, 1, 0, 0, 0])->closest([0.5, 1.0, 0.0], $face, $distanceSq);
        self::assertEqualsWithDelta(1.0, $distanceSq[0], 1e-12);
    }
}
