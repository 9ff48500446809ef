<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Capture;

use Emberstone\Core\Capture\Coverage;
use Emberstone\Core\Capture\Frame;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Sweeps;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\LiveScan;
use Emberstone\Core\Rigs\MarkerDots;
use Emberstone\Core\Rigs\Surface;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Frames of a live capture: over the wire, counted into coverage, laid together into passes; and the simulated scanners that deliver them. */
final class CaptureTest extends TestCase
{
    private static function frame(int $sweep = 0, float $x = 0.0): Frame
    {
        return new Frame($sweep, RigidTransform::shift(10.0 + $x, 0.0, 5.0), PointCloud::fromFlat([1.0, 0.0, 0.0, 1.5, 0.0, 0.0, 1.0, 0.5, 0.0, 1.5, 0.5, 0.0], [], [], [0.0, 0.0, 0.0]));
    }

    #[Test]
    public function a_frame_comes_back_from_its_bytes(): void
    {
        $frame = Frame::decode(self::frame(3)->encode());
        self::assertSame([3, false, 4], [$frame->sweep, $frame->lost, $frame->cloud->count()]);
        self::assertEqualsWithDelta([11.0, 0.0, 5.0], array_slice($frame->placed()->positions, 0, 3), 1e-6);
        self::assertEqualsWithDelta([10.0, 0.0, 5.0], $frame->placed()->sensorOrigin, 1e-12);
        $lost = Frame::decode((new Frame(1, RigidTransform::identity(), PointCloud::fromFlat([]), true))->encode());
        self::assertSame([true, 0], [$lost->lost, $lost->cloud->count()]);
    }

    /** @return iterable<string, array{string, string}> bytes, why */
    public static function badFrames(): iterable
    {
        $good = self::frame()->encode();
        yield 'nothing' => ['', 'version'];
        yield 'noise' => [str_repeat('x', 200), 'version'];
        yield 'a cloud that is no frame' => [Blob::encode(self::frame()->cloud), 'needs "frame"'];
        yield 'cut off' => [substr($good, 0, -20), 'do not fit'];
        yield 'more points than bytes' => [str_replace('"points":4', '"points":9', $good), 'do not fit'];
        yield 'a pose of words' => [Blob::encode(self::frame()->cloud, ['frame' => ['sweep' => 0, 'pose' => array_fill(0, 16, 'a'), 'lost' => false]]), 'no number'];
        yield 'a negative sweep' => [Blob::encode(self::frame()->cloud, ['frame' => ['sweep' => -1, 'pose' => array_fill(0, 16, 1.0), 'lost' => false]]), 'sweep'];
        yield 'what is no number' => [substr($good, 0, -8).pack('g2', NAN, NAN), 'finite'];
    }

    #[Test]
    #[DataProvider('badFrames')]
    public function a_damaged_frame_is_refused_with_what_is_wrong(string $bytes, string $why): void
    {
        $this->expectException(UnreadableFile::class);
        $this->expectExceptionMessage($why);
        Frame::decode($bytes);
    }

    #[Test]
    public function coverage_counts_points_by_cell_and_survives_being_put_away(): void
    {
        $plate = [];
        for ($i = 0; $i < 40; $i++) {
            for ($j = 0; $j < 40; $j++) {
                array_push($plate, 0.5 * $i, 0.5 * $j, 0.0);
            }
        }
        $once = Coverage::empty();
        $once->add(PointCloud::fromFlat($plate));
        self::assertEqualsWithDelta(1.4, $once->figures()['cellMm'], 1e-9, '2.8 spacings');
        self::assertSame(0.0, $once->figures()['dense']);
        $put = Coverage::fromBytes($once->toBytes());
        self::assertSame([$once->cells()->positions, $once->cells()->confidence], [$put->cells()->positions, $put->cells()->confidence]);
        foreach ([$once, $put] as $coverage) {
            $coverage->add(PointCloud::fromFlat($plate));
            $coverage->add(PointCloud::fromFlat($plate));
        }
        self::assertSame($once->figures(), $put->figures());
        self::assertSame(3.0 * 1600, array_sum($put->cells()->confidence));
        self::assertGreaterThan(0.4, $put->figures()['dense']);
        self::assertSame(0, Coverage::empty()->figures()['cells']);
        self::assertSame(0, Coverage::fromBytes(Coverage::empty()->toBytes())->cells()->count());
    }

