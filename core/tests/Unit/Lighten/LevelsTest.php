<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Lighten;

use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Remeshing\ProgressiveMesh;
use Emberstone\Core\Algorithms\Remeshing\QuadricCollapse;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Lighten\Decimate;
use Emberstone\Core\Lighten\DecimateParameters;
use Emberstone\Core\Lighten\Levels;
use Emberstone\Core\Lighten\LevelsParameters;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class LevelsTest extends TestCase
{
    /** @return array{ProgressiveMesh, array{positions: list<float>, faces: list<int>, support: list<int>, origin: list<int>}} */
    private static function recorded(TriangleMesh $mesh, int $target): array
    {
        $record = new ProgressiveMesh($mesh->positions, $mesh->faces);

        return [$record, QuadricCollapse::run($mesh->positions, $mesh->faces, [], [], $target, INF, QuadricCollapse::rimWeight(true), fn () => null, record: $record)];
    }

    #[Test]
    public function replayed_to_the_end_the_collapses_give_the_very_mesh_that_collapsing_gave(): void
    {
        for ($seed = 0; $seed < Gen::seeds(3, 20); $seed++) {
            $gen = new Gen($seed);
            $ball = MeshBuilder::icosphere(4, 20.0 + 30.0 * $gen->float());
            // With a piece out of it there are rims, where a collapse takes one face.
            $mesh = TriangleMesh::fromFlat(array_map(fn (float $c) => $c + 0.2 * $gen->float(), $ball->positions), array_slice($ball->faces, 3 * $gen->int(0, 400)));
            [$record, $result] = self::recorded($mesh, $gen->int(40, 900));
            $last = $record->at(count($record->kept));
            self::assertSame($result['faces'], $last['faces']);
            self::assertEqualsWithDelta($result['positions'], $last['positions'], 1e-12);
        }
    }

    #[Test]
    public function each_count_on_the_way_is_a_closed_sound_mesh_of_that_many_faces(): void
    {
        $ball = MeshBuilder::icosphere(4, 30.0);
        [$record] = self::recorded($ball, 60);
        self::assertSame($ball->faces, $record->at(0)['faces']);
        self::assertSame($ball->positions, $record->at(0)['positions']);
        foreach ([5000, 2001, 700, 61] as $faces) {
            $collapses = $record->collapsesTo($faces);
            ['positions' => $positions, 'faces' => $level, 'of' => $of] = $record->at($collapses);
            self::assertCount(3 * $record->facesAt($collapses), $level);
            self::assertEqualsWithDelta($faces, count($level) / 3, 1.0);
            self::assertLessThanOrEqual($faces, count($level) / 3);
            $inspection = Inspection::of(TriangleMesh::fromFlat($positions, $level));
            self::assertTrue($inspection->closed);
            self::assertSame(0, $inspection->faultCount());
            // A vertex is stood for by one that took its place, and those lie near each other.
            foreach ($of as $v => $stands) {
                self::assertLessThan(30.0, Vector3::length(Vector3::minus(array_slice($positions, 3 * $stands, 3), array_slice($ball->positions, 3 * $v, 3))));
            }
        }
        self::assertSame(0, $record->collapsesTo($ball->faceCount()));
        self::assertSame(count($record->kept), $record->collapsesTo(1));
    }

    private static function levels(Body ...$bodies): Result
    {
        return (new Levels)((new Workpiece)->withBodies(array_values($bodies)), new LevelsParameters, new NoProgress);
    }

    #[Test]
    public function what_a_stop_says_of_a_ball_is_what_geometry_says_and_what_decimating_finds(): void
    {
        $ball = MeshBuilder::icosphere(5, 50.0);
        $stops = self::levels(Body::of('b', $ball))->after['stops'];
        self::assertSame(['faces' => 20480, 'p95' => 0.0, 'farthest' => 0.0], $stops[0]);
        self::assertSame(100, $stops[count($stops) - 1]['faces']);
        $before = 0.0;
        foreach (array_slice($stops, 1) as ['faces' => $faces, 'p95' => $p95, 'farthest' => $farthest]) {
            // A face of edge e on a ball of radius r is off by e2 / 6r in its middle, where its corners lie on the ball; vertices at the best place halve that.
            $edgeSq = 4.0 / sqrt(3.0) * 4.0 * M_PI * 2500.0 / $faces;
            self::assertLessThan(6.0 * $edgeSq / 300.0, $farthest);
            self::assertGreaterThan(0.2 * $edgeSq / 300.0, $p95 + 0.001);
            self::assertGreaterThanOrEqual($p95, $farthest);
            self::assertGreaterThan(0.8 * $before, $p95);
            $before = $p95;
        }
        foreach ([4, 12] as $s) {
            $light = (new Decimate)((new Workpiece)->withBodies([Body::of('b', $ball)]), new DecimateParameters(faces: $stops[$s]['faces']), new NoProgress);
            self::assertEqualsWithDelta($light->after['deviation'], $stops[$s]['farthest'], 0.5 * $light->after['deviation']);
        }
    }

    #[Test]
    public function flats_lose_their_faces_without_moving(): void
    {
        $stops = self::levels(Body::of('box', MeshBuilder::brick([40.0, 30.0, 20.0], 24)))->after['stops'];
        self::assertLessThan(1e-6, max(array_column($stops, 'farthest')));
        self::assertLessThanOrEqual(100, $stops[count($stops) - 1]['faces']);
    }

    #[Test]
    public function bodies_share_each_count_by_area_and_are_the_same_wherever_and_in_whatever_unit_they_stand(): void
    {
        $large = MeshBuilder::icosphere(4, 40.0);
        $small = MeshBuilder::icosphere(4, 20.0);
        $result = self::levels(Body::of('large', $large), Body::of('small', $small));
        [$one, $other] = $result->shown;
        self::assertSame([2 * 5120, 200], [$result->after['stops'][0]['faces'], array_slice($result->after['stops'], -1)[0]['faces']]);
        self::assertSame(['large', 'small'], [$one->bodyId, $other->bodyId]);
        self::assertEqualsWithDelta(4.0, $one->data['stops'][8]['faces'] / $other->data['stops'][8]['faces'], 0.2);

        $away = Body::of('large', $large->scaled(1e-3))->scaled(1000.0)->moved(RigidTransform::turn([0.0, 0.6, 0.8], 1.0))->moved(RigidTransform::shift(1e5, 0.0, 0.0));
        [$there] = self::levels($away)->shown;
        [$here] = self::levels(Body::of('large', $large))->shown;
        self::assertSame($here->data['gone'], $there->data['gone']);
        self::assertEqualsWithDelta(array_column($here->data['stops'], 'p95'), array_column($there->data['stops'], 'p95'), 1e-6);
        // Places are in the numbers of the body, here metres.
        self::assertEqualsWithDelta(Packed::toSingles((string) base64_decode($here->data['places'], true)), array_map(fn (float $c) => 1000.0 * $c, Packed::toSingles((string) base64_decode($there->data['places'], true))), 1e-4);
    }

    #[Test]
    public function the_artefact_holds_a_shade_for_each_vertex_of_each_stop(): void
    {
        $ball = MeshBuilder::icosphere(4, 40.0);
        [$artefact] = self::levels(Body::of('ball', $ball))->shown;
        $collapses = count(Packed::toInts((string) base64_decode($artefact->data['kept'], true)));
        $shades = (string) base64_decode($artefact->data['shades'], true);
        self::assertSame(array_sum(array_map(fn (array $stop) => $ball->vertexCount() - $stop['collapses'], $artefact->data['stops'])), strlen($shades));
        self::assertGreaterThanOrEqual(1, min(Packed::toBytes($shades)));
        self::assertSame(str_repeat("\1", $ball->vertexCount()), substr($shades, 0, $ball->vertexCount()));
        self::assertSame(3 * $collapses, count(Packed::toSingles((string) base64_decode($artefact->data['places'], true))));
        self::assertSame($collapses, count(Packed::toInts((string) base64_decode($artefact->data['left'], true))));
    }

    #[Test]
    public function without_a_mesh_it_says_what_to_do(): void
    {
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('fuse the passes first');
        self::levels();
    }
}
