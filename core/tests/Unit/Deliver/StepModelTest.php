<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver;

use Emberstone\Core\Deliver\Brief;
use Emberstone\Core\Deliver\StepModel;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class StepModelTest extends TestCase
{
    use Refuses;

    /** A plate of 60 by 40 by 12 mm with a hole of 14 mm, its shapes found. */
    private static function plate(): Workpiece
    {
        static $plate = null;

        return $plate ??= self::after(new Workpiece(bodies: [Body::of('Plate', SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [60.0, 40.0, 12.0]))]), [
            'open-hole' => ['axis' => ['point' => [10.0, 5.0, 0.0], 'direction' => [0.0, 0.0, 1.0]], 'diameter' => 14.0],
            'find-shapes' => [],
            'section' => ['plane' => ['point' => [0.0, 0.0, 6.0], 'normal' => [0.0, 0.0, 1.0]], 'fit' => 0.01],
        ]);
    }

    /** @param  array<string, array<string, mixed>>  $steps */
    private static function after(Workpiece $workpiece, array $steps): Workpiece
    {
        foreach ($steps as $name => $parameters) {
            $workpiece = Catalogue::operation($name)($workpiece, Catalogue::parameters($name, $parameters), new NoProgress)->workpiece;
        }

        return $workpiece;
    }

    /**
     * @param  list<Datum>  $datums
     * @param  array<string, mixed>  $brief
     */
    private static function written(Workpiece $workpiece, array $datums = [], array $brief = []): StepModel
    {
        $body = $workpiece->bodies[0];
        $mesh = $body->placedMesh();

        return StepModel::of($body->name, $body, $mesh, $workpiece->artefacts, $datums, Brief::fromArray($brief));
    }

    /** @return array<int, string> entities by number; every number that one refers to is there */
    private static function entities(string $bytes): array
    {
        self::assertStringStartsWith("ISO-10303-21;\nHEADER;\n", $bytes);
        self::assertStringEndsWith("ENDSEC;\nEND-ISO-10303-21;\n", $bytes);
        preg_match_all('/^#(\d+)=(.*);$/m', $bytes, $lines);
        $entities = array_combine(array_map(intval(...), $lines[1]), $lines[2]);
        foreach ($entities as $number => $entity) {
            preg_match_all('/#(\d+)/', (string) preg_replace("/'[^']*'/", '', $entity), $to);
            foreach ($to[1] as $other) {
                self::assertTrue(isset($entities[(int) $other]) && (int) $other < $number, "#$number refers to #$other");
            }
        }

        return $entities;
    }

    /** @param  array<int, string>  $entities */
    private static function howMany(array $entities, string $name): int
    {
        return count(array_filter($entities, fn (string $entity) => str_starts_with($entity, "$name(")));
    }

    #[Test]
    public function a_drilled_plate_is_a_solid_of_seven_faces_with_its_bore_as_a_cylinder(): void
    {
        $model = self::written(self::plate());
        $entities = self::entities($model->bytes);
        self::assertSame([7, 14, 6, 1, 1, 0], array_map(fn (string $name) => self::howMany($entities, $name), ['ADVANCED_FACE', 'EDGE_CURVE', 'PLANE', 'CYLINDRICAL_SURFACE', 'MANIFOLD_SOLID_BREP', 'SHELL_BASED_SURFACE_MODEL']));
        preg_match('/CYLINDRICAL_SURFACE\(.*,([\d.]+)\)/', $model->bytes, $bore);
        self::assertEqualsWithDelta(7.0, (float) ($bore[1] ?? 0.0), 1e-3);
        self::assertStringContainsString('closed solid of 7 faces', $model->notes[0]);
        // The section comes along as four lines and a circle in two arcs or more.
        self::assertSame(1, self::howMany($entities, 'GEOMETRIC_CURVE_SET'));
        self::assertGreaterThanOrEqual(6, self::howMany($entities, 'TRIMMED_CURVE'));
    }

    #[Test]
    public function unit_and_axis_are_the_briefs_and_datums_and_frames_come_along(): void
    {
        $datums = [
            new Datum('b', "Ada's base", 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, -1.0], size: 30.0), new Datum('h', 'Hole', 'cylinder', [10.0, 5.0, 6.0], [0.0, 0.0, 1.0], 7.0, 6.0),
            new Datum('p', 'Dot', 'point', [1.0, 2.0, 3.0]), new Datum('f', 'Drehbank für später', 'frame', [10.0, 5.0, 0.0], [0.0, 0.0, 1.0], across: [1.0, 0.0, 0.0]),
            new Datum('o', 'Of another', 'point', [0.0, 0.0, 0.0], bodyId: 'another'),
        ];
        $bytes = self::written(self::plate(), $datums, ['unit' => 'in', 'up' => '+y'])->bytes;
        self::entities($bytes);
        self::assertStringContainsString("CONVERSION_BASED_UNIT('INCH'", $bytes);
        self::assertStringContainsString("'Ada''s base'", $bytes);
        self::assertStringContainsString("'Drehbank f\\X2\\00FC\\X0\\r sp\\X2\\00E4\\X0\\ter'", $bytes);
        self::assertStringNotContainsString('Of another', $bytes);
        // What pointed along Z points along Y, in inches.
        preg_match("/GEOMETRIC_CURVE_SET\('Dot',\(#(\d+)\)/", $bytes, $set);
        preg_match('/#'.($set[1] ?? '0')."=CARTESIAN_POINT\('',\(([^)]*)\)/", $bytes, $point);
        self::assertEqualsWithDelta([1.0 / 25.4, 3.0 / 25.4, -2.0 / 25.4], array_map(floatval(...), explode(',', $point[1] ?? '')), 1e-12);
    }

    #[Test]
    public function a_body_without_shapes_comes_as_flats_and_one_that_is_too_heavy_is_refused_with_what_to_do(): void
    {
        $plain = new Workpiece(bodies: [Body::of('Brick', SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [4.0, 3.0, 2.0]))]);
        $model = self::written($plain);
        self::assertSame([6, 12], [self::howMany(self::entities($model->bytes), 'ADVANCED_FACE'), self::howMany(self::entities($model->bytes), 'EDGE_CURVE')]);
        self::assertStringContainsString('no shapes were found on it', $model->notes[0]);
        $heavy = Body::of('Heavy', TriangleMesh::fromFlat([0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0], array_merge(...array_fill(0, 300_001, [0, 1, 2]))));
        self::assertRefused([[fn () => self::written(new Workpiece(bodies: [$heavy])), 'Find its shapes first']]);
    }

    #[Test]
    public function a_lump_on_which_no_shape_was_found_is_its_triangles(): void
    {
        $ball = MeshBuilder::icosphere(3, 10.0);
        $lump = $ball->withPositions(array_merge(...array_map(fn (array $at) => [$at[0] + 2.0 * sin(0.4 * $at[1]), $at[1] + 2.0 * cos(0.5 * $at[2]), $at[2] + 1.5 * sin(0.6 * $at[0])], array_chunk($ball->positions, 3))));
        $workpiece = self::after(new Workpiece(bodies: [Body::of('Lump', $lump)]), ['find-shapes' => ['tolerance' => 0.002]]);
        $model = self::written($workpiece);
        self::assertStringContainsString('it is free form all over', $model->notes[0]);
        self::assertSame([1280, 1], [self::howMany(self::entities($model->bytes), 'ADVANCED_FACE'), self::howMany(self::entities($model->bytes), 'MANIFOLD_SOLID_BREP')]);
    }

    #[Test]
    public function a_file_says_nothing_but_what_it_holds_so_that_it_is_the_same_each_time(): void
    {
        self::assertSame(self::written(self::plate())->bytes, self::written(self::plate())->bytes);
    }

    /** Read by a program that is not ours; bin/test --nightly installs it. */
    #[Test]
    #[Group('nightly')]
    public function an_independent_reader_finds_a_solid_of_the_right_volume_and_area(): void
    {
        exec('command -v gmsh', $found);
        if ($found === []) {
            self::markTestSkipped('gmsh is not installed');
        }
        $hole = M_PI * 49.0;
        self::assertEqualsWithDelta([12.0 * (2400.0 - $hole), 2.0 * (2400.0 - $hole) + 2400.0 + 12.0 * 14.0 * M_PI], self::readElsewhere(self::written(self::plate())->bytes), 3.0);
        $round = new Workpiece(bodies: [Body::of('Ring', SimpleSolid::tube([0.0, 0.0, 0.0], Vector3::unit([1.0, 2.0, 3.0]), 30.0, 20.0, 10.0))]);
        $area = M_PI * (30.0 * 10.0 + 20.0 * 10.0 + 2.0 * (15.0 ** 2 - 10.0 ** 2));
        self::assertEqualsWithDelta([M_PI * (15.0 ** 2 - 10.0 ** 2) * 10.0, $area], self::readElsewhere(self::written(self::after($round, ['find-shapes' => []]))->bytes), 2.0);
    }

    /** @return array{float, float} volume and area of the one solid in it */
    private static function readElsewhere(string $bytes): array
    {
        $folder = sys_get_temp_dir().'/step-'.bin2hex(random_bytes(6));
        mkdir($folder);
        file_put_contents("$folder/part.step", $bytes);
        file_put_contents("$folder/ask.geo", "SetFactory(\"OpenCASCADE\");\nMerge \"part.step\";\nvolumes[] = Volume \"*\";\nPrintf(\"solids %g\", #volumes[]);\nPrintf(\"volume %.12g\", Mass Volume{volumes[0]});\nfaces[] = Boundary{ Volume{volumes[0]}; };\narea = 0;\nFor k In {0 : #faces[] - 1}\narea += Mass Surface{Fabs(faces[k])};\nEndFor\nPrintf(\"area %.12g\", area);\n");
        exec('gmsh -0 '.escapeshellarg("$folder/ask.geo").' 2>&1', $said);
        array_map(unlink(...), glob("$folder/*") ?: []);
        rmdir($folder);
        $text = implode("\n", $said);
        self::assertMatchesRegularExpression('/solids 1\b/', $text);
        preg_match('/volume ([\d.e+]+)/', $text, $volume);
        preg_match('/area ([\d.e+]+)/', $text, $area);

        return [(float) ($volume[1] ?? 0), (float) ($area[1] ?? 0)];
    }
}
