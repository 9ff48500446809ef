<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Property;

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Measure\FaultPlaces;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\Inspect;
use Emberstone\Core\Mend\InspectParameters;
use Emberstone\Core\Mend\Repair;
use Emberstone\Core\Mend\RepairParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\DirtyMesh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\SlowCheck;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Meshes with every kind of damage at random places, before and after repairing, counted by a checker of the tests' own. */
final class DirtyMeshesTest extends TestCase
{
    private const EACH = 20;

    /** Faults are mended within so many edges of where they were made. */
    private const REACH = 5.0;

    /** @return iterable<string, array{int}> */
    public static function batches(): iterable
    {
        for ($k = 0; $k < Gen::seeds(3, 10); $k++) {
            yield 'seeds '.(self::EACH * $k).' on' => [self::EACH * $k];
        }
    }

    private static function lump(int $seed): TriangleMesh
    {
        $gen = new Gen($seed);
        $p = [];
        [$a, $b] = [$gen->float(0.05, 0.15), $gen->float(0.05, 0.15)];
        $ball = MeshBuilder::icosphere(3);
        foreach (array_chunk($ball->positions, 3) as [$x, $y, $z]) {
            $k = 1.0 + $a * sin(3.0 * $x + $seed) + $b * cos(4.0 * $y - $z);
            array_push($p, $k * $x, $k * $y, $k * $z);
        }

        return $ball->withPositions($p);
    }

    #[Test]
    #[DataProvider('batches')]
    public function repair_leaves_no_fault_and_nothing_else_moves(int $first): void
    {
        for ($seed = $first; $seed < $first + self::EACH; $seed++) {
            $dirty = DirtyMesh::of(self::lump($seed), $seed);
            $result = (new Repair)(new Workpiece(bodies: [Body::of('lump', $dirty->mesh())]), new RepairParameters, new NoProgress);
            $mended = $result->workpiece->bodies[0]->geometry;
            self::assertInstanceOf(TriangleMesh::class, $mended);
            self::assertSame([], SlowCheck::faults($mended), "seed $seed");
            self::assertSame(Outcome::Reached, $result->outcome);
            $edge = sqrt(array_sum(array_map(fn (int $k) => ($dirty->clean->positions[3 * $dirty->clean->faces[0] + $k] - $dirty->clean->positions[3 * $dirty->clean->faces[1] + $k]) ** 2, [0, 1, 2])));
            $far = [];
            foreach (array_chunk($dirty->clean->positions, 3) as $at) {
                $near = array_filter($dirty->places, fn (array $place) => sqrt(($place[0] - $at[0]) ** 2 + ($place[1] - $at[1]) ** 2 + ($place[2] - $at[2]) ** 2) < self::REACH * $edge);
                if ($near === []) {
                    array_push($far, ...$at);
                }
            }
            $face = $distanceSq = [];
            TriangleBvh::of($mended->positions, $mended->faces)->closest($far, $face, $distanceSq);
            self::assertGreaterThan(100, count($distanceSq), "seed $seed: something must be far from all damage");
            self::assertLessThan(0.01 * $edge, sqrt(max($distanceSq)), "seed $seed");
        }
    }

    #[Test]
    public function inspection_counts_what_the_definitions_count_and_lists_where(): void
    {
        $families = [];
        for ($seed = 0; $seed < 30; $seed++) {
            $mesh = DirtyMesh::of(self::lump($seed), $seed, 2)->mesh();
            $slow = SlowCheck::faults($mesh);
            $faults = Inspection::of($mesh)->faults;
            $said = "seed $seed";
            self::assertSame($slow['open'] ?? 0, $faults['openEdges'], $said);
            self::assertSame($slow['nonManifold'] ?? 0, $faults['nonManifoldEdges'], $said);
            self::assertSame($slow['inconsistent'] ?? 0, $faults['inconsistentEdges'], $said);
            self::assertSame($slow['duplicate'] ?? 0, $faults['duplicateFaces'], $said);
            self::assertSame($slow['crossing'] ?? 0, $faults['selfIntersections'], $said);
            $result = (new Inspect)($workpiece = new Workpiece(bodies: [Body::of('lump', $mesh)]), new InspectParameters, new NoProgress);
            self::assertSame($workpiece, $result->workpiece, 'looking changes nothing');
            $listed = array_column($result->after['families'], null, 'family');
            self::assertSame(array_values(array_intersect(FaultPlaces::FAMILIES, array_keys($listed))), array_keys($listed), 'the gravest first');
            foreach (['nonManifoldEdges', 'nonManifoldVertices', 'inconsistentEdges', 'duplicateFaces', 'selfIntersections', 'degenerateFaces', 'spikes'] as $family) {
                self::assertSame($faults[$family], $listed[$family]['count'] ?? 0, "$said $family");
                self::assertSame($faults[$family], array_sum(array_column($listed[$family]['places'] ?? [], 'count')), "$said $family");
            }
            self::assertSame($result->after['faults'], array_sum(array_column($listed, 'count')));
            $families += $listed;
        }
        self::assertEqualsCanonicalizing(array_diff(FaultPlaces::FAMILIES, ['degenerateFaces', 'necks', 'tunnels', 'doubleSkins']), array_intersect(array_keys($families), array_diff(FaultPlaces::FAMILIES, ['degenerateFaces', 'necks', 'tunnels', 'doubleSkins'])), 'all of these were made');
    }

    #[Test]
    public function a_clean_mesh_has_no_place_to_show(): void
    {
        $result = (new Inspect)(new Workpiece(bodies: [Body::of('ball', MeshBuilder::icosphere(3))]), new InspectParameters, new NoProgress);
        self::assertSame('no fault', $result->headline);
        self::assertSame([], $result->after['families']);
    }
}
