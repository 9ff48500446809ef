<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Shapes;

use Emberstone\Core\Algorithms\Shapes\TurnedFit;
use Emberstone\Core\Algorithms\Shapes\TurnedShape;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class TurnedFitTest extends TestCase
{
    /** @return iterable<string, array{string}> */
    public static function kinds(): iterable
    {
        foreach (TurnedFit::KINDS as $kind) {
            yield $kind => [$kind];
        }
    }

    #[Test]
    #[DataProvider('kinds')]
    public function a_part_of_a_shape_anywhere_gives_the_shape_back_seen_from_outside_or_inside(string $kind): void
    {
        for ($seed = 0; $seed < Gen::seeds(6, 60); $seed++) {
            $gen = new Gen($seed);
            $true = self::shape($kind, $gen);
            [$p, $n] = self::sample($true, $gen, $seed % 2 === 0 ? 1.0 : -1.0);
            $start = TurnedFit::start($kind, $p, $n, [['origin' => $true->origin, 'axis' => $true->axis]]);
            self::assertNotNull($start, "seed $seed");
            $fit = TurnedFit::refined($start, $p, array_fill(0, 200, 1.0), 1e-12);
            self::assertNotNull($fit, "seed $seed");
            self::assertEqualsWithDelta([0.0, 0.0], [TurnedFit::rms($start, $p), TurnedFit::rms($fit, $p)], 1e-7, "seed $seed");
            self::assertEqualsWithDelta([$true->radius, $true->tube], [$kind === 'cone' ? $fit->radius + Vector3::dot(Vector3::minus($true->origin, $fit->origin), $fit->axis) * tan($fit->tilt) : $fit->radius, $fit->tube], 1e-5, "seed $seed");
            self::assertEqualsWithDelta($true->tilt, $fit->tilt, 1e-7, "seed $seed");
            $kind === 'sphere' || self::assertEqualsWithDelta(1.0, abs(Vector3::dot($true->axis, $fit->axis)), 1e-12, "seed $seed");
        }
    }

    #[Test]
    #[DataProvider('kinds')]
    public function noise_and_a_dent_move_it_by_little(string $kind): void
    {
        for ($seed = 0; $seed < Gen::seeds(3, 30); $seed++) {
            $gen = new Gen(100 + $seed);
            $true = self::shape($kind, $gen);
            [$p, $n] = self::sample($true, $gen, 1.0);
            foreach ($p as $k => $value) {
                // A tenth of the places are dented by half a millimetre.
                $p[$k] = $value + 0.01 * $gen->float(-1.0, 1.0) - ($k % 30 < 3 ? 0.5 * $n[$k] : 0.0);
            }
            $start = TurnedFit::start($kind, $p, $n, [['origin' => $true->origin, 'axis' => $true->axis]]);
            $fit = $start === null ? null : TurnedFit::refined($start, $p, array_fill(0, 200, 1.0), 1e-9);
            self::assertNotNull($fit, "seed $seed");
            $distances = array_map(abs(...), $fit->distances($p));
            sort($distances);
            self::assertLessThan(0.02, $distances[175], "seed $seed: what is not dented lies on it");
            self::assertGreaterThan(0.4, $distances[190], "seed $seed: the dent does not pull");
        }
    }

    #[Test]
    public function normals_that_hardly_turn_tell_no_round_shape(): void
    {
        $gen = new Gen(1);
        [$p, $n] = self::sample(self::shape('plane', $gen), $gen, 1.0);
        foreach (['cylinder', 'sphere', 'cone'] as $kind) {
            self::assertNull(TurnedFit::start($kind, $p, $n), $kind);
        }
    }

    #[Test]
    #[DataProvider('kinds')]
    public function distance_normal_and_mismatch_speak_of_one_shape(string $kind): void
    {
        $gen = new Gen(7);
        $shape = self::shape($kind, $gen);
        for ($k = 0; $k < 50; $k++) {
            $at = [$shape->origin[0] + $gen->float(-20.0, 20.0), $shape->origin[1] + $gen->float(-20.0, 20.0), $shape->origin[2] + $gen->float(-20.0, 20.0)];
            $normal = $shape->normal(...$at);
            $d = $shape->distances($at)[0];
            self::assertEqualsWithDelta(1.0, Vector3::length($normal), 1e-12);
            // Going along the normal the distance grows as much as one goes.
            self::assertEqualsWithDelta($d + 1e-4, $shape->distances(Vector3::plus($at, Vector3::scaled($normal, 1e-4)))[0], 1e-7);
            self::assertEqualsWithDelta(abs($d), $shape->mismatch($at[0], $at[1], $at[2], $normal[0], $normal[1], $normal[2], 3.0), 1e-9);
            $across = Vector3::square($normal)[0];
            self::assertEqualsWithDelta(abs($d) + 3.0, $shape->mismatch($at[0], $at[1], $at[2], $across[0], $across[1], $across[2], 3.0), 1e-6);
        }
    }

    private static function shape(string $kind, Gen $gen): TurnedShape
    {
        $axis = Vector3::unit([$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), $gen->float(0.1, 1.0)]);
        $at = [$gen->float(-500.0, 500.0), $gen->float(-500.0, 500.0), $gen->float(-500.0, 500.0)];

        return match ($kind) {
            'plane' => TurnedShape::plane($at, $axis),
            'cylinder' => new TurnedShape('cylinder', $at, $axis, 10.0),
            'cone' => new TurnedShape('cone', $at, $axis, 10.0, 0.4),
            'sphere' => new TurnedShape('sphere', $at, $axis, 0.0, 0.0, 10.0),
            default => new TurnedShape('torus', $at, $axis, 20.0, 0.0, 5.0),
        };
    }

    /**
     * Two hundred places on a quarter of a shape.
     *
     * @param  float  $side  -1 for normals that look the other way
     * @return array{list<float>, list<float>}
     */
    private static function sample(TurnedShape $shape, Gen $gen, float $side): array
    {
        [$u, $v] = Vector3::square($shape->axis);
        $p = $n = [];
        for ($k = 0; $k < 200; $k++) {
            [$turn, $along] = [$gen->float(0.0, 1.6), $gen->float(-1.0, 1.0)];
            $out = Vector3::plus(Vector3::scaled($u, cos($turn)), Vector3::scaled($v, sin($turn)));
            [$rho, $h] = match ($shape->kind) {
                'plane' => [6.0 * ($along + 1.0), 0.0],
                'cylinder' => [10.0, 4.0 * $along],
                'cone' => [10.0 + 4.0 * $along * tan(0.4), 4.0 * $along],
                'sphere' => [10.0 * cos(0.8 * $along), 10.0 * sin(0.8 * $along)],
                default => [20.0 + 5.0 * cos(1.2 * $along), 5.0 * sin(1.2 * $along)],
            };
            $at = Vector3::plus($shape->origin, Vector3::plus(Vector3::scaled($out, $rho), Vector3::scaled($shape->axis, $h)));
            array_push($p, ...$at);
            array_push($n, ...Vector3::scaled($shape->normal(...$at), $side));
        }

        return [$p, $n];
    }
}
