<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Tests\Support\MeasuredScans;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** What a measurement says of how sure it is, against an exact part that is scanned, registered, fused and measured anew each time. */
final class MeasuredScansTest extends TestCase
{
    /** Pixels from side to side and voxel (mm) of scans so coarse that two hundred of them are done in an hour. */
    private const COLUMNS = 200;

    private const VOXEL = 1.2;

    /** A hole of 9 mm is seven voxels wide there and ten deep: little of its wall is left that its rims do not round off. */
    private const TOO_SMALL = ['hole' => 1, 'hole to hole' => 1];

    #[Test]
    public function the_truth_lies_within_the_uncertainty_and_that_is_no_wider_than_the_errors_ask_for(): void
    {
        foreach (array_diff_key(MeasuredScans::of('cap', 1, self::COLUMNS, self::VOXEL), self::TOO_SMALL) as $what => $one) {
            self::assertLessThan(3.0 * $one['told'], abs($one['error']), $what);
            // Of area (13,945 mm2) and volume (40,284 mm3): a hundredth, and half a hundredth.
            self::assertLessThan(['area' => 140.0, 'volume' => 200.0][$what] ?? 0.2, $one['told'], $what);
            self::assertGreaterThan(0.005, $one['told'], $what);
        }
    }

    #[Test]
    #[Group('nightly')]
    public function over_two_hundred_scans_it_does_in_at_least_93_of_100(): void
    {
        $within = $all = [];
        for ($seed = 1; $seed <= 200; $seed++) {
            foreach (array_diff_key(MeasuredScans::of('cap', $seed, self::COLUMNS, self::VOXEL), self::TOO_SMALL) as $what => $one) {
                $within[$what] = ($within[$what] ?? 0) + (abs($one['error']) <= 2.0 * $one['told'] ? 1 : 0);
                $all[$what] = ($all[$what] ?? 0) + 1;
            }
        }
        self::assertSame(array_fill_keys(array_keys($all), 200), $all);
        self::assertGreaterThanOrEqual(0.93, array_sum($within) / array_sum($all));
        foreach ($within as $what => $many) {
            // Of one kind alone 200 scans tell the share to a fiftieth.
            self::assertGreaterThanOrEqual(0.85, $many / 200, $what);
        }
    }
}
