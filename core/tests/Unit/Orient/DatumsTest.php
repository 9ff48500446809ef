<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Algorithms\Fitting\CylinderFit;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Datums\FitDatum;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Datums of every kind: fitted, picked, constructed; and turning, shifting and centring by hand. */
final class DatumsTest extends TestCase
{
    /** @param  array<string, mixed>  $parameters */
    private static function carriedOut(string $operation, Workpiece $workpiece, array $parameters): Result
    {
        return Catalogue::operation($operation)($workpiece, Catalogue::parameters($operation, $parameters), new NoProgress);
    }

    private static function away(): RigidTransform
    {
        return RigidTransform::turn([0.2, 0.9, -0.4], 1.7)->then(RigidTransform::shift(-120.0, 33.0, 8.0));
    }

    /** A round band about Z: radius by height, part of the way around, with normal noise. */
    private static function band(callable $radius, float $around, float $noise, Gen $gen): TriangleMesh
    {
        $p = $f = [];
        [$rows, $columns] = [30, 80];
        for ($i = 0; $i <= $rows; $i++) {
            $z = -15.0 + 30.0 * $i / $rows;
            for ($j = 0; $j <= $columns; $j++) {
                $r = $radius($z) + $noise * ($gen->float(-1.0, 1.0) + $gen->float(-1.0, 1.0) + $gen->float(-1.0, 1.0));
                $a = $around * $j / $columns;
                array_push($p, $r * cos($a), $r * sin($a), $z);
            }
        }
        for ($i = 0; $i < $rows; $i++) {
            for ($j = 0; $j < $columns; $j++) {
                $o = $i * ($columns + 1) + $j;
                array_push($f, $o, $o + 1, $o + $columns + 2, $o, $o + $columns + 2, $o + $columns + 1);
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    /** @param  array{float, float, float}  $a  @param  array{float, float, float}  $b */
    private static function angle(array $a, array $b): float
    {
        return rad2deg(acos(min(1.0, abs($a[0] * $b[0] + $a[1] * $b[1] + $a[2] * $b[2]))));
    }

    #[Test]
    public function a_third_of_a_cylinder_with_noise_gives_its_axis_and_diameter(): void
    {
        for ($seed = 1; $seed <= 5; $seed++) {
            $mesh = self::band(fn (float $z) => 15.0, 2.0 * M_PI / 3.0, 0.02, new Gen($seed));
            $workpiece = new Workpiece([], [new Body('b', 'b', $mesh, self::away())]);
            $datum = self::carriedOut('add-datum', $workpiece, ['name' => 'bore', 'kind' => 'cylinder', 'region' => [['target' => 'b', 'ranges' => [[0, $mesh->faceCount() - 1]]]]])->workpiece->datums[0];
            self::assertEqualsWithDelta(30.0, 2.0 * $datum->radius, 0.1);
            self::assertLessThan(0.15, self::angle(self::away()->direction([0.0, 0.0, 1.0]), $datum->direction));
            self::assertSame('b', $datum->bodyId);
        }
    }

    #[Test]
    public function brushed_faces_are_fitted_beforehand_as_the_step_will_and_tell_their_distances(): void
    {
        $mesh = self::band(fn (float $z) => 15.0, 2.0 * M_PI / 3.0, 0.02, new Gen(7));
        $body = new Body('b', 'b', $mesh, self::away());
        $blob = OpenBlob::bytes(Blob::encode($mesh));
        $placement = $body->placement()->from($blob->head['origin']);
        $ranges = [[100, 899], [1500, 2600]];
        $found = FitDatum::brushed($blob, $placement, $ranges, 'cylinder', 'bore', preview: true);
        $step = self::carriedOut('add-datum', new Workpiece([], [$body]), ['name' => 'bore', 'kind' => 'cylinder', 'region' => [['target' => 'b', 'ranges' => $ranges]]])->workpiece->datums[0];
        self::assertSame([...range(100, 899), ...range(1500, 2600)], $found['faces']);
        self::assertTrue($found['whole']);
        self::assertEqualsWithDelta($step->radius, $found['datum']->radius, 0.05);
        self::assertLessThan(0.3, self::angle($step->direction, $found['datum']->direction));
        self::assertSame(1901, $step->points);
        // The distance of each face is that of its middle.
        $positions = self::away()->points($mesh->positions);
        foreach ([0, 700, 1900] as $k) {
            $middle = array_map(fn (int $axis) => array_sum(array_map(fn (int $corner) => $positions[3 * $mesh->faces[3 * $found['faces'][$k] + $corner] + $axis], [0, 1, 2])) / 3.0, [0, 1, 2]);
            self::assertEqualsWithDelta($found['datum']->outside($middle), $found['outside'][$k], 1e-4);
        }
        $this->expectExceptionMessage('The region has only 7 faces');
        FitDatum::brushed($blob, $placement, [[3, 9]], 'plane', 'too small');
    }

    #[Test]
    public function of_a_large_brushed_area_every_so_manieth_face_is_taken_through_all_its_ranges(): void
    {
        $mesh = MeshBuilder::icosphere(5, 10.0);
        $blob = OpenBlob::bytes(Blob::encode($mesh));
        $placement = Placement::of(1.0, RigidTransform::shift(...$blob->head['origin']));
        // Every second run of seven: 10,240 faces of 20,480, then all but the first hundred.
        $runs = array_map(fn (int $k) => [14 * $k, 14 * $k + 6], range(0, intdiv($mesh->faceCount(), 14) - 1));
        $few = FitDatum::brushed($blob, $placement, $runs, 'sphere', 'ball', preview: true);
        self::assertSame(array_merge(...array_map(fn (array $run) => range(...$run), $runs)), $few['faces']);
        $many = FitDatum::brushed($blob, $placement, [[100, 5000], [5001, $mesh->faceCount() - 1]], 'sphere', 'ball', preview: true);
        self::assertFalse($many['whole']);
        self::assertSame(range(100, $mesh->faceCount() - 1, 2), $many['faces']);
        self::assertSame($mesh->faceCount() - 100, $many['datum']->points);
        self::assertEqualsWithDelta(10.0, $many['datum']->radius, 1e-3);
    }

    #[Test]
    public function areas_at_both_ends_of_a_bore_are_fitted_as_one_and_fix_its_axis_better(): void
    {
        for ($seed = 1; $seed <= 3; $seed++) {
            $gen = new Gen($seed);
            $band = fn () => self::band(fn (float $z) => 15.0, 2.0 * M_PI / 3.0, 0.01, $gen);
            $mesh = MeshBuilder::together($band(), $band()->transformed(RigidTransform::shift(0.0, 0.0, 200.0)));
            $workpiece = new Workpiece([], [new Body('b', 'b', $mesh, self::away())]);
            $places = array_map(fn (float $z) => self::away()->point([15.0 * cos(1.0), 15.0 * sin(1.0), $z]), [0.0, 200.0]);
            $fitted = fn (array $more) => self::carriedOut('add-datum', $workpiece, ['name' => 'bore', 'kind' => 'cylinder', 'angle' => 30.0, 'seed' => $places[0]] + $more)->workpiece->datums[0];
            $off = fn (Datum $datum) => self::angle(self::away()->direction([0.0, 0.0, 1.0]), $datum->direction);
            $both = $fitted(['also' => [$places[1]]]);
            self::assertLessThan(0.01, $off($both));
            self::assertLessThan(0.02, abs(2.0 * $both->radius - 30.0));
            self::assertLessThan($off($fitted([])), $off($both));
            // The same area twice is one area.
            self::assertEquals($fitted([]), $fitted(['also' => [$places[0]]]));
            self::assertSame(2 * $fitted([])->points, $both->points);
        }
        $this->expectExceptionMessage('goes with seed');
        self::carriedOut('add-datum', new Workpiece, ['name' => 'bore', 'points' => [[0, 0, 0]], 'kind' => 'point', 'also' => [[1, 0, 0]]]);
    }

    #[Test]
    public function a_line_is_not_spread_from_a_click_nor_fitted_to_a_region(): void
    {
        $workpiece = new Workpiece([], [Body::of('b', MeshBuilder::icosphere(3, 10.0))]);
        foreach ([['seed' => [10, 0, 0], 'angle' => 40.0], ['region' => [['target' => 'b', 'ranges' => [[0, 99]]]]]] as $way) {
            try {
                self::carriedOut('add-datum', $workpiece, ['name' => 'edge', 'kind' => 'line'] + $way);
                self::fail('A line was made of surface.');
            } catch (UnsuitableInput $refused) {
                self::assertStringContainsString('A line is not fitted to surface', $refused->getMessage());
            }
        }
    }

    #[Test]
    public function a_fifth_of_the_area_belonging_to_something_else_does_not_pull_a_shape_away(): void
    {
        $gen = new Gen(4);
        $p = $n = [];
        for ($k = 0; $k < 2000; $k++) {
            $a = $gen->float(0.0, 2.0 * M_PI);
            array_push($p, 15.0 * cos($a), 15.0 * sin($a), $gen->float(-15.0, 15.0));
            array_push($n, cos($a), sin($a), 0.0);
        }
        for ($k = 0; $k < 400; $k++) {
            // A flange beside it.
            array_push($p, 15.0 + $gen->float(0.5, 6.0), $gen->float(-8.0, 8.0), 14.0 + $gen->float(-0.5, 0.5));
            array_push($n, 0.0, 0.0, 1.0);
        }
        $fit = CylinderFit::of($p, $n, array_fill(0, 2400, 1.0));
        self::assertNotNull($fit);
        self::assertEqualsWithDelta(15.0, $fit['radius'], 0.025);
        self::assertLessThan(0.05, self::angle([0.0, 0.0, 1.0], $fit['direction']));
    }

    #[Test]
    public function a_cone_is_found_with_its_half_angle_wherever_it_stands_and_from_inside_too(): void
    {
        foreach ([12.0, 30.0, 55.0] as $k => $half) {
            // By day each angle from one side, by night from both.
            foreach (Gen::seeds(1, 2) === 1 ? [$k % 2 === 1] : [false, true] as $inside) {
                $mesh = self::band(fn (float $z) => 20.0 + ($z + 15.0) * tan(deg2rad($half)), 2.0 * M_PI, 0.005, new Gen(3));
                if ($inside) {
                    $mesh = TriangleMesh::fromFlat($mesh->positions, array_merge(...array_map(fn (array $t) => [$t[0], $t[2], $t[1]], array_chunk($mesh->faces, 3))));
                }
                $workpiece = new Workpiece([], [new Body('b', 'b', $mesh, self::away())]);
                $datum = self::carriedOut('add-datum', $workpiece, ['name' => 'seat', 'kind' => 'cone', 'region' => [['target' => 'b', 'ranges' => [[0, $mesh->faceCount() - 1]]]]])->workpiece->datums[0];
                self::assertEqualsWithDelta($half, $datum->halfAngleDeg, 0.05, $inside ? 'inside' : 'outside');
                $axis = self::away()->direction([0.0, 0.0, 1.0]);
                self::assertGreaterThan(0.99999, $axis[0] * $datum->direction[0] + $axis[1] * $datum->direction[1] + $axis[2] * $datum->direction[2], 'towards the wide end');
            }
        }
    }

    #[Test]
    public function a_plane_on_a_wide_bend_ends_where_the_surface_leaves_it(): void
    {
        // A sheet of 1 mm cells, flat for 30 mm and bent with a radius of 250 mm beyond: it turns by 12 degrees only after 52 mm more.
        $p = $f = [];
        for ($i = 0; $i <= 90; $i++) {
            for ($j = 0; $j <= 30; $j++) {
                $a = max(0.0, $i - 30.0) / 250.0;
                array_push($p, min(30.0, (float) $i) + 250.0 * sin($a), (float) $j, 250.0 * (1.0 - cos($a)));
                if ($i < 90 && $j < 30) {
                    $o = $i * 31 + $j;
                    array_push($f, $o, $o + 31, $o + 32, $o, $o + 32, $o + 1);
                }
            }
        }
        $plane = fn (float $angle): Datum => self::carriedOut('add-datum', new Workpiece([], [Body::of('b', TriangleMesh::fromFlat($p, $f))]), ['name' => 'p', 'seed' => [12.0, 15.0, 0.0], 'angle' => $angle])->workpiece->datums[0];
        // 60 faces a millimetre of length. By the angle alone 12 degrees would take it all: at its end it turns by 13.7, and the mean with it.
        self::assertLessThan(60 * 80, $plane(12.0)->points);
        $narrow = $plane(2.0);
        self::assertGreaterThan(60 * 30, $narrow->points);
        self::assertLessThan(60 * 50, $narrow->points);
        self::assertLessThan(1.0, self::angle($narrow->direction, [0.0, 0.0, 1.0]));
    }

    #[Test]
    public function a_click_on_a_ball_gives_a_sphere_and_a_flat_place_none(): void
    {
        $ball = MeshBuilder::icosphere(4, 12.0);
        $datum = self::carriedOut('add-datum', new Workpiece([], [new Body('b', 'b', $ball, self::away())]), ['name' => 'ball', 'kind' => 'sphere', 'seed' => self::away()->point([12.0, 0.0, 0.0]), 'angle' => 20.0])->workpiece->datums[0];
        self::assertEqualsWithDelta(self::away()->point([0.0, 0.0, 0.0]), $datum->origin, 0.02);
        self::assertEqualsWithDelta(12.0, $datum->radius, 0.02);
        self::assertSame([0.0, 0.0, 0.0], $datum->direction);
        $plate = self::band(fn (float $z) => 1e6, 1e-5, 0.01, new Gen(1));
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage('not round enough for a sphere');
        self::carriedOut('add-datum', new Workpiece([], [Body::of('b', $plate)]), ['name' => 'x', 'kind' => 'sphere', 'region' => [['target' => 'b', 'ranges' => [[0, $plate->faceCount() - 1]]]]]);
    }

    /** @return list<Datum> two parallel planes, one square to them, a bore, a line and two points */
    private static function workshop(): array
    {
        return [
            new Datum('1', 'base', 'plane', [3.0, 4.0, 0.0], [0.0, 0.0, -1.0], bodyId: 'b'),
            new Datum('2', 'top', 'plane', [1.0, -2.0, 20.0], [0.0, 0.0, 1.0]),
            new Datum('3', 'side', 'plane', [5.0, 0.0, 7.0], [1.0, 0.0, 0.0]),
            new Datum('4', 'end', 'plane', [9.0, -30.0, 1.0], [0.0, -1.0, 0.0]),
            new Datum('5', 'bore', 'cylinder', [2.0, 0.0, 9.0], [0.0, 1.0, 0.0], 6.0),
            new Datum('6', 'slant', 'line', [0.0, 0.0, 0.0], [0.6, 0.0, 0.8]),
            new Datum('7', 'p', 'point', [1.0, 2.0, 3.0]),
            new Datum('8', 'q', 'point', [5.0, 2.0, -1.0]),
            new Datum('9', 'r', 'point', [1.0, 7.0, 3.0]),
            new Datum('10', 'ball', 'sphere', [4.0, 4.0, 4.0], radius: 2.0),
        ];
    }

    /** @return iterable<string, array{array<string, mixed>, string, list<float>, list<float>|null}> construct, kind, a place on it, direction (of either sign) */
    public static function constructions(): iterable
    {
        yield 'a plane 5 mm above the base, along its normal' => [['how' => 'offset', 'of' => ['base'], 'by' => -5], 'plane', [0.0, 0.0, 5.0], [0.0, 0.0, 1.0]];
        yield 'half-way between base and top' => [['how' => 'halfway', 'of' => ['base', 'top']], 'plane', [0.0, 0.0, 10.0], [0.0, 0.0, 1.0]];
        yield 'half-way between points' => [['how' => 'halfway', 'of' => ['p', 'q']], 'point', [3.0, 2.0, 1.0], null];
        yield 'a plane through three points' => [['how' => 'plane-through', 'of' => ['p', 'q', 'r']], 'plane', [1.0, 2.0, 3.0], [M_SQRT1_2, 0.0, M_SQRT1_2]];
        yield 'a plane through the bore and a point' => [['how' => 'plane-through', 'of' => ['p', 'bore']], 'plane', [2.0, 5.0, 9.0], [6.0 / sqrt(37.0), 0.0, -1.0 / sqrt(37.0)]];
        yield 'a plane through two lines that meet' => [['how' => 'plane-through', 'of' => ['slant', 'bore']], 'plane', [1.0, 0.0, 4.5], [0.8, 0.0, -0.6]];
        yield 'square to the base through the bore' => [['how' => 'square-plane', 'of' => ['bore', 'base']], 'plane', [2.0, 0.0, 0.0], [1.0, 0.0, 0.0]];
        yield 'a quarter turn on about the bore, from a point' => [['how' => 'clock', 'of' => ['bore', 'p'], 'by' => 90], 'plane', [2.0, 5.0, 9.0], [1.0 / sqrt(37.0), 0.0, 6.0 / sqrt(37.0)]];
        yield 'about the bore, through the point itself' => [['how' => 'clock', 'of' => ['p', 'bore']], 'plane', [1.0, 2.0, 3.0], [6.0 / sqrt(37.0), 0.0, -1.0 / sqrt(37.0)]];
        yield 'a line through two points' => [['how' => 'line-through', 'of' => ['p', 'r']], 'line', [1.0, 0.0, 3.0], [0.0, 1.0, 0.0]];
        yield 'square from a point to a plane' => [['how' => 'square-line', 'of' => ['p', 'side']], 'line', [9.0, 2.0, 3.0], [1.0, 0.0, 0.0]];
        yield 'square from a point to the bore' => [['how' => 'square-line', 'of' => ['bore', 'p']], 'line', [2.0, 2.0, 9.0], [1.0 / sqrt(37.0), 0.0, 6.0 / sqrt(37.0)]];
        yield 'the axis of the bore' => [['how' => 'axis', 'of' => ['bore']], 'line', [2.0, 50.0, 9.0], [0.0, 1.0, 0.0]];
        yield 'the middle of a ball' => [['how' => 'centre', 'of' => ['ball']], 'point', [4.0, 4.0, 4.0], null];
        yield 'a point dropped onto a plane' => [['how' => 'drop', 'of' => ['p', 'end']], 'point', [1.0, -30.0, 3.0], null];
        yield 'a point dropped onto the bore' => [['how' => 'drop', 'of' => ['p', 'bore']], 'point', [2.0, 2.0, 9.0], null];
        yield 'where two planes meet' => [['how' => 'meet', 'of' => ['side', 'end']], 'line', [5.0, -30.0, 99.0], [0.0, 0.0, 1.0]];
        yield 'where the slant meets the top' => [['how' => 'meet', 'of' => ['top', 'slant']], 'point', [15.0, 0.0, 20.0], null];
        yield 'where three planes meet' => [['how' => 'meet', 'of' => ['base', 'side', 'end']], 'point', [5.0, -30.0, 0.0], null];
    }

    /**
     * @param  array<string, mixed>  $construct
     * @param  list<float>  $place
     * @param  list<float>|null  $direction
     */
    #[Test]
    #[DataProvider('constructions')]
    public function a_constructed_datum_is_where_geometry_says_wherever_its_parents_stand(array $construct, string $kind, array $place, ?array $direction): void
    {
        foreach ([RigidTransform::identity(), self::away()] as $moved) {
            $datums = array_map(fn (Datum $datum) => $datum->moved($moved), self::workshop());
            $datum = self::carriedOut('add-datum', new Workpiece([], [Body::of('b', MeshBuilder::icosphere(0))], $datums), ['name' => 'new', 'construct' => $construct])->workpiece->datums[10];
            self::assertSame($kind, $datum->kind);
            self::assertSame($construct['how'], $datum->made);
            self::assertNotSame([], $datum->parents);
            $off = array_map(fn (float $a, float $b) => $a - $b, $moved->point($place), $datum->origin);
            if ($direction === null) {
                self::assertEqualsWithDelta([0.0, 0.0, 0.0], $off, 1e-9);

                continue;
            }
            $wanted = $moved->direction($direction);
            self::assertLessThan(1e-5, self::angle([$wanted[0], $wanted[1], $wanted[2]], $datum->direction));
            $along = $off[0] * $datum->direction[0] + $off[1] * $datum->direction[1] + $off[2] * $datum->direction[2];
            $away = $kind === 'plane' ? abs($along) : sqrt(array_sum(array_map(fn (float $o, float $d) => ($o - $along * $d) ** 2, $off, $datum->direction)));
            self::assertLessThan(1e-6, $away);
        }
    }

    /** @return iterable<string, array{array<string, mixed>, string}> */
    public static function impossible(): iterable
    {
        yield 'planes that are parallel' => [['how' => 'meet', 'of' => ['base', 'top']], '"base" and "top" are parallel and do not meet'];
        yield 'a line along its plane' => [['how' => 'meet', 'of' => ['bore', 'base']], 'runs along "base"'];
        yield 'two parallel among three' => [['how' => 'meet', 'of' => ['base', 'top', 'side']], 'no one place in common'];
        yield 'a point on its line' => [['how' => 'plane-through', 'of' => ['bore', 'foot']], 'lies on "bore"'];
        yield 'two points for a plane' => [['how' => 'plane-through', 'of' => ['p', 'q']], 'It needs three points, a line and a point, or two lines.'];
        yield 'a plane for an axis' => [['how' => 'axis', 'of' => ['base']], '"axis" is not made of a plane'];
        yield 'a line square on its plane' => [['how' => 'square-plane', 'of' => ['bore', 'end']], 'stands square on "end" itself'];
        yield 'a clock without a point' => [['how' => 'clock', 'of' => ['bore', 'base']], 'It needs an axis and a point.'];
        yield 'a clock from a point on its axis' => [['how' => 'clock', 'of' => ['bore', 'foot'], 'by' => 10], 'lies on "bore"'];
        yield 'a way that is none' => [['how' => 'weld', 'of' => ['p']], 'needs "how": one of offset'];
        yield 'no parents' => [['how' => 'axis'], 'needs "of"'];
        yield 'a parent that is not there' => [['how' => 'axis', 'of' => ['shaft']], 'cannot find "shaft": the datums are base'];
        yield 'a distance in words' => [['how' => 'offset', 'of' => ['base'], 'by' => 'far'], '"by" that is no number'];
    }

    #[Test]
    public function a_copy_is_the_same_datum_moved_in_the_projects_coordinates(): void
    {
        $bore = new Datum('bore', 'bore', 'cylinder', [1.0, 2.0, 3.0], [0.0, 0.6, 0.8], 15.0, 30.0);
        $copy = self::carriedOut('add-datum', new Workpiece([], [], [$bore]), ['name' => 'new', 'construct' => ['how' => 'copy', 'of' => ['bore'], 'shift' => [10, 0, -3]]])->workpiece->datums[1];
        self::assertSame(['cylinder', [11.0, 2.0, 0.0], [0.0, 0.6, 0.8], 15.0, 30.0, ['bore']], [$copy->kind, $copy->origin, $copy->direction, $copy->radius, $copy->size, $copy->parents]);
        $this->expectException(InvalidParameter::class);
        self::carriedOut('add-datum', new Workpiece([], [], [$bore]), ['name' => 'new', 'construct' => ['how' => 'copy', 'of' => ['bore'], 'shift' => [10, 0]]]);
    }

    /** @param  array<string, mixed>  $construct */
    #[Test]
    #[DataProvider('impossible')]
    public function what_cannot_be_constructed_is_explained(array $construct, string $why): void
    {
        $datums = [...self::workshop(), new Datum('11', 'foot', 'point', [2.0, 8.0, 9.0])];
        try {
            self::carriedOut('add-datum', new Workpiece([], [Body::of('b', MeshBuilder::icosphere(0))], $datums), ['name' => 'new', 'construct' => $construct]);
            self::fail('it was made');
        } catch (InvalidParameter|UnsuitableInput $problem) {
            self::assertStringContainsString($why, $problem->getMessage());
        }
    }

    #[Test]
    public function how_far_a_place_lies_outside_is_the_way_to_the_nearest_place_of_the_shape(): void
    {
        $gen = new Gen(4);
        $cone = new Datum('k', 'k', 'cone', [1.0, 2.0, 3.0], [0.0, 0.6, 0.8], 4.0, halfAngleDeg: 20.0);
        foreach ([...self::workshop(), $cone] as $datum) {
            for ($k = 0; $k < 50; $k++) {
                $at = $gen->points(1, 12.0);
                $near = $datum->nearest([$at[0], $at[1], $at[2]]);
                $away = sqrt(($at[0] - $near[0]) ** 2 + ($at[1] - $near[1]) ** 2 + ($at[2] - $near[2]) ** 2);
                self::assertEqualsWithDelta($away, abs($datum->outside([$at[0], $at[1], $at[2]])), 1e-9, "$datum->kind");
            }
        }
        self::assertLessThan(0.0, $cone->outside([1.0, 2.0, 3.0]), 'on the axis is inside');
        self::assertGreaterThan(0.0, self::workshop()[0]->outside([0.0, 0.0, -5.0]), 'before the face of a plane is outside');
    }

    #[Test]
    public function a_report_lists_each_kind_by_its_own_parameters(): void
    {
        [$base, , , , $bore, $slant, $p, , , $ball] = self::workshop();
        self::assertSame(['point' => [3.0, 4.0, 0.0], 'normal' => [0.0, 0.0, -1.0]], $base->report()['parameters']);
        self::assertSame(['point' => [2.0, 0.0, 9.0], 'axis' => [0.0, 1.0, 0.0], 'diameter' => 12.0], $bore->report()['parameters']);
        self::assertSame(['point', 'axis'], array_keys($slant->report()['parameters']));
        self::assertSame(['centre' => [4.0, 4.0, 4.0], 'diameter' => 4.0], $ball->report()['parameters']);
        self::assertSame([['point' => [1.0, 2.0, 3.0]], null], [$p->report()['parameters'], $p->report()['fit']]);
    }

    #[Test]
    public function quarter_turns_and_shifts_are_exact_and_undone_by_their_opposites(): void
    {
        $workpiece = new Workpiece([], [new Body('b', 'b', MeshBuilder::icosphere(1, 7.0), RigidTransform::shift(0.1, 0.2, 0.3))]);
        foreach (['x' => [0.1, -0.3, 0.2], 'y' => [0.3, 0.2, -0.1], 'z' => [-0.2, 0.1, 0.3]] as $axis => $at) {
            $turned = self::carriedOut('turn', $workpiece, ['axis' => $axis, 'angle' => 90])->workpiece;
            self::assertSame($at, $turned->bodies[0]->transform->point([0.0, 0.0, 0.0]));
            self::assertSame($workpiece->bodies[0]->transform->matrix, self::carriedOut('turn', $turned, ['axis' => $axis, 'angle' => -90])->workpiece->bodies[0]->transform->matrix);
        }
        self::assertEqualsWithDelta([0.1, 0.2, 0.3], self::carriedOut('turn', $workpiece, ['angle' => 33, 'about' => 'middle'])->workpiece->bodies[0]->transform->point([0.0, 0.0, 0.0]), 1e-12);
        self::assertSame([1.5, 0.0, -2.0], self::carriedOut('shift', new Workpiece([], [Body::of('b', MeshBuilder::icosphere(0))]), ['x' => 1.5, 'z' => -2])->workpiece->bodies[0]->transform->point([0.0, 0.0, 0.0]));
    }

    #[Test]
    public function a_picked_face_points_up_and_a_picked_line_lies_along_the_nearest_axis(): void
    {
        $gen = new Gen(8);
        for ($k = 0; $k < 10; $k++) {
            $axis = $gen->points(1);
            $placed = RigidTransform::turn([$axis[0], $axis[1], $axis[2] + 1.2], $gen->float(-3.0, 3.0))->then(RigidTransform::shift(5.0, 6.0, 7.0));
            $workpiece = new Workpiece([], [new Body('b', 'b', MeshBuilder::brick([20.0, 14.0, 6.0], 12), $placed)]);
            // The middle of the top face, whichever way it looks now.
            $up = self::carriedOut('turn', $workpiece, ['level' => [$placed->point([10.0, 7.0, 6.0])], 'about' => 'middle'])->workpiece;
            self::assertEqualsWithDelta([0.0, 0.0, 1.0], $up->bodies[0]->transform->direction([0.0, 0.0, 1.0]), 1e-6);
            // Its long edge, then, along the axis it was nearest to.
            $now = $up->bodies[0]->transform;
            $laid = self::carriedOut('turn', $up, ['level' => [$now->point([0.0, 0.0, 6.0]), $now->point([20.0, 0.0, 6.0])]])->workpiece->bodies[0]->transform->direction([1.0, 0.0, 0.0]);
            self::assertEqualsWithDelta(1.0, max(array_map(abs(...), $laid)), 1e-9);
            self::assertEqualsWithDelta(0.0, $laid[2], 1e-9, 'the face stays up');
            self::assertGreaterThan(M_SQRT1_2 - 1e-9, abs($now->direction([1.0, 0.0, 0.0])[array_search(max(array_map(abs(...), $laid)), array_map(abs(...), $laid), true)]), 'the nearest one');
        }
        foreach ([['level' => [[0, 0, 0]], 'angle' => 5], ['level' => []], ['level' => [[1, 2]]], ['level' => [[0, 0, 0], [1, 0, 0], [2, 0, 0]]]] as $bad) {
            try {
                self::carriedOut('turn', $workpiece, $bad);
                self::fail((string) json_encode($bad));
            } catch (InvalidParameter $refusal) {
                self::assertStringContainsString('level', $refusal->getMessage());
            }
        }
    }

    #[Test]
    public function a_brick_anywhere_is_centred_with_its_longest_way_along_x(): void
    {
        $corners = [];
        for ($k = 0; $k < 8; $k++) {
            array_push($corners, $k & 1 ? 30.0 : -30.0, $k & 2 ? 12.0 : -12.0, $k & 4 ? 5.0 : -5.0);
        }
        $brick = TriangleMesh::fromFlat($corners, [0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 1, 4, 1, 5, 4, 2, 6, 3, 3, 6, 7, 0, 4, 2, 2, 4, 6, 1, 3, 5, 3, 7, 5]);
        foreach ([$brick, $brick->withFaces(range(2, 11))] as $mesh) {
            $result = self::carriedOut('centre', new Workpiece([], [new Body('b', 'b', $mesh, self::away())]), []);
            $placed = $result->workpiece->bodies[0]->placed()->positions;
            self::assertEqualsWithDelta(60.0, max(array_map(fn (int $k) => $placed[3 * $k], range(0, 7))) - min(array_map(fn (int $k) => $placed[3 * $k], range(0, 7))), 1e-6);
            self::assertSame($mesh === $brick ? 'origin in the centre of its volume' : 'origin in the centre of its surface', $result->headline);
        }
        self::assertEqualsWithDelta(self::away()->point([0.0, 0.0, 0.0]), self::carriedOut('centre', new Workpiece([], [new Body('b', 'b', $brick, self::away())]), [])->after['centre'], 1e-9);
        $ball = self::carriedOut('centre', new Workpiece([Pass::of('p', PointCloud::fromFlat(MeshBuilder::icosphere(3, 9.0)->positions))]), []);
        self::assertCount(2, $ball->notes, 'a ball has no main axes');
    }

    #[Test]
    public function three_picks_set_the_frame_and_a_line_of_them_is_refused(): void
    {
        $workpiece = new Workpiece([], [new Body('b', 'b', MeshBuilder::icosphere(1, 7.0), self::away())]);
        $pick = fn (float $x, float $y): array => self::away()->point([$x, $y, 4.0]);
        $framed = self::carriedOut('frame-from-points', $workpiece, ['points' => [$pick(1.0, 1.0), $pick(9.0, 1.0), $pick(3.0, 6.0)]])->workpiece->bodies[0]->transform;
        self::assertEqualsWithDelta([8.0, 0.0, 0.0], $framed->point([9.0, 1.0, 4.0]), 1e-9);
        self::assertEqualsWithDelta([2.0, 5.0, 1.0], $framed->point([3.0, 6.0, 5.0]), 1e-9);
        $this->expectException(UnsuitableInput::class);
        self::carriedOut('frame-from-points', $workpiece, ['points' => [$pick(1.0, 1.0), $pick(9.0, 1.0), $pick(5.0, 1.0)]]);
    }
}
