<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Register\Prepare;
use Emberstone\Core\Register\ResidualMaps;
use Emberstone\Core\Tests\Support\ScanBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class ResidualMapsTest extends TestCase
{
    #[Test]
    public function a_shift_is_what_the_map_shows_and_hidden_points_have_none(): void
    {
        [$one, $other] = ScanBuilder::passes(2);
        $other = new Pass($other->id, $other->name, $other->cloud(), RigidTransform::shift(0.0, 0.0, 0.3));
        // The first ten points are taken away.
        $mask = str_repeat("\1", $other->cloud()->count());
        $other = $other->narrowed(str_repeat("\0", 10).substr($mask, 10));
        $found = ResidualMaps::of([$one, $other], Prepare::all([$one, $other], new NoProgress), [[0, 1]], [0.5], new NoProgress);
        self::assertNotNull($found['histogram']);
        // Surfaces that look up lie 0.3 mm apart, those that look aside do not.
        self::assertEqualsWithDelta(0.3, $found['histogram']['within95Mm'], 0.05);
        self::assertSame(str_repeat("\0", 10), substr($found['maps'][1]->bytes, 0, 10));
        self::assertSame($other->cloud()->count(), strlen($found['maps'][1]->bytes));
        self::assertNotSame(str_repeat("\0", strlen($found['maps'][1]->bytes)), $found['maps'][1]->bytes);
    }

    #[Test]
    public function passes_with_nothing_in_common_have_no_residuals(): void
    {
        [$one, $other] = ScanBuilder::passes(2);
        $passes = [$one, new Pass($other->id, $other->name, $other->cloud(), RigidTransform::shift(900.0, 0.0, 0.0))];
        self::assertSame(['maps' => [], 'histogram' => null], ResidualMaps::of($passes, Prepare::all($passes, new NoProgress), [[0, 1]], [0.5], new NoProgress));
    }
}
