<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\BoundaryLoops;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\FillHoles;
use Emberstone\Core\Mend\FillHolesParameters;
use Emberstone\Core\Mend\FillPart;
use Emberstone\Core\Mend\FillPartParameters;
use Emberstone\Core\Mend\LayStrip;
use Emberstone\Core\Mend\LayStripParameters;
use Emberstone\Core\Mend\Repair;
use Emberstone\Core\Mend\RepairParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class BoundaryLoopsTest extends TestCase
{
    private const RADIUS = 20.0;

    /** A sphere of radius 20 with a wide hole on top, a narrower one at -X and a small one at +Y. */
    private static function holed(): TriangleMesh
    {
        $sphere = MeshBuilder::icosphere(4, self::RADIUS);
        $keep = [];
        for ($t = 0; $t < $sphere->faceCount(); $t++) {
            [$x, $y, $z] = [0.0, 0.0, 0.0];
            for ($k = 0; $k < 3; $k++) {
                $o = 3 * $sphere->faces[3 * $t + $k];
                [$x, $y, $z] = [$x + $sphere->positions[$o] / 3.0, $y + $sphere->positions[$o + 1] / 3.0, $z + $sphere->positions[$o + 2] / 3.0];
            }
            if ($z < 15.0 && $x > -18.0 && $y < 19.3) {
                $keep[] = $t;
            }
        }

        return $sphere->withFaces($keep);
    }

    private static function onSphere(float $x, float $y, float $z): array
    {
        $k = self::RADIUS / sqrt($x * $x + $y * $y + $z * $z);

        return [$x * $k, $y * $k, $z * $k];
    }

    private static function mesh(Workpiece $workpiece): TriangleMesh
    {
        $mesh = $workpiece->bodies[0]->placed();
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    #[Test]
    public function holes_are_listed_widest_first_with_an_outline_on_their_rim(): void
    {
        $holes = Inspection::of(self::holed())->holes;
        self::assertCount(3, $holes);
        self::assertGreaterThan($holes[1]['diameter'], $holes[0]['diameter']);
        self::assertGreaterThan($holes[2]['diameter'], $holes[1]['diameter']);
        self::assertGreaterThan(14.0, $holes[0]['centre'][2]);
        foreach ($holes as $hole) {
            self::assertLessThanOrEqual(16, count($hole['outline']));
            foreach ($hole['outline'] as $at) {
                self::assertEqualsWithDelta(self::RADIUS, sqrt($at[0] ** 2 + $at[1] ** 2 + $at[2] ** 2), 1e-3, 'a corner of the sphere');
            }
        }
    }

    #[Test]
    public function only_picked_rims_are_closed(): void
    {
        $workpiece = new Workpiece(bodies: [Body::of('dome', self::holed())]);
        $result = (new FillHoles)($workpiece, new FillHolesParameters(rims: [self::onSphere(-18.0, 2.0, 1.0), self::onSphere(-18.0, -2.0, 1.0)]), new NoProgress);
        $left = Inspection::of(self::mesh($result->workpiece))->holes;
        self::assertCount(2, $left);
        self::assertGreaterThan(14.0, $left[0]['centre'][2], 'the wide one on top is still there');
        self::assertGreaterThan(19.0, $left[1]['centre'][1], 'and the small one');
        self::assertSame('1 of 3 holes closed, 2 left', $result->headline);
        self::assertSame([], $result->workpiece->bodies[0]->leftOpen, 'not picking a rim is no wish to leave it open');
    }

    #[Test]
    public function a_rim_left_open_is_remembered_wherever_the_body_goes_until_it_is_picked(): void
    {
        $top = self::onSphere(0.1, 0.0, 1.0);
        $workpiece = (new Workpiece(bodies: [Body::of('dome', self::holed())]))->moved(RigidTransform::turn([1.0, 0.0, 0.0], 0.7)->then(RigidTransform::shift(100.0, 5.0, -3.0)));
        $top = $workpiece->bodies[0]->transform->point($top);
        $first = (new FillHoles)($workpiece, new FillHolesParameters(leaveOpen: [$top]), new NoProgress);
        self::assertSame('2 of 3 holes closed, 1 left', $first->headline);
        self::assertStringContainsString('left open on purpose', $first->notes[0]);
        $later = $first->workpiece->scaled(25.4)->moved(RigidTransform::shift(-7.0, 0.0, 1.0));
        $again = (new FillHoles)($later, new FillHolesParameters, new NoProgress);
        self::assertSame('1 hole left open', $again->headline, 'without being told again');
        $mended = (new Repair)($again->workpiece, new RepairParameters, new NoProgress);
        self::assertCount(1, Inspection::of(self::mesh($mended->workpiece))->holes, 'nor does repairing close it');
        self::assertSame([], array_filter($mended->after), 'and it is no fault');
        $hole = Inspection::of(self::mesh($mended->workpiece))->holes[0];
        self::assertTrue(BoundaryLoops::isMeant($hole, $mended->workpiece->bodies[0]->openPlaces()));
        $closed = (new FillHoles)($mended->workpiece, new FillHolesParameters(rims: [$hole['outline'][0]]), new NoProgress);
        self::assertTrue(Inspection::of(self::mesh($closed->workpiece))->closed);
        self::assertSame([], $closed->workpiece->bodies[0]->leftOpen);
    }

    #[Test]
    public function a_pick_with_its_width_means_that_hole_and_no_other_when_steps_run_again(): void
    {
        $holes = Inspection::of(self::holed())->holes;
        $small = $holes[2];
        $workpiece = new Workpiece(bodies: [Body::of('dome', self::holed())]);
        $pick = ['at' => $small['outline'][3], 'diameter' => $small['diameter']];
        $first = (new FillHoles)($workpiece, new FillHolesParameters(leaveOpen: [$pick]), new NoProgress);
        self::assertSame('2 of 3 holes closed, 1 left', $first->headline);
        // The same on surface that came out a little coarser, and stands elsewhere: rims some edges aside are still the same hole.
        $below = fn (TriangleMesh $mesh, float $y): TriangleMesh => $mesh->withFaces(array_keys(array_filter(array_chunk($mesh->faces, 3), fn (array $f) => max(array_map(fn (int $v) => $mesh->positions[3 * $v + 1], $f)) < $y)));
        $coarse = Body::of('dome', $below(MeshBuilder::icosphere(3, self::RADIUS), 19.2));
        $again = (new FillHoles)(new Workpiece(bodies: [$coarse]), new FillHolesParameters(leaveOpen: [$pick]), new NoProgress);
        self::assertSame('1 hole left open', $again->headline);
        // The small hole is not there any more, and a wide one is: by place alone it would be taken for it.
        $gone = new Workpiece(bodies: [Body::of('dome', $below(self::holed(), 12.0))]);
        foreach ([['rims' => [$pick]], ['leaveOpen' => [$pick]]] as $picked) {
            try {
                (new FillHoles)($gone, new FillHolesParameters(...$picked), new NoProgress);
                self::fail('another hole was taken');
            } catch (UnsuitableInput $refused) {
                self::assertMatchesRegularExpression('/^The hole of \d+\.\d+ mm that was (picked|left open) at .* is not here any more: the rim nearest to it is \d+(\.\d+)? mm wide and .* away\. Pick anew/', $refused->getMessage());
            }
        }
        // What is remembered of it leaves no wide hole open either.
        self::assertFalse(BoundaryLoops::isMeant(['diameter' => 26.0, 'centre' => [0.0, 1.0, 0.0]], [[0.0, 0.0, 0.0, 4.9]]));
        self::assertTrue(BoundaryLoops::isMeant(['diameter' => 26.0, 'centre' => [0.0, 1.0, 0.0]], [[0.0, 0.0, 0.0]]), 'older ones have no width');
        $remembered = $first->workpiece->bodies[0]->leftOpen;
        self::assertEqualsWithDelta($small['diameter'], $remembered[0][3] ?? 0.0, 0.3);
        $moved = $first->workpiece->scaled(2.0)->moved(RigidTransform::shift(9.0, 0.0, 0.0))->bodies[0];
        self::assertEqualsWithDelta(2.0 * ($remembered[0][3] ?? 0.0), $moved->openPlaces()[0][3] ?? 0.0, 1e-9);
        self::assertEqualsWithDelta($remembered, $moved->leavingOpen($moved->openPlaces())->leftOpen, 1e-9);
    }

    #[Test]
    public function a_place_belongs_to_the_body_whose_rim_is_nearest(): void
    {
        $one = self::holed();
        $workpiece = new Workpiece(bodies: [Body::of('left', $one), Body::of('right', $one)->moved(RigidTransform::shift(100.0, 0.0, 0.0))]);
        $result = (new FillHoles)($workpiece, new FillHolesParameters(rims: [[100.0, 0.0, 20.0]]), new NoProgress)->workpiece->bodies;
        self::assertSame($one->faces, $result[0]->geometry->faces ?? null);
        self::assertCount(2, Inspection::of($result[1]->placed())->holes);
    }

    /** @return array<string, array{string, float}> */
    public static function shapes(): array
    {
        return ['tangent' => ['tangent', 0.055], 'curved' => ['curved', 0.07]];
    }

    #[Test]
    #[DataProvider('shapes')]
    public function one_side_of_a_hole_is_closed_and_the_other_stays_open(string $shape, float $off): void
    {
        $before = self::holed();
        $points = [self::onSphere(0.0, 13.0, 15.2), self::onSphere(0.0, -13.0, 15.2), self::onSphere(13.0, 0.0, 15.2)];
        $result = (new FillPart)(new Workpiece(bodies: [Body::of('dome', $before)]), new FillPartParameters($points, $shape), new NoProgress);
        $mesh = self::mesh($result->workpiece);
        $inspection = Inspection::of($mesh);
        self::assertCount(3, $inspection->holes);
        self::assertSame(0, $inspection->faultCount());
        self::assertSame($before->faces, array_slice($mesh->faces, 0, count($before->faces)), 'nothing there was touched');
        self::assertSame([TriangleMesh::FILLED], array_values(array_unique(array_slice($mesh->origin, $before->faceCount()))));
        $most = 0.0;
        for ($v = $before->vertexCount(); $v < $mesh->vertexCount(); $v++) {
            [$x, $y, $z] = array_slice($mesh->positions, 3 * $v, 3);
            self::assertGreaterThan(-1.5, $x, 'the side that was meant');
            $most = max($most, abs(self::RADIUS - sqrt($x * $x + $y * $y + $z * $z)));
        }
        self::assertLessThan($off * 13.2, $most, 'the dome goes on');
        $closed = (new FillHoles)($result->workpiece, new FillHolesParameters, new NoProgress);
        self::assertTrue(Inspection::of(self::mesh($closed->workpiece))->closed, 'what is left is a hole as any other');
    }

    #[Test]
    public function a_strip_makes_two_holes_of_one_and_follows_both_slopes(): void
    {
        $before = self::holed();
        $points = [self::onSphere(-2.5, 13.0, 15.2), self::onSphere(2.5, 13.0, 15.2), self::onSphere(2.5, -13.0, 15.2), self::onSphere(-2.5, -13.0, 15.2)];
        $result = (new LayStrip)(new Workpiece(bodies: [Body::of('dome', $before)]), new LayStripParameters($points), new NoProgress);
        $mesh = self::mesh($result->workpiece);
        $inspection = Inspection::of($mesh);
        self::assertCount(4, $inspection->holes);
        self::assertSame(0, $inspection->faultCount());
        self::assertSame([TriangleMesh::STRIP], array_values(array_unique(array_slice($mesh->origin, $before->faceCount()))));
        for ($v = $before->vertexCount(); $v < $mesh->vertexCount(); $v++) {
            [$x, $y, $z] = array_slice($mesh->positions, 3 * $v, 3);
            self::assertLessThan(4.5, abs($x));
            self::assertEqualsWithDelta(self::RADIUS, sqrt($x * $x + $y * $y + $z * $z), 0.3, 'a flat strip would run 4.8 mm below the dome');
        }
        $closed = (new FillHoles)($result->workpiece, new FillHolesParameters, new NoProgress);
        self::assertTrue(Inspection::of(self::mesh($closed->workpiece))->closed);
    }

    #[Test]
    public function one_step_closes_a_rim_and_a_part_of_another_and_lays_a_strip(): void
    {
        $before = self::holed();
        $whole = self::onSphere(0.0, 20.0, 0.0);
        $part = ['from' => self::onSphere(0.0, 13.0, 15.2), 'to' => self::onSphere(0.0, -13.0, 15.2), 'side' => self::onSphere(13.0, 0.0, 15.2)];
        $strip = [['from' => self::onSphere(-18.0, -2.0, 8.0), 'to' => self::onSphere(-18.0, 2.0, 8.0)], ['from' => self::onSphere(-18.0, 2.0, -8.0), 'to' => self::onSphere(-18.0, -2.0, -8.0)]];
        $closed = fn (mixed ...$with) => (new FillHoles)(new Workpiece(bodies: [Body::of('dome', $before)]), new FillHolesParameters(...$with), new NoProgress);
        $result = $closed(rims: [$whole], parts: [$part], strips: [$strip]);
        self::assertSame('1 of 3 holes closed, 2 left, 1 part closed, 1 strip laid', $result->headline);
        self::assertSame([3, 3], [$result->before['holes'], $result->after['holes']], 'the strip makes two of one');
        $mesh = self::mesh($result->workpiece);
        self::assertSame($mesh->faceCount() - $before->faceCount(), $result->after['faces']);
        $made = array_count_values(array_slice($mesh->origin, $before->faceCount()));
        self::assertSame(0, Inspection::of($mesh)->faultCount());
        // The same, one step after the other.
        $one = (new FillPart)($closed(rims: [$whole])->workpiece, new FillPartParameters(array_values($part)), new NoProgress);
        $two = (new LayStrip)($one->workpiece, new LayStripParameters(array_merge(...array_map(array_values(...), $strip))), new NoProgress);
        self::assertEquals(self::mesh($two->workpiece), $mesh);
        self::assertSame([TriangleMesh::FILLED, TriangleMesh::STRIP], array_keys($made));
        // With nothing named but a part no rim is closed whole.
        self::assertSame(3, $closed(parts: [$part])->after['holes']);
    }

    #[Test]
    public function a_part_of_a_rim_that_is_gone_is_refused_before_anything_is_done(): void
    {
        $workpiece = new Workpiece(bodies: [Body::of('dome', self::holed())]);
        $part = ['from' => self::onSphere(0.0, 13.0, 15.2), 'to' => self::onSphere(0.0, -13.0, 15.2), 'side' => self::onSphere(13.0, 0.0, 15.2)];
        $width = Inspection::of(self::mesh($workpiece))->holes[0]['diameter'];
        self::assertSame(3, (new FillHoles)($workpiece, new FillHolesParameters(parts: [['diameter' => $width] + $part]), new NoProgress)->after['holes']);
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('The hole of 9.00 mm that was picked');
        (new FillHoles)($workpiece, new FillHolesParameters(parts: [['diameter' => 9.0] + $part]), new NoProgress);
    }

    #[Test]
    public function new_surface_stands_between_two_shapes_where_its_share_of_the_way_says(): void
    {
        $middle = function (mixed ...$with): float {
            $before = self::holed();
            $mesh = self::mesh((new FillHoles)(new Workpiece(bodies: [Body::of('dome', $before)]), new FillHolesParameters(...$with, rims: [[0.0, 0.0, 20.0]]), new NoProgress)->workpiece);
            $high = -INF;
            for ($v = $before->vertexCount(); $v < $mesh->vertexCount(); $v++) {
                $high = max($high, $mesh->positions[3 * $v + 2]);
            }

            return $high;
        };
        [$flat, $tangent, $curved] = [$middle(shape: 'flat'), $middle(shape: 'tangent'), $middle(shape: 'curved')];
        self::assertSame([$flat, $tangent, $curved], [$middle(follow: 0.0), $middle(follow: 0.5), $middle(follow: 1.0)]);
        self::assertEqualsWithDelta(self::RADIUS, $curved, 0.03);
        $heights = array_map(fn (float $follow) => $middle(follow: $follow), [0.0, 0.1, 0.25, 0.4, 0.5, 0.75]);
        $sorted = $heights;
        sort($sorted);
        self::assertSame($sorted, $heights, 'the farther it follows, the higher the dome');
        self::assertEqualsWithDelta(0.5 * ($flat + $tangent), $heights[2], 0.1);
        self::assertEqualsWithDelta(0.5 * ($tangent + $curved), $heights[5], 0.1);
    }

    #[Test]
    public function ends_that_make_no_stretch_are_refused_in_words(): void
    {
        $workpiece = new Workpiece(bodies: [Body::of('dome', self::holed())]);
        [$a, $b, $x] = [self::onSphere(0.0, 13.0, 15.2), self::onSphere(0.0, -13.0, 15.2), self::onSphere(-18.0, 0.0, 8.0)];
        foreach ([
            'different rims' => fn () => (new FillPart)($workpiece, new FillPartParameters([$a, $x, $b]), new NoProgress),
            'one corner' => fn () => (new FillPart)($workpiece, new FillPartParameters([$a, $a, $b]), new NoProgress),
            'one of the ends' => fn () => (new FillPart)($workpiece, new FillPartParameters([$a, $b, $a]), new NoProgress),
            'stretches meet' => fn () => (new LayStrip)($workpiece, new LayStripParameters([$a, $b, $a, $b]), new NoProgress),
            'No rim is open' => fn () => (new FillPart)(new Workpiece(bodies: [Body::of('ball', MeshBuilder::icosphere(2))]), new FillPartParameters([$a, $b, $x]), new NoProgress),
            'nothing to fill' => fn () => (new FillHoles)(new Workpiece(bodies: [Body::of('ball', MeshBuilder::icosphere(2))]), new FillHolesParameters(rims: [$a]), new NoProgress),
            'no mesh' => fn () => (new LayStrip)(new Workpiece, new LayStripParameters([$a, $b, $a, $b]), new NoProgress),
        ] as $words => $try) {
            try {
                $try();
                self::fail("done all the same: $words");
            } catch (UnsuitableInput $refused) {
                self::assertStringContainsString($words, $refused->getMessage());
            }
        }
        foreach ([fn () => new FillPartParameters([$a, $b]), fn () => new LayStripParameters([$a, $b, $x, ['here', 0, 0]]), fn () => new FillHolesParameters(rims: [[1.0, NAN, 2.0]]), fn () => new FillHolesParameters(leaveOpen: ['top' => $a]), fn () => new FillHolesParameters(parts: [['from' => $a, 'to' => $b]]), fn () => new FillHolesParameters(strips: [[['from' => $a, 'to' => $b]]])] as $try) {
            try {
                $try();
                self::fail('taken all the same');
            } catch (InvalidParameter $refused) {
                self::assertMatchesRegularExpression('/points|rims|leaveOpen|parts|strips/', $refused->getMessage());
            }
        }
    }
}
