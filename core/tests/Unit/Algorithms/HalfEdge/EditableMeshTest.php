<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\HalfEdge;

use Emberstone\Core\Algorithms\HalfEdge\EditableMesh;
use Emberstone\Core\Algorithms\HalfEdge\FeatureEdges;
use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class EditableMeshTest extends TestCase
{
    /** @return array<string, array{TriangleMesh}> closed, with handles, open */
    public static function meshes(): array
    {
        return [
            'ball' => [MeshBuilder::icosphere(2, 10.0)],
            'ring' => [MeshBuilder::ring(10.0, 3.0, 14, 8)],
            'bowl' => [MeshBuilder::without(MeshBuilder::icosphere(2, 10.0), 3.0)],
            'brick' => [MeshBuilder::brick([4.0, 3.0, 2.0], 3)],
        ];
    }

    #[Test]
    #[DataProvider('meshes')]
    public function any_order_of_splits_collapses_and_flips_leaves_a_manifold_of_the_same_genus_and_rims(TriangleMesh $mesh): void
    {
        $before = Inspection::of($mesh);
        for ($seed = 0; $seed < Gen::seeds(4, 40); $seed++) {
            $gen = new Gen($seed);
            $edited = new EditableMesh($mesh->positions, $mesh->faces, array_fill(0, $mesh->faceCount(), 7));
            self::assertSame([], $edited->faults());
            $done = [0, 0, 0];
            for ($k = 0; $k < 400; $k++) {
                $h = $gen->int(0, count($edited->corners) - 1);
                if (($h & 3) === 3 || $edited->corners[$h | 3] === 0) {
                    continue;
                }
                $what = $gen->int(0, 2);
                $atRim = $edited->flags[$edited->corners[$h]] & EditableMesh::AT_RIM;
                if ($what === 0) {
                    $edited->split($h);
                } elseif ($what === 1 && ($atRim === 0 || $edited->twins[$h] < 0) && $edited->canCollapse($h)) {
                    $edited->collapse($h);
                } elseif ($what === 2 && $edited->canFlip($h)) {
                    $edited->flip($h);
                } else {
                    continue;
                }
                $done[$what]++;
            }
            self::assertSame([], $edited->faults(), "seed $seed");
            self::assertGreaterThan(20, min($done), "seed $seed: each was done");
            $taken = $edited->taken();
            self::assertTrue(EditableMesh::takes(count($taken['vertices']), $taken['faces'], Topology::twins($taken['faces'])), "seed $seed");
            self::assertSame([7], array_values(array_unique($taken['labels'])));
            $after = Inspection::of(TriangleMesh::fromFlat($taken['positions'], $taken['faces']));
            self::assertSame([$before->genus, count($before->holes), $before->pieces], [$after->genus, count($after->holes), $after->pieces], "seed $seed");
        }
    }

    #[Test]
    public function what_hangs_by_a_point_or_by_an_edge_of_three_faces_is_not_taken(): void
    {
        $takes = fn (array $faces): bool => EditableMesh::takes(1 + max($faces), $faces, Topology::twins($faces));
        self::assertTrue($takes([0, 1, 2, 1, 0, 3]));
        self::assertFalse($takes([0, 1, 2, 1, 0, 3, 0, 1, 4]), 'three faces at an edge');
        self::assertFalse($takes([0, 1, 2, 0, 1, 3]), 'two faces that run the same way');
        self::assertFalse($takes([0, 1, 2, 0, 3, 4]), 'two fans at a vertex');
    }

    #[Test]
    public function sharp_edges_of_a_brick_are_twelve_lines_between_eight_corners_and_a_ball_has_none(): void
    {
        $brick = MeshBuilder::brick([4.0, 3.0, 2.0], 4);
        $edited = new EditableMesh($brick->positions, $brick->faces);
        $lines = FeatureEdges::mark($edited, 40.0, true, 1.0);
        self::assertCount(12, $lines);
        self::assertCount(8, array_filter($edited->flags, fn (int $flags) => ($flags & EditableMesh::CORNER) !== 0));
        $ball = MeshBuilder::icosphere(3, 10.0);
        self::assertSame([], FeatureEdges::mark(new EditableMesh($ball->positions, $ball->faces), 40.0, true, 1.0));
    }

    #[Test]
    public function features_go_along_with_what_is_done_to_their_edges(): void
    {
        $brick = MeshBuilder::brick([4.0, 3.0, 2.0], 2);
        $edited = new EditableMesh($brick->positions, $brick->faces);
        FeatureEdges::mark($edited, 40.0, true, 1.0);
        $length = function () use ($edited): float {
            $sum = 0.0;
            foreach ($edited->features as $h => $line) {
                $sum += $line !== 0 && ($h & 3) !== 3 && $edited->corners[$h | 3] !== 0 ? 0.5 * sqrt($edited->lengthSq($h)) : 0.0;
            }

            return $sum;
        };
        self::assertEqualsWithDelta(36.0, $length(), 1e-9);
        for ($h = 0, $e = count($edited->corners); $h < $e; $h++) {
            if (($h & 3) !== 3 && $h > $edited->twins[$h]) {
                $edited->split($h);
            }
        }
        self::assertSame([], $edited->faults());
        self::assertEqualsWithDelta(36.0, $length(), 1e-9);
    }
}
