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
            self::assertLessThan(0.2, $one['told'], $what);
            self::assertGreaterThan(0.005, $one['told'], $what);
        }
    }

    #[Test]
    #[Group('nightly')]
    public function over_two_hundred_scans_it_does_in_at_least_93_of_100(): void
    {
        $within = $all = 0;
        for ($seed = 1; $seed <= 200; $seed++) {
            foreach (array_diff_key(MeasuredScans::of('cap', $seed, self::COLUMNS, self::VOXEL), self::TOO_SMALL) as $one) {
                $within += abs($one['error']) <= 2.0 * $one['told'] ? 1 : 0;
                $all++;
            }
        }
        self::assertSame(1000, $all);
        self::assertGreaterThanOrEqual(0.93, $within / $all);
    }
}
