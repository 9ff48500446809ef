<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Property;

use Emberstone\Core\Algorithms\Cutting\PlaneSection;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Sections where planes go through corners, edges and faces of closed meshes: never a gap. */
final class SectionPlanesTest extends TestCase
{
    private const MESHES = 40;

    private const PLANES = 500;

    /** One of ten closed shapes, as it is or turned, shifted and scaled. */
    private static function mesh(int $k, Gen $gen): TriangleMesh
    {
        $up = [0.0, 0.0, 1.0];
        $mesh = match ($k % 10) {
            0 => MeshBuilder::brick([40.0, 30.0, 10.0], 6),
            1 => MeshBuilder::drilled([30.0, 30.0, 10.0], 6, [[2, 2], [4, 3]]),
            2 => MeshBuilder::icosphere(2, 12.0),
            3 => MeshBuilder::ring(20.0, 5.0, 24, 10),
            4 => SimpleSolid::box([0.0, 0.0, 0.0], $up, [7.0, 5.0, 3.0]),
            5 => SimpleSolid::cone([0.0, 0.0, 0.0], $up, 8.0, 3.0, 12.0),
            6 => SimpleSolid::tube([0.0, 0.0, 0.0], $up, 20.0, 12.0, 15.0),
            7 => SimpleSolid::ball([0.0, 0.0, 0.0], $up, 9.0),
            8 => MeshBuilder::together(MeshBuilder::icosphere(1, 4.0), MeshBuilder::icosphere(2, 9.0)),
            default => MeshBuilder::brick([1.0, 1.0, 1.0], 1),
        };

        return $k < 10 ? $mesh : $mesh->transformed(RigidTransform::turn(Vector3::unit([$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), 0.4]), $gen->float(1.0, 179.0))->then(RigidTransform::shift($gen->float(-1e3, 1e3), $gen->float(-1e3, 1e3), 5.0)))->scaled(10.0 ** $gen->int(-2, 2));
    }

    #[Test]
    public function five_hundred_planes_through_corners_edges_and_faces_of_forty_meshes_give_closed_curves_alone(): void
    {
        $gen = new Gen(31);
        $curves = 0;
        for ($k = 0; $k < self::PLANES; $k++) {
            $mesh = self::mesh($k % self::MESHES, $gen);
            $face = array_slice($mesh->faces, 3 * $gen->int(0, $mesh->faceCount() - 1), 3);
            [$p, $q, $r] = array_map(fn (int $v) => [$mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]], $face);
            $any = [$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0)];
            $normal = Vector3::unit(match ($k % 4) {
                // In a face; along an edge; through a corner; along an axis.
                0 => Vector3::cross(Vector3::minus($q, $p), Vector3::minus($r, $p)),
                1 => Vector3::cross(Vector3::minus($q, $p), $any),
                2 => $any,
                default => [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]][$gen->int(0, 2)],
            });
            foreach ((new PlaneSection($mesh->positions, $mesh->faces, $normal))->at([Vector3::dot($p, $normal)])[0] as $curve) {
                self::assertTrue($curve['closed'], "plane $k");
                self::assertGreaterThanOrEqual(9, count($curve['points']), "plane $k");
                $curves++;
            }
        }
        // Some planes only touch.
        self::assertGreaterThan(400, $curves);
    }
}
