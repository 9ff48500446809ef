<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Lighten;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Quads\CellUntangling;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Lighten\QuadRemesh;
use Emberstone\Core\Lighten\QuadRemeshParameters;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class QuadRemeshTest extends TestCase
{
    private static function laid(TriangleMesh $mesh, QuadRemeshParameters $parameters): Result
    {
        return (new QuadRemesh)(new Workpiece(bodies: [Body::of('b', $mesh)]), $parameters, new NoProgress);
    }

    private static function meshOf(Result $result): TriangleMesh
    {
        return $result->workpiece->bodies[1]->placedMesh();
    }

    /** A ball with humps and hollows: nothing on it is flat, round or sharp. */
    private static function pebble(): TriangleMesh
    {
        $ball = MeshBuilder::icosphere(5, 15.0);
        $p = $ball->positions;
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $by = 1.0 + 0.2 * sin(0.25 * $p[$o]) * cos(0.3 * $p[$o + 1]) + 0.12 * sin(0.4 * $p[$o + 2]);
            for ($c = 0; $c < 3; $c++) {
                $p[$o + $c] *= $by;
            }
        }

        return $ball->withPositions($p);
    }

    /** @return iterable<string, array{TriangleMesh, float, float}> with the side of cells, and the share of irregular vertices that is allowed */
    public static function shapes(): iterable
    {
        $turn = RigidTransform::turn([0.3, 0.5, -0.8], 1.1);
        yield 'brick' => [MeshBuilder::brick([26.0, 18.0, 14.0], 3)->transformed($turn), 1.5, 0.02];
        yield 'plate' => [SimpleSolid::box([0.0, 0.0, 0.0], [0.2, 0.1, 1.0], [30.0, 20.0, 0.8]), 1.5, 0.04];
        yield 'bowl' => [MeshBuilder::without(MeshBuilder::icosphere(5, 15.0), 6.0), 1.5, 0.04];
        yield 'ball' => [MeshBuilder::icosphere(5, 15.0), 1.5, 0.04];
    }

    /** @return iterable<string, array{TriangleMesh, float, float}> those that take longer */
    public static function moreShapes(): iterable
    {
        yield 'pebble' => [self::pebble(), 1.2, 0.05];
        // Outside it is twice as long around as inside: that many rows of even cells must end on the way.
        yield 'ring' => [MeshBuilder::ring(20.0, 6.0, 96, 32), 1.5, 0.06];
        yield 'drilled block' => [MeshBuilder::drilled([24.0, 24.0, 9.0], 8, [[1, 1], [5, 5], [1, 5]]), 1.2, 0.03];
    }

    #[Test]
    #[DataProvider('moreShapes')]
    #[Group('nightly')]
    public function so_do_larger_ones(TriangleMesh $mesh, float $edge, float $irregular): void
    {
        $this->every_shape_gets_quads_alone_whole_even_and_without_a_fold($mesh, $edge, $irregular);
    }

    #[Test]
    #[DataProvider('shapes')]
    public function every_shape_gets_quads_alone_whole_even_and_without_a_fold(TriangleMesh $mesh, float $edge, float $irregular): void
    {
        $result = self::laid($mesh, new QuadRemeshParameters(edge: $edge));
        self::assertSame([], $result->notes);
        $quads = self::meshOf($result);
        self::assertSame($quads->faceCount(), 2 * count($quads->quads), 'all cells have four sides');
        [$was, $is] = [Inspection::of($mesh), Inspection::of($quads)];
        self::assertSame([$was->closed, $was->genus, $was->pieces, count($was->holes)], [$is->closed, $is->genus, $is->pieces, count($is->holes)]);
        self::assertSame(0, array_sum(array_diff_key($is->faults, ['openEdges' => 0])), 'faults');
        self::assertEqualsWithDelta($was->area / $edge ** 2, $quads->cellCount(), 0.05 * $quads->cellCount());
        $quality = $used = $sides = [];
        foreach ($quads->cells() as $cell) {
            $quality[] = CellUntangling::quality($quads->positions, [$cell[0], $cell[1], $cell[2], $cell[3] ?? -1]);
            foreach ($cell as $k => $v) {
                $used[$v] = ($used[$v] ?? 0) + 1;
                $w = $cell[($k + 1) % 4];
                $sides[min($v, $w).' '.max($v, $w)] = ($sides[min($v, $w).' '.max($v, $w)] ?? 0) + 1;
            }
        }
        self::assertGreaterThan(0.0, min($quality), 'scaled Jacobian');
        self::assertGreaterThan(0.88, array_sum($quality) / count($quality));
        self::assertLessThanOrEqual(2, max($sides), 'no cell is there twice');
        $rim = [];
        foreach (array_keys($sides, 1, true) as $side) {
            $rim += array_flip(explode(' ', $side));
        }
        $odd = array_filter($used, fn (int $many, int $v) => $many !== 4 && ! isset($rim[$v]), ARRAY_FILTER_USE_BOTH);
        self::assertLessThanOrEqual($irregular, count($odd) / count($used), 'irregular vertices');
        foreach ([SurfaceDistance::compare($quads, $mesh, 20_000), SurfaceDistance::compare($mesh, $quads, 20_000)] as $apart) {
            self::assertLessThan(0.05 * $edge, $apart['rms']);
        }
        self::assertEqualsWithDelta(SurfaceDistance::compare($quads, $mesh, 20_000)['max'], $result->after['deviation'], 0.02 * $edge);
    }

    #[Test]
    public function sharp_edges_become_sides_of_cells_and_corners_stay_where_they_are(): void
    {
        $size = [26.0, 18.0, 14.0];
        $quads = self::meshOf(self::laid(MeshBuilder::brick($size, 3), new QuadRemeshParameters(edge: 2.0)));
        $box = Inspection::of(MeshBuilder::brick($size, 3));
        self::assertEqualsWithDelta($box->volume, Inspection::of($quads)->volume, 1e-6);
        // Along each edge of the brick, sides of cells on it are as long together as it is.
        $length = 0.0;
        $p = $quads->positions;
        $onEdge = fn (int $v): array => array_filter([0, 1, 2], fn (int $k) => abs(abs($p[3 * $v + $k] - 0.5 * (min(array_column(array_chunk($p, 3), $k)) + max(array_column(array_chunk($p, 3), $k)))) - 0.5 * $size[$k]) < 1e-6);
        $axes = array_map($onEdge, range(0, $quads->vertexCount() - 1));
        $seen = [];
        foreach ($quads->cells() as $cell) {
            foreach ($cell as $k => $v) {
                $w = $cell[($k + 1) % 4];
                if (count(array_intersect($axes[$v], $axes[$w])) >= 2 && ! isset($seen["$w $v"])) {
                    $seen["$v $w"] = true;
                    $length += sqrt(($p[3 * $v] - $p[3 * $w]) ** 2 + ($p[3 * $v + 1] - $p[3 * $w + 1]) ** 2 + ($p[3 * $v + 2] - $p[3 * $w + 2]) ** 2);
                }
            }
        }
        self::assertEqualsWithDelta(4.0 * array_sum($size), $length, 1e-6);
        self::assertCount(8, array_filter($axes, fn (array $three) => count($three) === 3));
    }

    #[Test]
    public function an_edge_stroke_becomes_a_row_of_sides_and_sides_run_along_a_flow_stroke(): void
    {
        $plate = MeshBuilder::brick([40.0, 30.0, 6.0], 4);
        $box = Inspection::of($plate);
        $p = $plate->positions;
        $top = max(array_column(array_chunk($p, 3), 2));
        [$x, $y] = [0.5 * (min(array_column(array_chunk($p, 3), 0)) + max(array_column(array_chunk($p, 3), 0))), 0.5 * (min(array_column(array_chunk($p, 3), 1)) + max(array_column(array_chunk($p, 3), 1)))];
        $bend = fn (float $t): array => [$x - 12.0 + 24.0 * $t, $y - 4.0 + 6.0 * sin(2.0 * $t), $top];
        $stroke = array_map(fn (int $k) => $bend($k / 24), range(0, 24));
        $quads = self::meshOf(self::laid($plate, new QuadRemeshParameters(edge: 1.5, edges: [$stroke])));
        self::assertEqualsWithDelta($box->volume, Inspection::of($quads)->volume, 1e-3 * (float) $box->volume);
        $all = $along = 0.0;
        for ($k = 1; $k <= 24; $k++) {
            $all += hypot($stroke[$k][0] - $stroke[$k - 1][0], $stroke[$k][1] - $stroke[$k - 1][1]);
        }
        foreach (self::sides($quads) as [$a, $b]) {
            $isOn = fn (array $at): bool => abs($at[2] - $top) < 1e-6 && abs($at[1] - $bend(($at[0] - $x + 12.0) / 24.0)[1]) < 0.05 && abs($at[0] - $x) < 12.1;
            $along += $isOn($a) && $isOn($b) ? hypot($a[0] - $b[0], $a[1] - $b[1]) : 0.0;
        }
        self::assertGreaterThan(0.9 * $all, $along);

        // Across the middle of the plate, at 30 degrees to its edges.
        $flow = [[$x - 10.0, $y - 10.0 * tan(deg2rad(30.0)), $top], [$x + 10.0, $y + 10.0 * tan(deg2rad(30.0)), $top]];
        $turned = fn (array $flow): float => self::medianTurn(self::meshOf(self::laid($plate, new QuadRemeshParameters(edge: 1.5, flow: $flow))), [$x, $y, $top], 30.0);
        self::assertLessThan(8.0, $turned([$flow]), 'degrees off the stroke');
        self::assertGreaterThan(20.0, $turned([]), 'without it they lie along the plate');
    }

    /**
     * The median of how far the sides of cells are turned from a direction, degrees from 0 to 45, within 1.5 mm of a line through a place on the top in that direction, up to 8 mm off.
     *
     * @param  array{float, float, float}  $at
     */
    private static function medianTurn(TriangleMesh $quads, array $at, float $degrees): float
    {
        $off = [];
        foreach (self::sides($quads) as [$a, $b]) {
            $middle = [0.5 * ($a[0] + $b[0]) - $at[0], 0.5 * ($a[1] + $b[1]) - $at[1]];
            if (abs($a[2] - $at[2]) < 1e-6 && abs($b[2] - $at[2]) < 1e-6 && hypot(...$middle) < 8.0 && abs($middle[1] - $middle[0] * tan(deg2rad($degrees))) < 1.5) {
                $turn = fmod(rad2deg(atan2($b[1] - $a[1], $b[0] - $a[0])) - $degrees + 720.0, 90.0);
                $off[] = min($turn, 90.0 - $turn);
            }
        }
        sort($off);
        self::assertGreaterThan(20, count($off));

        return $off[intdiv(count($off), 2)];
    }

    /** @return list<array{array<int, float>, array<int, float>}> both ends of the sides of cells */
    private static function sides(TriangleMesh $quads): array
    {
        $sides = [];
        foreach ($quads->cells() as $cell) {
            foreach ($cell as $k => $v) {
                $w = $cell[($k + 1) % count($cell)];
                $sides[min($v, $w).' '.max($v, $w)] = [array_slice($quads->positions, 3 * $v, 3), array_slice($quads->positions, 3 * $w, 3)];
            }
        }

        return array_values($sides);
    }

    #[Test]
    public function as_many_cells_are_laid_as_are_asked_for_of_any_kind(): void
    {
        foreach (['quads', 'mostly-quads', 'triangles'] as $kind) {
            $mesh = self::meshOf(self::laid(self::pebble(), new QuadRemeshParameters(faces: 300, cells: $kind)));
            self::assertEqualsWithDelta(300, $mesh->cellCount(), 18, $kind);
            self::assertTrue(Inspection::of($mesh)->closed, $kind);
            $share = 2 * count($mesh->quads) / $mesh->faceCount();
            match ($kind) {
                'quads' => self::assertEquals(1, $share), 'triangles' => self::assertEquals(0, $share), default => self::assertGreaterThan(0.85, $share),
            };
        }
    }

    #[Test]
    public function cells_become_smaller_until_the_deviation_is_kept(): void
    {
        $ball = MeshBuilder::icosphere(5, 10.0);
        $result = self::laid($ball, new QuadRemeshParameters(edge: 3.0, deviation: 0.06));
        self::assertSame(Outcome::Reached, $result->outcome);
        $mesh = self::meshOf($result);
        self::assertGreaterThan(300, $mesh->cellCount());
        foreach ([SurfaceDistance::compare($mesh, $ball, 20_000), SurfaceDistance::compare($ball, $mesh, 20_000)] as $apart) {
            self::assertLessThan(0.06, $apart['max']);
        }
    }

    #[Test]
    public function a_deviation_that_cannot_be_kept_ends_and_is_told(): void
    {
        $result = self::laid(MeshBuilder::icosphere(4, 10.0), new QuadRemeshParameters(edge: 7.0, deviation: 1e-4));
        self::assertSame(Outcome::NotConverged, $result->outcome);
        self::assertStringContainsString('more than asked', implode(' ', $result->notes));
        self::assertLessThan(64 * 4.0 * M_PI * 100.0 / 49.0 * 1.1, self::meshOf($result)->cellCount(), 'sides are no shorter than an eighth');
    }

    #[Test]
    public function the_old_body_stays_and_its_evidence_goes_over(): void
    {
        $ball = MeshBuilder::icosphere(4, 10.0);
        $support = $origin = [];
        for ($o = 2, $n = count($ball->positions); $o < $n; $o += 3) {
            $support[] = $ball->positions[$o] > 0.0 ? 5 : 1;
        }
        for ($t = 0; $t < $ball->faceCount(); $t++) {
            $origin[] = $ball->positions[3 * $ball->faces[3 * $t] + 2] < -5.0 ? TriangleMesh::FILLED : TriangleMesh::MEASURED;
        }
        $told = TriangleMesh::fromFlat($ball->positions, $ball->faces, $support, $origin);
        $result = self::laid($told, new QuadRemeshParameters(edge: 1.5));
        self::assertSame(['b', 'b, quads'], array_map(fn (Body $body) => $body->name, $result->workpiece->bodies));
        self::assertSame($told, $result->workpiece->bodies[0]->geometry);
        $quads = self::meshOf($result);
        self::assertEqualsWithDelta(Inspection::of($told)->measured, Inspection::of($quads)->measured, 0.05);
        foreach ($quads->support as $v => $passes) {
            if (abs($quads->positions[3 * $v + 2]) > 1.5) {
                self::assertSame($quads->positions[3 * $v + 2] > 0.0 ? 5 : 1, $passes);
            }
        }
        foreach ($quads->quads as $t) {
            self::assertSame($quads->origin[$t], $quads->origin[$t + 1], 'a cell has one mark');
        }
    }

    #[Test]
    public function what_cannot_be_done_is_told(): void
    {
        $ball = MeshBuilder::icosphere(2, 10.0);
        $three = TriangleMesh::fromFlat([...$ball->positions, 20.0, 0.0, 0.0], [...$ball->faces, $ball->faces[0], $ball->faces[1], $ball->vertexCount()]);
        foreach ([
            [fn () => self::laid($three, new QuadRemeshParameters(edge: 2.0)), UnsuitableInput::class, 'Repair it first'],
            [fn () => self::laid($ball, new QuadRemeshParameters(edge: 0.001)), InvalidParameter::class, 'Give longer sides'],
            [fn () => new QuadRemeshParameters, InvalidParameter::class, 'one of the two'],
            [fn () => new QuadRemeshParameters(edge: 1.0, flow: [[[0.0, 0.0, 0.0]]]), InvalidParameter::class, 'two places or more'],
            [fn () => new QuadRemeshParameters(edge: 1.0, edges: [[[0.0, 0.0], [1.0, 1.0]]]), InvalidParameter::class, 'three numbers'],
            [fn () => (new QuadRemesh)(new Workpiece, new QuadRemeshParameters(edge: 1.0), new NoProgress), UnsuitableInput::class, 'no mesh'],
        ] as [$wrong, $class, $words]) {
            try {
                $wrong();
                self::fail($words);
            } catch (InvalidParameter|UnsuitableInput $problem) {
                self::assertInstanceOf($class, $problem);
                self::assertStringContainsString($words, $problem->getMessage());
            }
        }
        self::assertNotContains(-2, Topology::twins($ball->faces));
    }
}
