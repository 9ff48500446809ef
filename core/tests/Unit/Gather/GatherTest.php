<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Gather;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Gather\CutAway;
use Emberstone\Core\Gather\DropBase;
use Emberstone\Core\Gather\DropBaseParameters;
use Emberstone\Core\Gather\KeepOnly;
use Emberstone\Core\Gather\RemoveOutliers;
use Emberstone\Core\Gather\RemoveOutliersParameters;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\SelectionParameters;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Tests\Support\Captures;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class GatherTest extends TestCase
{
    #[Test]
    public function the_table_goes_and_the_part_stays(): void
    {
        foreach ([0, 5] as $index) {
            $capture = Captures::of(new HandheldRig(width: 200, height: 150), new BearingPedestal, $index, 4);
            $pass = (new DropBase)(new Workpiece([Pass::of('p', $capture['cloud'])]), new DropBaseParameters, new NoProgress)->workpiece->passes[0];
            self::assertSame($capture['cloud'], $pass->cloud());
            $kept = $pass->keptCloud()->transformed($capture['pose']);
            $table = $index === 0 ? 0.0 : 79.0;
            $outside = 0;
            for ($o = 0, $n = count($kept->positions); $o < $n; $o += 3) {
                $outside += abs($kept->positions[$o + 2] - $table) < 0.5 ? 1 : 0;
            }
            self::assertLessThan(0.002 * $kept->count(), $outside);
            self::assertGreaterThan(0.3 * $capture['cloud']->count(), $kept->count());
        }
    }

    #[Test]
    public function a_pass_without_a_table_is_left_alone_and_said_so(): void
    {
        $cloud = Captures::of(new HandheldRig(width: 160, height: 120, table: false), new BearingPedestal, 5, 4)['cloud'];
        $result = (new DropBase)(new Workpiece([Pass::of('free', $cloud)]), new DropBaseParameters, new NoProgress);
        self::assertSame($cloud->count(), $result->workpiece->pointCount());
        self::assertStringContainsString('no supporting plane', $result->notes[0]);
    }

    #[Test]
    public function five_strays_go_and_at_least_98_percent_of_a_clean_plane_stays(): void
    {
        $p = [];
        for ($i = 0; $i < 50; $i++) {
            for ($j = 0; $j < 50; $j++) {
                array_push($p, 0.5 * $i, 0.5 * $j, 0.0);
            }
        }
        for ($k = 0; $k < 5; $k++) {
            array_push($p, 5.0 * $k, 3.0, 4.0 + $k);
        }
        $pass = (new RemoveOutliers)(new Workpiece([Pass::of('p', PointCloud::fromFlat($p))]), new RemoveOutliersParameters, new NoProgress)->workpiece->passes[0];
        self::assertSame("\0\0\0\0\0", substr((string) $pass->mask, 2500));
        self::assertGreaterThan(2475, substr_count(substr((string) $pass->mask, 0, 2500), "\1"));
    }

    #[Test]
    public function cutting_twice_speaks_of_raw_points_and_never_loses_them(): void
    {
        $pass = Pass::of('p', PointCloud::fromFlat([0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 2.0, 0.0, 0.0, 3.0, 0.0, 0.0]));
        $cut = fn (Workpiece $w, array $ranges) => (new CutAway)($w, new SelectionParameters([['target' => 'p', 'ranges' => $ranges]]), new NoProgress)->workpiece;
        $after = $cut($cut(new Workpiece([$pass]), [[0, 0]]), [[2, 2]]);
        self::assertSame("\0\1\0\1", $after->passes[0]->mask);
        self::assertSame(4, $after->passes[0]->cloud()->count());
        self::assertSame([1.0, 0.0, 0.0, 3.0, 0.0, 0.0], $after->passes[0]->placed()->positions);
    }

    #[Test]
    public function keep_only_leaves_the_selected_faces(): void
    {
        $body = Body::of('ball', MeshBuilder::icosphere(1));
        $after = (new KeepOnly)(new Workpiece([], [$body]), new SelectionParameters([['target' => 'ball', 'indices' => [3, 5, 8]]]), new NoProgress)->workpiece;
        self::assertSame(3, $after->faceCount());
        // Of another state of the body the same numbers mean other faces.
        try {
            (new KeepOnly)(new Workpiece([], [$body]), new SelectionParameters([['target' => 'ball', 'indices' => [3], 'of' => 320]]), new NoProgress);
            self::fail('not refused');
        } catch (UnsuitableInput $refused) {
            self::assertStringContainsString('when there were 320 points or faces in all; now there are 80', $refused->getMessage());
        }
        self::assertSame(80, $body->geometry instanceof \Emberstone\Core\Mesh\TriangleMesh ? $body->geometry->faceCount() : 0);
    }

    #[Test]
    #[TestWith([[[0, 9]]])]
    #[TestWith([[[2, 1]]])]
    #[TestWith([[[-1, 1]]])]
    #[TestWith([[[0]]])]
    #[TestWith([['all']])]
    #[TestWith([[[0, '1']]])]
    public function a_selection_out_of_range_is_refused(mixed $ranges): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage('of p, which has 3 elements');
        (new SelectionParameters([['target' => 'p', 'ranges' => $ranges]]))->marks('p', 3);
    }

    #[Test]
    public function ranges_name_what_marks_mark_in_order_and_none_twice(): void
    {
        for ($seed = 1; $seed <= 30; $seed++) {
            $gen = new Gen($seed);
            $parts = [];
            for ($k = 0, $n = $gen->int(1, 6); $k < $n; $k++) {
                $from = $gen->int(0, 49);
                $parts[] = ['target' => $gen->int(0, 3) === 0 ? 'other' : 'it'] + ($gen->int(0, 1) === 0 ? ['ranges' => [[$from, $gen->int($from, 49)]]] : ['indices' => [$from, $gen->int(0, 49)]]);
            }
            $expected = array_fill(0, 50, false);
            foreach (array_filter($parts, fn (array $part) => $part['target'] === 'it') as $part) {
                foreach ($part['ranges'] ?? array_map(fn (int $i) => [$i, $i], $part['indices']) as [$from, $to]) {
                    $expected = array_replace($expected, array_fill($from, $to - $from + 1, true));
                }
            }
            $selection = new SelectionParameters($parts);
            if (! in_array('it', array_column($parts, 'target'), true)) {
                self::assertNull($selection->ranges('it', 50));
                self::assertNull($selection->marks('it', 50));

                continue;
            }
            self::assertSame(implode('', array_map(fn (bool $is) => $is ? "\1" : "\0", $expected)), $selection->marks('it', 50));
            $ends = array_merge(...($selection->ranges('it', 50) ?? []));
            self::assertSame(self::ends($expected), $ends);
        }
    }

    /**
     * @param  array<int, bool>  $is
     * @return list<int> first and last of every run
     */
    private static function ends(array $is): array
    {
        $ends = [];
        foreach ($is as $i => $one) {
            if ($one && ! ($is[$i - 1] ?? false)) {
                $ends[] = $i;
            }
            if ($one && ! ($is[$i + 1] ?? false)) {
                $ends[] = $i;
            }
        }

        return $ends;
    }
}
