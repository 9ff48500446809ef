<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver\Measuring;

use Emberstone\Core\Algorithms\Fitting\CircleFit;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Rigs\Noise;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Openings from their rims, on sheets that end there and on bores whose edge is sharp. */
final class RimGaugeTest extends TestCase
{
    /**
     * @param  array<string, mixed>  $parameters
     * @return array<string, mixed>
     */
    private static function measured(TriangleMesh $mesh, array $parameters): array
    {
        return Catalogue::operation('measure')(new Workpiece(bodies: [Body::of('Sheet', $mesh)]), Catalogue::parameters('measure', $parameters), new NoProgress)->after['measurements'][0];
    }

    /** A ring-shaped sheet of a hole of 2r by 2(r + oval) in a disc of 40, lying somewhere. */
    private static function sheet(float $r, float $oval, float $noise = 0.0): TriangleMesh
    {
        $random = new Noise(5);
        $p = $f = [];
        for ($k = 0, $n = 96; $k < $n; $k++) {
            $angle = 2.0 * M_PI * $k / $n;
            $inner = $r + $noise * $random->normal();
            array_push($p, ($inner) * cos($angle), ($inner + $oval) * sin($angle), 0.0, 20.0 * cos($angle), 20.0 * sin($angle), 0.0);
            $next = ($k + 1) % $n;
            array_push($f, 2 * $k, 2 * $k + 1, 2 * $next + 1, 2 * $k, 2 * $next + 1, 2 * $next);
        }

        return TriangleMesh::fromFlat($p, $f)->transformed(RigidTransform::turn([0.6, 0.0, 0.8], 40.0)->then(RigidTransform::shift(300.0, -20.0, 7.0)));
    }

    #[Test]
    public function a_hole_in_a_sheet_has_the_inner_and_the_outer_size_of_its_rim(): void
    {
        $sheet = self::sheet(6.0, 0.1);
        $at = array_slice($sheet->positions, 0, 3);
        $opening = self::measured($sheet, ['kind' => 'opening', 'of' => [['at' => $at, 'fit' => 'rim']]]);
        self::assertEqualsWithDelta(12.0, $opening['value'], 0.01);
        self::assertEqualsWithDelta(12.2, $opening['more']->outer, 0.01);
        self::assertEqualsWithDelta(12.1, self::measured($sheet, ['kind' => 'diameter', 'of' => [['at' => $at, 'fit' => 'rim']]])['value'], 0.01);
        // The outer rim is another.
        self::assertEqualsWithDelta(40.0, self::measured($sheet, ['kind' => 'diameter', 'of' => [['at' => array_slice($sheet->positions, 3, 3), 'fit' => 'rim']]])['value'], 1e-9);
    }

    #[Test]
    public function what_noise_takes_off_an_opening_lies_within_its_uncertainty(): void
    {
        $sheet = self::sheet(6.0, 0.0, 0.03);
        $opening = self::measured($sheet, ['kind' => 'opening', 'of' => [['at' => array_slice($sheet->positions, 0, 3), 'fit' => 'rim']]]);
        self::assertLessThan(11.95, $opening['value']);
        self::assertLessThanOrEqual($opening['uncertainty'], abs(12.0 - $opening['value']));
        self::assertLessThan(0.3, $opening['uncertainty']);
    }

    #[Test]
    public function the_sharp_edge_of_a_bore_is_a_rim_too_and_where_there_is_none_it_says_so(): void
    {
        $tube = SimpleSolid::tube([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], 40.0, 30.0, 100.0);
        $onEdge = array_values(array_filter(array_chunk($tube->positions, 3), fn (array $v) => abs(hypot($v[0], $v[1]) - 15.0) < 0.01 && abs($v[2] - max(array_column(array_chunk($tube->positions, 3), 2))) < 1e-6))[0];
        self::assertEqualsWithDelta(30.0, self::measured($tube, ['kind' => 'opening', 'of' => [['at' => $onEdge, 'fit' => 'rim']]])['value'], SimpleSolid::SAGITTA);
        try {
            self::measured($tube, ['kind' => 'roundness', 'of' => [['at' => $onEdge, 'fit' => 'rim']]]);
            self::fail('not refused');
        } catch (InvalidParameter $refused) {
            self::assertStringContainsString('is a rim; roundness is that of a wall', $refused->getMessage());
        }
        foreach ([[SimpleSolid::ball([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], 20.0), [0.0, 0.0, 10.0], 'There is no rim there'], [SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [60.0, 40.0, 8.0]), [30.0, 0.0, 8.0], 'no rim there']] as [$mesh, $at, $words]) {
            try {
                self::measured($mesh, ['kind' => 'opening', 'of' => [['at' => $at, 'fit' => 'rim']]]);
                self::fail('not refused');
            } catch (UnsuitableInput $refused) {
                self::assertStringContainsString($words, $refused->getMessage());
            }
        }
    }

    #[Test]
    public function a_circle_is_found_through_points_that_do_not_belong_to_it(): void
    {
        $points = [];
        for ($k = 0; $k < 40; $k++) {
            $r = $k % 10 === 3 ? 9.0 : 7.5;
            array_push($points, 100.0 + $r * cos(0.15 * $k), -5.0, 3.0 + $r * sin(0.15 * $k));
        }
        $fit = CircleFit::of($points);
        self::assertNotNull($fit);
        self::assertEqualsWithDelta([100.0, -5.0, 3.0, 7.5], [...$fit['origin'], $fit['radius']], 1e-6);
        self::assertNull(CircleFit::of([0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 2.0, 0.0, 0.0]));
    }
}
