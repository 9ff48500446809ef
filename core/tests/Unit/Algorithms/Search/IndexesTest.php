<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Search;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Mesh\TriangleMesh;
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
    public function thirty_thousand_points_in_one_place_cost_no_more_than_others(): void
    {
        // Squared, it would be a thousand million distances.
        $p = [...array_fill(0, 90_000, 0.0), ...(new Gen(2))->points(500, 50.0)];
        $grid = PointGrid::of($p);
        $spacing = $grid->neighbourhoods(17)['spacing'];
        $slot = array_flip($grid->order);
        self::assertSame(0.0, $spacing[$slot[7]]);
        self::assertGreaterThan(1.0, $spacing[$slot[30_300]]);
        self::assertSame(4, $grid->crowd(1.0, 4)[$slot[29_999]]);
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
    public function many_points_in_the_order_of_a_curve_find_what_each_finds_alone(): void
    {
        $mesh = MeshBuilder::icosphere(4, 2.0);
        $bvh = TriangleBvh::of($mesh->positions, $mesh->faces);
        // Near the surface, inside it, and far away: the last one found says little of the next.
        $gen = new Gen(21);
        $q = [...$gen->points(3000, 2.2), ...$gen->points(2000, 0.3), ...$gen->points(1000, 90.0)];
        foreach ([1e300, 1.5] as $limit) {
            $face = $distanceSq = [];
            $bvh->closest($q, $face, $distanceSq, $limit);
            for ($i = 0; $i < 6000; $i += 7) {
                $one = $itsDistanceSq = [];
                $bvh->closest(array_slice($q, 3 * $i, 3), $one, $itsDistanceSq, $limit);
                self::assertSame([$one[0] < 0, $itsDistanceSq[0]], [$face[$i] < 0, $distanceSq[$i]]);
            }
        }
        $bvh->closest([], $face, $distanceSq);
        self::assertSame([[], []], [$face, $distanceSq]);
    }

    #[Test]
    public function every_node_of_the_tree_of_triangles_bounds_what_is_below_it_and_names_its_axis(): void
    {
        $p = (new Gen(5))->points(900, 10.0);
        $bvh = TriangleBvh::of($p, range(0, 899));
        $below = function (int $node) use (&$below, $bvh, $p): array {
            $link = $bvh->link[$node];
            if ($link >= 0) {
                self::assertContains($link & 3, [0, 1, 2]);
                $triangles = [...$below($link >> 2), ...$below(($link >> 2) + 1)];
            } else {
                self::assertGreaterThan(0, -1 - $link & 7);
                $triangles = range(-1 - $link >> 3, (-1 - $link >> 3) + (-1 - $link & 7) - 1);
            }
            for ($axis = 0; $axis < 3; $axis++) {
                $at = array_merge(...array_map(fn (int $t) => [$p[$bvh->corners[3 * $t] + $axis], $p[$bvh->corners[3 * $t + 1] + $axis], $p[$bvh->corners[3 * $t + 2] + $axis]], $triangles));
                self::assertSame([min($at), max($at)], [$bvh->boxes[6 * $node + $axis], $bvh->boxes[6 * $node + 3 + $axis]]);
            }

            return $triangles;
        };
        self::assertSame(range(0, 299), $below(0), 'every triangle under the root, in leaf order');
    }

    #[Test]
    public function many_rays_in_the_order_of_their_entry_meet_what_each_meets_alone(): void
    {
        $bvh = TriangleBvh::of(MeshBuilder::icosphere(3, 2.0)->positions, MeshBuilder::icosphere(3, 2.0)->faces);
        $gen = new Gen(13);
        $rays = [];
        for ($i = 0; $i < 6000; $i++) {
            // From inside, from outside, and some straight along an axis.
            array_push($rays, ...$gen->points(1, $i % 3 === 0 ? 0.5 : 4.0), ...($i % 7 === 0 ? [0.0, 0.0, 1.0] : $gen->points(1)));
        }
        $face = $way = [];
        $bvh->firstAlong($rays, $face, $way);
        self::assertGreaterThan(2000, count(array_filter($face, fn (int $t) => $t >= 0)));
        for ($from = 0; $from < 6000; $from += 1000) {
            $few = $fewWay = [];
            $bvh->firstAlong(array_slice($rays, 6 * $from, 6000), $few, $fewWay);
            self::assertSame($few, array_slice($face, $from, 1000));
            self::assertSame($fewWay, array_slice($way, $from, 1000));
        }
        $bvh->firstAlong([], $face, $way);
        self::assertSame([[], []], [$face, $way]);
    }

    #[Test]
    public function rays_meet_the_face_that_brute_force_says(): void
    {
        $mesh = MeshBuilder::icosphere(3, 2.0);
        $gen = new Gen(12);
        $rays = [];
        for ($i = 0; $i < 300; $i++) {
            array_push($rays, ...$gen->points(1, 3.0), ...$gen->points(1));
        }
        // Straight along the axes, from within and from outside, and past it.
        array_push($rays, 0.01, 0.02, 0.0, 0.0, 0.0, 1.0, 0.01, 0.02, 5.0, 0.0, 0.0, -2.0, 3.0, 0.0, 0.0, 0.0, 1.0, 0.0);
        $face = $way = [];
        TriangleBvh::of($mesh->positions, $mesh->faces)->firstAlong($rays, $face, $way);
        $met = 0;
        for ($i = 0; $i < 303; $i++) {
            [$best, $which] = [INF, -1];
            for ($t = 0; $t < $mesh->faceCount(); $t++) {
                $along = $this->along($mesh, $t, array_slice($rays, 6 * $i, 3), array_slice($rays, 6 * $i + 3, 3));
                if ($along > 0.0 && $along < $best) {
                    [$best, $which] = [$along, $t];
                }
            }
            self::assertSame($which, $face[$i], "ray $i");
            self::assertEqualsWithDelta($best, $way[$i], 1e-9, "ray $i");
            $met += $which >= 0 ? 1 : 0;
        }
        self::assertGreaterThan(80, $met);
        self::assertSame(-1, $face[302], 'past it');
        self::assertEqualsWithDelta(1.5, $way[301], 0.02, 'counted in directions');
    }

    /**
     * How many directions from the origin the plane of a face is met, inside the face; INF where it is not.
     *
     * @param  array<int, float>  $origin
     * @param  array<int, float>  $direction
     */
    private function along(TriangleMesh $mesh, int $face, array $origin, array $direction): float
    {
        $corner = fn (int $k): array => array_slice($mesh->positions, 3 * $mesh->faces[3 * $face + $k], 3);
        [$a, $b, $c] = [$corner(0), $corner(1), $corner(2)];
        $minus = fn (array $u, array $v): array => [$u[0] - $v[0], $u[1] - $v[1], $u[2] - $v[2]];
        $volume = fn (array $u, array $v, array $w): float => $u[0] * ($v[1] * $w[2] - $v[2] * $w[1]) + $u[1] * ($v[2] * $w[0] - $v[0] * $w[2]) + $u[2] * ($v[0] * $w[1] - $v[1] * $w[0]);
        // Cramer's rule for origin + t direction = a + u (b - a) + v (c - a).
        [$e, $f, $d, $s] = [$minus($b, $a), $minus($c, $a), array_map(fn (float $x) => -$x, $direction), $minus($origin, $a)];
        $all = $volume($d, $e, $f);
        if ($all === 0.0) {
            return INF;
        }
        [$t, $u, $v] = [$volume($s, $e, $f) / $all, $volume($d, $s, $f) / $all, $volume($d, $e, $s) / $all];

        return $u >= 0.0 && $v >= 0.0 && $u + $v <= 1.0 ? $t : INF;
    }

    #[Test]
    public function a_thousand_faces_in_one_place_and_one_far_away_make_a_tree_too(): void
    {
        $p = [0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 1e6, 0.0, 0.0, 1e6, 1.0, 0.0, 1e6, 0.0, 1.0];
        $f = [...array_merge(...array_fill(0, 1000, [0, 1, 2])), 3, 4, 5];
        $tree = TriangleBvh::of($p, $f);
        self::assertSame(range(0, 1000), array_values(array_unique((function (array $order) {
            sort($order);

            return $order;
        })($tree->order))), 'every face once');
        $face = $distanceSq = [];
        $tree->closest([0.25, 0.25, 2.0, 1e6 - 3.0, 0.2, 0.2], $face, $distanceSq);
        self::assertEqualsWithDelta([4.0, 9.0], $distanceSq, 1e-9);
        self::assertSame(1000, $face[1]);
    }

    #[Test]
    public function the_median_is_the_middle_of_the_sorted(): void
    {
        $gen = new Gen(21);
        foreach ([1, 2, 3, 10, 999, 1000] as $n) {
            $values = [];
            for ($i = 0; $i < $n; $i++) {
                // Many that are equal among them.
                $values[] = (float) $gen->int(0, 40);
            }
            $sorted = $values;
            sort($sorted);
            self::assertSame($sorted[$n >> 1], Median::of($values), "$n values");
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