    #[Test]
    public function frames_of_a_sweep_become_one_pass_seen_from_the_middle_and_lost_ones_none(): void
    {
        $sweeps = Sweeps::of([self::frame(2, 0.0), new Frame(2, RigidTransform::shift(99.0, 0.0, 0.0), PointCloud::fromFlat([]), true), self::frame(2, 4.0), self::frame(0)], new NoProgress);
        self::assertSame([0, 2], array_keys($sweeps));
        self::assertSame(8, $sweeps[2]['cloud']->count());
        self::assertEqualsWithDelta([12.0, 0.0, 5.0], $sweeps[2]['cloud']->sensorOrigin, 1e-12);
        self::assertNull($sweeps[2]['fit']->residual, 'four points tie no frame to another');
    }

    private static function lost(LiveScan $scan, int $frames = 4): int
    {
        $lost = 0;
        for ($k = 0; $k < $frames; $k++) {
            $lost += $scan->next()?->lost ? 1 : 0;
        }

        return $lost;
    }

    #[Test]
    public function tracking_is_lost_on_a_round_bush_unless_dots_are_glued_on_and_never_on_the_pedestal_from_the_side(): void
    {
        $bush = Catalogue::part('bush');
        self::assertSame(4, self::lost(new LiveScan($bush, 'handheld')), 'its turn about the axis cannot be seen');
        self::assertSame(0, self::lost(new LiveScan($bush, 'handheld', dots: new MarkerDots(2.0, 14.0))));
        self::assertSame(0, self::lost(new LiveScan(Catalogue::part('pedestal'), 'handheld')));
    }

    #[Test]
    public function a_handheld_scanner_sees_the_part_where_it_is_and_walks_a_little_from_look_to_look(): void
    {
        $part = Catalogue::part('pedestal');
        $scan = new LiveScan($part, 'handheld', seed: 5);
        $scan->lookFrom([1.0, -1.0, 0.8]);
        for ($k = 0; $k < 10; $k++) {
            $frame = $scan->next();
            self::assertNotNull($frame);
            self::assertSame($k < 9 ? 0 : 1, $frame->sweep, 'nine looks a sweep');
            $near = 0;
            $p = $frame->placed()->positions;
            for ($o = 0; $o < count($p); $o += 3) {
                $near += abs($part->distance($p[$o], $p[$o + 1], $p[$o + 2])) < 0.6 || $p[$o + 2] < 0.6 ? 1 : 0;
            }
            // The rest are strays and points that fly between edges.
            self::assertGreaterThan(0.97 * $frame->cloud->count(), $near);
            if ($k === 4) {
                $eye = $frame->placed()->sensorOrigin;
                self::assertGreaterThan(0.0, $eye[0] ?? 0.0, 'on the side it was sent to');
            }
        }
    }

    #[Test]
    public function spray_brings_back_what_shine_takes(): void
    {
        $scan = new LiveScan(Catalogue::part('pedestal'), 'handheld', Surface::Shiny, seed: 2);
        $shiny = $scan->next()?->cloud->count() ?? 0;
        $scan->spray();
        $sprayed = $scan->next()?->cloud->count() ?? 0;
        self::assertGreaterThan(1.15 * $shiny, $sprayed);
    }

    #[Test]
    public function a_rig_with_stops_ends_after_the_last(): void
    {
        $scan = new LiveScan(Catalogue::part('bush'), 'ring');
        $sweeps = [];
        while (($frame = $scan->next()) !== null) {
            $sweeps[] = $frame->sweep;
        }
        self::assertSame([0, 1, 2, 3], $sweeps);
        self::assertNull($scan->next());
    }
}
