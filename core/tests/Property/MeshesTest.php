<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Property;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\ScanBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** What holds for every mesh, tried on seeded ones; a failure names the seed. */
final class MeshesTest extends TestCase
{
    /** @return iterable<string, array{int}> */
    public static function seeds(): iterable
    {
        for ($seed = 1; $seed <= Gen::seeds(2, 20); $seed++) {
            yield "seed $seed" => [$seed];
        }
    }

    /** A lumpy ball of 5,120 faces, or a lumpy ring of about as many, turned and shifted at random. */
    private function lump(Gen $gen, bool $ring = false): TriangleMesh
    {
        $mesh = $ring ? MeshBuilder::ring(10.0, 3.0, 80, 32) : MeshBuilder::icosphere(4, 10.0);
        $p = $mesh->positions;
        [$a, $b, $c] = [$gen->float(0.2, 0.9), $gen->float(0.2, 0.9), $gen->float(0.0, 6.0)];
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $k = 1.0 + 0.05 * sin($a * $p[$o] + $c) * cos($b * $p[$o + 1]) + 0.03 * sin($b * $p[$o + 2]);
            $p[$o] *= $k;
            $p[$o + 1] *= $k;
            $p[$o + 2] *= $k;
        }

        return $mesh->withPositions($p)->transformed(ScanBuilder::motion($gen, 3.0, 200.0));
    }

    /** @param  array<string, mixed>  $parameters */
    private function apply(string $operation, TriangleMesh $mesh, array $parameters = []): Result
    {
        return Catalogue::operation($operation)(new Workpiece([], [Body::of('lump', $mesh)]), Catalogue::parameters($operation, $parameters), new NoProgress);
    }

    private function mesh(Result $result): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[0]->placed();
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    #[Test]
    #[DataProvider('seeds')]
    public function decimation_keeps_a_closed_mesh_closed_and_its_genus(int $seed): void
    {
        $gen = new Gen($seed);
        foreach ([false, true] as $ring) {
            $mesh = $this->lump($gen, $ring);
            $before = Inspection::of($mesh);
            $light = $this->mesh($this->apply('decimate', $mesh, ['ratio' => $gen->float(0.03, 0.6)]));
            $after = Inspection::of($light);
            self::assertTrue($after->closed);
            self::assertSame([1, $ring ? 1 : 0], [$after->pieces, $after->genus]);
            self::assertSame(0, $after->faults['selfIntersections']);
            // Flat faces cut off what is curved: their share of the volume falls with their number.
            self::assertEqualsWithDelta(1.0, $after->volume / $before->volume, max(0.02, 8.0 / $light->faceCount()));
            self::assertSame(0, MeshBuilder::badEdges($light));
        }
    }

    #[Test]
    #[DataProvider('seeds')]
    public function decimation_by_deviation_keeps_its_word_on_samples_it_never_saw(int $seed): void
    {
        $gen = new Gen($seed);
        $mesh = $this->lump($gen);
        // Taking one vertex away moves the surface by some 0.03 already.
        $bound = $gen->float(0.08, 0.3);
        $light = $this->mesh($this->apply('decimate', $mesh, ['deviation' => $bound]));
        self::assertLessThan($mesh->faceCount(), $light->faceCount());
        // The verified points are vertices, middles of edges and of faces; these lie anywhere.
        self::assertLessThanOrEqual(1.02 * $bound, SurfaceDistance::compare($light, $mesh, 20000)['max']);
        self::assertLessThanOrEqual(1.02 * $bound, SurfaceDistance::compare($mesh, $light, 20000)['max']);
    }

    #[Test]
    #[DataProvider('seeds')]
    public function whatever_is_torn_out_of_a_closed_mesh_is_filled_and_marked(int $seed): void
    {
        $gen = new Gen($seed);
        $mesh = $this->lump($gen);
        $torn = [];
        for ($hole = $gen->int(1, 5); $hole > 0; $hole--) {
            $v = $gen->int(0, $mesh->vertexCount() - 1);
            $radius = $gen->float(0.5, 3.0);
            for ($t = 0; $t < $mesh->faceCount(); $t++) {
                $w = $mesh->faces[3 * $t];
                $d = ($mesh->positions[3 * $v] - $mesh->positions[3 * $w]) ** 2 + ($mesh->positions[3 * $v + 1] - $mesh->positions[3 * $w + 1]) ** 2 + ($mesh->positions[3 * $v + 2] - $mesh->positions[3 * $w + 2]) ** 2;
                if ($d < $radius * $radius) {
                    $torn[$t] = true;
                }
            }
        }
        $open = $mesh->withFaces(array_values(array_diff(range(0, $mesh->faceCount() - 1), array_keys($torn))));
        $result = $this->apply('fill-holes', $open, ['shape' => ['flat', 'tangent', 'curved'][$gen->int(0, 2)]]);
        $closed = $this->mesh($result);
        $inspection = Inspection::of($closed);
        self::assertTrue($inspection->closed);
        self::assertSame([1, 0], [$inspection->pieces, $inspection->genus]);
        self::assertEqualsWithDelta(1.0, $inspection->volume / Inspection::of($mesh)->volume, 0.05);
        self::assertSame($closed->faceCount() - $open->faceCount(), count(array_keys($closed->origin, TriangleMesh::FILLED, true)));
        self::assertLessThan(1.0, $inspection->measured);
        // Holes that touch in a vertex come apart there, so places may differ, but no face goes.
        self::assertSame(array_fill(0, $open->faceCount(), TriangleMesh::MEASURED), array_slice($closed->origin, 0, $open->faceCount()));
    }

    #[Test]
    #[DataProvider('seeds')]
    public function smoothing_moves_no_vertex_farther_than_allowed_and_keeps_the_faces(int $seed): void
    {
        $gen = new Gen($seed);
        $mesh = $this->lump($gen);
        $noisy = $mesh->withPositions(array_map(fn (float $v) => $v + $gen->float(-0.1, 0.1), $mesh->positions));
        $most = $gen->float(0.02, 0.2);
        $smooth = $this->mesh($this->apply('smooth', $noisy, ['strength' => $gen->float(0.2, 1.0), 'keepEdges' => $gen->int(0, 1) === 1, 'maxShift' => $most]));
        self::assertSame($noisy->faces, $smooth->faces);
        $farthest = 0.0;
        for ($o = 0, $n = count($noisy->positions); $o < $n; $o += 3) {
            $farthest = max($farthest, ($noisy->positions[$o] - $smooth->positions[$o]) ** 2 + ($noisy->positions[$o + 1] - $smooth->positions[$o + 1]) ** 2 + ($noisy->positions[$o + 2] - $smooth->positions[$o + 2]) ** 2);
        }
        self::assertLessThanOrEqual($most + 1e-9, sqrt($farthest));
        self::assertGreaterThan(0.0, $farthest);
    }

    #[Test]
    #[DataProvider('seeds')]
    public function repair_ends_without_faults_whatever_was_done_to_the_faces(int $seed): void
    {
        $gen = new Gen($seed);
        $mesh = $this->lump($gen);
        $f = $mesh->faces;
        for ($k = 0; $k < 12; $k++) {
            $t = 3 * $gen->int(0, intdiv(count($f), 3) - 1);
            match ($gen->int(0, 3)) {
                // Turned round, doubled, torn out, doubled and turned.
                0 => [$f[$t + 1], $f[$t + 2]] = [$f[$t + 2], $f[$t + 1]],
                1 => array_push($f, $f[$t], $f[$t + 1], $f[$t + 2]),
                2 => array_splice($f, $t, 3),
                3 => array_push($f, $f[$t], $f[$t + 2], $f[$t + 1]),
            };
        }
        $broken = TriangleMesh::fromFlat($mesh->positions, $f);
        $found = Inspection::of($broken);
        self::assertGreaterThan(0, array_sum($found->faults));
        $result = $this->apply('repair', $broken);
        $after = Inspection::of($this->mesh($result));
        self::assertSame(0, array_sum($after->faults));
        self::assertTrue($after->closed);
        self::assertSame(Outcome::Reached, $result->outcome);
        self::assertGreaterThan(0.0, $after->volume);
    }

    #[Test]
    #[DataProvider('seeds')]
    public function what_inspection_finds_does_not_depend_on_order_place_or_turn(int $seed): void
    {
        $gen = new Gen($seed);
        $mesh = MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 7.0);
        $mesh = MeshBuilder::together($mesh, $mesh->transformed(RigidTransform::shift(6.13, 1.27, 0.41)));
        $faces = array_chunk($mesh->faces, 3);
        usort($faces, fn () => $gen->int(-1, 1));
        $shuffled = [];
        foreach ($faces as $face) {
            for ($k = $gen->int(0, 2); $k > 0; $k--) {
                $face[] = array_shift($face);
            }
            array_push($shuffled, ...$face);
        }
        $other = Inspection::of(TriangleMesh::fromFlat($mesh->positions, $shuffled)->transformed(ScanBuilder::motion($gen, 3.0, 50.0)));
        $one = Inspection::of($mesh);
        self::assertSame($one->faults, $other->faults);
        self::assertGreaterThan(0, $one->faults['selfIntersections']);
        self::assertSame([$one->pieces, $one->genus, $one->closed, count($one->holes)], [$other->pieces, $other->genus, $other->closed, count($other->holes)]);
        self::assertEqualsWithDelta($one->area, $other->area, 1e-8 * $one->area);
    }
}
