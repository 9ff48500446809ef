<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Lighten;

use Emberstone\Core\Deliver\SurfaceDistance;
use Emberstone\Core\Lighten\Decimate;
use Emberstone\Core\Lighten\DecimateParameters;
use Emberstone\Core\Mend\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\NoProgress;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class DecimateTest extends TestCase
{
    private function decimate(TriangleMesh $mesh, DecimateParameters $parameters): TriangleMesh
    {
        $result = (new Decimate)((new Workpiece)->withBodies([Body::of('b', $mesh)]), $parameters, new NoProgress)->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $result);

        return $result;
    }

    #[Test]
    public function a_tenth_of_the_faces_of_a_ball_is_closed_sound_and_nearly_as_large(): void
    {
        $ball = MeshBuilder::icosphere(5, 50.0);
        $light = $this->decimate($ball, new DecimateParameters(ratio: 0.1));
        $inspection = Inspection::of($light);
        self::assertEqualsWithDelta(2048, $light->faceCount(), 2);
        self::assertTrue($inspection->closed);
        self::assertSame(0, $inspection->faultCount());
        self::assertEqualsWithDelta(Inspection::of($ball)->volume, $inspection->volume, 0.003 * 523599);
    }

    #[Test]
    #[TestWith([0.05])]
    #[TestWith([0.3])]
    public function no_point_moves_farther_than_the_stated_deviation_either_way(float $deviation): void
    {
        $ball = MeshBuilder::icosphere(5, 50.0);
        $light = $this->decimate($ball, new DecimateParameters(deviation: $deviation));
        self::assertLessThan($ball->faceCount() / 2, $light->faceCount());
        self::assertLessThanOrEqual($deviation, SurfaceDistance::compare($light, $ball, 40000)['max']);
        self::assertLessThanOrEqual($deviation, SurfaceDistance::compare($ball, $light, 40000)['max']);
    }

    #[Test]
    public function an_open_rim_keeps_its_length_and_made_up_faces_stay_marked(): void
    {
        $open = MeshBuilder::without(MeshBuilder::icosphere(5, 50.0), 20.0);
        $marked = TriangleMesh::fromFlat($open->positions, $open->faces, array_fill(0, $open->vertexCount(), 2), array_map(fn (int $t) => $t % 2, range(0, $open->faceCount() - 1)));
        $light = $this->decimate($marked, new DecimateParameters(ratio: 0.2));
        $before = Inspection::of($open);
        $after = Inspection::of($light);
        self::assertCount(1, $after->holes);
        self::assertEqualsWithDelta($before->holes[0]['diameter'], $after->holes[0]['diameter'], 0.02 * $before->holes[0]['diameter']);
        self::assertCount($light->faceCount(), $light->origin);
        self::assertContains(TriangleMesh::FILLED, $light->origin);
    }

    #[Test]
    public function two_ways_to_say_how_much_are_one_too_many(): void
    {
        $this->expectException(InvalidParameter::class);
        new DecimateParameters(ratio: 0.5, faces: 100);
    }
}
