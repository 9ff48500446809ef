<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Algorithms\Remeshing\MeshCleanup;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\FaultPlaces;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\Despike;
use Emberstone\Core\Mend\DespikeParameters;
use Emberstone\Core\Mend\Repair;
use Emberstone\Core\Mend\RepairParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Recipe;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\ExactSurface;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\SlowCheck;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class RepairTest extends TestCase
{
    private const BALL = 4.1887902;

    /** @param  list<string>|null  $faults */
    private function repair(TriangleMesh $mesh, ?array $faults = null): Result
    {
        return (new Repair)((new Workpiece)->withBodies([Body::of('b', $mesh)]), new RepairParameters($faults), new NoProgress);
    }

    private function mesh(Result $result): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    /** @return iterable<string, array{string, callable(TriangleMesh): TriangleMesh}> a ball with one kind of fault */
    public static function faults(): iterable
    {
        yield 'a face twice' => ['duplicateFaces', fn (TriangleMesh $ball) => TriangleMesh::fromFlat($ball->positions, [...$ball->faces, ...array_slice($ball->faces, 30, 3)])];
        yield 'a face with two corners in one place' => ['degenerateFaces', function (TriangleMesh $ball): TriangleMesh {
            $p = $ball->positions;
            [$a, $b] = array_slice($ball->faces, 60, 2);
            [$p[3 * $b], $p[3 * $b + 1], $p[3 * $b + 2]] = [$p[3 * $a], $p[3 * $a + 1], $p[3 * $a + 2]];

            return $ball->withPositions($p);
        }];
        yield 'a sliver along an edge' => ['degenerateFaces', function (TriangleMesh $ball): TriangleMesh {
            // A vertex in the middle of one edge, joined only on one side: the other side gets a face without height.
            [$a, $b, $c] = array_slice($ball->faces, 60, 3);
            $p = $ball->positions;
            $m = $ball->vertexCount();
            array_push($p, ($p[3 * $a] + $p[3 * $b]) / 2, ($p[3 * $a + 1] + $p[3 * $b + 1]) / 2, ($p[3 * $a + 2] + $p[3 * $b + 2]) / 2);
            $f = $ball->faces;
            array_splice($f, 60, 3, [$a, $m, $c, $m, $b, $c, $a, $b, $m]);

            return TriangleMesh::fromFlat($p, $f);
        }];
        yield 'faces the wrong way round' => ['inconsistentEdges', function (TriangleMesh $ball): TriangleMesh {
            $f = $ball->faces;
            foreach ([0, 9, 300] as $o) {
                [$f[$o + 1], $f[$o + 2]] = [$f[$o + 2], $f[$o + 1]];
            }

            return TriangleMesh::fromFlat($ball->positions, $f);
        }];
        yield 'a fin on an edge' => ['nonManifoldEdges', function (TriangleMesh $ball): TriangleMesh {
            [$a, $b] = array_slice($ball->faces, 90, 2);
            $p = $ball->positions;

            return TriangleMesh::fromFlat([...$p, 2 * $p[3 * $a], 2 * $p[3 * $a + 1], 2 * $p[3 * $a + 2]], [...$ball->faces, $a, $b, $ball->vertexCount()]);
        }];
        yield 'two balls in one vertex' => ['nonManifoldVertices', function (TriangleMesh $ball): TriangleMesh {
            $other = $ball->transformed(RigidTransform::shift(2 * $ball->positions[0], 2 * $ball->positions[1], 2 * $ball->positions[2]));
            $n = $ball->vertexCount();
            // The vertex of the second ball that is opposite the first vertex lies on it.
            $touch = -1;
            for ($v = 0; $v < $n; $v++) {
                if (abs($other->positions[3 * $v] - $ball->positions[0]) + abs($other->positions[3 * $v + 1] - $ball->positions[1]) + abs($other->positions[3 * $v + 2] - $ball->positions[2]) < 1e-9) {
                    $touch = $v;
                }
            }
            self::assertGreaterThanOrEqual(0, $touch);

            return TriangleMesh::fromFlat([...$ball->positions, ...$other->positions], [...$ball->faces, ...array_map(fn (int $v) => $v === $touch ? 0 : $v + $n, $other->faces)]);
        }];
        yield 'a crumb beside it' => ['pieces', function (TriangleMesh $ball): TriangleMesh {
            $n = $ball->vertexCount();

            return TriangleMesh::fromFlat([...$ball->positions, 3.0, 0.0, 0.0, 3.1, 0.0, 0.0, 3.0, 0.1, 0.0, 3.0, 0.0, 0.1], [...$ball->faces, $n, $n + 2, $n + 1, $n, $n + 1, $n + 3, $n, $n + 3, $n + 2, $n + 1, $n + 2, $n + 3]);
        }];
        yield 'a needle' => ['spikes', function (TriangleMesh $ball): TriangleMesh {
            $p = $ball->positions;
            for ($k = 0; $k < 3; $k++) {
                $p[300 + $k] *= 1.8;
            }

            return $ball->withPositions($p);
        }];
        yield 'a dent pushed out through the far side' => ['selfIntersections', function (TriangleMesh $ball): TriangleMesh {
            $p = $ball->positions;
            for ($v = 0; $v < $ball->vertexCount(); $v++) {
                if ($p[3 * $v + 2] > 0.97) {
                    $p[3 * $v + 2] = -1.3;
                }
            }

            return $ball->withPositions($p);
        }];
        yield 'a hole' => ['openEdges', fn (TriangleMesh $ball) => MeshBuilder::without($ball, 0.9)];
    }

    /** @param  callable(TriangleMesh): TriangleMesh  $spoil */
    #[Test]
    #[DataProvider('faults')]
    public function each_family_ends_at_zero_and_the_ball_stays_a_ball(string $fault, callable $spoil): void
    {
        $spoilt = $spoil(MeshBuilder::icosphere(4));
        $result = $this->repair($spoilt);
        self::assertArrayHasKey($fault, $result->before, 'the fault was seen');
        self::assertSame(Outcome::Reached, $result->outcome, implode(' ', $result->notes));
        $after = Inspection::of($this->mesh($result));
        self::assertTrue($after->closed);
        self::assertSame([0], array_values(array_unique($after->faults)), (string) json_encode($after->faults));
        $balls = $fault === 'nonManifoldVertices' ? 2 : 1;
        self::assertSame($balls, $after->pieces);
        // Where a whole cap had to go, the new one is a little flatter.
        self::assertEqualsWithDelta($balls * self::BALL, $after->volume, ($fault === 'selfIntersections' ? 0.08 : 0.03) * $balls * self::BALL);
    }

    #[Test]
    public function a_sound_mesh_comes_back_as_it_was(): void
    {
        $ball = MeshBuilder::icosphere(3);
        $result = $this->repair($ball);
        self::assertSame($ball->positions, $this->mesh($result)->positions);
        self::assertSame($ball->faces, $this->mesh($result)->faces);
        self::assertSame('0 → 0 faults', $result->headline);
    }

    #[Test]
    public function only_the_named_families_are_touched(): void
    {
        $open = MeshBuilder::without(MeshBuilder::icosphere(3), 0.9);
        $spoilt = TriangleMesh::fromFlat($open->positions, [...$open->faces, ...array_slice($open->faces, 0, 3)]);
        $mesh = $this->mesh($this->repair($spoilt, ['duplicateFaces']));
        self::assertSame($open->faces, $mesh->faces);
        self::assertFalse(Inspection::of($mesh)->closed);
    }

    #[Test]
    public function of_the_holes_only_those_are_faults_that_are_no_wider_than_asked(): void
    {
        // One face is gone in one place, and a wide opening is there besides.
        $ball = MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 8.0);
        $pin = $ball->withFaces(array_values(array_filter(range(0, $ball->faceCount() - 1), fn (int $t) => $t !== 200)));
        $holes = fn (Result $result): array => array_column(Inspection::of($this->mesh($result))->holes, 'diameter');
        $repaired = fn (string|float $limit): Result => (new Repair)(new Workpiece(bodies: [Body::of('Ball', $pin)]), new RepairParameters(holes: $limit), new NoProgress);
        self::assertCount(2, Inspection::of($pin)->holes);
        $some = $repaired(4.0);
        self::assertCount(1, $holes($some));
        self::assertSame('1 → 0 faults, 1 rim left to close', $some->headline);
        self::assertSame('0 → 0 faults, 2 rims left to close', $repaired('none')->headline);
        self::assertSame([[], '2 → 0 faults'], [$holes($repaired('all')), $repaired('all')->headline]);
        // What is cut open to part two balls that share a vertex is closed, though none else is.
        [, $spoil] = iterator_to_array(self::faults())['two balls in one vertex'];
        $apart = (new Repair)(new Workpiece(bodies: [Body::of('Balls', $spoil(MeshBuilder::icosphere(3, 10.0)))]), new RepairParameters(holes: 'none'), new NoProgress);
        self::assertTrue(Inspection::of($this->mesh($apart))->closed);
        $this->expectException(InvalidParameter::class);
        new RepairParameters(holes: 'some');
    }

    #[Test]
    public function two_balls_on_a_thread_are_parted_at_the_neck(): void
    {
        $ball = MeshBuilder::icosphere(3);
        $n = $ball->vertexCount();
        $f = $ball->faces;
        // Both lose their first face; a short tube of three sides joins the holes.
        [$a, $b, $c] = array_splice($f, 0, 3);
        $mirrored = [];
        for ($o = 0; $o < count($f); $o += 3) {
            array_push($mirrored, $f[$o] + $n, $f[$o + 2] + $n, $f[$o + 1] + $n);
        }
        $direction = array_map(fn (int $k) => $ball->positions[3 * $a + $k] + $ball->positions[3 * $b + $k] + $ball->positions[3 * $c + $k], [0, 1, 2]);
        $l = sqrt($direction[0] ** 2 + $direction[1] ** 2 + $direction[2] ** 2);
        $q = [];
        for ($v = 0; $v < $n; $v++) {
            // Mirrored at a plane a little outside the hole.
            $height = 0.0;
            for ($k = 0; $k < 3; $k++) {
                $height += $ball->positions[3 * $v + $k] * $direction[$k] / $l;
            }
            for ($k = 0; $k < 3; $k++) {
                $q[] = $ball->positions[3 * $v + $k] + 2 * (1.05 - $height) * $direction[$k] / $l;
            }
        }
        $tube = [];
        foreach ([[$a, $b], [$b, $c], [$c, $a]] as [$i, $j]) {
            array_push($tube, $i, $j, $j + $n, $i, $j + $n, $i + $n);
        }
        $joined = TriangleMesh::fromFlat([...$ball->positions, ...$q], [...$f, ...$mirrored, ...$tube]);
        self::assertTrue(Inspection::of($joined)->closed);
        self::assertSame(1, Inspection::of($joined)->pieces);
        self::assertNotSame([], MeshCleanup::necks($joined->positions, $joined->faces));
        $after = Inspection::of($this->mesh($this->repair($joined)));
        self::assertSame(2, $after->pieces);
        self::assertTrue($after->closed);
        self::assertSame([], MeshCleanup::necks($ball->positions, $ball->faces), 'a ball has none');
    }

    #[Test]
    public function whatever_comes_the_counts_it_ends_with_are_true(): void
    {
        for ($seed = 1; $seed <= 12; $seed++) {
            $gen = new Gen($seed);
            $ball = MeshBuilder::icosphere(3);
            $p = $ball->positions;
            $f = $ball->faces;
            for ($k = 0; $k < 12; $k++) {
                match ($gen->int(0, 3)) {
                    0 => $p[$gen->int(0, count($p) - 1)] += $gen->float(-0.8, 0.8),
                    1 => array_splice($f, 3 * $gen->int(0, intdiv(count($f), 3) - 1), 3),
                    2 => array_push($f, ...array_slice($f, 3 * $gen->int(0, intdiv(count($f), 3) - 1), 3)),
                    3 => array_push($f, $gen->int(0, 99), $gen->int(100, 199), $gen->int(200, 299)),
                };
            }
            $result = $this->repair(TriangleMesh::fromFlat($p, $f));
            $after = Inspection::of($this->mesh($result));
            if ($result->outcome === Outcome::Reached) {
                self::assertTrue($after->closed, "seed $seed");
                self::assertSame(0, $after->faultCount(), "seed $seed ".json_encode($after->faults));
            } else {
                self::assertMatchesRegularExpression('/^Left: \d+ (duplicate|face|non-manifold|neck|double|loose|spike|pair|open)/', implode(' ', $result->notes), "seed $seed");
            }
        }
    }

    #[Test]
    public function an_unknown_family_is_refused_by_name(): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage('warts');
        Recipe::fromJson('{"recipe": 1, "steps": [{"op": "repair", "faults": ["warts"]}]}');
    }

    /** A bottle that passes through itself and has neither inside nor outside. */
    private function bottle(): TriangleMesh
    {
        $p = $f = [];
        $n = 20;
        for ($i = 0; $i < $n; $i++) {
            for ($j = 0; $j < $n; $j++) {
                [$u, $v] = [2.0 * M_PI * $i / $n, 2.0 * M_PI * $j / $n];
                $r = 3.0 + cos($u / 2.0) * sin($v) - sin($u / 2.0) * sin(2.0 * $v);
                array_push($p, $r * cos($u), $r * sin($u), sin($u / 2.0) * sin($v) + cos($u / 2.0) * sin(2.0 * $v));
                // The last row is sewn to the first one the other way round.
                $next = fn (int $k): int => $i + 1 < $n ? ($i + 1) * $n + $k % $n : ($n - $k % $n) % $n;
                [$a, $b, $c, $d] = [$i * $n + $j, $i * $n + ($j + 1) % $n, $next($j + 1), $next($j)];
                array_push($f, $a, $b, $c, $a, $c, $d);
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    #[Test]
    public function what_is_hardly_a_mesh_is_never_made_worse_and_said_to_be_so(): void
    {
        $manyHoles = MeshBuilder::icosphere(4, 50.0);
        $inputs = [
            'one triangle' => TriangleMesh::fromFlat([0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0], [0, 1, 2]),
            'no area' => TriangleMesh::fromFlat([0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 2.0, 0.0, 0.0], [0, 1, 2, 0, 0, 1]),
            'bottle' => $this->bottle(),
            'hundreds of holes' => $manyHoles->withFaces(array_values(array_filter(range(0, $manyHoles->faceCount() - 1), fn (int $t) => $t % 8 !== 3))),
        ];
        foreach ($inputs as $name => $mesh) {
            $result = (new Repair)(new Workpiece(bodies: [Body::of($name, $mesh)]), new RepairParameters, new NoProgress);
            self::assertLessThanOrEqual(array_sum($result->before), array_sum($result->after), $name);
            $after = $result->workpiece->bodies[0]->geometry;
            self::assertInstanceOf(TriangleMesh::class, $after);
            if (array_sum($result->after) === 0) {
                self::assertSame([], SlowCheck::faults($after), $name);
            } else {
                self::assertSame(Outcome::StoppedEarly, $result->outcome, $name);
                self::assertNotSame([], $result->notes, $name);
            }
        }
        $one = (new Repair)(new Workpiece(bodies: [Body::of('flag', $inputs['one triangle'])]), new RepairParameters, new NoProgress);
        self::assertSame($inputs['one triangle'], $one->workpiece->bodies[0]->geometry);
        self::assertStringContainsString('too little surface', implode(' ', $one->notes));
    }

    #[Test]
    public function a_second_layer_under_the_first_is_found_and_goes_where_it_is_a_piece_of_its_own(): void
    {
        $ball = MeshBuilder::icosphere(4);
        $layer = MeshBuilder::without(MeshBuilder::icosphere(4, 0.97), -0.5);
        $both = MeshBuilder::together($ball, $layer);
        self::assertCount(0, FaultPlaces::doubled($ball));
        self::assertCount(0, FaultPlaces::doubled(MeshBuilder::brick([40.0, 40.0, 0.5], 40)), 'a thin wall has two sides, but no second layer');
        $places = FaultPlaces::doubled($both);
        self::assertEqualsWithDelta($layer->faceCount(), array_sum(array_column($places, 'count')), 0.02 * $layer->faceCount());
        self::assertLessThan(-0.45, max(array_map(fn (array $place) => $place['centre'][2], $places)));
        $result = $this->repair($both, ['doubleSkins']);
        self::assertEqualsWithDelta([$ball->faceCount(), self::BALL], [$this->mesh($result)->faceCount(), Inspection::of($this->mesh($result))->volume], 0.02);
        self::assertSame(0, $result->after['doubleSkins']);
    }

    /** A ball with a flap that rises off it at a slit and lies over the place beside it, all of one piece. */
    private function slipped(): TriangleMesh
    {
        $around = 120;
        $high = 60;
        $p = $f = $at = [];
        $point = function (float $u, float $v, float $r) use (&$p): int {
            array_push($p, $r * sin($v) * cos($u), $r * sin($v) * sin($u), $r * cos($v));

            return intdiv(count($p), 3) - 1;
        };
        $quad = function (int $a, int $b, int $c, int $d) use (&$f): void {
            array_push($f, $a, $b, $c, $a, $c, $d);
        };
        for ($i = 0; $i < $around; $i++) {
            for ($j = 1; $j < $high; $j++) {
                $at[$i][$j] = $point(2 * M_PI * $i / $around, M_PI * $j / $high, 1.0);
            }
        }
        [$north, $south] = [$point(0.0, 0.0, 1.0), $point(0.0, M_PI, 1.0)];
        // The flap starts at the slit with vertices of its own inside it, and is 8 by 18 squares.
        $flap = [];
        for ($i = 0; $i <= 8; $i++) {
            for ($j = 21; $j <= 39; $j++) {
                $flap[$i][$j] = $i === 0 ? ($j === 21 || $j === 39 ? $at[0][$j] : $point(0.0, M_PI * $j / $high, 1.0)) : $point(2 * M_PI * $i / $around, M_PI * $j / $high, 1.0 + 0.03 * min(1.0, $i / 2));
            }
        }
        for ($i = 0; $i < $around; $i++) {
            $next = ($i + 1) % $around;
            array_push($f, $north, $at[$i][1], $at[$next][1], $at[$i][$high - 1], $south, $at[$next][$high - 1]);
            for ($j = 1; $j < $high - 1; $j++) {
                // Left of the slit faces end at the flap.
                $right = fn (int $j): int => $next === 0 && isset($flap[0][$j]) ? $flap[0][$j] : $at[$next][$j];
                $quad($at[$i][$j], $at[$i][$j + 1], $right($j + 1), $right($j));
            }
        }
        for ($i = 0; $i < 8; $i++) {
            for ($j = 21; $j < 39; $j++) {
                $quad($flap[$i][$j], $flap[$i][$j + 1], $flap[$i + 1][$j + 1], $flap[$i + 1][$j]);
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    #[Test]
    public function where_a_piece_lies_under_itself_the_layer_beneath_goes_and_the_seam_is_closed(): void
    {
        $mesh = $this->slipped();
        $before = Inspection::of($mesh);
        self::assertSame([1, 1, 0], [$before->pieces, count($before->holes), $before->faults['inconsistentEdges']]);
        self::assertNotSame([], FaultPlaces::doubled($mesh));
        $result = $this->repair($mesh, ['doubleSkins']);
        self::assertSame(0, $result->after['doubleSkins'], implode(' ', $result->notes));
        $after = $this->mesh($result);
        $report = Inspection::of($after);
        self::assertSame([true, 1, 0], [$report->closed, $report->pieces, $report->faults['selfIntersections']]);
        self::assertSame([], FaultPlaces::doubled($after));
        // The flap stayed: 8 by 18 squares of 3 degrees, 0.03 over the ball.
        self::assertEqualsWithDelta(self::BALL + 0.03 * (8 * M_PI / 60) * (18 * M_PI / 60), $report->volume, 0.02);
        self::assertSame(1.03, round(max(array_map(fn (array $at) => sqrt($at[0] ** 2 + $at[1] ** 2 + $at[2] ** 2), array_chunk($after->positions, 3))), 3));
    }

    /** Vertices of a mechanical part pulled out or in, on flats, edges and corners alike: all are told, and all go back to where the part is. */
    #[Test]
    #[TestWith(['pedestal', 3.0, 2])]
    #[TestWith(['pedestal', 1.8, 3])]
    #[TestWith(['bush', 2.2, 5])]
    #[TestWith(['ratchet-wheel', 3.0, 4])]
    public function spikes_beside_sharp_edges_are_told_and_laid_back(string $part, float $cell, int $seed): void
    {
        $clean = ExactSurface::of(Catalogue::part($part), $cell);
        $size = BoundingBox::of($clean->positions)->diagonal();
        $before = count(Inspection::spikes($clean->positions, $clean->faces, $clean->vertexCount()));
        $normals = array_fill(0, count($clean->positions), 0.0);
        $crosses = Measure::crosses($clean->positions, $clean->faces);
        foreach ($clean->faces as $h => $v) {
            for ($c = 0; $c < 3; $c++) {
                $normals[3 * $v + $c] += $crosses[$h - $h % 3 + $c];
            }
        }
        $gen = new Gen($seed);
        $p = $clean->positions;
        $pulled = [];
        while (count($pulled) < 12) {
            $v = $gen->int(0, $clean->vertexCount() - 1);
            $pulled[$v] = $v;
            $way = Vector3::scaled(Vector3::unit(array_slice($normals, 3 * $v, 3)), ($gen->int(0, 1) === 0 ? -0.06 : 0.06) * $size);
            [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]] = Vector3::plus(array_slice($clean->positions, 3 * $v, 3), $way);
        }
        $spoilt = $clean->withPositions($p);
        self::assertSame([], array_diff($pulled, Inspection::spikes($p, $spoilt->faces, $spoilt->vertexCount())), 'each is told');
        self::assertSame(0, $before, 'and nothing of the part itself');
        foreach ([$this->repair($spoilt), (new Despike)(new Workpiece(bodies: [Body::of('b', $spoilt)]), new DespikeParameters, new NoProgress)] as $result) {
            $mesh = $result->workpiece->bodies[0]->placedMesh();
            $face = $far = [];
            TriangleBvh::of($clean->positions, $clean->faces)->closest($mesh->positions, $face, $far);
            self::assertLessThan(0.007 * $size, sqrt(max($far)), 'a tenth of the damage, less than the edge of a face');
        }
    }
}
