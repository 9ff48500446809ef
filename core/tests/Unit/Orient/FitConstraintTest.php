<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Datums\FitConstraint;
use Emberstone\Core\Datums\FitDatum;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Orient\AddDatum;
use Emberstone\Core\Orient\AddDatumParameters;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Fits that keep to a direction, a point or a diameter; datums typed in numbers. */
final class FitConstraintTest extends TestCase
{
    /** @return list<Datum> */
    private static function datums(): array
    {
        return [
            new Datum('base', 'base', 'plane', [0.0, 0.0, 0.0], [0.0, 0.0, 1.0]),
            new Datum('post', 'post', 'line', [5.0, 0.0, 0.0], [0.0, 0.6, 0.8]),
            new Datum('mark', 'mark', 'point', [1.0, 2.0, 7.0]),
        ];
    }

    /**
     * Places with noise on a plate that leans a little, or on part of a tube.
     *
     * @return array{points: list<float>, normals: list<float>, weights: list<float>}
     */
    private static function places(string $kind, int $seed = 3, float $noise = 0.05): array
    {
        $gen = new Gen($seed);
        $points = $normals = $weights = [];
        // Leaning by 2 degrees off z, or off the x axis.
        [$a, $u, $v] = (fn (array $d) => [$d, ...Vector3::square($d)])(Vector3::unit($kind === 'plane' ? [0.02, 0.03, 1.0] : [1.0, 0.02, -0.03]));
        for ($i = 0; $i < 1500; $i++) {
            if ($kind === 'plane') {
                [$x, $y, $z] = [$gen->float(-20.0, 20.0), $gen->float(-10.0, 10.0), 7.0 + $gen->float(-$noise, $noise)];
                $n = $a;
            } else {
                $turn = $gen->float(0.0, 4.0);
                $r = 15.0 + $gen->float(-$noise, $noise);
                [$x, $y, $z] = [$r * cos($turn), $r * sin($turn), $gen->float(-20.0, 20.0)];
                $n = [cos($turn) * $u[0] + sin($turn) * $v[0], cos($turn) * $u[1] + sin($turn) * $v[1], cos($turn) * $u[2] + sin($turn) * $v[2]];
            }
            for ($k = 0; $k < 3; $k++) {
                $points[] = $x * $u[$k] + $y * $v[$k] + $z * $a[$k];
                $normals[] = $n[$k];
            }
            $weights[] = 1.0;
        }

        return ['points' => $points, 'normals' => $normals, 'weights' => $weights];
    }

    /** @param  array<string, mixed>  $hold */
    private static function fit(string $kind, array $hold = []): Datum
    {
        $places = self::places($kind);

        return FitDatum::fitted($kind, $places['points'], $places['normals'], $places['weights'], 1500, 'new', 'region', $hold === [] ? null : FitConstraint::of($hold, self::datums(), $kind));
    }

    /** @return iterable<string, array{string, array<string, mixed>, float}> what is fitted, what it keeps to, the angle in degrees between its direction and that of the other */
    public static function directions(): iterable
    {
        yield 'a plane parallel to a plane' => ['plane', ['how' => 'parallel', 'to' => 'base'], 0.0];
        yield 'a plane square to a line' => ['plane', ['how' => 'square', 'to' => 'post'], 0.0];
        yield 'a plane along a line' => ['plane', ['how' => 'parallel', 'to' => 'post'], 90.0];
        yield 'a plane at 5 degrees to a plane' => ['plane', ['how' => 'angle', 'to' => 'base', 'angle' => 5], 5.0];
        yield 'a plane at 50 degrees to a line' => ['plane', ['how' => 'angle', 'to' => 'post', 'angle' => 50], 40.0];
        yield 'an axis along a plane' => ['cylinder', ['how' => 'parallel', 'to' => 'base'], 90.0];
        yield 'an axis square to a line' => ['cylinder', ['how' => 'square', 'to' => 'post'], 90.0];
        yield 'an axis at 2 degrees to a plane' => ['cylinder', ['how' => 'angle', 'to' => 'base', 'angle' => 2], 88.0];
    }

