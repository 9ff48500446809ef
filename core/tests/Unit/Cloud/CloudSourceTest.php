<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Cloud;

use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Memory;
use Emberstone\Core\Cloud\CloudSource;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Cloud\Raster;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class CloudSourceTest extends TestCase
{
    protected function tearDown(): void
    {
        Memory::limit(0);
    }

    #[Test]
    public function what_was_put_on_disk_comes_back_to_the_last_bit(): void
    {
        $cloud = self::cloud(100);
        $source = CloudSource::onDisk($cloud);
        self::assertSame([100, true, true], [$source->count, $source->hasSensor, $source->hasConfidence]);
        self::assertEquals($cloud, $source->cloud());
        self::assertSame($cloud->positions, $source->cloud()->positions);

        $bare = PointCloud::fromFlat([1.0, 2.0, 1e6 / 3.0]);
        self::assertSame([1, false, false], [CloudSource::onDisk($bare)->count, CloudSource::onDisk($bare)->hasSensor, CloudSource::onDisk($bare)->hasConfidence]);
        self::assertEquals($bare, CloudSource::onDisk($bare)->cloud());
    }

    #[Test]
    public function a_cloud_is_read_once_while_somebody_holds_it_and_the_last_small_ones_stay(): void
    {
        $reads = 0;
        $source = CloudSource::readFrom(function () use (&$reads): PointCloud {
            $reads++;

            return self::cloud(10);
        }, 10, true, true);
        self::assertSame($source->cloud(), $source->cloud());
        self::assertSame(1, $reads);
    }

    #[Test]
    public function clouds_larger_than_the_budget_are_let_go(): void
    {
        Memory::limit(200);
        $source = CloudSource::readFrom(fn (): PointCloud => PointCloud::fromFlat(array_fill(0, 3_000_000, 1.0)), 1_000_000, false, false);
        $before = memory_get_usage();
        $source->cloud();
        self::assertLessThan(1e6, memory_get_usage() - $before, 'a million points take 48 MB, more than a tenth of the budget');
    }

    #[Test]
    public function a_change_is_made_when_the_points_are_asked_for(): void
    {
        $changes = 0;
        $rule = function (PointCloud $cloud) use (&$changes): PointCloud {
            $changes++;

            return $cloud->scaled(2.0);
        };
        $cloud = self::cloud(5);
        $onDisk = CloudSource::onDisk($cloud)->changed($rule);
        self::assertSame(0, $changes);
        self::assertSame($cloud->scaled(2.0)->positions, $onDisk->cloud()->positions);
        self::assertSame($cloud->scaled(2.0)->positions, CloudSource::of($cloud)->changed($rule)->cloud()->positions);
    }

    #[Test]
    public function processes_side_by_side_read_the_same(): void
    {
        $cloud = self::cloud(2000);
        $source = CloudSource::onDisk($cloud);
        $task = fn (): string => md5(serialize($source->cloud()->positions));
        self::assertSame(array_fill(0, 4, md5(serialize($cloud->positions))), Fork::map(array_fill(0, 4, $task), 4));
        // Those who ended took nothing away.
        self::assertSame($cloud->positions, $source->cloud()->positions);
    }

    #[Test]
    public function nothing_stays_on_disk_after_it(): void
    {
        $here = fn (): array => glob(sys_get_temp_dir().'/emberstone-scratch-'.getmypid().'-*') ?: [];
        $before = $here();
        $source = CloudSource::onDisk(self::cloud(3));
        self::assertCount(count($before) + 1, $here());
        $source->cloud();
        unset($source);
        self::assertSame($before, $here());
    }

    #[Test]
    public function a_blob_is_read_by_its_head_until_its_points_are_wanted(): void
    {
        $cloud = self::cloud(50);
        $path = (string) tempnam(sys_get_temp_dir(), 'blob');
        file_put_contents($path, Blob::encode($cloud));
        $source = Blob::source(fn () => $path);
        self::assertSame([50, true, true], [$source->count, $source->hasSensor, $source->hasConfidence]);
        self::assertEquals(Blob::decode((string) file_get_contents($path)), $source->cloud());
        unlink($path);
    }

    private static function cloud(int $points): PointCloud
    {
        $gen = new Gen(3);
        $p = array_map(fn () => $gen->float(-1e3, 1e3), range(1, 3 * $points));

        return PointCloud::fromFlat($p, array_fill(0, 3 * $points, 0.57735), range(1, $points), [1.0, 2.0, 1.0 / 3.0], array_map(fn () => $gen->float(0.0, 1.0), range(1, $points)), Raster::of($points, 2, range(0, $points - 1)));
    }
}
