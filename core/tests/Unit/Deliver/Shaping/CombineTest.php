<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver\Shaping;

use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Bodies added, taken away, kept in common, given room, drilled: from outside, by their operations. */
final class CombineTest extends TestCase
{
    /** @param  array<string, mixed>  $parameters */
    private static function done(string $operation, array $parameters, Body ...$bodies): Result
    {
        return Catalogue::operation($operation)((new Workpiece)->withBodies(array_values($bodies)), Catalogue::parameters($operation, $parameters), new NoProgress);
    }

    private static function mesh(Result $result, int $k = 0): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[$k]->placed();
        assert($mesh instanceof TriangleMesh);

        return $mesh;
    }

    private static function plate(): Body
    {
        return Body::of('Plate', MeshBuilder::brick([40.0, 30.0, 10.0], 4));
    }

    private static function assertSound(TriangleMesh $mesh): Inspection
    {
        $inspection = Inspection::of($mesh);
        self::assertTrue($inspection->closed);
        self::assertSame([], array_filter($inspection->faults));

        return $inspection;
    }

    #[Test]
    public function the_solids_have_the_volumes_of_their_formulas(): void
    {
        $up = [0.6, 0.0, 0.8];
        // Of a wall of n flats, the area of the polygon instead of the circle.
        $round = fn (float $diameter): float => SimpleSolid::flats(0.5 * $diameter) * sin(2.0 * M_PI / SimpleSolid::flats(0.5 * $diameter)) * $diameter ** 2 / 8.0;
        foreach ([
            [SimpleSolid::box([1.0, 2.0, 3.0], $up, [4.0, 5.0, 6.0]), 120.0],
            [SimpleSolid::cone([1.0, 2.0, 3.0], $up, 10.0, 10.0, 7.0), 7.0 * $round(10.0)],
            [SimpleSolid::cone([1.0, 2.0, 3.0], $up, 10.0, 0.0, 6.0), 2.0 * $round(10.0)],
            [SimpleSolid::cone([1.0, 2.0, 3.0], $up, 10.0, 5.0, 6.0), 2.0 * $round(10.0) * 1.75],
            [SimpleSolid::tube([1.0, 2.0, 3.0], $up, 10.0, 6.0, 4.0), 4.0 * 0.64 * $round(10.0)],
        ] as $k => [$mesh, $volume]) {
            self::assertEqualsWithDelta($volume, self::assertSound($mesh)->volume, 1e-9 * $volume, "solid $k");
        }
        $ball = SimpleSolid::ball([1.0, 2.0, 3.0], $up, 10.0);
        self::assertSame(0.0, Inspection::of($ball)->measured);
        self::assertEqualsWithDelta(1.0, self::assertSound($ball)->volume / (M_PI * 1000.0 / 6.0), 2e-3);
        // The flats stay within the stated distance of the round shape.
        self::assertLessThanOrEqual(SimpleSolid::SAGITTA, 5.0 * (1.0 - cos(M_PI / SimpleSolid::flats(5.0))));
    }

    #[Test]
    public function taking_away_leaves_the_tool_and_marks_the_walls_and_adding_takes_the_other_body_in(): void
    {
        $pin = Body::of('Pin', SimpleSolid::cone([20.0, 15.0, -5.0], [0.0, 0.0, 1.0], 8.0, 8.0, 20.0));
        $area = SimpleSolid::flats(4.0) * sin(2.0 * M_PI / SimpleSolid::flats(4.0)) * 8.0;
        $cut = self::done('take-away', ['with' => 'Pin'], self::plate(), $pin);
        self::assertSame(['Plate', 'Pin'], array_map(fn (Body $body) => $body->name, $cut->workpiece->bodies));
        $inspection = self::assertSound(self::mesh($cut));
        self::assertEqualsWithDelta(12000.0 - 10.0 * $area, $inspection->volume, 1e-7);
        self::assertSame(1, $inspection->genus);
        $wall = 10.0 * SimpleSolid::flats(4.0) * 2.0 * 4.0 * sin(M_PI / SimpleSolid::flats(4.0));
        self::assertEqualsWithDelta($wall, ($inspection->madeUp['made'] ?? 0.0) * $inspection->area, 1e-7);
        self::assertStringContainsString('taken away', $cut->headline);

        $added = self::done('add-body', ['with' => 'Pin', 'body' => 'Plate'], self::plate(), $pin);
        self::assertSame(['Plate'], array_map(fn (Body $body) => $body->name, $added->workpiece->bodies));
        self::assertEqualsWithDelta(12000.0 + 10.0 * $area, self::assertSound(self::mesh($added))->volume, 1e-7);

        $common = self::done('keep-common', ['with' => 'Pin', 'on' => ['Plate']], self::plate(), $pin);
        self::assertEqualsWithDelta(10.0 * $area, self::assertSound(self::mesh($common))->volume, 1e-7);
    }

    #[Test]
    public function evidence_goes_along_and_what_stays_is_as_it_was(): void
    {
        $brick = MeshBuilder::brick([40.0, 30.0, 10.0], 4);
        $support = array_map(fn (int $v) => Evidence::of(1 + $v % 3, 0.01, 5.0), range(0, $brick->vertexCount() - 1));
        $body = Body::of('Plate', TriangleMesh::fromFlat($brick->positions, $brick->faces, $support, [TriangleMesh::FILLED, ...array_fill(0, $brick->faceCount() - 1, TriangleMesh::MEASURED)]));
        $made = self::mesh(self::done('take-away', ['with' => 'Pin'], $body, Body::of('Pin', SimpleSolid::cone([22.0, 16.0, -5.0], [0.0, 0.0, 1.0], 3.0, 3.0, 20.0))));
        $at = [];
        foreach (array_chunk($brick->positions, 3) as $v => $place) {
            $at[implode(' ', $place)] = $support[$v];
        }
        $same = 0;
        foreach (array_chunk($made->positions, 3) as $v => $place) {
            $known = $at[implode(' ', $place)] ?? null;
            if ($known !== null) {
                self::assertSame($known, $made->support[$v]);
                $same++;
            }
        }
        self::assertGreaterThan(80, $same);
        self::assertContains(TriangleMesh::FILLED, $made->origin);
        self::assertContains(TriangleMesh::MADE, $made->origin);
    }

    #[Test]
    public function a_body_grown_by_a_distance_takes_away_what_lies_nearer_than_that(): void
    {
        $block = Body::of('Block', MeshBuilder::brick([6.0, 6.0, 6.0], 2))->moved(RigidTransform::shift(17.0, 12.0, 7.0));
        $cut = self::done('clearance-cut', ['around' => 'Block', 'distance' => 1.5], self::plate(), $block);
        $room = 12000.0 - self::assertSound(self::mesh($cut))->volume;
        // Below the top of the plate: the block's foot, its sides, the quarter rounds about its edges and the eighths of a ball at its corners (Minkowski).
        $d = 1.5;
        $exact = 36.0 * 3.0 + 4.0 * 6.0 * 3.0 * $d + 36.0 * $d + 4.0 * 6.0 * M_PI * $d ** 2 / 4.0 + 4.0 * 3.0 * M_PI * $d ** 2 / 4.0 + 4.0 * M_PI * $d ** 3 / 6.0;
        self::assertEqualsWithDelta($exact, $room, 0.01 * $exact);
        self::assertMatchesRegularExpression('/grown by 1.50 mm with round corners, right to 0\.\d+ mm/', $cut->notes[0]);
    }

    #[Test]
    public function no_room_is_made_about_a_body_that_crosses_itself_and_that_body_is_said_to(): void
    {
        // A ball with one vertex pulled through it and out on the other side.
        $ball = MeshBuilder::icosphere(3, 6.0);
        $crossing = $ball->withPositions([...array_map(fn (float $c) => -1.2 * $c, array_slice($ball->positions, 0, 3)), ...array_slice($ball->positions, 3)]);
        $this->expectExceptionMessageMatches('/^No room of 1(\.0+)? mm can be made about Ball: its faces cross near \(/');
        self::done('clearance-cut', ['around' => 'Ball', 'distance' => 1.0], self::plate(), Body::of('Ball', $crossing)->moved(RigidTransform::shift(20.0, 15.0, 8.0)));
    }

    #[Test]
    public function holes_are_opened_through_to_a_depth_and_with_a_countersink(): void
    {
        $axis = ['point' => [20.0, 15.0, 50.0], 'direction' => [0.0, 0.0, -1.0]];
        $area = fn (float $d): float => SimpleSolid::flats(0.5 * $d) * sin(2.0 * M_PI / SimpleSolid::flats(0.5 * $d)) * $d ** 2 / 8.0;
        $through = self::mesh(self::done('open-hole', ['axis' => $axis, 'diameter' => 6.0], self::plate()));
        self::assertEqualsWithDelta(12000.0 - 10.0 * $area(6.0), self::assertSound($through)->volume, 1e-7);
        foreach (array_chunk($through->positions, 3) as [$x, $y]) {
            $radius = hypot($x - 20.0, $y - 15.0);
            self::assertTrue(abs($radius - 3.0) < SimpleSolid::SAGITTA || $radius > 3.1);
        }
        $deep = self::done('open-hole', ['axis' => $axis, 'diameter' => 6.0, 'depth' => 4.0], self::plate());
        self::assertEqualsWithDelta(12000.0 - 4.0 * $area(6.0), self::assertSound(self::mesh($deep))->volume, 1e-7);
        // From the other side it goes in at the bottom; wider, it takes the smaller hole with it.
        $wider = self::done('open-hole', ['axis' => $axis, 'diameter' => 8.0, 'reverse' => true, 'depth' => 7.0], ...$deep->workpiece->bodies);
        self::assertEqualsWithDelta(12000.0 - 7.0 * $area(8.0) - 3.0 * $area(6.0), self::assertSound(self::mesh($wider))->volume, 1e-7);
        $sunk = self::done('open-hole', ['axis' => $axis, 'diameter' => 6.0, 'countersink' => 10.0], self::plate());
        // A frustum of 90 degrees, 2 mm deep, and the cylinder below.
        self::assertEqualsWithDelta(12000.0 - M_PI * (2.0 / 3.0 * (25.0 + 15.0 + 9.0) + 8.0 * 9.0), self::assertSound(self::mesh($sunk))->volume, 0.6);
    }

    #[Test]
    public function a_slot_has_straight_walls_and_round_ends_wherever_it_is_turned(): void
    {
        $axis = ['point' => [20.0, 15.0, 50.0], 'direction' => [0.0, 0.0, -1.0]];
        $area = fn (float $d): float => SimpleSolid::flats(0.5 * $d) * sin(2.0 * M_PI / SimpleSolid::flats(0.5 * $d)) * $d ** 2 / 8.0;
        // Turned about an axis that points down, it turns with the clock as seen from above.
        foreach ([[0.0, 1.0, 0.0], [90.0, 0.0, 1.0], [30.0, sqrt(0.75), -0.5]] as [$turned, $x, $y]) {
            $made = self::mesh(self::done('open-hole', ['axis' => $axis, 'diameter' => 6.0, 'slot' => 8.0, 'slotTurned' => $turned], self::plate()));
            self::assertEqualsWithDelta(12000.0 - 10.0 * ($area(6.0) + 6.0 * 8.0), self::assertSound($made)->volume, 1e-7);
            foreach (array_chunk($made->positions, 3) as [$u, $v]) {
                [$along, $beside] = [abs(($u - 20.0) * $x + ($v - 15.0) * $y), abs(($v - 15.0) * $x - ($u - 20.0) * $y)];
                $off = hypot(max(0.0, $along - 4.0), $beside);
                self::assertTrue(abs($off - 3.0) < SimpleSolid::SAGITTA || $off > 3.1, "$u, $v");
            }
        }
        $sunk = self::mesh(self::done('open-hole', ['axis' => $axis, 'diameter' => 6.0, 'slot' => 8.0, 'countersink' => 10.0], self::plate()));
        self::assertEqualsWithDelta(12000.0 - M_PI * (2.0 / 3.0 * (25.0 + 15.0 + 9.0) + 8.0 * 9.0) - 8.0 * (60.0 + 2.0 * 2.0), self::assertSound($sunk)->volume, 0.6);
    }

    /** @return iterable<string, array{string, array<string, mixed>, string}> */
    public static function refusals(): iterable
    {
        yield 'apart' => ['take-away', ['with' => 'Far'], 'Far does not meet Plate. Move it there first.'];
        yield 'apart, added' => ['add-body', ['with' => 'Far', 'on' => ['Plate']], 'Join makes one body of parts that lie apart'];
        yield 'nothing in common' => ['keep-common', ['with' => 'Far', 'on' => ['Plate']], 'Plate and Far have nothing in common.'];
        yield 'nothing left' => ['take-away', ['with' => 'Plate', 'on' => ['Within']], 'Nothing of Within would be left: it lies within Plate.'];
        yield 'within' => ['add-body', ['with' => 'Within', 'on' => ['Plate']], 'Within lies within Plate: there is nothing to add.'];
        yield 'open' => ['take-away', ['with' => 'Open', 'on' => ['Plate']], 'Open is not closed near ('];
        yield 'itself' => ['take-away', ['with' => 'Plate', 'on' => ['Plate']], 'names "Plate", the body itself'];
        yield 'unknown' => ['take-away', ['with' => 'Bush'], 'names "Bush", but there are Plate'];
        yield 'hole beside it' => ['open-hole', ['axis' => ['point' => [80.0, 0.0, 0.0], 'direction' => [0.0, 0.0, 1.0]], 'diameter' => 4.0, 'on' => ['Plate']], 'misses Plate'];
        yield 'countersink' => ['open-hole', ['axis' => 'Z', 'diameter' => 4.0, 'countersink' => 3.0], 'no wider than the hole of 4 mm'];
        yield 'bore' => ['simple-body', ['kind' => 'tube', 'diameter' => 4.0], 'the tube is 4 mm wide outside'];
        yield 'two names for one' => ['take-away', ['with' => 'Far', 'body' => 'Plate', 'on' => ['Plate']], 'say the same'];
    }

    /** @param  array<string, mixed>  $parameters */
    #[Test]
    #[DataProvider('refusals')]
    public function what_cannot_be_done_is_refused_in_words(string $operation, array $parameters, string $words): void
    {
        $bodies = [
            self::plate(), Body::of('Far', MeshBuilder::icosphere(1, 3.0)->transformed(RigidTransform::shift(90.0, 0.0, 0.0))),
            Body::of('Within', MeshBuilder::icosphere(1, 2.0)->transformed(RigidTransform::shift(20.0, 15.0, 5.0))), Body::of('Open', MeshBuilder::without(MeshBuilder::icosphere(2, 6.0), 5.0)),
        ];
        try {
            self::done($operation, $parameters, ...$bodies);
            self::fail('not refused');
        } catch (UnsuitableInput|InvalidParameter $refusal) {
            self::assertStringContainsString($words, $refusal->getMessage());
        }
    }
}
