<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Fuse;

use Emberstone\Core\Algorithms\Field\Splat;
use Emberstone\Core\Algorithms\Field\Volume;
use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\Noise;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class FuseTest extends TestCase
{
    #[Test]
    public function every_pass_counts_in_the_support_however_many_there_are(): void
    {
        // A plate of 20 x 20 mm that 130 passes saw, the last five of them only in one corner.
        $passes = [];
        for ($k = 0; $k < 130; $k++) {
            $p = $n = [];
            $from = $k < 125 ? -10.0 : 5.0;
            for ($x = $from; $x <= 10.0; $x += 1.0) {
                for ($y = $from; $y <= 10.0; $y += 1.0) {
                    array_push($p, $x, $y, 0.001 * ($k % 7));
                    array_push($n, 0.0, 0.0, 1.0);
                }
            }
            $passes[] = Pass::of("pass $k", PointCloud::fromFlat($p, $n));
        }
        $mesh = (new Fuse)(new Workpiece($passes), new FuseParameters(2.0), new NoProgress)->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);
        $counts = array_map(Evidence::passes(...), $mesh->support);
        self::assertSame(130, max($counts));
        foreach ($counts as $v => $count) {
            if ($mesh->positions[3 * $v] < 0.0) {
                self::assertSame(125, $count);
            }
        }
    }

    /** A ball of radius 20 mm seen evenly from all sides. */
    private function ball(int $points, float $noiseMm, int $seed, bool $withNormals): Pass
    {
        $noise = new Noise($seed);
        $p = $n = [];
        for ($i = 0; $i < $points; $i++) {
            $d = $noise->direction();
            $r = 20.0 + $noiseMm * $noise->normal();
            array_push($p, $r * $d[0], $r * $d[1], $r * $d[2]);
            array_push($n, ...$d);
        }

        return Pass::of("ball $seed", PointCloud::fromFlat($p, $withNormals ? $n : []));
    }

    #[Test]
    #[TestWith([true])]
    #[TestWith([false])]
    public function three_noisy_passes_of_a_ball_become_one_closed_ball(bool $withNormals): void
    {
        $passes = [$this->ball(15000, 0.05, 1, $withNormals), $this->ball(15000, 0.05, 2, $withNormals), $this->ball(15000, 0.05, 3, $withNormals)];
        $result = (new Fuse)(new Workpiece($passes), new FuseParameters(1.0), new NoProgress);
        $mesh = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);
        $inspection = Inspection::of($mesh);
        self::assertTrue($inspection->closed);
        self::assertSame([1, 0], [$inspection->pieces, $inspection->genus]);
        self::assertEqualsWithDelta(4 / 3 * M_PI * 8000, $inspection->volume, 0.005 * 33510);
        $sum = 0.0;
        for ($o = 0, $n = count($mesh->positions); $o < $n; $o += 3) {
            $sum += (sqrt($mesh->positions[$o] ** 2 + $mesh->positions[$o + 1] ** 2 + $mesh->positions[$o + 2] ** 2) - 20.0) ** 2;
        }
        // The bound of the quality page: half the noise and 5 % of the voxel.
        self::assertLessThan(0.025 + 0.05, sqrt($sum / $mesh->vertexCount()));
        self::assertSame(3, max(array_map(Evidence::passes(...), $mesh->support)));
        $spreads = array_map(Evidence::spreadMm(...), $mesh->support);
        sort($spreads);
        self::assertEqualsWithDelta(0.05, $spreads[intdiv(count($spreads), 2)], 0.01, 'the noise of the points');
        self::assertGreaterThan(0.0, min(array_map(Evidence::weight(...), $mesh->support)));
    }

    #[Test]
    #[TestWith([1.0])]
    #[TestWith([2.0])]
    public function the_faces_are_foretold_within_a_third(float $voxel): void
    {
        // A ball lies across the lattice, a block along it.
        $noise = new Noise(3);
        $p = $n = [];
        for ($i = 0; $i < 60000; $i++) {
            $axis = $i % 3;
            $at = [30.0 * $noise->even(), 30.0 * $noise->even(), 30.0 * $noise->even()];
            $side = $noise->even() < 0.5 ? 0 : 1;
            $at[$axis] = 30.0 * $side;
            $normal = [0.0, 0.0, 0.0];
            $normal[$axis] = 2.0 * $side - 1.0;
            array_push($p, ...$at);
            array_push($n, ...$normal);
        }
        foreach ([$this->ball(60000, 0.0, 1, true), Pass::of('block', PointCloud::fromFlat($p, $n))] as $pass) {
            $workpiece = new Workpiece([$pass]);
            $said = (new Fuse)->estimate($workpiece, new FuseParameters($voxel))->faces;
            $made = (new Fuse)($workpiece, new FuseParameters($voxel), new NoProgress)->workpiece->faceCount();
            self::assertEqualsWithDelta(1.0, $said / $made, 0.33, $pass->name);
        }
    }

    #[Test]
    #[TestWith([0.15, '/from 0\.3 mm on\. The data give 0\.\d points a cell: expect holes and noise; [\d.]+ mm would suit them/'])]
    #[TestWith([0.8, '/from 1\.6 mm on\. The data give \d+ points a cell, which suits them/'])]
    #[TestWith([4.0, '/from 8 mm on\. The data give \d+ points a cell; they would bear [\d.]+ mm/'])]
    public function what_a_voxel_keeps_and_what_the_data_would_bear_is_said_beforehand(float $voxel, string $words): void
    {
        $workpiece = new Workpiece([$this->ball(20000, 0.0, 1, true)]);
        $advice = (string) (new Fuse)->estimate($workpiece, new FuseParameters($voxel))->advice;
        self::assertMatchesRegularExpression($words, $advice);
        if (preg_match('/([\d.]+) mm would suit|bear ([\d.]+) mm/', $advice, $found) === 1) {
            // What it recommends, it finds suitable.
            self::assertStringContainsString('which suits them', (string) (new Fuse)->estimate($workpiece, new FuseParameters((float) end($found)))->advice);
        }
    }

    #[Test]
    #[TestWith([3.0])]
    #[TestWith([0.6])]
    public function the_memory_is_foretold_within_a_third(float $voxel): void
    {
        $workpiece = new Workpiece([$this->ball(60000, 0.02, 1, true), $this->ball(60000, 0.02, 2, true)]);
        $foretold = (new Fuse)->estimate($workpiece, new FuseParameters($voxel))->memoryMb;
        gc_collect_cycles();
        $before = memory_get_usage();
        memory_reset_peak_usage();
        (new Fuse)($workpiece, new FuseParameters($voxel), new NoProgress);
        // A process that does nothing else takes some 20 MB with its points.
        $took = 20.0 + (memory_get_peak_usage() - $before) / 1e6;
        self::assertEqualsWithDelta(1.0, $foretold / $took, 0.33, sprintf('foretold %.0f MB, took %.0f', $foretold, $took));
    }

    #[Test]
    public function points_gathered_by_cells_leave_the_field_of_a_plane_as_it_was_and_tell_who_saw_it(): void
    {
        $gen = new Gen(5);
        [$p, $n] = [[], []];
        // A tilted plane, dense, seen by 61 passes: the last is alone in a set of its own.
        $normal = [0.6, 0.0, 0.8];
        $counts = [...array_fill(0, 60, 50), 500];
        for ($i = 0; $i < 3500; $i++) {
            [$u, $v] = [$gen->float(-4.0, 4.0), $gen->float(-4.0, 4.0)];
            array_push($p, 0.8 * $u, $v, -0.6 * $u);
            array_push($n, ...$normal);
        }
        $quality = array_map(fn () => $gen->float(0.2, 2.0), range(1, 3500));
        $box = BoundingBox::of($p);
        $volume = Volume::around($box->min, $box->max, 1.0);
        [$places, $normals, $weights, $bits, $ends] = Splat::gathered($volume, $p, $n, $quality, $counts);
        self::assertLessThan(1500, count($weights));
        self::assertCount(2, $ends);
        self::assertEqualsWithDelta(array_sum($quality), array_sum($weights), 1e-6);
        Splat::allocate($volume, $places, 2.5);
        [$distance, $sets] = Splat::slab($volume, $places, $normals, Splat::bends($volume, $places, $normals), $weights, $bits, $ends, 2.5, 0.03, 0, $volume->bx - 1);
        $seen = 0;
        foreach ($distance as $k => $d) {
            if ($sets[0][$k] === 0) {
                continue;
            }
            $t = $volume->blocks[$k >> 9];
            $x = $volume->x0 + 8 * intdiv($t, $volume->by * $volume->bz) + ($k & 7);
            $z = $volume->z0 + 8 * ($t % $volume->bz) + ($k >> 6 & 7);
            self::assertEqualsWithDelta(0.6 * $x + 0.8 * $z, $d, 1e-9);
            $seen |= $sets[0][$k];
        }
        // All sixty of the first set, and a bit that says: by the second set alone, if it is there.
        self::assertSame((1 << 60) - 1, $seen & ((1 << 60) - 1));
        self::assertContains(1, $sets[1]);
    }

    #[Test]
    public function strays_far_away_cost_nothing_and_change_nothing(): void
    {
        $ball = MeshBuilder::icosphere(5, 25.0);
        $fused = [];
        foreach ([[], [20_000.0, 0.0, 0.0, -3_000.0, 9_000.0, 14_000.0]] as $strays) {
            $cloud = PointCloud::fromFlat([...$ball->positions, ...$strays], [...array_map(fn (float $v) => $v / 25.0, $ball->positions), ...array_fill(0, count($strays), 0.57735)]);
            $workpiece = new Workpiece([Pass::of('ball', $cloud)]);
            $foretold = (new Fuse)->estimate($workpiece, new FuseParameters(1.0));
            self::assertLessThan(150.0, $foretold->memoryMb);
            memory_reset_peak_usage();
            $before = memory_get_usage();
            $fused[] = (new Fuse)($workpiece, new FuseParameters(1.0), new NoProgress)->workpiece->bodies[0]->geometry;
            self::assertLessThan(150e6, memory_get_peak_usage() - $before);
        }
        self::assertEqualsWithDelta($fused[0]->faceCount(), $fused[1]->faceCount(), 0.01 * $fused[0]->faceCount());
        self::assertLessThan(26.5, max($fused[1]->positions));
    }

    #[Test]
    public function a_voxel_too_small_for_memory_is_refused_with_the_smallest_that_fits(): void
    {
        $workpiece = new Workpiece([$this->ball(2000, 0.0, 1, true)]);
        try {
            (new Fuse)($workpiece, new FuseParameters(0.001), new NoProgress);
            self::fail('a surface of billions of faces was made');
        } catch (UnsuitableInput $refusal) {
            self::assertSame(1, preg_match('/the smallest that fits here is ([\d.]+) mm/', $refusal->getMessage(), $found), $refusal->getMessage());
            self::assertNull((new Fuse)->estimate($workpiece, new FuseParameters((float) $found[1]))->refusal, 'what is named fits');
        }
    }

    #[Test]
    #[TestWith([1])]
    #[TestWith([3])]
    #[TestWith([40])]
    public function into_however_many_slabs_the_volume_is_cut_each_voxel_has_the_same_distance(int $many): void
    {
        $gen = new Gen(11);
        $p = $n = [];
        foreach (array_chunk($gen->points(3000), 3) as $at) {
            $way = Vector3::scaled($at, 1.0 / Vector3::length($at));
            array_push($p, ...Vector3::scaled($way, 8.0));
            array_push($n, ...$way);
        }
        $box = BoundingBox::of($p);
        $volume = Volume::around($box->min, $box->max, 0.7);
        Splat::allocate($volume, $p, 1.75);
        $slabs = Splat::slabs($volume, $many);
        self::assertLessThanOrEqual($many, count($slabs));
        $distance = $seen = [];
        foreach ($slabs as [$from, $to]) {
            [$its, [$by]] = Splat::slab($volume, $p, $n, array_fill(0, 3000, 0.0), array_fill(0, 3000, 1.0), ...[...Splat::sets([1000, 0, 1400, 600]), 1.75, 0.03, $from, $to]);
            array_push($distance, ...$its);
            array_push($seen, ...$by);
        }
        self::assertCount(512 * count($volume->blocks), $distance);
        // One voxel after the other, by the definition.
        for ($k = 0; $k < count($distance); $k += 97) {
            $t = $volume->blocks[$k >> 9];
            $x = $volume->x0 + 0.7 * (8 * intdiv($t, $volume->by * $volume->bz) + ($k & 7));
            $y = $volume->y0 + 0.7 * (8 * (intdiv($t, $volume->bz) % $volume->by) + ($k >> 3 & 7));
            $z = $volume->z0 + 0.7 * (8 * ($t % $volume->bz) + ($k >> 6 & 7));
            $sum = $weights = 0.0;
            $bits = 0;
            for ($i = 0; $i < 3000; $i++) {
                $off = [$x - $p[3 * $i], $y - $p[3 * $i + 1], $z - $p[3 * $i + 2]];
                $w = max(0.0, 1.0 - Vector3::dot($off, $off) / 1.75 ** 2) ** 3;
                $sum += $w * Vector3::dot($off, array_slice($n, 3 * $i, 3));
                $weights += $w;
                $bits |= $w > 0.0 ? [1, 4, 8][$i < 1000 ? 0 : ($i < 2400 ? 1 : 2)] : 0;
            }
            self::assertSame($weights > 0.03 ? $bits : 0, $seen[$k]);
            if ($weights > 0.03) {
                self::assertEqualsWithDelta($sum / $weights, $distance[$k], 1e-9);
            }
        }
    }
}
