<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Lighten;

use Emberstone\Core\Algorithms\HalfEdge\CollapsingMesh;
use Emberstone\Core\Algorithms\HalfEdge\Quadrics;
use Emberstone\Core\Algorithms\HalfEdge\Stars;
use Emberstone\Core\Algorithms\Remeshing\EdgeQueue;
use Emberstone\Core\Algorithms\Remeshing\QuadricCollapse;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** The parts of the collapse on cases small enough to reckon by hand. */
final class CollapsePartsTest extends TestCase
{
    /** One triangle of area 6 in the plane z = 5. */
    private const FLAT = [0.0, 0.0, 5.0, 4.0, 0.0, 5.0, 0.0, 3.0, 5.0];

    private function collapsing(TriangleMesh $mesh): CollapsingMesh
    {
        return new CollapsingMesh($mesh->positions, $mesh->faces, [], []);
    }

    private function triangle(): CollapsingMesh
    {
        return new CollapsingMesh(self::FLAT, [0, 1, 2], [], []);
    }

    /** @param  array{float, float, float}  $at in the frame of the mesh, not of its middle */
    private function error(CollapsingMesh $mesh, int $v, array $at): float
    {
        $q = [...array_slice($mesh->quadrics, 8 * $v, 8), ...array_slice($mesh->rests, 2 * $v, 2)];
        // Where the first vertex is now and where it was tell how far the middle is from the origin.
        [$x, $y, $z] = array_map(fn (int $k) => $at[$k] - $mesh->positions()[$k] + $mesh->vertices[$k], [0, 1, 2]);

        return $q[0] * $x * $x + 2 * $q[1] * $x * $y + 2 * $q[2] * $x * $z + 2 * $q[3] * $x + $q[4] * $y * $y + 2 * $q[5] * $y * $z + 2 * $q[6] * $y + $q[7] * $z * $z + 2 * $q[8] * $z + $q[9];
    }

    #[Test]
    public function a_single_triangle_yields_its_own_plane_weighted_by_its_area(): void
    {
        $flat = $this->triangle();
        Quadrics::ofFaces($flat);
        self::assertEqualsWithDelta([6.0, 6.0, 6.0], [$flat->vertices[3], $flat->vertices[7], $flat->vertices[11]], 1e-12);
        foreach ([0, 1, 2] as $v) {
            self::assertEqualsWithDelta(0.0, $this->error($flat, $v, [17.0, -3.0, 5.0]), 1e-9, 'anywhere in the plane');
            self::assertEqualsWithDelta(6.0 * 4.0, $this->error($flat, $v, [1.0, 1.0, 7.0]), 1e-9, 'two above it');
        }
    }

    #[Test]
    public function the_quadric_of_a_vertex_is_the_sum_over_its_faces_measured_directly(): void
    {
        $mesh = MeshBuilder::icosphere(1, 3.0);
        $collapsing = $this->collapsing($mesh);
        Quadrics::ofFaces($collapsing);
        $gen = new Gen(2);
        for ($v = 0; $v < $mesh->vertexCount(); $v++) {
            $at = [$gen->float(-4.0, 4.0), $gen->float(-4.0, 4.0), $gen->float(-4.0, 4.0)];
            $sum = 0.0;
            foreach (array_chunk($mesh->faces, 3) as $face) {
                if (in_array($v, $face, true)) {
                    [$a, $b, $c] = array_map(fn (int $w) => array_slice($mesh->positions, 3 * $w, 3), $face);
                    $n = [
                        ($b[1] - $a[1]) * ($c[2] - $a[2]) - ($b[2] - $a[2]) * ($c[1] - $a[1]),
                        ($b[2] - $a[2]) * ($c[0] - $a[0]) - ($b[0] - $a[0]) * ($c[2] - $a[2]),
                        ($b[0] - $a[0]) * ($c[1] - $a[1]) - ($b[1] - $a[1]) * ($c[0] - $a[0]),
                    ];
                    $l = sqrt($n[0] ** 2 + $n[1] ** 2 + $n[2] ** 2);
                    $sum += 0.5 * $l * (($n[0] * ($at[0] - $a[0]) + $n[1] * ($at[1] - $a[1]) + $n[2] * ($at[2] - $a[2])) / $l) ** 2;
                }
            }
            self::assertEqualsWithDelta($sum, $this->error($collapsing, $v, $at), 1e-9 * (1.0 + $sum));
        }
    }

