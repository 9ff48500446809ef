<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\FillHoles;
use Emberstone\Core\Mend\FillHolesParameters;
use Emberstone\Core\Mend\KeepPieces;
use Emberstone\Core\Mend\KeepPiecesParameters;
use Emberstone\Core\Mend\ReshapePatch;
use Emberstone\Core\Mend\ReshapePatchParameters;
use Emberstone\Core\Mend\Smooth;
use Emberstone\Core\Mend\SmoothParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** What is done to a selected area, or to picked pieces. */
final class ReshapePatchTest extends TestCase
{
    /** @return list<int> faces whose middle passes */
    private static function faces(TriangleMesh $mesh, callable $passes): array
    {
        $found = [];
        for ($t = 0; $t < $mesh->faceCount(); $t++) {
            $at = [0.0, 0.0, 0.0];
            for ($k = 0; $k < 9; $k++) {
                $at[$k % 3] += $mesh->positions[3 * $mesh->faces[3 * $t + intdiv($k, 3)] + $k % 3] / 3.0;
            }
            if ($passes(...$at)) {
                $found[] = $t;
            }
        }

        return $found;
    }

    private static function mesh(Workpiece $workpiece): TriangleMesh
    {
        $mesh = $workpiece->bodies[0]->placed();
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    /** A flat sheet of 2 mm squares, 60 by 60 mm, raised where $height says so. */
    private static function sheet(callable $height): TriangleMesh
    {
        $p = $f = [];
        for ($i = 0; $i <= 30; $i++) {
            for ($j = 0; $j <= 30; $j++) {
                [$x, $y] = [2.0 * $i - 30.0, 2.0 * $j - 30.0];
                array_push($p, $x, $y, $height($x, $y));
                if ($i < 30 && $j < 30) {
                    $a = 31 * $i + $j;
                    array_push($f, $a, $a + 31, $a + 32, $a, $a + 32, $a + 1);
                }
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    #[Test]
    public function a_boss_is_taken_off_and_the_sheet_is_flat_there(): void
    {
        $sheet = self::sheet(fn (float $x, float $y): float => $x * $x + $y * $y < 90.0 ? 6.0 : 0.0);
        $area = self::faces($sheet, fn (float $x, float $y) => $x * $x + $y * $y < 14.0 ** 2);
        $result = (new ReshapePatch)(new Workpiece(bodies: [Body::of('sheet', $sheet)]), new ReshapePatchParameters([['target' => 'sheet', 'indices' => $area]]), new NoProgress);
        $mesh = self::mesh($result->workpiece);
        self::assertSame(count($area), $result->before['faces']);
        foreach (array_chunk($mesh->positions, 3) as [$x, $y, $z]) {
            self::assertEqualsWithDelta(0.0, $z, 1e-6);
        }
        $inspection = Inspection::of($mesh);
        self::assertCount(1, $inspection->holes, 'the border of the sheet is none of its business');
        self::assertSame(0, $inspection->faultCount());
        self::assertSame(count($area), $sheet->faceCount() - count(array_keys($mesh->origin, TriangleMesh::MEASURED, true)));
        self::assertSame([], array_keys($mesh->origin, TriangleMesh::FILLED, true), 'it is marked as reshaped, not as filled');
    }

    /** @return iterable<string, array{callable(float, float): bool}> */
    public static function areasAtRims(): iterable
    {
        yield 'along an edge of the hole' => [fn (float $x, float $y) => abs($y) < 4.0 && $x > 6.0 && $x < 27.0];
        yield 'around two of its corners' => [fn (float $x, float $y) => abs($y) < 10.0 && $x > 2.0 && $x < 27.0];
        yield 'with corners of faces only' => [fn (float $x, float $y) => abs($y) < 4.0 && $x > 7.0 && $x < 27.0];
        yield 'at the border' => [fn (float $x, float $y) => abs($y) < 8.0 && $x > 10.0];
        yield 'from the hole to the border' => [fn (float $x, float $y) => abs($y) < 4.0 && $x > 6.0];
    }

    /** @param  callable(float, float): bool  $inside */
    #[Test]
    #[DataProvider('areasAtRims')]
    public function a_rim_that_the_area_touches_stays_open_where_it_was(callable $inside): void
    {
        // A sheet with a hole of 12 by 12 mm in the middle, and a ridge beside it.
        $whole = self::sheet(fn (float $x, float $y): float => $x > 11.0 && $x < 25.0 && abs($y) < 3.0 ? 2.0 : 0.0);
        $sheet = $whole->withFaces(self::faces($whole, fn (float $x, float $y) => max(abs($x), abs($y)) > 6.0));
        $area = self::faces($sheet, $inside);
        $mesh = self::mesh((new ReshapePatch)(new Workpiece(bodies: [Body::of('sheet', $sheet)]), new ReshapePatchParameters([['target' => 'sheet', 'indices' => $area]]), new NoProgress)->workpiece);
        $inspection = Inspection::of($mesh);
        self::assertSame([2, 1, 0], [count($inspection->holes), $inspection->pieces, $inspection->faultCount()]);
        foreach (Inspection::of($sheet)->holes as $k => $hole) {
            self::assertEqualsWithDelta($hole['perimeter'], $inspection->holes[$k]['perimeter'], 1e-9, 'the rims are what they were');
        }
        // The ridge is gone.
        self::assertEqualsWithDelta(3600.0 - 144.0, $inspection->area, 1.0);
        self::assertNotSame([], array_keys($mesh->origin, TriangleMesh::RESHAPED, true));
    }

    /** @return array<string, array{string, callable(float, float): float, Datum}> */
    public static function shapes(): array
    {
        return [
            'sphere' => ['sphere', fn (float $x, float $y): float => sqrt(50.0 ** 2 - $x * $x - $y * $y), new Datum('', '', 'sphere', [0.0, 0.0, 0.0], radius: 50.0)],
            'cylinder' => ['cylinder', fn (float $x, float $y): float => sqrt(40.0 ** 2 - $y * $y), new Datum('', '', 'cylinder', [0.0, 0.0, 0.0], [1.0, 0.0, 0.0], 40.0)],
            'plane' => ['plane', fn (float $x, float $y): float => 0.3 * $x - 0.1 * $y + 2.0, new Datum('', '', 'plane', [0.0, 0.0, 2.0], [-0.3 / sqrt(1.1), 0.1 / sqrt(1.1), 1.0 / sqrt(1.1)])],
        ];
    }

    /** @param  callable(float, float): float  $height */
    #[Test]
    #[DataProvider('shapes')]
    public function a_rough_area_becomes_the_shape_it_was_meant_to_be(string $kind, callable $height, Datum $truth): void
    {
        $gen = new Gen(6);
        $inside = fn (float $x, float $y): bool => $x * $x + $y * $y < 18.0 ** 2;
        $rough = self::sheet(fn (float $x, float $y): float => $height($x, $y) + ($inside($x, $y) ? $gen->float(-0.5, 0.5) : 0.0));
        $area = self::faces($rough, fn (float $x, float $y) => $x * $x + $y * $y < 20.0 ** 2);
        $result = (new ReshapePatch)(new Workpiece(bodies: [Body::of('sheet', $rough)]), new ReshapePatchParameters([['target' => 'sheet', 'indices' => $area]], $kind), new NoProgress);
        $mesh = self::mesh($result->workpiece);
        $squares = $count = 0;
        foreach (array_chunk($mesh->positions, 3) as $at) {
            if (! $inside(...array_slice($at, 0, 2))) {
                continue;
            }
            $on = $truth->nearest($at);
            $squares += ($on[0] - $at[0]) ** 2 + ($on[1] - $at[1]) ** 2 + ($on[2] - $at[2]) ** 2;
            $count++;
        }
        self::assertGreaterThan(100, $count);
        self::assertLessThan(0.12, sqrt($squares / $count), 'noise was 0.29 mm RMS');
        self::assertStringContainsString("The $kind", $result->notes[0]);
        self::assertSame(0, Inspection::of($mesh)->faultCount());
    }

    #[Test]
    #[TestWith([1])]
    #[TestWith([2])]
    #[TestWith([3])]
    public function crumbs_of_a_ragged_selection_go_with_it_and_older_marks_stay(int $seed): void
    {
        $gen = new Gen($seed);
        $ball = MeshBuilder::icosphere(4, 10.0);
        $filled = (new FillHoles)(new Workpiece(bodies: [Body::of('ball', MeshBuilder::without($ball, 9.0))]), new FillHolesParameters, new NoProgress)->workpiece;
        $mesh = self::mesh($filled);
        $area = array_values(array_filter(self::faces($mesh, fn (float $x, float $y, float $z) => $z < -5.0), fn (int $t) => $gen->float() > 0.15));
        $result = (new ReshapePatch)($filled, new ReshapePatchParameters([['target' => 'ball', 'indices' => $area]]), new NoProgress);
        $after = self::mesh($result->workpiece);
        $inspection = Inspection::of($after);
        self::assertTrue($inspection->closed);
        self::assertSame([1, 0], [$inspection->pieces, $inspection->faultCount()]);
        self::assertCount(count(array_keys($mesh->origin, TriangleMesh::FILLED, true)), array_keys($after->origin, TriangleMesh::FILLED, true));
        self::assertEqualsCanonicalizing([TriangleMesh::MEASURED, TriangleMesh::FILLED, TriangleMesh::RESHAPED], array_values(array_unique($after->origin)));
    }

    #[Test]
    public function what_cannot_be_replaced_is_refused_in_words(): void
    {
        $ball = MeshBuilder::icosphere(2);
        $try = fn (array $selection, string $shape = 'cover') => (new ReshapePatch)(new Workpiece(bodies: [Body::of('ball', $ball)]), new ReshapePatchParameters($selection, $shape), new NoProgress);
        foreach ([
            'Nothing of a mesh' => fn () => $try([]),
            'Nothing' => fn () => $try([['target' => 'elsewhere', 'indices' => [1]]]),
            'All of ball' => fn () => $try([['target' => 'ball', 'ranges' => [[0, $ball->faceCount() - 1]]]]),
            'only 3 faces' => fn () => $try([['target' => 'ball', 'indices' => [0, 1, 2]]], 'sphere'),
        ] as $words => $one) {
            try {
                $one();
                self::fail("done all the same: $words");
            } catch (UnsuitableInput $refused) {
                self::assertStringContainsString($words, $refused->getMessage());
            }
        }
        $this->expectException(InvalidParameter::class);
        $try([['target' => 'ball', 'indices' => [99999]]]);
    }

    #[Test]
    public function smoothing_moves_nothing_outside_the_selection_nor_its_border(): void
    {
        $gen = new Gen(2);
        $ball = MeshBuilder::icosphere(3);
        $rough = $ball->withPositions(array_map(fn (float $x) => $x + $gen->float(-0.02, 0.02), $ball->positions));
        $area = self::faces($rough, fn (float $x, float $y, float $z) => $z > 0.2);
        $result = (new Smooth)(new Workpiece(bodies: [Body::of('b', $rough)]), new SmoothParameters(selection: [['target' => 'b', 'indices' => $area]]), new NoProgress);
        $mesh = self::mesh($result->workpiece);
        $free = array_fill(0, $rough->vertexCount(), true);
        foreach (array_diff(range(0, $rough->faceCount() - 1), $area) as $t) {
            foreach (array_slice($rough->faces, 3 * $t, 3) as $v) {
                $free[$v] = false;
            }
        }
        $moved = 0;
        foreach ($free as $v => $may) {
            $same = array_slice($rough->positions, 3 * $v, 3) === array_slice($mesh->positions, 3 * $v, 3);
            self::assertTrue($may || $same, "vertex $v");
            $moved += $same ? 0 : 1;
        }
        self::assertGreaterThan(50, $moved);
        $this->expectException(UnsuitableInput::class);
        (new Smooth)(new Workpiece(bodies: [Body::of('b', $rough)]), new SmoothParameters(selection: [['target' => 'c', 'indices' => [1]]]), new NoProgress);
    }

    #[Test]
    public function picked_pieces_stay_and_bodies_without_a_pick_are_left_alone(): void
    {
        $far = fn (TriangleMesh $mesh, float $x): TriangleMesh => $mesh->withPositions(array_map(fn (float $v, int $k) => $k % 3 === 0 ? $v + $x : $v, $mesh->positions, array_keys($mesh->positions)));
        $three = MeshBuilder::together(MeshBuilder::together(MeshBuilder::icosphere(3, 2.0), $far(MeshBuilder::icosphere(1), 10.0)), $far(MeshBuilder::icosphere(2), 20.0));
        $other = MeshBuilder::together($far(MeshBuilder::icosphere(1), 50.0), $far(MeshBuilder::icosphere(2), 60.0));
        $result = (new KeepPieces)(new Workpiece(bodies: [Body::of('a', $three), Body::of('b', $other)]), new KeepPiecesParameters(at: [[10.5, 0.0, 1.2], [20.0, 1.0, 0.0]]), new NoProgress);
        self::assertSame('3 → 2 pieces', $result->headline);
        self::assertSame(80 + 320, self::mesh($result->workpiece)->faceCount());
        self::assertSame($other, $result->workpiece->bodies[1]->geometry);
        foreach ([[], [[1.0, 2.0]]] as $at) {
            try {
                new KeepPiecesParameters(at: $at);
                self::fail('taken all the same');
            } catch (InvalidParameter $refused) {
                self::assertStringContainsString('at', $refused->getMessage());
            }
        }
        $this->expectException(InvalidParameter::class);
        new KeepPiecesParameters(largest: 1, at: [[0.0, 0.0, 0.0]]);
    }
}
