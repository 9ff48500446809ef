<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mesh;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class TopologyTest extends TestCase
{
    /** Two faces over a common edge 0-1. */
    private const PAIR = [0, 1, 2, 1, 0, 3];

    #[Test]
    public function two_faces_have_one_pair_of_twins_and_four_open_edges(): void
    {
        self::assertSame([3, -1, -1, 0, -1, -1], Topology::twins(self::PAIR));
    }

    #[Test]
    public function an_edge_of_three_faces_or_of_two_that_run_the_same_way_has_no_twins(): void
    {
        self::assertSame([-2, -1, -1, -2, -1, -1, -2, -1, -1], Topology::twins([0, 1, 2, 1, 0, 3, 0, 1, 4]));
        self::assertSame([-2, -1, -1, -2, -1, -1], Topology::twins([0, 1, 2, 0, 1, 3]));
    }

    #[Test]
    public function a_flip_turns_0_1_into_2_3_and_keeps_the_way_the_faces_look(): void
    {
        $f = self::PAIR;
        $twin = Topology::twins($f);
        Topology::flip($f, $twin, 0);
        self::assertSame([0, 3, 2, 3, 1, 2], $f);
        self::assertSame(Topology::twins($f), $twin);
    }

    #[Test]
    public function after_300_flips_anywhere_the_twins_are_those_of_the_faces(): void
    {
        foreach ([MeshBuilder::icosphere(2), MeshBuilder::without(MeshBuilder::icosphere(2), 0.3)] as $mesh) {
            $gen = new Gen(5);
            $f = $mesh->faces;
            $twin = Topology::twins($f);
            for ($k = 0; $k < 300; $k++) {
                $h = $gen->int(0, count($f) - 1);
                if ($twin[$h] < 0) {
                    continue;
                }
                $c = $h % 3 === 0 ? $h + 2 : $h - 1;
                $d = $f[$twin[$h] % 3 === 0 ? $twin[$h] + 2 : $twin[$h] - 1];
                $around = array_map(fn (int $g) => [$f[$g % 3 === 2 ? $g - 2 : $g + 1], $f[$g % 3 === 0 ? $g + 2 : $g - 1]], Topology::fan($twin, $c));
                if ($f[$c] !== $d && ! in_array($d, array_merge(...$around), true)) {
                    Topology::flip($f, $twin, $h);
                }
            }
            self::assertNotSame($mesh->faces, $f);
            self::assertSame(Topology::twins($f), $twin, "seed $gen->seed");
        }
    }

    #[Test]
    public function a_ball_without_its_caps_has_two_rims_one_piece_and_each_rim_runs_once(): void
    {
        $ball = MeshBuilder::icosphere(3);
        $keep = array_values(array_filter(range(0, $ball->faceCount() - 1), function (int $t) use ($ball): bool {
            $z = array_sum(array_map(fn (int $k) => $ball->positions[3 * $ball->faces[3 * $t + $k] + 2], [0, 1, 2])) / 3.0;

            return abs($z) < 0.7;
        }));
        $belt = $ball->withFaces($keep);
        $twin = Topology::twins($belt->faces);
        $rims = Topology::rims($belt->faces, $twin);
        self::assertCount(2, $rims);
        self::assertSame(count(array_keys($twin, -1, true)), array_sum(array_map(count(...), $rims)));
        foreach ($rims as $rim) {
            self::assertSame($rim, array_unique($rim));
            $sides = array_unique(array_map(fn (int $v) => $belt->positions[3 * $v + 2] > 0.0, $rim));
            self::assertCount(1, $sides, 'a rim stays on its end');
        }
        self::assertSame(1, Topology::pieces($twin)['count']);
    }

    #[Test]
    public function two_tents_that_share_their_tip_come_apart_there(): void
    {
        $p = [0.0, 0.0, 0.0, 1.0, 0.0, 1.0, 0.0, 1.0, 1.0, -1.0, 0.0, 1.0, 1.0, 0.0, -1.0, 0.0, 1.0, -1.0, -1.0, 0.0, -1.0];
        $f = [0, 1, 2, 0, 2, 3, 0, 5, 4, 0, 6, 5];
        $support = range(1, 7);
        self::assertSame(1, Topology::splitFans($p, $f, $support));
        self::assertCount(24, $p);
        self::assertSame([1, 2, 3, 4, 5, 6, 7, 1], $support);
        self::assertNotSame($f[0], $f[6]);
        self::assertSame([$f[0], $f[6]], [$f[3], $f[9]]);
        self::assertSame(2, Topology::pieces(Topology::twins($f))['count']);
    }

    #[Test]
    public function the_fan_of_a_vertex_inside_holds_all_its_corners_and_at_a_rim_too(): void
    {
        foreach ([MeshBuilder::icosphere(1), MeshBuilder::without(MeshBuilder::icosphere(2), 0.0)] as $mesh) {
            $twin = Topology::twins($mesh->faces);
            for ($v = 0; $v < $mesh->vertexCount(); $v++) {
                $corners = array_keys($mesh->faces, $v, true);
                if ($corners === []) {
                    continue;
                }
                $fan = Topology::fan($twin, $corners[intdiv(count($corners), 2)]);
                sort($fan);
                self::assertSame($corners, $fan);
            }
        }
    }
}