    /** @param  array<string, mixed>  $hold */
    #[Test]
    #[DataProvider('directions')]
    public function a_held_direction_keeps_to_its_angle_exactly_and_fits_best_otherwise(string $kind, array $hold, float $degrees): void
    {
        $held = self::fit($kind, $hold);
        $other = $hold['to'] === 'base' ? [0.0, 0.0, 1.0] : [0.0, 0.6, 0.8];
        self::assertEqualsWithDelta(cos(deg2rad($degrees)), abs(Vector3::dot($held->direction, $other)), 1e-9);
        self::assertEqualsWithDelta(1.0, Vector3::length($held->direction), 1e-12);
        self::assertSame([$hold['to']], $held->parents);
        $free = self::fit($kind);
        self::assertLessThanOrEqual($held->rms + 1e-6, $free->rms);
        if ($degrees > 0.0) {
            // No turn about the other datum, which would keep the angle, fits better: a plane by its squares, an axis by how near it comes to the free one.
            $places = self::places($kind);
            $away = function (array $d) use ($kind, $places, $held, $free): float {
                if ($kind !== 'plane') {
                    return abs(Vector3::dot($d, $free->direction));
                }
                $sum = 0.0;
                foreach (array_chunk($places['points'], 3) as $point) {
                    $sum -= Vector3::dot(Vector3::minus($point, $held->origin), $d) ** 2;
                }

                return $sum;
            };
            $turned = fn (float $by) => Vector3::unit([
                $held->direction[0] + $by * ($other[1] * $held->direction[2] - $other[2] * $held->direction[1]),
                $held->direction[1] + $by * ($other[2] * $held->direction[0] - $other[0] * $held->direction[2]),
                $held->direction[2] + $by * ($other[0] * $held->direction[1] - $other[1] * $held->direction[0]),
            ]);
            self::assertGreaterThan($away($turned(0.03)), $away($held->direction));
            self::assertGreaterThan($away($turned(-0.03)), $away($held->direction));
        }
    }

    #[Test]
    public function a_plane_and_an_axis_go_through_a_point_to_the_last_digits(): void
    {
        $mark = self::datums()[2]->origin;
        $plane = self::fit('plane', ['through' => 'mark']);
        self::assertEqualsWithDelta(0.0, Vector3::dot(Vector3::minus($mark, $plane->origin), $plane->direction), 1e-9);
        $both = self::fit('plane', ['through' => 'mark', 'how' => 'parallel', 'to' => 'base']);
        self::assertEqualsWithDelta([7.0, 1.0], [$both->origin[2], abs($both->direction[2])], 1e-12);
        self::assertSame(['base', 'mark'], $both->parents);
        $axis = self::fit('cylinder', ['through' => 'mark']);
        self::assertEqualsWithDelta($mark, self::foot($axis, $mark), 1e-9);
    }

    /** @return list<float> the place of an axis nearest to a point */
    private static function foot(Datum $axis, array $at): array
    {
        $t = Vector3::dot(Vector3::minus($at, $axis->origin), $axis->direction);

        return [$axis->origin[0] + $t * $axis->direction[0], $axis->origin[1] + $t * $axis->direction[1], $axis->origin[2] + $t * $axis->direction[2]];
    }

    #[Test]
    public function a_diameter_is_kept_and_the_axis_moves_to_where_that_fits(): void
    {
        $free = self::fit('cylinder');
        self::assertEqualsWithDelta(15.0, $free->radius, 0.01);
        $held = self::fit('cylinder', ['diameter' => 30.4]);
        self::assertSame(15.2, $held->radius);
        self::assertGreaterThan($free->rms, $held->rms);
        self::assertEqualsWithDelta(1.0, abs(Vector3::dot($free->direction, $held->direction)), 1e-4);
        $ball = MeshBuilder::icosphere(3, 9.0);
        $sphere = FitDatum::fitted('sphere', $ball->positions, $ball->positions, array_fill(0, $ball->vertexCount(), 1.0), 500, 's', 'region', FitConstraint::of(['diameter' => 18.0], [], 'sphere'));
        self::assertSame(9.0, $sphere->radius);
        self::assertEqualsWithDelta([0.0, 0.0, 0.0], $sphere->origin, 1e-6);
    }

    /** @return iterable<string, array{string, array<string, mixed>, string}> */
    public static function refusals(): iterable
    {
        yield 'a sphere with a direction' => ['sphere', ['how' => 'parallel', 'to' => 'base'], 'A sphere has no direction'];
        yield 'held by a point\'s direction' => ['plane', ['how' => 'parallel', 'to' => 'mark'], 'has no direction'];
        yield 'through a plane' => ['plane', ['through' => 'base'], 'a point or the centre of a sphere'];
        yield 'a plane with a diameter' => ['plane', ['diameter' => 3.0], 'no one diameter'];
        yield 'a cone through a point' => ['cone', ['through' => 'mark'], 'is not held by a point'];
    }

    /** @param  array<string, mixed>  $hold */
    #[Test]
    #[DataProvider('refusals')]
    public function what_does_not_go_together_is_refused_in_words(string $kind, array $hold, string $words): void
    {
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessage($words);
        FitConstraint::of($hold, self::datums(), $kind);
    }

