<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Gather;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Gather\Crop;
use Emberstone\Core\Gather\CropParameters;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class CropTest extends TestCase
{
    /** @param  array<string, mixed>  $box */
    private static function crop(Workpiece $workpiece, array $box, string $outside = 'delete'): Workpiece
    {
        return (new Crop)($workpiece, new CropParameters($box, $outside), new NoProgress)->workpiece;
    }

    #[Test]
    public function points_in_a_turned_box_are_those_that_its_own_axes_say(): void
    {
        $gen = new Gen(31);
        for ($round = 0; $round < 20; $round++) {
            $p = $gen->points(300, 10.0);
            $pose = RigidTransform::turn([1.0, 2.0, 3.0], $gen->float(0.0, 3.0))->then(RigidTransform::shift($gen->float(-5.0, 5.0), 1.0, 2.0));
            $box = ['centre' => [$gen->float(-3.0, 3.0), 0.5, -0.5], 'size' => [$gen->float(4.0, 12.0), 6.0, 9.0], 'turn' => [$gen->float(-180.0, 180.0), $gen->float(-90.0, 90.0), 30.0]];
            $cropped = self::crop(new Workpiece([new Pass('p', 'p', PointCloud::fromFlat($p), $pose)]), $box)->passes[0];
            // The axes of the box, reckoned from its turns one after the other.
            $axes = array_map(function (array $axis) use ($box): array {
                foreach ([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]] as $k => $about) {
                    $axis = RigidTransform::turn($about, deg2rad($box['turn'][$k]))->direction($axis);
                }

                return $axis;
            }, [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]]);
            foreach (array_chunk($p, 3) as $i => $point) {
                $at = $pose->point($point);
                $inside = true;
                foreach ($axes as $k => $axis) {
                    $along = $axis[0] * ($at[0] - $box['centre'][0]) + $axis[1] * ($at[1] - $box['centre'][1]) + $axis[2] * ($at[2] - $box['centre'][2]);
                    $inside = $inside && abs($along) <= 0.5 * $box['size'][$k];
                }
                self::assertSame($inside, ($cropped->mask[$i] ?? "\1") === "\1", "round $round, point $i");
            }
        }
    }

    #[Test]
    public function deleting_keeps_raw_points_and_whole_faces(): void
    {
        $pass = Pass::of('p', PointCloud::fromFlat([0.0, 0.0, 0.0, 5.0, 0.0, 0.0, 20.0, 0.0, 0.0]));
        $workpiece = new Workpiece([$pass], [Body::of('ball', MeshBuilder::icosphere(3, 10.0))]);
        $after = self::crop($workpiece, ['centre' => [0.0, 0.0, 10.0], 'size' => [30.0, 30.0, 20.0]]);
        self::assertSame("\1\1\0", $after->passes[0]->mask);
        self::assertSame(3, $after->passes[0]->cloud()->count());
        $half = $after->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $half);
        self::assertEqualsWithDelta(640, $half->faceCount(), 40);
        self::assertSame('ball', $after->bodies[0]->id);
    }

    #[Test]
    public function copying_leaves_everything_and_adds_bodies_under_free_names(): void
    {
        $pass = new Pass('p', 'p', PointCloud::fromFlat([0.0, 0.0, 0.0, 5.0, 0.0, 0.0], [], [1, 2]), RigidTransform::shift(0.0, 0.0, 1.0));
        $ball = Body::of('ball', MeshBuilder::icosphere(1, 3.0));
        $box = ['centre' => [0.0, 0.0, 0.0], 'size' => [8.0, 8.0, 8.0]];
        $once = self::crop(new Workpiece([$pass], [$ball]), $box, 'copy');
        $twice = self::crop($once, $box, 'copy');
        self::assertSame([$pass], $twice->passes);
        self::assertSame(['ball', 'Cropped points', 'ball, cropped', 'Cropped points 2', 'ball, cropped 2', 'Cropped points, cropped', 'ball, cropped, cropped'], array_map(fn (Body $body) => $body->name, $twice->bodies));
        self::assertSame([0.0, 0.0, 1.0], $once->bodies[1]->placed()->positions);
    }

    #[Test]
    public function a_box_beside_everything_is_refused(): void
    {
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('Nothing lies in the box');
        self::crop(new Workpiece([Pass::of('p', PointCloud::fromFlat([0.0, 0.0, 0.0]))]), ['centre' => [9.0, 0.0, 0.0], 'size' => [1.0, 1.0, 1.0]]);
    }

    /** @return iterable<string, array{array<string, mixed>, string}> */
    public static function wrongBoxes(): iterable
    {
        yield 'no centre' => [['size' => [1, 1, 1]], 'centre'];
        yield 'two numbers' => [['centre' => [0, 0], 'size' => [1, 1, 1]], 'centre'];
        yield 'a word' => [['centre' => [0, 0, 'x'], 'size' => [1, 1, 1]], 'centre'];
        yield 'no thickness' => [['centre' => [0, 0, 0], 'size' => [1, 0, 1]], 'no length'];
        yield 'inside out' => [['centre' => [0, 0, 0], 'size' => [1, -1, 1]], 'no length'];
        yield 'an endless side' => [['centre' => [0, 0, 0], 'size' => [1, INF, 1]], 'size'];
        yield 'a turn of two' => [['centre' => [0, 0, 0], 'size' => [1, 1, 1], 'turn' => [0, 0]], 'turn'];
    }

    /** @param  array<string, mixed>  $box */
    #[Test]
    #[DataProvider('wrongBoxes')]
    public function a_box_that_is_none_is_refused(array $box, string $reason): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($reason);
        new CropParameters($box);
    }
}
