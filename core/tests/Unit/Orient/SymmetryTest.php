<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Orient\AddDatum;
use Emberstone\Core\Orient\AddDatumParameters;
use Emberstone\Core\Orient\Revolution;
use Emberstone\Core\Orient\Symmetry;
use Emberstone\Core\Rigs\BearingCap;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\ExactSurface;
use Emberstone\Core\Rigs\PineConeFinial;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class SymmetryTest extends TestCase
{
    /** A ball bent by waves that look the same from both sides of y = 0, thrown anywhere. */
    private static function face(RigidTransform $by, float $noise = 0.0): TriangleMesh
    {
        $ball = MeshBuilder::icosphere(5);
        $gen = new Gen(4);
        $p = [];
        foreach (array_chunk($ball->positions, 3) as [$x, $y, $z]) {
            $r = 30.0 + 4.0 * sin(3.0 * $x + 1.0) + 5.0 * cos(4.0 * $y) * $z + 3.0 * sin(2.0 * $z * $x) + $gen->float(-$noise, $noise);
            array_push($p, $r * $x, 0.8 * $r * $y, 1.2 * $r * $z);
        }

        return TriangleMesh::fromFlat($by->points($p), $ball->faces);
    }

    /** A turned post: rings whose radius changes along Z. */
    private static function post(RigidTransform $by, float $noise = 0.0, float $boss = 0.0): TriangleMesh
    {
        $gen = new Gen(6);
        $p = $f = [];
        for ($j = 0; $j <= 60; $j++) {
            for ($i = 0; $i < 72; $i++) {
                $turn = 2.0 * M_PI * $i / 72;
                $r = 12.0 + 4.0 * sin(0.15 * $j) + 0.06 * $j + $gen->float(-$noise, $noise) + ($boss > 0.0 && abs($j - 30) < 6 && $i < 8 ? $boss : 0.0);
                array_push($p, $r * cos($turn), $r * sin($turn), 1.5 * $j);
                if ($j < 60) {
                    $a = 72 * $j + $i;
                    $b = 72 * $j + ($i + 1) % 72;
                    array_push($f, $a, $b, $b + 72, $a, $b + 72, $a + 72);
                }
            }
        }

        return TriangleMesh::fromFlat($by->points($p), $f);
    }

    private static function anywhere(int $seed): RigidTransform
    {
        $gen = new Gen($seed);

        return RigidTransform::turn($gen->points(1), $gen->float(0.3, 3.0))->then(RigidTransform::shift($gen->float(-80, 80), $gen->float(-80, 80), $gen->float(-80, 80)));
    }

    #[Test]
    public function the_one_plane_that_mirrors_an_organic_shape_is_found_wherever_it_stands(): void
    {
        foreach (range(1, Gen::seeds(1, 3)) as $seed) {
            $by = self::anywhere($seed);
            $found = Symmetry::mirrors(self::face($by, 0.03), 'mirror');
            self::assertCount(1, $found);
            ['datum' => $plane, 'share' => $share] = $found[0];
            self::assertSame(['plane', 'mirror'], [$plane->kind, $plane->made]);
            self::assertEqualsWithDelta(1.0, abs(Vector3::dot($plane->direction, $by->direction([0.0, 1.0, 0.0]))), 1e-6, 'within 0.08 degrees');
            self::assertEqualsWithDelta(0.0, Vector3::dot($plane->direction, Vector3::minus($by->point([0.0, 0.0, 0.0]), $plane->origin)), 0.03);
            self::assertGreaterThan(0.95, $share);
        }
    }

    #[Test]
    public function a_brick_has_three_mirrors_square_to_each_other(): void
    {
        $ball = MeshBuilder::icosphere(5);
        $p = [];
        foreach (array_chunk($ball->positions, 3) as $d) {
            // Along the ray to the nearest side of the brick.
            $k = min(30.0 / max(1e-9, abs($d[0])), 20.0 / max(1e-9, abs($d[1])), 12.0 / max(1e-9, abs($d[2])));
            array_push($p, $k * $d[0], $k * $d[1], $k * $d[2]);
        }
        $found = Symmetry::mirrors(TriangleMesh::fromFlat($p, $ball->faces), 'm');
        self::assertCount(3, $found);
        foreach ($found as ['datum' => $plane]) {
            self::assertGreaterThan(0.99999, max(array_map(abs(...), $plane->direction)));
            self::assertEqualsWithDelta(0.0, Vector3::dot($plane->direction, $plane->origin), 0.1);
        }
    }

    #[Test]
    public function a_lump_without_symmetry_is_refused_in_words(): void
    {
        $ball = MeshBuilder::icosphere(4);
        $p = [];
        foreach (array_chunk($ball->positions, 3) as [$x, $y, $z]) {
            $r = 30.0 + 9.0 * sin(3.0 * $x + 1.7 * $y + 0.4) + 8.0 * cos(2.0 * $y - 2.6 * $z + 1.0) + 8.0 * sin(4.0 * $z * $x + 2.0 * $y);
            array_push($p, $r * $x, $r * $y, $r * $z);
        }
        $lump = TriangleMesh::fromFlat($p, $ball->faces);
        foreach ([fn () => Symmetry::mirrors($lump, 'm'), fn () => Revolution::axis($lump, 'a')] as $find) {
            try {
                $find();
                self::fail('a lump has no symmetry');
            } catch (UnsuitableInput $refusal) {
                self::assertMatchesRegularExpression('/\d+ % of the surface/', $refusal->getMessage());
            }
        }
    }

    #[Test]
    public function the_axis_of_a_turned_post_is_found_through_noise_and_a_boss(): void
    {
        // With noise and a boss it is hardest.
        foreach (array_slice([[13, 0.02, 5.0], [11, 0.0, 0.0], [12, 0.02, 0.0]], 0, Gen::seeds(1, 3)) as [$seed, $noise, $boss]) {
            $by = self::anywhere($seed);
            ['datum' => $axis, 'share' => $share] = Revolution::axis(self::post($by, $noise, $boss), 'axis');
            self::assertSame(['line', 'revolution'], [$axis->kind, $axis->made]);
            self::assertGreaterThan(cos(deg2rad(0.1)), abs(Vector3::dot($axis->direction, $by->direction([0.0, 0.0, 1.0]))));
            $foot = Vector3::minus($by->point([0.0, 0.0, 45.0]), $axis->origin);
            self::assertLessThan(0.1, Vector3::length(Vector3::cross($foot, $axis->direction)));
            self::assertGreaterThan(0.85, $share);
            self::assertEqualsWithDelta(45.0, $axis->size, 1.0);
        }
    }

    /** The exact finial, thrown anywhere; only what lies on one side of a plane through its axis when half. */
    private static function finial(RigidTransform $by, bool $half = false): TriangleMesh
    {
        static $exact = null;
        $mesh = $exact ??= ExactSurface::of(new PineConeFinial, 1.8);
        if ($half) {
            $mesh = $mesh->withFaces(array_values(array_filter(range(0, $mesh->faceCount() - 1), fn (int $t) => $mesh->positions[3 * $mesh->faces[3 * $t]] > -8.0)));
        }

        return $mesh->transformed($by);
    }

    #[Test]
    #[Group('nightly')]
    public function the_axis_of_a_cone_of_scales_is_that_of_its_outline_even_when_one_side_was_not_seen(): void
    {
        foreach ([[21, false, 0.1, 0.1], [22, true, 0.5, 0.5]] as [$seed, $half, $degrees, $mm]) {
            $by = self::anywhere($seed);
            ['datum' => $axis, 'share' => $share] = Revolution::axis(self::finial($by, $half), 'axis');
            self::assertNull($share);
            self::assertGreaterThan(cos(deg2rad($degrees)), abs(Vector3::dot($axis->direction, $by->direction([0.0, 0.0, 1.0]))));
            self::assertLessThan($mm, Vector3::length(Vector3::cross(Vector3::minus($by->point([0.0, 0.0, 65.0]), $axis->origin), $axis->direction)));
            self::assertEqualsWithDelta(2.0, $axis->rms, 0.5);
            self::assertEqualsWithDelta(64.0, $axis->size, 2.0);
        }
        $result = (new AddDatum)(new Workpiece([], [Body::of('finial', self::finial(RigidTransform::identity()))]), new AddDatumParameters('axis', 'line', shape: ['find' => 'axis']), new NoProgress);
        self::assertMatchesRegularExpression('/^Only the outline is round .* 1\.\d+ mm/', $result->notes[0]);
    }

    #[Test]
    public function a_part_whose_outline_is_not_round_has_no_axis(): void
    {
        foreach ([new BearingPedestal, new BearingCap] as $part) {
            try {
                Revolution::axis(ExactSurface::of($part, 3.0), 'a');
                self::fail($part->name().' is not round');
            } catch (UnsuitableInput $refusal) {
                self::assertStringContainsString('nor is its outline round', $refusal->getMessage());
            }
        }
    }

    #[Test]
    public function a_ball_is_round_about_every_axis_and_that_is_said(): void
    {
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('more than one axis');
        Revolution::axis(MeshBuilder::icosphere(4, 20.0), 'a');
    }

    #[Test]
    public function a_tube_has_an_axis_though_its_normals_never_look_along_it(): void
    {
        $p = $f = [];
        for ($j = 0; $j <= 30; $j++) {
            for ($i = 0; $i < 60; $i++) {
                array_push($p, 8.0 * cos(2.0 * M_PI * $i / 60), 8.0 * sin(2.0 * M_PI * $i / 60), 2.0 * $j);
                if ($j < 30) {
                    $a = 60 * $j + $i;
                    $b = 60 * $j + ($i + 1) % 60;
                    array_push($f, $a, $b, $b + 60, $a, $b + 60, $a + 60);
                }
            }
        }
        $axis = Revolution::axis(TriangleMesh::fromFlat($p, $f), 'a')['datum'];
        self::assertGreaterThan(0.999999, abs($axis->direction[2]));
        self::assertEqualsWithDelta([0.0, 0.0, 30.0], $axis->origin, 0.05);
    }

    #[Test]
    public function the_step_takes_one_of_several_mirrors_and_says_how_many_there_are(): void
    {
        $ball = MeshBuilder::icosphere(4);
        $egg = TriangleMesh::fromFlat(array_map(fn (float $v, int $o) => $v * [30.0, 20.0, 12.0][$o % 3], $ball->positions, array_keys($ball->positions)), $ball->faces);
        $add = fn (array $shape, string $kind = 'plane') => (new AddDatum)(new Workpiece([], [Body::of('egg', $egg)]), new AddDatumParameters('m', $kind, shape: $shape), new NoProgress);
        $seen = [];
        foreach ([1, 2, 3] as $nth) {
            $result = $add(['find' => 'mirror', 'nth' => $nth]);
            self::assertStringContainsString("number $nth of 3 planes", $result->notes[0]);
            $seen[] = array_search(max(array_map(abs(...), $result->workpiece->datums[0]->direction)), array_map(abs(...), $result->workpiece->datums[0]->direction), true);
            self::assertSame('egg', $result->workpiece->datums[0]->bodyId);
        }
        sort($seen);
        self::assertSame([0, 1, 2], $seen);
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('there is no number 4');
        $add(['find' => 'mirror', 'nth' => 4]);
    }
}