    /** @return iterable<string, array{array<string, mixed>, string}> */
    public static function misspelt(): iterable
    {
        yield 'nothing' => [['seed' => [0, 0, 0], 'hold' => []], 'is empty'];
        yield 'how without to' => [['seed' => [0, 0, 0], 'hold' => ['how' => 'parallel']], 'together with "to"'];
        yield 'no such way' => [['seed' => [0, 0, 0], 'hold' => ['how' => 'near', 'to' => 'base']], 'one of parallel, square, angle'];
        yield 'an angle that is missing' => [['seed' => [0, 0, 0], 'hold' => ['how' => 'angle', 'to' => 'base']], 'needs "angle"'];
        yield 'an angle too many' => [['seed' => [0, 0, 0], 'hold' => ['how' => 'square', 'to' => 'base', 'angle' => 3]], 'only there'];
        yield 'an angle out of range' => [['seed' => [0, 0, 0], 'hold' => ['how' => 'angle', 'to' => 'base', 'angle' => 93]], 'between 0 and 90'];
        yield 'no diameter' => [['seed' => [0, 0, 0], 'hold' => ['diameter' => 0]], 'above 0'];
        yield 'an unknown word' => [['seed' => [0, 0, 0], 'hold' => ['near' => 'base']], 'it knows how, to'];
        yield 'held but picked' => [['points' => [[0, 0, 0], [1, 0, 0], [0, 1, 0]], 'hold' => ['diameter' => 3]], 'fitted to surface'];
        yield 'typed without a direction' => [['typed' => ['origin' => [0, 0, 0]]], 'needs direction for a plane'];
        yield 'typed with a diameter' => [['typed' => ['origin' => [0, 0, 0], 'direction' => [0, 0, 1], 'diameter' => 3]], 'which a plane has not'];
        yield 'typed with letters' => [['typed' => ['origin' => [0, 0, 'a'], 'direction' => [0, 0, 1]]], 'three finite numbers for origin'];
        yield 'typed with no length' => [['typed' => ['origin' => [0, 0, 0], 'direction' => [0, 0, 0]]], 'without length'];
        yield 'typed and unknown' => [['typed' => ['origin' => [0, 0, 0], 'direction' => [0, 0, 1], 'colour' => 3]], 'it knows origin'];
        yield 'a mirror that is no plane' => [['kind' => 'line', 'shape' => ['find' => 'mirror']], 'finds a plane as mirror'];
        yield 'nothing to find' => [['shape' => ['find' => 'beauty']], 'mirror, axis or found'];
        yield 'no such number' => [['shape' => ['find' => 'mirror', 'nth' => 0]], '1, 2 and so on'];
        yield 'typed and picked' => [['seed' => [0, 0, 0], 'typed' => ['origin' => [0, 0, 0], 'direction' => [0, 0, 1]]], 'exclude each other'];
    }

    /** @param  array<string, mixed>  $given */
    #[Test]
    #[DataProvider('misspelt')]
    public function what_is_not_written_as_it_should_be_is_refused(array $given, string $words): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($words);
        new AddDatumParameters('new', ...$given);
    }

    #[Test]
    public function a_datum_is_typed_in_numbers_and_its_direction_made_a_unit(): void
    {
        $datum = (new AddDatum)(new Workpiece, new AddDatumParameters('hole', 'cylinder', typed: ['origin' => [1, 2, 3], 'direction' => [0, 3, 4], 'diameter' => 12]), new NoProgress)->workpiece->datums[0];
        self::assertSame(['cylinder', [1.0, 2.0, 3.0], [0.0, 0.6, 0.8], 6.0, 'typed'], [$datum->kind, $datum->origin, $datum->direction, $datum->radius, $datum->made]);
        self::assertNull($datum->report()['fit']);
        $cone = (new AddDatum)(new Workpiece, new AddDatumParameters('tip', 'cone', typed: ['origin' => [0, 0, 0], 'direction' => [0, 0, 1], 'diameter' => 4, 'halfAngle' => 30]), new NoProgress)->workpiece->datums[0];
        self::assertSame(30.0, $cone->halfAngleDeg);
    }

    #[Test]
    public function an_operation_fits_a_held_plane_to_a_body(): void
    {
        // A ball with a flat top; the base leans a little.
        $ball = MeshBuilder::icosphere(3, 10.0);
        $flat = TriangleMesh::fromFlat(array_map(fn (float $v, int $o) => $o % 3 === 2 ? min($v, 6.0) : $v, $ball->positions, array_keys($ball->positions)), $ball->faces);
        $base = new Datum('base', 'base', 'plane', [0.0, 0.0, 0.0], Vector3::unit([0.01, 0.0, 1.0]));
        $add = fn (?array $hold) => (new AddDatum)(new Workpiece([], [Body::of('b', $flat)], [$base]), new AddDatumParameters('top', 'plane', [0.1, 0.05, 6.0], hold: $hold), new NoProgress)->workpiece->datums[1];
        $top = $add(['how' => 'parallel', 'to' => 'base']);
        self::assertEqualsWithDelta([0.0, 0.0, 1.0], $add(null)->direction, 1e-9);
        self::assertEqualsWithDelta(1.0, abs(Vector3::dot($top->direction, $base->direction)), 1e-12);
        self::assertSame('b', $top->bodyId);
    }
}
