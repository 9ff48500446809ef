<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mesh;

use Emberstone\Core\Algorithms\Surface\Evidence;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class EvidenceTest extends TestCase
{
    private static function ball(Gen $gen): TriangleMesh
    {
        $ball = MeshBuilder::icosphere(3, 20.0);
        $support = array_map(fn () => Evidence::of($gen->int(1, 8), $gen->int(1, 900) * 1e-4, $gen->int(1, 3000) / 100.0), range(1, $ball->vertexCount()));

        return TriangleMesh::fromFlat($ball->positions, $ball->faces, $support);
    }

    /** @param  array<string, mixed>  $parameters */
    private static function after(TriangleMesh $mesh, string $operation, array $parameters): TriangleMesh
    {
        $result = Catalogue::operation($operation)((new Workpiece)->withBodies([Body::of('ball', $mesh)]), Catalogue::parameters($operation, $parameters), new NoProgress);
        $after = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $after);

        return $after;
    }

    #[Test]
    public function a_number_holds_passes_spread_and_weight_and_too_much_is_cut_off(): void
    {
        $gen = new Gen(3);
        for ($round = 0; $round < 300; $round++) {
            [$passes, $spread, $weight] = [$gen->int(0, 255), $gen->float(0.0, 6.5), $gen->float(0.0, 650.0)];
            $support = Evidence::of($passes, $spread, $weight);
            self::assertSame($passes, Evidence::passes($support));
            self::assertEqualsWithDelta([$spread, $weight], [1e2 * Evidence::spreadMm($support) / 1e2, Evidence::weight($support)], 0.0051);
            self::assertEqualsWithDelta($spread, Evidence::spreadMm($support), 0.51e-4);
            self::assertEqualsWithDelta(0.5 * $spread, Evidence::spreadMm(Evidence::scaled($support, 0.5)), 1.1e-4);
            $parts = Evidence::parts([$support, 7]);
            self::assertSame([$support, 7], Evidence::joined($parts['passes'], $parts['spread'], $parts['weight']));
        }
        self::assertSame([255, 6.5535, 655.35], [Evidence::passes(Evidence::of(999, 40.0, 9e9)), Evidence::spreadMm(Evidence::of(999, 40.0, 9e9)), Evidence::weight(Evidence::of(999, 40.0, 9e9))]);
        self::assertSame([5, 0.0, 0.0], [Evidence::passes(5), Evidence::spreadMm(5), Evidence::weight(5)], 'passes alone');
    }

    #[Test]
    public function it_comes_back_from_a_blob_to_the_last_bit(): void
    {
        $ball = self::ball(new Gen(4));
        self::assertSame($ball->support, Blob::decode(Blob::encode($ball))->support ?? null);
        $plain = TriangleMesh::fromFlat($ball->positions, $ball->faces, array_fill(0, $ball->vertexCount(), 3));
        $head = Blob::head(Blob::encode($plain));
        self::assertSame([true, false], [isset($head['sections']['support']), isset($head['sections']['spread'])], 'nothing is said that nobody knows');
    }

    #[Test]
    #[TestWith([true])]
    #[TestWith([false])]
    public function it_travels_in_ply_and_the_spread_is_in_the_unit_of_the_file(bool $ascii): void
    {
        $ball = self::ball(new Gen(5));
        $file = (string) tempnam(sys_get_temp_dir(), 'evidence').'.ply';
        Formats::write($file, $ball, new WriteOptions(ascii: $ascii));
        $back = Formats::read($file)->geometry;
        self::assertInstanceOf(TriangleMesh::class, $back);
        self::assertSame($ball->support, $back->support);
        self::assertStringContainsString('property float spread', (string) file_get_contents($file, length: 400));
        unlink($file);
        $large = $ball->scaled(10.0);
        self::assertEqualsWithDelta(array_map(fn (int $one) => 10.0 * Evidence::spreadMm($one), $ball->support), array_map(Evidence::spreadMm(...), $large->support), 1e-9);
    }

    #[Test]
    public function lightening_filling_and_cutting_keep_what_each_vertex_had(): void
    {
        $ball = self::ball(new Gen(6));
        foreach ([['decimate', ['faces' => 400]], ['keep-pieces', ['largest' => 1]]] as [$operation, $parameters]) {
            $after = self::after($ball, $operation, $parameters);
            self::assertCount($after->vertexCount(), $after->support);
            self::assertSame([], array_diff($after->support, $ball->support), "$operation makes nothing up");
        }
        $open = MeshBuilder::without($ball, 15.0);
        $filled = self::after($open, 'fill-holes', []);
        self::assertSame($open->support, array_slice($filled->support, 0, $open->vertexCount()));
        self::assertSame([0], array_values(array_unique(array_slice($filled->support, $open->vertexCount()))), 'nothing backs what was filled');
    }

    #[Test]
    public function what_moves_farther_than_its_noise_is_no_longer_called_measured(): void
    {
        $gen = new Gen(7);
        $ball = MeshBuilder::icosphere(3, 20.0);
        $rough = $ball->withPositions(array_map(fn (float $x) => $x + $gen->float(-0.2, 0.2), $ball->positions));
        // The lower half is known to a tenth of a micrometre, the upper to two millimetres.
        $known = array_map(fn (int $v) => Evidence::of(3, $ball->positions[3 * $v + 2] < 0.0 ? 1e-4 : 2.0, 9.0), range(0, $ball->vertexCount() - 1));
        $smooth = self::after(TriangleMesh::fromFlat($rough->positions, $rough->faces, $known), 'smooth', ['strength' => 0.5]);
        self::assertSame([TriangleMesh::MEASURED, TriangleMesh::SMOOTHED], array_values(array_unique([min($smooth->origin), max($smooth->origin)])));
        foreach ($smooth->origin as $t => $mark) {
            $heights = array_map(fn (int $c) => $ball->positions[3 * $ball->faces[3 * $t + $c] + 2], [0, 1, 2]);
            self::assertSame(min($heights) < 0.0 ? TriangleMesh::SMOOTHED : TriangleMesh::MEASURED, $mark);
        }
        self::assertEqualsWithDelta(0.5, Inspection::of($smooth)->madeUp['smoothed'], 0.05);
        self::assertSame([], self::after($rough, 'smooth', ['strength' => 0.5])->origin, 'without evidence nobody can tell');
    }
}