    #[Test]
    public function an_open_edge_holds_its_ends_against_moves_in_the_face_and_square_to_the_edge(): void
    {
        $flat = $this->triangle();
        Quadrics::ofFaces($flat);
        $stars = Stars::of($flat->corners, 3);
        $flat->markRims($stars);
        self::assertSame(array_fill(0, 3, CollapsingMesh::AT_RIM), $flat->states);
        Quadrics::holdRims($flat, $stars, 100.0);
        // Vertex 0 lies on the edges of length 4 (along x) and 3 (along y): moving it by 1 along y costs 100 times 4 squared.
        self::assertEqualsWithDelta(0.0, $this->error($flat, 0, [0.0, 0.0, 5.0]), 1e-9);
        self::assertEqualsWithDelta(100.0 * 16.0, $this->error($flat, 0, [0.0, 1.0, 5.0]), 1e-6);
        self::assertEqualsWithDelta(100.0 * 9.0, $this->error($flat, 0, [1.0, 0.0, 5.0]), 1e-6);
    }

    #[Test]
    public function stars_list_the_half_edges_that_leave_each_vertex(): void
    {
        $mesh = MeshBuilder::icosphere(1);
        $T = $this->collapsing($mesh)->corners;
        $stars = Stars::of($T, $mesh->vertexCount());
        for ($v = 0; $v < $mesh->vertexCount(); $v++) {
            $leaving = array_slice($stars->halfEdges, $stars->start[$v], $stars->start[$v + 1] - $stars->start[$v]);
            $expected = array_values(array_filter(array_keys($T), fn (int $h) => ($h & 3) !== 3 && $T[$h] === $v));
            sort($leaving);
            self::assertSame($expected, $leaving);
        }
        self::assertSame(array_fill(0, $mesh->vertexCount(), 0), $stars->atRim($T), 'a closed mesh has no rim');
        self::assertTrue($stars->hold($T, $T[0], $T[1]));
        self::assertFalse($stars->hold($T, 0, 3), 'opposite ends of the ball');
    }

    #[Test]
    public function an_edge_of_three_faces_counts_as_a_rim(): void
    {
        $T = [0, 1, 2, 1, 1, 0, 3, 1, 0, 1, 4, 1];
        $atRim = Stars::of($T, 5)->atRim($T);
        self::assertSame([1, 1], array_slice($atRim, 0, 2));
    }

    #[Test]
    public function the_queue_holds_each_edge_once_the_cheapest_first(): void
    {
        $mesh = MeshBuilder::icosphere(2);
        $p = $mesh->positions;
        // Flatten the upper third: edges inside it cost nothing.
        for ($o = 2, $n = count($p); $o < $n; $o += 3) {
            $p[$o] = min($p[$o], 0.6);
        }
        $collapsing = new CollapsingMesh($p, $mesh->faces, [], []);
        $T = $collapsing->corners;
        Quadrics::ofFaces($collapsing);
        $stars = Stars::of($T, $mesh->vertexCount());
        $collapsing->markRims($stars);
        $all = EdgeQueue::cheapest($collapsing, $stars, INF, 0.0);
        self::assertCount(intdiv(3 * $mesh->faceCount(), 2), $all);
        $edges = array_map(function (int $h) use ($T): string {
            $ends = [$T[$h], $T[($h & 3) === 2 ? $h - 2 : $h + 1]];
            sort($ends);

            return implode('-', $ends);
        }, $all);
        self::assertCount(count($all), array_unique($edges));

        foreach (EdgeQueue::cheapest($collapsing, $stars, 0.4, 1e-12) as $entry) {
            $h = $entry & 0xFFFFFFFF;
            self::assertEqualsWithDelta([0.6, 0.6], [$p[3 * $T[$h] + 2], $p[3 * $T[($h & 3) === 2 ? $h - 2 : $h + 1] + 2]], 1e-12, 'where edges in a flat cost nothing no others go with them');
        }
        self::assertLessThan(count($all), count(EdgeQueue::within($collapsing, $stars, 1e-12, 1.0)), 'a limit leaves edges out');

        $round = $this->collapsing(MeshBuilder::icosphere(4));
        $stars = Stars::of($round->corners, $round->vertexCount);
        Quadrics::ofFaces($round);
        self::assertEqualsWithDelta(0.2 * 1.5 * $round->faceCount, count(EdgeQueue::cheapest($round, $stars, 0.2, 1e-12)), 0.05 * 1.5 * $round->faceCount, 'where all cost about the same the share goes');
    }

