<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Deliver\Brief;
use Emberstone\Core\Deliver\Delivery;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Foundation\EmberstoneException;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\OwnFolder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Frames that are kept as datums, set again, and delivered in. */
final class KeptFrameTest extends TestCase
{
    use OwnFolder;

    /** @param  array<string, mixed>  $parameters */
    private static function carriedOut(string $operation, Workpiece $workpiece, array $parameters): Workpiece
    {
        return Catalogue::operation($operation)($workpiece, Catalogue::parameters($operation, $parameters), new NoProgress)->workpiece;
    }

    private static function somewhere(Gen $gen): RigidTransform
    {
        $axis = $gen->points(1);

        return RigidTransform::turn([$axis[0], $axis[1], $axis[2] + 1.5], $gen->float(-3.0, 3.0))->then(RigidTransform::shift($gen->float(-90.0, 90.0), $gen->float(-90.0, 90.0), $gen->float(-90.0, 90.0)));
    }

    #[Test]
    public function a_kept_frame_comes_back_wherever_everything_has_moved_since(): void
    {
        $gen = new Gen(3);
        for ($k = 0; $k < 20; $k++) {
            $start = new Workpiece([], [new Body('b', 'Cap', MeshBuilder::icosphere(1, 7.0), self::somewhere($gen))]);
            $kept = self::carriedOut('add-datum', $start, ['name' => 'Press side', 'kind' => 'frame']);
            $moved = $kept->moved(self::somewhere($gen))->moved(self::somewhere($gen));
            $back = self::carriedOut('set-frame', $moved, ['first' => 'Press side']);
            self::assertEqualsWithDelta($start->bodies[0]->transform->matrix, $back->bodies[0]->transform->matrix, 1e-9);
            $frame = $back->datums[0];
            self::assertEqualsWithDelta([[0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0]], [$frame->origin, $frame->direction, $frame->across], 1e-9);
        }
    }

    #[Test]
    public function the_frame_a_body_came_in_can_be_set_for_all(): void
    {
        $gen = new Gen(5);
        $cap = new Body('b', 'Cap', MeshBuilder::icosphere(1, 7.0), self::somewhere($gen), scale: 1.01);
        $bush = new Body('c', 'Bush', MeshBuilder::icosphere(0, 2.0), self::somewhere($gen));
        $way = $cap->transform->inverse();
        $kept = self::carriedOut('add-datum', new Workpiece([], [$cap, $bush]), ['name' => 'F', 'kind' => 'frame', 'frameOf' => 'Cap']);
        $set = self::carriedOut('set-frame', $kept, ['first' => 'F']);
        // As the file had it, but for the scale, which a frame does not undo.
        self::assertEqualsWithDelta(RigidTransform::identity()->matrix, $set->bodies[0]->transform->matrix, 1e-9);
        self::assertSame(1.01, $set->bodies[0]->scale);
        self::assertEqualsWithDelta($bush->transform->then($way)->matrix, $set->bodies[1]->transform->matrix, 1e-9);
    }

    #[Test]
    public function a_delivery_can_be_written_in_a_kept_frame(): void
    {
        $gen = new Gen(7);
        $body = new Body('b', 'Cap', MeshBuilder::icosphere(1, 7.0), RigidTransform::shift(5.0, 0.0, 0.0));
        $kept = self::carriedOut('add-datum', new Workpiece([], [$body]), ['name' => 'F', 'kind' => 'frame'])->moved(self::somewhere($gen));
        Delivery::write("$this->folder/cap.stl", $kept->bodies[0]->placed(), Brief::fromArray([]), $kept->datums[0]);
        $read = Formats::read("$this->folder/cap.stl")->geometry;
        self::assertInstanceOf(TriangleMesh::class, $read);
        $x = array_values(array_filter($read->positions, fn (int $i) => $i % 3 === 0, ARRAY_FILTER_USE_KEY));
        self::assertEqualsWithDelta(5.0, 0.5 * (min($x) + max($x)), 1e-4);
    }

    /** @return iterable<string, array{string, array<string, mixed>, string}> */
    public static function refused(): iterable
    {
        yield 'a body that is not there' => ['add-datum', ['name' => 'G', 'kind' => 'frame', 'frameOf' => 'Shaft'], 'no body "Shaft" whose frame could be kept; the bodies are Cap.'];
        yield 'a place for a frame' => ['add-datum', ['name' => 'G', 'kind' => 'frame', 'seed' => [0, 0, 0]], 'makes no frame'];
        yield 'a frame for a plane' => ['add-datum', ['name' => 'G', 'kind' => 'plane', 'frameOf' => 'Cap'], 'the kind is plane'];
        yield 'a frame and more' => ['set-frame', ['first' => 'F', 'second' => 'P'], 'locks all six by itself'];
        yield 'a frame behind another' => ['set-frame', ['first' => 'P', 'second' => 'F'], 'choose it as the first and only one'];
    }

    /** @param  array<string, mixed>  $parameters */
    #[Test]
    #[DataProvider('refused')]
    public function what_makes_no_frame_is_explained(string $operation, array $parameters, string $why): void
    {
        $datums = [new Datum('F', 'F', 'frame', [0.0, 0.0, 0.0], [0.0, 0.0, 1.0], across: [1.0, 0.0, 0.0]), new Datum('P', 'P', 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, 1.0])];
        $this->expectException(EmberstoneException::class);
        $this->expectExceptionMessage($why);
        self::carriedOut($operation, new Workpiece([], [Body::of('Cap', MeshBuilder::icosphere(0))], $datums), $parameters);
    }
}
