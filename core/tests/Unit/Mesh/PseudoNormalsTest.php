<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mesh;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\PseudoNormals;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class PseudoNormalsTest extends TestCase
{
    /** A pyramid on a square of side 2 h, tip at height h times $steep: its edges and tip are sharp. */
    private static function pyramid(float $steep): TriangleMesh
    {
        return TriangleMesh::fromFlat([-1.0, -1.0, 0.0, 1.0, -1.0, 0.0, 1.0, 1.0, 0.0, -1.0, 1.0, 0.0, 0.0, 0.0, $steep], [0, 1, 4, 1, 2, 4, 2, 3, 4, 3, 0, 4, 0, 2, 1, 0, 3, 2]);
    }

    #[Test]
    public function points_nearest_to_edges_and_corners_lie_on_the_side_that_the_solid_says(): void
    {
        foreach ([0.1, 1.0, 8.0] as $steep) {
            $mesh = self::pyramid($steep);
            $gen = new Gen(61);
            $points = $inside = [];
            for ($k = 0; $k < 4000; $k++) {
                [$x, $y, $z] = [$gen->float(-2.0, 2.0), $gen->float(-2.0, 2.0), $gen->float(-0.3 * $steep, 1.5 * $steep)];
                $slack = 1.0 - $z / $steep - max(abs($x), abs($y));
                if (abs($slack) < 1e-6 || abs($z) < 1e-6) {
                    continue;
                }
                array_push($points, $x, $y, $z);
                $inside[] = $z > 0.0 && $slack > 0.0 ? -1.0 : 1.0;
            }
            $face = $distanceSq = [];
            TriangleBvh::of($mesh->positions, $mesh->faces)->closest($points, $face, $distanceSq);
            self::assertSame($inside, PseudoNormals::sides($mesh->positions, $mesh->faces, $points, $face), "steep $steep");
        }
    }

    #[Test]
    public function one_face_alone_would_tell_many_of_them_wrongly(): void
    {
        // Two points beside and above the sharp tip, one under the base, one inside.
        $mesh = self::pyramid(8.0);
        $found = SurfaceDistance::compare(PointCloud::fromFlat([0.3, 0.0, 8.4, 0.0, -0.3, 8.4, 0.0, 0.0, -0.5, 0.0, 0.0, 0.5]), $mesh);
        self::assertEqualsWithDelta((0.5 + 0.5 + 0.5 - 0.5) / 4.0, $found['signedMean'], 1e-9);
    }

    #[Test]
    public function dense_points_hold_the_middle_of_every_edge_open_ones_whichever_way_they_run(): void
    {
        foreach ([[0, 1, 2], [2, 1, 0]] as $face) {
            $points = array_chunk(SurfaceDistance::densePoints(TriangleMesh::fromFlat([0.0, 0.0, 0.0, 2.0, 0.0, 0.0, 0.0, 2.0, 0.0], $face)), 3);
            foreach ([[1.0, 0.0, 0.0], [1.0, 1.0, 0.0], [0.0, 1.0, 0.0]] as $middle) {
                self::assertContains($middle, $points);
            }
        }
    }

    #[Test]
    public function neighbours_across_edges_are_the_same_in_a_fan_of_thousands_as_in_one_of_few(): void
    {
        foreach ([5, 4000] as $n) {
            $f = [];
            for ($k = 0; $k < $n; $k++) {
                array_push($f, 0, 1 + $k, 1 + ($k + 1) % $n);
            }
            // A second face on one spoke: three faces there.
            array_push($f, 0, 3, $n + 5);
            $twin = Topology::twins($f);
            for ($k = 0; $k < $n; $k++) {
                // The spoke from the rim back to the tip meets the next face's spoke out; around corner 3 there are three.
                $next = ($k + 1) % $n;
                self::assertSame(1 + $next === 3 ? -2 : 3 * $next, $twin[3 * $k + 2], "of $n, spoke $k");
                self::assertSame(-1, $twin[3 * $k + 1]);
            }
        }
    }
}
