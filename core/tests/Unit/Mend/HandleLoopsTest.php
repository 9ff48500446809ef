<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Remeshing\HandleLoops;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\Inspect;
use Emberstone\Core\Mend\InspectParameters;
use Emberstone\Core\Mend\Repair;
use Emberstone\Core\Mend\RepairParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class HandleLoopsTest extends TestCase
{
    private const PLATE = [20.0, 20.0, 2.0];

    /** @return list<list<int>> */
    private static function loops(TriangleMesh $mesh, ?float $longest = null): array
    {
        return array_column(HandleLoops::of($mesh->positions, $mesh->faces, Topology::twins($mesh->faces), $longest), 'loop');
    }

    /** The same with its vertices and faces in another order: nothing may hang on it. */
    private static function shuffled(TriangleMesh $mesh, Gen $gen): TriangleMesh
    {
        $order = range(0, $mesh->vertexCount() - 1);
        usort($order, fn () => $gen->int(0, 1) * 2 - 1);
        $place = array_flip($order);
        $faces = array_chunk(array_map(fn (int $v) => $place[$v], $mesh->faces), 3);
        usort($faces, fn () => $gen->int(0, 1) * 2 - 1);

        return TriangleMesh::fromFlat(array_merge(...array_map(fn (int $v) => array_slice($mesh->positions, 3 * $v, 3), $order)), array_merge(...$faces));
    }

    /** @param  list<string>|null  $faults */
    private static function repaired(TriangleMesh $mesh, ?array $faults, ?float $longest = null): Result
    {
        return (new Repair)((new Workpiece)->withBodies([Body::of('plate', $mesh)]), new RepairParameters($faults, $longest), new NoProgress);
    }

    #[Test]
    public function every_narrow_tunnel_has_one_loop_around_its_mouth_however_the_faces_are_numbered(): void
    {
        $gen = new Gen(4);
        foreach ([[], [[7, 9]], [[7, 9], [3, 3], [15, 12]], [[7, 9], [9, 9]]] as $squares) {
            $mesh = self::shuffled(MeshBuilder::drilled(self::PLATE, 20, $squares), $gen);
            $loops = self::loops($mesh);
            self::assertSame(array_fill(0, count($squares), 4), array_map(count(...), $loops));
            foreach ($loops as $loop) {
                $middle = array_map(fn (int $k) => array_sum(array_map(fn (int $v) => $mesh->positions[3 * $v + $k], $loop)) / 4.0, [0, 1]);
                self::assertContains([(int) floor($middle[0]), (int) floor($middle[1])], $squares);
            }
        }
    }

    #[Test]
    public function wide_passages_and_wires_are_meant(): void
    {
        self::assertSame([], self::loops(MeshBuilder::ring(30.0, 6.0, 120, 24)));
        self::assertSame([], self::loops(MeshBuilder::ring(30.0, 0.5, 60, 5)), 'around the wire a loop has five edges, but there is no air in it');
        self::assertSame([], self::loops(MeshBuilder::drilled(self::PLATE, 20, [[7, 9]]), 3.9), 'the way around the mouth is 4 mm');
        self::assertCount(1, self::loops(MeshBuilder::drilled(self::PLATE, 20, [[7, 9]]), 4.1));
    }

    #[Test]
    public function a_tunnel_of_an_open_surface_is_found_and_its_rims_are_none(): void
    {
        $plate = MeshBuilder::drilled(self::PLATE, 20, [[7, 9]]);
        $keep = array_values(array_filter(range(0, $plate->faceCount() - 1), fn (int $t) => max(array_map(fn (int $c) => $plate->positions[3 * $plate->faces[3 * $t + $c]], [0, 1, 2])) < 19.5));
        $open = $plate->withFaces($keep);
        self::assertFalse(Inspection::of($open)->closed);
        self::assertSame([4], array_map(count(...), self::loops($open)));
        self::assertSame([], self::loops(MeshBuilder::without(MeshBuilder::icosphere(3), 0.3)));
        self::assertSame([], self::loops(TriangleMesh::empty()));
    }

    #[Test]
    public function a_gap_under_a_bridge_is_closed_with_it(): void
    {
        // Two faces of a ball, joined by a bow of four steps.
        $ball = MeshBuilder::icosphere(4, 10.0);
        $at = fn (int $t): array => array_map(fn (int $k) => array_sum(array_map(fn (int $c) => $ball->positions[3 * $ball->faces[3 * $t + $c] + $k], [0, 1, 2])) / 3.0, [0, 1, 2]);
        $from = 700;
        $far = array_map(fn (int $t) => abs(sqrt(array_sum(array_map(fn (float $a, float $b) => ($a - $b) ** 2, $at($t), $at($from)))) - 1.6), range(0, $ball->faceCount() - 1));
        $to = array_keys($far, min($far), true)[0];
        [$first, $last] = [array_slice($ball->faces, 3 * $from, 3), array_reverse(array_slice($ball->faces, 3 * $to, 3))];
        // The corner of the far face that is nearest goes first, so that the bow is not wound up.
        $turns = array_map(fn (int $k) => [...array_slice($last, $k), ...array_slice($last, 0, $k)], [0, 1, 2]);
        $place = fn (int $v): array => array_slice($ball->positions, 3 * $v, 3);
        usort($turns, fn (array $a, array $b) => array_sum(array_map(fn (int $u, int $v) => sqrt(array_sum(array_map(fn (float $x, float $y) => ($x - $y) ** 2, $place($u), $place($v)))), $first, $a))
            <=> array_sum(array_map(fn (int $u, int $v) => sqrt(array_sum(array_map(fn (float $x, float $y) => ($x - $y) ** 2, $place($u), $place($v)))), $first, $b)));
        $rings = [$first];
        $positions = $ball->positions;
        foreach ([0.25, 0.5, 0.75] as $share) {
            $ring = [];
            foreach ([0, 1, 2] as $c) {
                $ring[] = intdiv(count($positions), 3);
                [$a, $b] = [$place($first[$c]), $place($turns[0][$c])];
                foreach ([0, 1, 2] as $k) {
                    $positions[] = (1.0 + 0.12 * sin(M_PI * $share)) * ((1.0 - $share) * $a[$k] + $share * $b[$k]);
                }
            }
            $rings[] = $ring;
        }
        $rings[] = $turns[0];
        $faces = array_merge(...array_filter(array_chunk($ball->faces, 3), fn (int $t) => $t !== $from && $t !== $to, ARRAY_FILTER_USE_KEY));
        for ($r = 0; $r < 4; $r++) {
            foreach ([0, 1, 2] as $c) {
                [$a, $b, $d, $e] = [$rings[$r][$c], $rings[$r][($c + 1) % 3], $rings[$r + 1][$c], $rings[$r + 1][($c + 1) % 3]];
                array_push($faces, $a, $b, $e, $a, $e, $d);
            }
        }
        $mesh = TriangleMesh::fromFlat($positions, $faces);
        self::assertSame([0, 1], [MeshBuilder::badEdges($mesh), Inspection::of($mesh)->genus]);
        self::assertCount(1, self::loops($mesh));
        $mended = self::repaired($mesh, ['tunnels'])->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mended);
        self::assertSame([0, 0], [MeshBuilder::badEdges($mended), Inspection::of($mended)->genus]);
    }

    #[Test]
    public function tunnels_are_closed_when_they_are_asked_for_by_name_and_told_of_otherwise(): void
    {
        $mesh = MeshBuilder::drilled(self::PLATE, 20, [[7, 9], [3, 3]]);
        $workpiece = (new Workpiece)->withBodies([Body::of('plate', $mesh)]);
        $families = (new Inspect)($workpiece, new InspectParameters, new NoProgress)->after['families'];
        self::assertSame([['tunnels', 2]], array_map(fn (array $family) => [$family['family'], $family['count']], $families));
        self::assertEqualsWithDelta(sqrt(2.0), $families[0]['places'][0]['sizeMm'], 1e-3, 'corner to corner of the mouth');

        $all = self::repaired($mesh, null);
        self::assertSame($mesh->faces, $all->workpiece->bodies[0]->geometry->faces ?? null);
        self::assertSame(['2 tunnels hardly wider than a face stay open, as they may be meant. Ask for tunnels by name to close them.'], $all->notes);

        $closed = self::repaired($mesh, ['tunnels']);
        self::assertSame('2 → 0 faults', $closed->headline);
        $mended = $closed->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mended);
        $report = Inspection::of($mended);
        self::assertSame([true, 0, 0], [$report->closed, $report->genus, $report->faultCount()]);
        self::assertEqualsWithDelta(800.0, $report->volume, 1.0, 'the plate without tunnels');
        self::assertSame('0 → 0 faults', self::repaired($mesh, ['tunnels'], 3.0)->headline, 'the way around each is 4 mm');
    }
}
