<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Orient\ConfirmScale;
use Emberstone\Core\Orient\ConfirmScaleParameters;
use Emberstone\Core\Orient\Scale;
use Emberstone\Core\Orient\ScaleParameters;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class ConfirmScaleTest extends TestCase
{
    private static function block(): Workpiece
    {
        return new Workpiece(bodies: [Body::of('Block', SimpleSolid::box([3.0, 0.0, 0.0], [0.0, 0.0, 1.0], [40.0, 30.0, 10.0]))], datums: [
            new Datum('base', 'Base', 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, -1.0]), new Datum('top', 'Top', 'plane', [0.0, 0.0, 10.0], [0.0, 0.0, 1.0]),
        ]);
    }

    /** @param  array<mixed>|null  $lengths */
    private static function confirmed(?array $lengths = null, float $readTo = 0.03): Result
    {
        return (new ConfirmScale)(self::block(), new ConfirmScaleParameters($lengths, $readTo), new NoProgress);
    }

    #[Test]
    public function it_says_the_size_and_changes_nothing(): void
    {
        $result = self::confirmed();
        self::assertSame('40.00 × 30.00 × 10.00 mm', $result->headline);
        self::assertEquals(self::block(), $result->workpiece);
        // That nothing moved is said: what was there before can be compared with what is there now.
        self::assertEquals(Placement::of(1.0, RigidTransform::identity()), $result->everything);
        self::assertNull($result->scaleErrorAfter(null));
        self::assertSame(0.001, $result->scaleErrorAfter(0.001), 'what was known before is still known');
        $this->expectException(UnsuitableInput::class);
        (new ConfirmScale)(new Workpiece, new ConfirmScaleParameters, new NoProgress);
    }

    #[Test]
    public function a_length_read_on_the_part_tells_how_well_the_scale_is_known_with_what_it_misses(): void
    {
        $length = fn (float $actual): array => [['from' => 'Base', 'to' => 'Top', 'actual' => $actual]];
        $right = self::confirmed($length(10.0));
        self::assertEqualsWithDelta(0.03 / sqrt(3.0) / 10.0, $right->scaleError, 1e-12);
        self::assertStringContainsString('read 10', $right->headline);
        self::assertCount(1, $right->notes);
        $near = self::confirmed($length(10.02));
        self::assertEqualsWithDelta(hypot(0.03 / sqrt(3.0), 0.02) / 10.02, $near->scaleError, 1e-12);
        self::assertCount(1, $near->notes, 'a reading may be that far off');
        $off = self::confirmed($length(10.2));
        self::assertStringContainsString('-1.96 % off, more than reading and fits explain', $off->notes[0]);
        // The better known of two counts.
        self::assertEqualsWithDelta(0.03 / sqrt(3.0) / 40.0, self::confirmed([...$length(10.2), ['from' => [-17.0, 0.0, 0.0], 'to' => [23.0, 0.0, 0.0], 'actual' => 40.0]])->scaleError, 1e-12);
        self::assertNull((new Scale)(self::block(), new ScaleParameters(factor: 2.0), new NoProgress)->scaleErrorAfter($right->scaleError));
    }
}
