<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Cutting;

use Emberstone\Core\Algorithms\Cutting\MeshBoolean;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\SlowCheck;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class MeshBooleanTest extends TestCase
{
    private const KINDS = [MeshBoolean::UNION, MeshBoolean::DIFFERENCE, MeshBoolean::INTERSECTION];

    private static function combined(TriangleMesh $one, TriangleMesh $two, string $kind): MeshBoolean
    {
        return MeshBoolean::of([$one->positions, $one->faces], [$two->positions, $two->faces], $kind);
    }

    private static function volume(MeshBoolean|TriangleMesh $of): float
    {
        return $of->faces === [] ? 0.0 : Measure::volume($of->positions, $of->faces);
    }

    private static function mesh(MeshBoolean $made): TriangleMesh
    {
        $mesh = TriangleMesh::fromFlat($made->positions, $made->faces);

        return $mesh->withFaces(range(0, $mesh->faceCount() - 1));
    }

    private static function assertSound(MeshBoolean $made, string $what): void
    {
        self::assertNull($made->trouble, $what);
        // Slivers whose area is next to nothing are what two surfaces that nearly meet leave; they are no fault of the arrangement.
        self::assertSame([], $made->faces === [] ? [] : array_diff_key(SlowCheck::faults(self::mesh($made)), ['degenerate' => 1]), $what);
    }

    /** @return list<TriangleMesh> */
    private static function shapes(): array
    {
        return [
            MeshBuilder::icosphere(2, 10.0), MeshBuilder::icosphere(1, 7.0), MeshBuilder::ring(14.0, 5.0, 24, 12), MeshBuilder::brick([20.0, 14.0, 6.0], 2), MeshBuilder::brick([10.0, 10.0, 10.0], 1),
            MeshBuilder::drilled([20.0, 14.0, 6.0], 5, [[1, 1], [3, 3]]), MeshBuilder::together(MeshBuilder::icosphere(1, 10.0), MeshBuilder::icosphere(1, 6.0)->transformed(RigidTransform::shift(19.0, 0.0, 0.0))),
        ];
    }

    /** @return iterable<string, array{int}> */
    public static function seeds(): iterable
    {
        foreach (range(1, 8) as $seed) {
            yield "seed $seed" => [$seed];
        }
    }

    #[Test]
    #[DataProvider('seeds')]
    public function bodies_anywhere_keep_the_laws_of_volumes_and_stay_closed_and_sound(int $seed): void
    {
        $gen = new Gen($seed);
        $shapes = self::shapes();
        $met = 0;
        for ($k = 0; $k < 4; $k++) {
            $one = $shapes[$gen->int(0, count($shapes) - 1)];
            $two = $shapes[$gen->int(0, count($shapes) - 1)];
            $turn = RigidTransform::turn([$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), 1.0], $gen->float(0.0, 3.0));
            $two = $two->transformed($turn->then(RigidTransform::shift($gen->float(-8.0, 8.0), $gen->float(-8.0, 8.0), $gen->float(-8.0, 8.0))));
            $met += $this->assertLaws($one, $two, "pair $k of seed $seed") ? 1 : 0;
        }
        self::assertGreaterThan(0, $met);
    }

    #[Test]
    #[DataProvider('seeds')]
    public function bodies_with_faces_edges_and_corners_on_each_other_keep_the_laws_too(int $seed): void
    {
        $gen = new Gen(100 + $seed);
        $bricks = [MeshBuilder::brick([8.0, 8.0, 8.0], 2), MeshBuilder::brick([16.0, 8.0, 4.0], 1), MeshBuilder::drilled([20.0, 20.0, 8.0], 5, [[1, 1], [3, 3]])];
        for ($k = 0; $k < 4; $k++) {
            $one = $bricks[$gen->int(0, 2)];
            $two = $bricks[$gen->int(0, 2)]->transformed(RigidTransform::shift((float) $gen->int(-4, 12), (float) $gen->int(-4, 12), (float) $gen->int(-4, 6)));
            $this->assertLaws($one, $two, "pair $k of seed $seed", true);
        }
    }

    /** @param  bool  $mayTouch  where bodies have an edge or a corner and nothing more in common, a result that is no surface is told as trouble */
    private function assertLaws(TriangleMesh $one, TriangleMesh $two, string $what, bool $mayTouch = false): bool
    {
        $volumes = [];
        foreach (self::KINDS as $kind) {
            $made = self::combined($one, $two, $kind);
            if ($mayTouch && $made->trouble !== null) {
                continue;
            }
            self::assertSound($made, "$kind of $what");
            $volumes[$kind] = self::volume($made);
            $met = $made->met;
        }
        $size = self::volume($one) + self::volume($two);
        if (isset($volumes['union'], $volumes['intersection'])) {
            self::assertEqualsWithDelta($size, $volumes['union'] + $volumes['intersection'], 1e-9 * $size, $what);
        }
        if (isset($volumes['difference'], $volumes['intersection'])) {
            self::assertEqualsWithDelta(self::volume($one), $volumes['difference'] + $volumes['intersection'], 1e-9 * $size, $what);
        }

        return $met ?? false;
    }

    #[Test]
    public function a_body_and_itself(): void
    {
        foreach (self::shapes() as $k => $shape) {
            self::assertSame([], self::combined($shape, $shape, MeshBoolean::DIFFERENCE)->faces, "shape $k");
            foreach ([MeshBoolean::UNION, MeshBoolean::INTERSECTION] as $kind) {
                $made = self::combined($shape, $shape, $kind);
                self::assertNull($made->trouble);
                self::assertSame($shape->faces, $made->faces, "$kind of shape $k");
            }
        }
    }

    #[Test]
    public function what_is_taken_off_and_put_back_makes_the_body_again(): void
    {
        [$brick, $ball] = [MeshBuilder::brick([20.0, 14.0, 6.0], 2), MeshBuilder::icosphere(2, 5.0)->transformed(RigidTransform::shift(9.3, 6.1, 4.2))];
        $rest = self::mesh(self::combined($brick, $ball, MeshBoolean::DIFFERENCE));
        $common = self::mesh(self::combined($brick, $ball, MeshBoolean::INTERSECTION));
        $whole = self::combined($rest, $common, MeshBoolean::UNION);
        self::assertNull($whole->trouble);
        self::assertEqualsWithDelta(1680.0, self::volume($whole), 1e-9 * 1680.0);
    }

    #[Test]
    public function two_boxes_that_share_part_of_a_side_become_one_solid_without_a_wall_between(): void
    {
        $made = self::combined(MeshBuilder::brick([10.0, 10.0, 10.0], 1), MeshBuilder::brick([4.0, 4.0, 4.0], 1)->transformed(RigidTransform::shift(10.0, 3.0, 3.0)), MeshBoolean::UNION);
        self::assertSound($made, 'boxes side by side');
        self::assertEqualsWithDelta(1064.0, self::volume($made), 1e-9);
        // Six sides of the large one, and all but one of the small one: the area of a side of it is new four times.
        self::assertEqualsWithDelta(600.0 + 4 * 16.0, array_sum(Measure::areas($made->positions, $made->faces)), 1e-9);
    }

    #[Test]
    public function a_body_within_another_becomes_a_hollow_and_a_nested_shell_counts(): void
    {
        [$ball, $core] = [MeshBuilder::icosphere(2, 10.0), MeshBuilder::icosphere(2, 4.0)];
        $hollow = self::combined($ball, $core, MeshBoolean::DIFFERENCE);
        self::assertFalse($hollow->met);
        self::assertEqualsWithDelta(self::volume($ball) - self::volume($core), self::volume($hollow), 1e-9);
        // A pin through the hollow: what lies in its middle is in the open.
        $pin = MeshBuilder::brick([30.0, 1.0, 1.0], 1)->transformed(RigidTransform::shift(-15.0, -0.4, -0.3));
        $common = self::combined($pin, self::mesh($hollow), MeshBoolean::INTERSECTION);
        self::assertSound($common, 'pin');
        self::assertLessThan(self::volume(self::combined($pin, $ball, MeshBoolean::INTERSECTION)) - 7.0, self::volume($common));
    }

    #[Test]
    public function the_order_and_a_common_motion_change_nothing(): void
    {
        [$ring, $brick] = [MeshBuilder::ring(14.0, 5.0, 24, 12), MeshBuilder::brick([20.0, 14.0, 6.0], 2)->transformed(RigidTransform::turn([0.2, 0.9, 0.4], 0.7))];
        $by = RigidTransform::turn([0.3, 0.5, -0.8], 1.1)->then(RigidTransform::shift(1000.0, -400.0, 77.0));
        foreach ([MeshBoolean::UNION, MeshBoolean::INTERSECTION] as $kind) {
            $here = self::volume(self::combined($ring, $brick, $kind));
            self::assertEqualsWithDelta($here, self::volume(self::combined($brick, $ring, $kind)), 1e-9 * $here);
            $there = self::combined($ring->transformed($by), $brick->transformed($by), $kind);
            self::assertNull($there->trouble);
            self::assertEqualsWithDelta($here, self::volume($there), 1e-8 * $here);
        }
    }

    #[Test]
    public function faces_that_do_not_meet_the_other_body_stay_as_they_were(): void
    {
        $ball = MeshBuilder::icosphere(3, 10.0);
        $made = self::combined($ball, MeshBuilder::brick([4.0, 4.0, 30.0], 1)->transformed(RigidTransform::shift(-2.1, -1.7, 0.0)), MeshBoolean::DIFFERENCE);
        $counts = array_count_values($made->source);
        $kept = 0;
        foreach ($made->source as $k => $t) {
            if ($t < $ball->faceCount() && $counts[$t] === 1 && array_slice($made->faces, 3 * $k, 3) === array_slice($ball->faces, 3 * $t, 3)) {
                $kept++;
            }
        }
        self::assertGreaterThan(0.9 * $ball->faceCount(), $kept);
        self::assertSame($ball->positions, array_slice($made->positions, 0, count($ball->positions)));
    }
}