    #[Test]
    public function closing_gaps_keeps_what_is_left_in_order_with_its_support_and_origin(): void
    {
        // A strip of three faces; its second vertex and first face go.
        $mesh = new CollapsingMesh([0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 1.0, 0.0, 0.0, 1.0, 1.0, 0.0, 2.0, 0.0, 0.0], [0, 2, 1, 1, 2, 3, 2, 4, 3], [5, 4, 3, 2, 1], [0, 1, 1]);
        $mesh->states[1] |= CollapsingMesh::GONE;
        $mesh->states[0] |= CollapsingMesh::BUSY;
        $mesh->corners[3] = 0;
        $mesh->corners[4] = 0;
        self::assertSame(1, $mesh->compact());
        self::assertSame([[0, 1, 2, 1, 3, 2], [1, 1]], $mesh->faces());
        self::assertSame([5, 3, 2, 1], $mesh->support());
        self::assertEqualsWithDelta([0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 1.0, 1.0, 0.0, 2.0, 0.0, 0.0], $mesh->positions(), 1e-15);
        self::assertSame(0, $mesh->states[0] & CollapsingMesh::BUSY, 'a new round finds nobody busy');
        self::assertSame(0, $mesh->compact(), 'nothing else goes');
    }

    #[Test]
    public function a_flat_square_grid_comes_down_to_two_faces_without_moving_its_rim(): void
    {
        $p = $f = [];
        for ($i = 0; $i <= 8; $i++) {
            for ($j = 0; $j <= 8; $j++) {
                array_push($p, (float) $i, (float) $j, 0.0);
                if ($i < 8 && $j < 8) {
                    $a = 9 * $i + $j;
                    array_push($f, $a, $a + 9, $a + 10, $a, $a + 10, $a + 1);
                }
            }
        }
        $told = [];
        $result = QuadricCollapse::run($p, $f, [], [], 2, INF, 100.0, function (float $done) use (&$told): void {
            $told[] = $done;
        });
        self::assertCount(6, $result['faces']);
        self::assertSame(1.0, $told[count($told) - 1]);
        $corners = array_map(fn (array $at) => array_map(fn (float $v) => (int) round($v), $at), array_chunk($result['positions'], 3));
        sort($corners);
        self::assertSame([[0, 0, 0], [0, 8, 0], [8, 0, 0], [8, 8, 0]], $corners);
    }

    #[Test]
    public function what_is_locked_stays_and_changes_nothing_far_away(): void
    {
        $ball = MeshBuilder::icosphere(5, 50.0);
        $cap = array_values(array_filter(range(0, $ball->vertexCount() - 1), fn (int $v) => $ball->positions[3 * $v + 2] > 40.0));
        [$free, $held] = array_map(fn (array $locked) => QuadricCollapse::run($ball->positions, $ball->faces, [], [], 4, 0.01, 100.0, fn (float $done) => null, $locked), [[], $cap]);
        $places = fn (array $result): array => array_map(fn (array $at) => implode(' ', array_map(fn (float $v) => round($v, 6) + 0.0, $at)), array_chunk($result['positions'], 3));
        self::assertSame([], array_diff(array_map(fn (int $v) => implode(' ', array_map(fn (float $x) => round($x, 6) + 0.0, array_slice($ball->positions, 3 * $v, 3))), $cap), $places($held)), 'every locked vertex is there');
        $below = fn (array $result): array => array_values(array_filter($places($result), fn (string $at) => (float) explode(' ', $at)[2] < -20.0));
        self::assertNotSame([], $below($free));
        self::assertEqualsCanonicalizing($below($free), $below($held));
    }

    #[Test]
    public function origin_and_the_lower_support_survive_a_collapse(): void
    {
        $mesh = MeshBuilder::icosphere(2);
        $support = array_map(fn (int $v) => 1 + $v % 5, range(0, $mesh->vertexCount() - 1));
        $result = QuadricCollapse::run($mesh->positions, $mesh->faces, $support, array_fill(0, $mesh->faceCount(), TriangleMesh::FILLED), 80, INF, 100.0, fn (float $done) => null);
        self::assertSame([TriangleMesh::FILLED], array_values(array_unique($result['origin'])));
        self::assertCount(intdiv(count($result['positions']), 3), $result['support']);
        self::assertLessThan(array_sum($support) / count($support), array_sum($result['support']) / count($result['support']));
    }
}
