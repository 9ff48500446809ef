<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Tests\Support\MeasuredScans;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** What a measurement says of how sure it is, against exact parts scanned, registered, fused and measured anew each time. */
final class MeasuredScansTest extends TestCase
{
    /** Scans that both tests take: coarse, so that two hundred of them are done in half an hour. */
    private const COLUMNS = 200;

    private const VOXEL = 1.2;

    #[Test]
    public function the_truth_lies_within_the_uncertainty_and_that_is_no_wider_than_the_errors_ask_for(): void
    {
        foreach ([1, 2] as $seed) {
            foreach (MeasuredScans::of('cap', $seed, self::COLUMNS, self::VOXEL) as $what => $one) {
                self::assertLessThan(3.0 * $one['told'], abs($one['error']), "$what, scan $seed");
                self::assertLessThan(0.2, $one['told'], "$what, scan $seed");
                self::assertGreaterThan(0.005, $one['told'], "$what, scan $seed");
            }
        }
    }

    #[Test]
    #[Group('nightly')]
    public function over_two_hundred_scans_it_does_in_at_least_93_of_100(): void
    {
        $within = $all = 0;
        foreach (['cap' => 150, 'pedestal' => 50] as $part => $scans) {
            for ($seed = 1; $seed <= $scans; $seed++) {
                foreach (MeasuredScans::of($part, $seed, self::COLUMNS, self::VOXEL) as $one) {
                    $within += abs($one['error']) <= 2.0 * $one['told'] ? 1 : 0;
                    $all++;
                }
            }
        }
        self::assertGreaterThan(1500, $all);
        self::assertGreaterThanOrEqual(0.93, $within / $all);
    }
}
