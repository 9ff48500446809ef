<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Fuse;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Fuse\ResolveDoubleSkin;
use Emberstone\Core\Fuse\ResolveDoubleSkinParameters;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Register;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Tests\Support\Captures;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\WeightStone;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class ResolveDoubleSkinTest extends TestCase
{
    /**
     * A plate of 60 x 60 points 0.5 mm apart at a height, with a little noise.
     *
     * @param  list<float>|null  $sensor
     */
    private static function plate(string $name, float $z, ?array $sensor, float $fromX = 0.0, int $seed = 1, float $noise = 0.01): Pass
    {
        $gen = new Gen($seed);
        $p = [];
        for ($i = 0; $i < 3600; $i++) {
            array_push($p, $fromX + 0.5 * ($i % 60) + $gen->float(-0.1, 0.1), 0.5 * intdiv($i, 60) + $gen->float(-0.1, 0.1), $z + $gen->float(-$noise, $noise));
        }

        return Pass::of($name, PointCloud::fromFlat($p, sensorOrigin: $sensor));
    }

    /**
     * @param  list<Pass>  $passes
     * @return list<int> how many points each pass keeps
     */
    private static function kept(array $passes, ?float $gap = 1.0): array
    {
        return array_map(fn (Pass $pass) => $pass->keptCount(), (new ResolveDoubleSkin(new Register))(new Workpiece($passes), new ResolveDoubleSkinParameters($gap), new NoProgress)->workpiece->passes);
    }

    #[Test]
    public function the_pass_that_saw_a_place_steeply_and_from_near_keeps_it_and_the_other_keeps_what_only_it_saw(): void
    {
        // The second plate lies 0.3 mm higher and reaches 15 mm farther; it was seen flatly.
        $steep = self::plate('steep', 0.0, [15.0, 15.0, 200.0]);
        $flat = self::plate('flat', 0.3, [-300.0, 15.0, 60.0], 15.0, 2);
        foreach ([[$steep, $flat], [$flat, $steep]] as $passes) {
            $kept = array_combine(array_map(fn (Pass $pass) => $pass->name, $passes), self::kept($passes));
            self::assertSame(3600, $kept['steep']);
            self::assertEqualsWithDelta(1800, $kept['flat'], 130);
        }
        $result = (new ResolveDoubleSkin(new Register))(new Workpiece([$steep, $flat]), new ResolveDoubleSkinParameters(1.0), new NoProgress);
        $x = array_map(fn (array $point) => $point[0], array_chunk($result->workpiece->passes[1]->keptCloud()->positions, 3));
        self::assertGreaterThan(29.0, min($x), 'what is left of the flat one lies beyond the steep one');
        self::assertStringStartsWith('− 1.', $result->headline);
    }

    #[Test]
    public function of_two_that_are_as_good_one_is_left_everywhere(): void
    {
        $kept = self::kept([self::plate('a', 0.0, null), self::plate('b', 0.3, null, seed: 2)]);
        self::assertSame(3600, $kept[0]);
        self::assertLessThan(60, $kept[1]);
    }

    #[Test]
    public function passes_that_agree_two_walls_and_the_two_sides_of_one_keep_everything(): void
    {
        $above = [15.0, 15.0, 200.0];
        self::assertSame([3600, 3600], self::kept([self::plate('a', 0.0, $above), self::plate('b', 0.004, [0.0, 0.0, 150.0], seed: 2)]), 'within the noise');
        self::assertSame([3600, 3600], self::kept([self::plate('a', 0.0, $above), self::plate('b', 1.5, [0.0, 0.0, 150.0], seed: 2)]), 'farther apart than the gap');
        self::assertSame([3600, 3600], self::kept([self::plate('a', 0.0, $above), self::plate('b', -0.5, [15.0, 15.0, -150.0], seed: 2)]), 'seen from the other side');
        self::assertSame('no double skins up to 1.00 mm', str_replace('1.000', '1.00', (new ResolveDoubleSkin(new Register))(new Workpiece([self::plate('a', 0.0, $above), self::plate('b', 3.0, $above)]), new ResolveDoubleSkinParameters(1.0), new NoProgress)->headline));
    }

    #[Test]
    public function on_request_what_another_saw_much_better_goes_where_they_agree_too(): void
    {
        $near = self::plate('near', 0.0, [15.0, 15.0, 150.0]);
        $far = self::plate('far', 0.004, [15.0, 15.0, 500.0], 15.0, 2);
        $like = self::plate('like', 0.004, [15.0, 15.0, 170.0], 0.0, 3);
        $kept = fn (array $passes, string $by = 'dropping') => array_map(fn (Pass $pass) => $pass->keptCount(), (new ResolveDoubleSkin(new Register))(new Workpiece($passes), new ResolveDoubleSkinParameters(1.0, $by, true), new NoProgress)->workpiece->passes);
        [$all, $rest, $both] = $kept([$near, $far, $like]);
        self::assertSame([3600, 3600], [$all, $both], 'of two that saw it about as well both stay');
        self::assertEqualsWithDelta(1800, $rest, 130, 'what only the far one saw stays');
        self::assertSame([3600, 3600], self::kept([$near, $far]), 'not unless it is asked for');
        // Two walls and the two sides of one stay here too.
        self::assertSame([3600, 3600], $kept([$near, self::plate('b', 1.5, [15.0, 15.0, 500.0], seed: 2)]));
        self::assertSame([3600, 3600], $kept([$near, self::plate('b', -0.5, [15.0, 15.0, -500.0], seed: 2)]));
    }

    #[Test]
    public function it_looks_at_passes_where_they_were_brought_to(): void
    {
        $moved = self::plate('moved', 50.0, [-300.0, 15.0, 60.0], 0.0, 2);
        $moved = $moved->moved(RigidTransform::shift(0.0, 0.0, -49.7), 0.0, 0.0);
        $kept = self::kept([self::plate('steep', 0.0, [15.0, 15.0, 200.0]), $moved], null);
        self::assertSame(3600, $kept[0]);
        self::assertLessThan(100, $kept[1]);
    }

    #[Test]
    public function one_pass_alone_is_refused(): void
    {
        $this->expectException(UnsuitableInput::class);
        (new ResolveDoubleSkin(new Register))(new Workpiece([self::plate('a', 0.0, null)]), new ResolveDoubleSkinParameters, new NoProgress);
    }

    #[Test]
    public function moving_brings_whole_passes_onto_each_other_and_keeps_every_point(): void
    {
        $rig = new HandheldRig(width: 160, height: 120, table: false, turnsOver: false);
        $passes = [];
        foreach ([0, 1, 2] as $k) {
            $capture = Captures::of($rig, new WeightStone, $k, 5);
            $passes[] = Pass::of("pass $k", $capture['cloud'])->moved($k === 1 ? $capture['pose']->then(RigidTransform::shift(0.3, 0.5, -0.3)) : $capture['pose']);
        }
        $workpiece = new Workpiece($passes);
        $result = (new ResolveDoubleSkin(new Register))($workpiece, new ResolveDoubleSkinParameters(2.0, 'moving', locked: ['pass 2']), new NoProgress);
        self::assertGreaterThan(300, $result->before['doubled']);
        self::assertLessThan(0.1 * $result->before['doubled'], $result->after['doubled']);
        self::assertSame($workpiece->pointCount(), $result->workpiece->pointCount());
        self::assertSame($passes[2]->transform->matrix, $result->workpiece->passes[2]->transform->matrix, 'locked');
        self::assertEqualsWithDelta($passes[1]->transform->then(RigidTransform::shift(-0.3, -0.5, 0.3))->point([10.0, 20.0, 30.0]), $result->workpiece->passes[1]->transform->point([10.0, 20.0, 30.0]), 0.15);
        // What agrees stays where it is.
        $again = (new ResolveDoubleSkin(new Register))(new Workpiece([$passes[0], $passes[2]]), new ResolveDoubleSkinParameters(2.0, 'moving'), new NoProgress);
        self::assertSame($passes[2]->transform->matrix, $again->workpiece->passes[1]->transform->matrix);
    }
}
