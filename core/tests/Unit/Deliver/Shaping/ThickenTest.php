<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver\Shaping;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class ThickenTest extends TestCase
{
    use Refuses;

    /** A sheet of 20 by 15 mm that looks along Z, bent by a function of the place. */
    private static function sheet(callable $height): TriangleMesh
    {
        $positions = $faces = [];
        for ($i = 0; $i <= 20; $i++) {
            for ($j = 0; $j <= 15; $j++) {
                array_push($positions, (float) $i, (float) $j, (float) $height($i, $j));
                if ($i < 20 && $j < 15) {
                    $a = 16 * $i + $j;
                    array_push($faces, $a, $a + 16, $a + 17, $a, $a + 17, $a + 1);
                }
            }
        }

        return TriangleMesh::fromFlat($positions, $faces);
    }

    private static function thick(TriangleMesh $sheet, float $distance, string $side): Result
    {
        $result = Catalogue::operation('thicken')(new Workpiece(bodies: [Body::of('sheet', $sheet)]), Catalogue::parameters('thicken', ['distance' => $distance, 'side' => $side]), new NoProgress);
        $found = Inspection::of(self::mesh($result));
        self::assertTrue($found->closed);
        self::assertSame([], array_filter($found->faults));

        return $result;
    }

    private static function mesh(Result $result): TriangleMesh
    {
        return $result->workpiece->bodies[0]->placedMesh();
    }

    #[Test]
    public function a_flat_sheet_becomes_a_plate_with_round_rims_on_the_side_that_was_asked_for(): void
    {
        // The sheet, half a round rod along its rim, and the corners of a ball.
        $volume = 20.0 * 15.0 * 4.0 + 0.5 * M_PI * 2.0 ** 2 * 2.0 * (20.0 + 15.0) + 4.0 / 3.0 * M_PI * 2.0 ** 3;
        foreach (['in' => [-4.0, 0.0], 'out' => [0.0, 4.0], 'both' => [-2.0, 2.0]] as $side => [$low, $high]) {
            // To both sides it grows by the distance each.
            $mesh = self::mesh(self::thick(self::sheet(fn () => 0.0), $side === 'both' ? 2.0 : 4.0, $side));
            self::assertEqualsWithDelta(1.0, Measure::volume($mesh->positions, $mesh->faces) / $volume, 0.01, 'flats lie inside the round rims');
            $box = BoundingBox::of($mesh->positions);
            self::assertEqualsWithDelta([$low, $high], [$box->min[2], $box->max[2]], 1e-9);
            $shares = array_count_values($mesh->origin);
            // Where the sheet was it is measured still, half a plate to each side has nothing there.
            self::assertSame($side !== 'both', isset($shares[TriangleMesh::MEASURED]), $side);
        }
    }

    #[Test]
    public function a_sheet_that_bends_more_tightly_than_it_is_thick_closes_up_and_says_where(): void
    {
        $result = self::thick(self::sheet(fn (int $i) => 4.0 * abs($i - 10)), 3.0, 'out');
        self::assertStringContainsString('bends more tightly', $result->notes[0]);
        self::assertMatchesRegularExpression('/most at \\((9|10|11)\\./', $result->notes[0]);
        $smooth = self::thick(self::sheet(fn (int $i) => 0.02 * ($i - 10) ** 2), 1.0, 'in');
        self::assertStringNotContainsString('bends', $smooth->notes[0]);
        self::assertLessThan(0.05, $smooth->after['off']);
    }

    #[Test]
    public function a_closed_body_becomes_a_wall(): void
    {
        $mesh = self::mesh(self::thick(MeshBuilder::icosphere(4, 10.0), 4.0, 'in'));
        self::assertEqualsWithDelta(4.0 / 3.0 * M_PI * (1000.0 - 216.0), Measure::volume($mesh->positions, $mesh->faces), 30.0);
        self::assertSame(2, Inspection::of($mesh)->pieces);
    }

    #[Test]
    public function what_cannot_be_thickened_is_told(): void
    {
        self::assertRefused([
            [fn () => self::thick(TriangleMesh::empty(), 1.0, 'in'), 'no faces to thicken'],
            [fn () => self::thick(self::sheet(fn () => 0.0), -1.0, 'in'), 'distance'],
            [fn () => self::thick(self::sheet(fn () => 0.0), 1.0, 'up'), 'side'],
        ]);
    }
}
