<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Step;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class MirrorTest extends TestCase
{
    /** @param  array<string, mixed>  $values */
    private static function mirror(Workpiece $workpiece, array $values): Result
    {
        return Step::of('mirror', $values)($workpiece, new NoProgress);
    }

    private static function mesh(Result $result, int $k): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[$k]->placed();
        assert($mesh instanceof TriangleMesh);

        return $mesh;
    }

    #[Test]
    public function the_image_in_a_plane_of_the_frame_is_exact_and_looks_outwards(): void
    {
        $brick = MeshBuilder::brick([4.0, 3.0, 2.0], 2);
        $result = self::mirror(new Workpiece(bodies: [Body::of('Cap', $brick)]), ['plane' => 'YZ']);
        self::assertSame(['Cap', 'Cap, mirrored'], array_map(fn (Body $body) => $body->name, $result->workpiece->bodies));
        $image = self::mesh($result, 1);
        foreach ($brick->positions as $k => $v) {
            self::assertSame($k % 3 === 0 ? -$v + 0.0 : $v, $image->positions[$k] + 0.0);
        }
        $there = Inspection::of($image)->toArray();
        self::assertTrue($there['closed']);
        self::assertEqualsWithDelta(Inspection::of($brick)->toArray()['volume'], $there['volume'], 1e-12);
    }

    #[Test]
    public function twice_in_any_plane_gives_the_body_back_and_the_plane_lies_halfway(): void
    {
        foreach (range(1, 20) as $seed) {
            $gen = new Gen($seed);
            $plane = ['point' => [$gen->float(-50, 50), $gen->float(-50, 50), $gen->float(-50, 50)], 'normal' => [$gen->float(-1, 1), $gen->float(-1, 1), $gen->float(0.1, 1)]];
            $body = new Workpiece(bodies: [Body::of('Bush', MeshBuilder::without(MeshBuilder::icosphere(2, 10.0), 8.0))]);
            $once = self::mirror($body, ['plane' => $plane]);
            $twice = self::mirror(new Workpiece(bodies: [$once->workpiece->bodies[1]]), ['plane' => $plane]);
            self::assertEqualsWithDelta(self::mesh($once, 0)->positions, self::mesh($twice, 1)->positions, 1e-12);
            self::assertSame(self::mesh($once, 0)->faces, self::mesh($twice, 1)->faces);
            $length = sqrt(array_sum(array_map(fn (float $v) => $v * $v, $plane['normal'])));
            $above = fn (array $p): float => array_sum(array_map(fn (int $k) => ($p[$k] - $plane['point'][$k]) * $plane['normal'][$k], [0, 1, 2])) / $length;
            self::assertEqualsWithDelta(-$above(array_slice(self::mesh($once, 0)->positions, 0, 3)), $above(array_slice(self::mesh($once, 1)->positions, 0, 3)), 1e-10);
        }
    }

    #[Test]
    public function evidence_rims_left_open_and_clouds_go_along(): void
    {
        $ball = MeshBuilder::without(MeshBuilder::icosphere(2, 10.0), 8.0);
        $marked = TriangleMesh::fromFlat($ball->positions, $ball->faces, range(1, $ball->vertexCount()), array_fill(0, $ball->faceCount(), TriangleMesh::FILLED));
        $cloud = PointCloud::fromFlat([1.0, 2.0, 3.0], [0.0, 0.0, 1.0], [0xFF0000], [0.0, 0.0, 9.0], [0.5]);
        $datum = new Datum('d', 'Foot', 'plane', [0.0, 0.0, 1.0], [0.0, 0.0, 1.0]);
        $workpiece = new Workpiece(bodies: [Body::of('ball', $marked)->leavingOpen([[0.0, 0.0, 9.0]]), Body::of('points', $cloud)], datums: [$datum]);
        $images = array_slice(self::mirror($workpiece, ['plane' => 'Foot'])->workpiece->bodies, 2);
        self::assertSame([$marked->support, $marked->origin], [$images[0]->geometry->support, $images[0]->geometry->origin]);
        self::assertSame([[0.0, 0.0, -7.0]], $images[0]->openPlaces());
        self::assertEquals(PointCloud::fromFlat([1.0, 2.0, -1.0], [0.0, 0.0, -1.0], [0xFF0000], [0.0, 0.0, -7.0], [0.5]), $images[1]->geometry);
    }

    /** @param  array<string, mixed>  $values */
    #[Test]
    #[TestWith([['plane' => 'Lid'], 'the datums are Foot, Bore'])]
    #[TestWith([['plane' => 'Bore'], 'is a cylinder; name a plane'])]
    #[TestWith([['plane' => ['point' => [0, 0, 0]]], 'needs "normal": three numbers'])]
    #[TestWith([['plane' => ['point' => [0, 0, 0], 'normal' => [0, 0, 0]]], 'normal of length 0'])]
    #[TestWith([['plane' => ['point' => [0, 0, 0], 'normal' => [0, 0, 1], 'side' => 1]], 'alone'])]
    #[TestWith([[], 'plane is required'])]
    public function what_is_no_plane_is_said(array $values, string $words): void
    {
        $datums = [new Datum('1', 'Foot', 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, 1.0]), new Datum('2', 'Bore', 'cylinder', [0.0, 0.0, 0.0], [0.0, 0.0, 1.0], 5.0)];
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($words);
        self::mirror(new Workpiece(bodies: [Body::of('Cap', MeshBuilder::icosphere(0))], datums: $datums), $values);
    }

    #[Test]
    public function a_plane_in_inches_is_read_in_inches(): void
    {
        $brick = MeshBuilder::brick([1.0, 1.0, 1.0], 1);
        $image = Step::of('mirror', ['plane' => ['point' => [1.0, 0.0, 0.0], 'normal' => [1.0, 0.0, 0.0]]], 25.4)(new Workpiece(bodies: [Body::of('Cap', $brick)]), new NoProgress)->workpiece->bodies[1]->placed();
        foreach (range(0, count($brick->positions) - 1, 3) as $o) {
            self::assertEqualsWithDelta(50.8 - $brick->positions[$o], $image->positions[$o], 1e-12);
        }
    }
}
