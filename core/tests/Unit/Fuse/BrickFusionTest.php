<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Fuse;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Parallel\Memory;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Cloud\CloudSource;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Fuse\BrickFusion;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\HandheldRig;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class BrickFusionTest extends TestCase
{
    private const VOXEL = 2.0;

    protected function tearDown(): void
    {
        Memory::limit(0);
    }

    #[Test]
    public function one_brick_and_many_make_the_surface_that_the_whole_volume_makes(): void
    {
        $passes = self::passes();
        // 220 MB for two processes leave each brick some ten; 2 GB make one brick of all.
        [$many, $one] = array_map(fn (float $mb) => BrickFusion::surface($passes, self::VOXEL, 2.5 * self::VOXEL, 1.0, $mb, new NoProgress), [220.0, 2000.0]);
        self::assertSame($one['quads'], $many['quads']);
        self::assertSame($one['support'], $many['support']);
        $apart = max(array_map(fn (float $a, float $b) => abs($a - $b), $one['positions'], $many['positions']));
        self::assertLessThan(1e-9, $apart, 'rounding alone: the bricks reckon from corners of their own');

        $whole = (new Fuse)(new Workpiece($passes), new FuseParameters(self::VOXEL), new NoProgress)->workpiece->bodies[0]->geometry;
        // Less than the volume takes.
        Memory::limit(50);
        $inBricks = (new Fuse)(new Workpiece($passes), new FuseParameters(self::VOXEL), new NoProgress)->workpiece->bodies[0]->geometry;
        // Points of half a voxel count as one: near rims a face more or less, and vertices a hair aside.
        self::assertEqualsWithDelta($whole->faceCount(), $inBricks->faceCount(), 0.01 * $whole->faceCount());
        foreach ([[$whole, $inBricks], [$inBricks, $whole]] as [$a, $b]) {
            $face = $distanceSq = [];
            TriangleBvh::of($b->positions, $b->faces)->closest($a->positions, $face, $distanceSq);
            sort($distanceSq);
            self::assertLessThan(0.02 * self::VOXEL, sqrt($distanceSq[(int) (0.95 * count($distanceSq))]));
        }
    }

    #[Test]
    public function the_parts_meet_without_a_seam(): void
    {
        $surface = BrickFusion::surface(self::ball(20_000), 1.2, 3.0, 1.0, 210.0, new NoProgress);
        $mesh = Fuse::mesh($surface, $surface['positions'], new NoProgress);
        self::assertSame([], Topology::rims($mesh->faces, Topology::twins($mesh->faces)));
        self::assertSame(1, Topology::pieces(Topology::twins($mesh->faces))['count']);
        $volume = Inspection::of($mesh)->toArray()['volume'];
        self::assertEqualsWithDelta(4.0 / 3.0 * M_PI * 25.0 ** 3, $volume, 0.005 * $volume);
    }

    #[Test]
    public function lone_points_far_away_make_no_surface_and_strays_no_bricks(): void
    {
        [$pass] = self::ball(20_000);
        $cloud = $pass->cloud();
        $strays = [];
        for ($k = 0; $k < 20; $k++) {
            array_push($strays, 900.0 + 0.1 * ($k % 5), 0.1 * intdiv($k, 5), 0.0);
        }
        $with = Pass::of('ball', PointCloud::fromFlat([...$cloud->positions, ...$strays, 0.0, 8_000.0, 0.0], [...$cloud->normals, ...array_merge(...array_fill(0, 21, [0.0, 0.0, 1.0]))]));
        $surface = BrickFusion::surface([$with], 1.0, 2.5, 1.0, 2000.0, new NoProgress);
        self::assertNotSame([], $surface['quads']);
        self::assertLessThan(26.0, max(array_map(abs(...), $surface['positions'])));
    }

    #[Test]
    public function a_gap_is_closed_by_a_patch_and_that_is_said(): void
    {
        [$pass] = self::ball(20_000);
        $mask = '';
        for ($i = 0; $i < 20_000; $i++) {
            $mask .= $pass->cloud()->positions[3 * $i + 2] > 23.0 ? "\0" : "\1";
        }
        $cup = new Workpiece([$pass->narrowed($mask)]);
        Memory::limit(40);
        $result = (new Fuse)($cup, new FuseParameters(1.2, 'all'), new NoProgress);
        self::assertContains('The volume was too large to be held whole: gaps are closed by patches alone.', $result->notes);
        $closed = $result->workpiece->bodies[0]->geometry;
        self::assertSame([], Topology::rims($closed->faces, Topology::twins($closed->faces)));
        Memory::limit(0);
        self::assertNotContains('The volume was too large to be held whole: gaps are closed by patches alone.', (new Fuse)($cup, new FuseParameters(1.2, 'all'), new NoProgress)->notes);
    }

    #[Test]
    public function points_too_far_apart_for_the_voxel_are_told(): void
    {
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessageMatches('/up to 60 m apart: too far for a voxel of 0.02 mm/');
        BrickFusion::surface([Pass::of('far', PointCloud::fromFlat([0.0, 0.0, 0.0, 60_000.0, 0.0, 0.0]))], 0.02, 0.05, 1.0, 2000.0, new NoProgress);
    }

    /** @return list<Pass> six looks at the pedestal where they belong; two of them wait on disk */
    private static function passes(): array
    {
        $rig = new HandheldRig(width: 120, height: 90, table: false);
        $passes = [];
        for ($k = 0; $k < 6; $k++) {
            ['cloud' => $cloud, 'pose' => $pose] = $rig->capture(new BearingPedestal, $k, 3);
            $passes[] = new Pass("pass $k", "pass $k", $k < 2 ? CloudSource::onDisk($cloud) : $cloud, $pose);
        }

        return $passes;
    }

    /** @return list<Pass> a ball of 25 mm with its normals */
    private static function ball(int $points): array
    {
        $p = $n = [];
        for ($i = 0; $i < $points; $i++) {
            $z = 1.0 - (2.0 * $i + 1.0) / $points;
            $r = sqrt(1.0 - $z * $z);
            [$x, $y] = [$r * cos(2.39996323 * $i), $r * sin(2.39996323 * $i)];
            array_push($p, 25.0 * $x, 25.0 * $y, 25.0 * $z);
            array_push($n, $x, $y, $z);
        }

        return [Pass::of('ball', PointCloud::fromFlat($p, $n))];
    }
}
