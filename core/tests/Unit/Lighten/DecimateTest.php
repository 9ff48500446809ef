<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Lighten;

use Emberstone\Core\Algorithms\Remeshing\QuadricCollapse;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Lighten\Decimate;
use Emberstone\Core\Lighten\DecimateParameters;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
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
    public function a_few_places_that_cannot_go_keep_the_rest_from_nothing(): void
    {
        // A ball with a little noise and twenty thorns: everything but the thorns is light.
        $gen = new Gen(3);
        $ball = MeshBuilder::icosphere(5, 50.0);
        $p = array_map(fn (float $v) => $v + $gen->float(-0.01, 0.01), $ball->positions);
        for ($k = 0; $k < 20; $k++) {
            $o = 3 * (500 * $k + 100);
            for ($c = 0; $c < 3; $c++) {
                $p[$o + $c] *= 1.03;
            }
        }
        $thorny = $ball->withPositions($p);
        $light = $this->decimate($thorny, new DecimateParameters(deviation: 0.3));
        self::assertLessThan(0.15 * $ball->faceCount(), $light->faceCount());
        self::assertLessThanOrEqual(0.3, SurfaceDistance::compare($light, $thorny, 40000)['max']);
        self::assertLessThanOrEqual(0.3, SurfaceDistance::compare($thorny, $light, 40000)['max']);
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

    /** An L-shaped block of 10 x 8 x 10 mm in any pose, its faces dense squares of half a millimetre. */
    private function block(RigidTransform $pose): TriangleMesh
    {
        $isInside = fn (int $i, int $j, int $k): bool => $i >= 0 && $i < 20 && $j >= 0 && $j < 16 && $k >= 0 && $k < ($i < 8 ? 20 : 6);
        $p = $f = $ids = [];
        $vertex = function (int $i, int $j, int $k) use (&$p, &$ids): int {
            if (! isset($ids["$i $j $k"])) {
                $ids["$i $j $k"] = count($ids);
                array_push($p, 0.5 * $i, 0.5 * $j, 0.5 * $k);
            }

            return $ids["$i $j $k"];
        };
        for ($i = -1; $i < 20; $i++) {
            for ($j = -1; $j < 16; $j++) {
                for ($k = -1; $k < 20; $k++) {
                    foreach ([[1, 0, 0], [0, 1, 0], [0, 0, 1]] as $axis => [$di, $dj, $dk]) {
                        $here = $isInside($i, $j, $k);
                        if ($here === $isInside($i + $di, $j + $dj, $k + $dk)) {
                            continue;
                        }
                        // The square between the two cells, seen against the axis.
                        $square = array_map(function (array $uv) use ($axis, $i, $j, $k, $vertex): int {
                            $at = [$i, $j, $k];
                            $at[$axis]++;
                            $at[($axis + 1) % 3] += $uv[0];
                            $at[($axis + 2) % 3] += $uv[1];

                            return $vertex(...$at);
                        }, [[0, 0], [1, 0], [1, 1], [0, 1]]);
                        [$a, $b, $c, $d] = $here ? $square : array_reverse($square);
                        array_push($f, $a, $b, $c, $a, $c, $d);
                    }
                }
            }
        }

        return TriangleMesh::fromFlat($pose->points($p), $f);
    }

    #[Test]
    public function flats_and_their_edges_and_corners_stay_to_rounding_down_to_the_fewest_faces(): void
    {
        foreach ([RigidTransform::identity(), RigidTransform::turn([0.3, 0.5, 0.8], 0.7), RigidTransform::turn([0.9, -0.2, 0.1], 2.0)->then(RigidTransform::shift(300.0, -200.0, 100.0))] as $pose) {
            $block = $this->block($pose);
            $volume = Inspection::of($block)->volume;
            foreach ([intdiv($block->faceCount(), 10), 60] as $faces) {
                $light = $this->decimate($block, new DecimateParameters(faces: $faces));
                self::assertLessThanOrEqual($faces, $light->faceCount());
                self::assertLessThan(1e-5, max(SurfaceDistance::compare($block, $light, 20000)['max'], SurfaceDistance::compare($light, $block, 20000)['max']));
                self::assertEqualsWithDelta($volume, Inspection::of($light)->volume, 1e-3);
                self::assertSame(0, Inspection::of($light)->faultCount());
            }
        }
    }

    #[Test]
    public function edges_of_a_noisy_block_stay_within_a_twentieth_of_the_mean_edge(): void
    {
        $gen = new Gen(7);
        $block = $this->block(RigidTransform::identity());
        $noisy = TriangleMesh::fromFlat(array_map(fn (float $v) => $v + $gen->float(-0.005, 0.005), $block->positions), $block->faces);
        $light = $this->decimate($noisy, new DecimateParameters(ratio: 0.1));
        // The rims of the two ends and the inner edge, every quarter of a millimetre.
        $along = [];
        for ($y = 0.0; $y <= 8.0; $y += 0.25) {
            foreach ([[0.0, 0.0], [10.0, 0.0], [10.0, 3.0], [4.0, 3.0], [4.0, 10.0], [0.0, 10.0]] as [$x, $z]) {
                array_push($along, $x, $y, $z);
            }
        }
        $edges = array_sum(array_map(fn (int $k) => sqrt(array_sum(array_map(fn (int $c) => ($light->positions[3 * $light->faces[$k] + $c] - $light->positions[3 * $light->faces[$k % 3 === 2 ? $k - 2 : $k + 1] + $c]) ** 2, [0, 1, 2]))), array_keys($light->faces))) / count($light->faces);
        $face = $distanceSq = [];
        TriangleBvh::of($light->positions, $light->faces)->closest($along, $face, $distanceSq);
        self::assertLessThan(0.05 * $edges, sqrt(max($distanceSq)));
    }

    #[Test]
    public function several_bodies_share_a_count_of_faces_by_area_and_what_one_cannot_use_goes_to_the_others(): void
    {
        $bodies = [Body::of('large', MeshBuilder::icosphere(5, 60.0)), Body::of('small', MeshBuilder::icosphere(5, 30.0)), Body::of('coarse', MeshBuilder::icosphere(1, 60.0))];
        $light = (new Decimate)((new Workpiece)->withBodies($bodies), new DecimateParameters(faces: 5080), new NoProgress)->workpiece->bodies;
        // The coarse ball has 80 faces and keeps them; 5000 are shared by areas of four to one.
        self::assertEqualsWithDelta([4000, 1000, 80], array_map(fn (Body $body) => $body->geometry->faceCount(), $light), 2);
    }

    #[Test]
    public function two_ways_to_say_how_much_are_one_too_many(): void
    {
        $this->expectException(InvalidParameter::class);
        new DecimateParameters(ratio: 0.5, faces: 100);
    }

    /** A hollow ball, its wall thin on top alone or all around: with few faces outside and inside would cross there. */
    private function hollow(float $inside, float $up): TriangleMesh
    {
        $ball = MeshBuilder::icosphere(4, $inside)->transformed(RigidTransform::turn([1.0, 0.4, 0.2], 0.3)->then(RigidTransform::shift(0.0, 0.0, $up)));
        $faces = array_merge(...array_map(fn (array $f) => [$f[1], $f[0], $f[2]], array_chunk($ball->faces, 3)));

        return TriangleMesh::joined([MeshBuilder::icosphere(4, 10.0), TriangleMesh::fromFlat($ball->positions, $faces)]);
    }

    #[Test]
    #[TestWith([7.0, 2.9, 800, true])]
    #[TestWith([9.9, 0.0, 300, false])]
    public function thin_walls_stay_sound_where_the_count_allows_it_and_else_it_is_told(float $inside, float $up, int $faces, bool $isSound): void
    {
        $hollow = $this->hollow($inside, $up);
        $crossings = fn (array $p, array $f): int => intdiv(count(Intersections::pairs($p, $f)), 2);
        self::assertSame(0, $crossings($hollow->positions, $hollow->faces));
        $collapsed = QuadricCollapse::run($hollow->positions, $hollow->faces, [], [], $faces, INF, 100.0, fn () => null);
        self::assertGreaterThan(0, $crossings($collapsed['positions'], $collapsed['faces']), 'collapsing alone crosses there');
        $result = (new Decimate)(new Workpiece(bodies: [Body::of('b', $hollow)]), new DecimateParameters(faces: $faces), new NoProgress);
        $mesh = $result->workpiece->bodies[0]->placedMesh();
        self::assertLessThanOrEqual(1.02 * $faces + 4, $mesh->faceCount());
        self::assertSame($isSound, $crossings($mesh->positions, $mesh->faces) === 0);
        self::assertSame($isSound, ! str_contains(implode(' ', $result->notes), 'cross or stand out'));
        // Within a distance there is always a sound mesh, if need be the same.
        $within = $this->decimate($hollow, new DecimateParameters(deviation: 0.1));
        self::assertSame(0, $crossings($within->positions, $within->faces));
    }

    /** @return list<int> the faces of a mesh about the origin whose middle lies above it */
    private static function upper(TriangleMesh $mesh): array
    {
        $upper = [];
        foreach (array_chunk($mesh->faces, 3) as $t => [$a, $b, $c]) {
            if ($mesh->positions[3 * $a + 2] + $mesh->positions[3 * $b + 2] + $mesh->positions[3 * $c + 2] > 0.0) {
                $upper[] = $t;
            }
        }

        return $upper;
    }

    #[Test]
    public function a_selected_area_keeps_every_face_and_the_count_is_met_around_it(): void
    {
        $ball = MeshBuilder::icosphere(4, 50.0);
        $upper = self::upper($ball);
        $corners = fn (TriangleMesh $mesh, int $t): string => serialize(array_map(fn (int $v) => array_slice($mesh->positions, 3 * $v, 3), array_slice($mesh->faces, 3 * $t, 3)));
        foreach ([new DecimateParameters(faces: 3000, selection: [['target' => 'b', 'indices' => $upper]]), new DecimateParameters(deviation: 2.0, selection: [['target' => 'b', 'indices' => $upper]])] as $parameters) {
            $light = $this->decimate($ball, $parameters);
            $there = array_flip(array_map(fn (int $t) => $corners($light, $t), range(0, $light->faceCount() - 1)));
            foreach ($upper as $t) {
                self::assertArrayHasKey($corners($ball, $t), $there);
            }
            self::assertTrue(Inspection::of($light)->closed);
            self::assertLessThanOrEqual(3000, $light->faceCount());
        }
    }

    #[Test]
    public function a_selected_area_is_as_many_times_finer_as_was_asked_where_it_curves_as_the_rest_does(): void
    {
        $ball = MeshBuilder::icosphere(5, 50.0);
        $light = $this->decimate($ball, new DecimateParameters(faces: 2000, selection: [['target' => 'b', 'indices' => self::upper($ball)]], finer: 4.0));
        self::assertEqualsWithDelta(2000, $light->faceCount(), 2);
        $upper = count(self::upper($light));
        // Four fifths of the faces on half of the ball, but for a ring of faces between the two.
        self::assertEqualsWithDelta(1600, $upper, 80);
        self::assertSame(0, Inspection::of($light)->faultCount());
        $alike = $this->decimate($ball, new DecimateParameters(faces: 2000));
        self::assertEqualsWithDelta(1000, count(self::upper($alike)), 30);
    }

    #[Test]
    public function an_area_of_nothing_that_is_there_and_more_faces_than_are_left_beside_it_are_told(): void
    {
        $ball = MeshBuilder::icosphere(3, 50.0);
        $workpiece = (new Workpiece)->withBodies([Body::of('b', $ball)]);
        $result = (new Decimate)($workpiece, new DecimateParameters(faces: 100, selection: [['target' => 'b', 'indices' => self::upper($ball)]]), new NoProgress);
        self::assertStringContainsString('The selected area', $result->notes[0]);
        $this->expectExceptionMessage('Nothing of a mesh is selected');
        (new Decimate)($workpiece, new DecimateParameters(faces: 100, selection: [['target' => 'other', 'indices' => [0]]]), new NoProgress);
    }
}
