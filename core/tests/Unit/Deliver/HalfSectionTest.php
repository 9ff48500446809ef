<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** The mean half-section of what is turned about an axis. */
final class HalfSectionTest extends TestCase
{
    /** @param  array<string, mixed>  $parameters */
    private static function taken(TriangleMesh $mesh, array $parameters): Result
    {
        return Catalogue::operation('section')(new Workpiece(bodies: [Body::of('Turned', $mesh)]), Catalogue::parameters('section', ['mean' => true] + $parameters), new NoProgress);
    }

    /** @return list<array{closed: bool, points: list<float>, spread: list<float>}> */
    private static function curves(Result $result): array
    {
        return $result->workpiece->artefacts[0]->data['planes'][0]['curves'];
    }

    /** A bobbin about the axis through (5, -3, 0) along Z: radius 10, 6 in the middle, 30 high. */
    private static function bobbin(): TriangleMesh
    {
        return SimpleSolid::lathed([[0.0, 0.0], [10.0, 0.0], [10.0, 8.0], [6.0, 12.0], [6.0, 18.0], [10.0, 22.0], [10.0, 30.0], [0.0, 30.0]], [5.0, -3.0, 0.0], [0.0, 0.0, 1.0]);
    }

    #[Test]
    public function it_is_the_profile_of_a_turned_part_to_the_sagitta_of_its_facets(): void
    {
        $result = self::taken(self::bobbin(), ['around' => ['point' => [5.0, -3.0, 7.0], 'direction' => [0.0, 0.0, 1.0]]]);
        $curves = self::curves($result);
        self::assertCount(1, $curves);
        self::assertFalse($curves[0]['closed']);
        $wanted = fn (float $h): float => match (true) {
            $h <= 8.0, $h >= 22.0 => 10.0, $h <= 12.0 => 18.0 - $h, $h <= 18.0 => 6.0, default => $h - 12.0,
        };
        $steps = 0;
        foreach (array_chunk($curves[0]['points'], 3) as [$x, $y, $z]) {
            // In the half-plane at 0 degrees: X of the frame.
            self::assertEqualsWithDelta(-3.0, $y, 1e-9);
            self::assertGreaterThanOrEqual(-0.01, $x - 5.0);
            if ($z > 0.2 && $z < 29.8 && abs($z - 8.0) > 0.2 && abs($z - 12.0) > 0.2 && abs($z - 18.0) > 0.2 && abs($z - 22.0) > 0.2) {
                self::assertEqualsWithDelta($wanted($z), $x - 5.0, 0.02, "at $z");
                $steps++;
            }
        }
        self::assertGreaterThan(100, $steps);
        self::assertLessThan(0.02, $result->after['spread']);
        // The inside on the left, seen from where the normal (Y) points, whence X is to the left: down along the outside.
        self::assertLessThan($curves[0]['points'][2], $curves[0]['points'][count($curves[0]['points']) - 1]);
    }

    #[Test]
    public function a_tube_has_a_closed_profile_that_lines_and_arcs_fit(): void
    {
        $result = self::taken(SimpleSolid::tube([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], 30.0, 20.0, 25.0), ['around' => 'Z', 'fit' => 0.05]);
        [$curve] = self::curves($result);
        self::assertTrue($curve['closed']);
        self::assertEqualsWithDelta(5.0 * 25.0, $result->after['area'], 1.0);
        self::assertLessThan(20, count($curve['pieces'] ?? []));
    }

    #[Test]
    public function what_is_not_the_same_all_around_stays_out_and_an_axis_beside_the_true_one_is_seen_in_the_spread(): void
    {
        // A groove along one side, a sixteenth of the way around.
        $groove = MeshBuilder::brick([4.0, 4.0, 40.0], 4)->transformed(RigidTransform::shift(13.0, -5.0, -5.0));
        $workpiece = new Workpiece(bodies: [Body::of('Bobbin', self::bobbin()), Body::of('Groove', $groove)]);
        $cut = Catalogue::operation('take-away')($workpiece, Catalogue::parameters('take-away', ['body' => 'Bobbin', 'with' => 'Groove']), new NoProgress)->workpiece->bodies[0]->placedMesh();
        $result = self::taken($cut, ['around' => ['point' => [5.0, -3.0, 0.0], 'direction' => [0.0, 0.0, 1.0]]]);
        foreach (array_chunk(self::curves($result)[0]['points'], 3) as [$x, , $z]) {
            if ($z > 1.0 && $z < 7.0) {
                self::assertEqualsWithDelta(10.0, $x - 5.0, 0.02);
            }
        }
        self::assertLessThan(0.02, $result->after['spread']);
        // Of r + e cos a the standard deviation is e over the square root of two.
        $beside = self::taken(SimpleSolid::tube([0.3, 0.0, 0.0], [0.0, 0.0, 1.0], 30.0, 20.0, 25.0), ['around' => 'Z']);
        $onTheSide = [];
        foreach (array_chunk(self::curves($beside)[0]['points'], 3) as $k => [$x, , $z]) {
            if ($z > 2.0 && $z < 23.0) {
                self::assertEqualsWithDelta($x > 12.5 ? 15.0 : 10.0, $x, 0.02);
                $onTheSide[] = self::curves($beside)[0]['spread'][$k];
            }
        }
        self::assertEqualsWithDelta(0.3 / sqrt(2.0), max($onTheSide), 0.01);
    }

    #[Test]
    public function what_it_is_not_of_is_refused_in_words(): void
    {
        $refusals = [];
        foreach ([['plane' => 'XY'], ['around' => 'Z', 'count' => 3]] as $parameters) {
            try {
                self::taken(self::bobbin(), $parameters);
            } catch (InvalidParameter $refused) {
                $refusals[] = $refused->getMessage();
            }
        }
        self::assertCount(2, $refusals);
        $this->expectException(UnsuitableInput::class);
        // A block off to one side: no half of the half-sections meets it.
        self::taken(MeshBuilder::brick([4.0, 4.0, 4.0], 4), ['around' => ['point' => [100.0, 0.0, 0.0], 'direction' => [0.0, 0.0, 1.0]]]);
    }
}
