<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Algorithms\Icp\FpfhDescriptors;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\RecordingProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Coarse\ShapeMatch;
use Emberstone\Core\Register\Prepare;
use Emberstone\Core\Register\Register;
use Emberstone\Core\Register\RegisterParameters;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Rigs\Part;
use Emberstone\Core\Tests\Support\Captures;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\WeightStone;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class RoughPlacingTest extends TestCase
{
    /** @return array{list<Pass>, list<RigidTransform>} passes as captured, and the pose that maps each onto the part */
    private function captures(Part $part, HandheldRig $rig, int ...$which): array
    {
        $passes = $poses = [];
        foreach ($which as $k) {
            $capture = Captures::of($rig, $part, $k, 5);
            $passes[] = Pass::of("pass $k", $capture['cloud']);
            $poses[] = $capture['pose'];
        }

        return [$passes, $poses];
    }

    private function anyMotion(Gen $gen): RigidTransform
    {
        return RigidTransform::turn($gen->points(1), $gen->float(0.5, 3.0))->then(RigidTransform::shift($gen->float(-200, 200), $gen->float(-200, 200), $gen->float(-200, 200)));
    }

    #[Test]
    public function surroundings_read_the_same_however_the_object_is_turned(): void
    {
        $mesh = MeshBuilder::icosphere(2, 3.0);
        $p = [];
        foreach ($mesh->positions as $o => $x) {
            $p[] = $x * ($o % 3 === 0 ? 1.5 : 1.0);
        }
        $n = array_map(fn (float $x) => $x / 3.0, $mesh->positions);
        $motion = $this->anyMotion(new Gen(3));
        $here = FpfhDescriptors::of($p, $n, 1.3);
        $there = FpfhDescriptors::of($motion->points($p), $motion->directions($n), 1.3);
        // A value on the edge of two bins may fall to either side by rounding; nearly all must be the same.
        $same = count(array_filter($here, fn (float $v, int $k) => abs($v - $there[$k]) < 1e-6, ARRAY_FILTER_USE_BOTH));
        self::assertGreaterThan(0.97 * count($here), $same);
        foreach (array_chunk($here, 11) as $block) {
            self::assertEqualsWithDelta(1.0, array_sum($block), 1e-9);
        }
    }

    #[Test]
    public function a_turned_copy_is_found_by_its_shape(): void
    {
        [$passes] = $this->captures(new WeightStone, new HandheldRig(width: 120, height: 90, table: false), 0);
        $pass = Prepare::all($passes, new NoProgress)[0];
        $p = $n = [];
        for ($o = 0; $o < 3 * $pass->sampleCount(); $o += 6) {
            array_push($p, ...array_slice($pass->samples, $o, 3));
            array_push($n, ...array_slice($pass->sampleNormals, $o, 3));
        }
        $motion = $this->anyMotion(new Gen(8));
        [$here, $there] = ShapeMatch::of([['points' => $p, 'normals' => $n], ['points' => $motion->points($p), 'normals' => $motion->directions($n)]], 8.0);
        $guesses = $here->onto($there, 1.5, 10);
        self::assertCount(10, $guesses);
        self::assertEqualsWithDelta($motion->points([0.0, 0.0, 0.0, 30.0, 30.0, 30.0]), $guesses[0]->points([0.0, 0.0, 0.0, 30.0, 30.0, 30.0]), 3.0);
    }

    #[Test]
    public function passes_thrown_anywhere_find_each_other(): void
    {
        [$passes, $poses] = $this->captures(new WeightStone, new HandheldRig(width: 200, height: 150, table: false), 0, 4, 1);
        $gen = new Gen(21);
        foreach ([1, 2] as $k) {
            $passes[$k] = $passes[$k]->moved($this->anyMotion($gen), 0.0, 0.0);
        }
        $progress = new RecordingProgress;
        $result = (new Register)(new Workpiece($passes), new RegisterParameters(coarse: 'auto'), $progress);
        foreach ($result->workpiece->passes as $k => $pass) {
            self::assertEqualsWithDelta([30.0, 20.0, 60.0], $pass->transform->point($poses[$k]->inverse()->point([30.0, 20.0, 60.0])), 0.3, $pass->name);
        }
        self::assertTrue($result->workpiece->passes[0]->transform->isIdentity(), 'the reference stays');
        $sorted = $progress->fractions;
        sort($sorted);
        self::assertSame($sorted, $progress->fractions, 'progress never falls');
    }

    #[Test]
    public function passes_that_fit_as_captured_are_not_thrown_about(): void
    {
        [$passes] = $this->captures(new WeightStone, new HandheldRig(width: 160, height: 120, table: false), 0, 4);
        $plain = (new Register)(new Workpiece($passes), new RegisterParameters(maxDistance: 6.0), new NoProgress);
        $auto = (new Register)(new Workpiece($passes), new RegisterParameters('auto', 6.0), new NoProgress);
        self::assertSame($plain->workpiece->passes[1]->transform->matrix, $auto->workpiece->passes[1]->transform->matrix);
        self::assertSame([], $auto->notes);
    }

    #[Test]
    #[Group('nightly')]
    public function the_other_side_of_a_part_with_like_sides_is_placed_by_what_little_tells_its_sides_apart(): void
    {
        [$passes, $poses] = $this->captures(new BearingPedestal, new HandheldRig(width: 200, height: 150, table: false), 0, 1, 2, 3, 4, 5, 6, 7);
        $turned = $this->anyMotion(new Gen(2));
        foreach ([4, 5, 6, 7] as $k) {
            $passes[$k] = $passes[$k]->moved($turned, 0.0, 0.0);
        }
        $result = (new Register)(new Workpiece($passes), new RegisterParameters(coarse: 'auto'), new NoProgress);
        foreach ($result->workpiece->passes as $k => $pass) {
            // Half around its upright the part looks the same but for the year on its front.
            self::assertEqualsWithDelta([40.0, 30.0, 0.0], $pass->transform->point($poses[$k]->inverse()->point([40.0, 30.0, 0.0])), 0.5, $pass->name);
        }
    }

    #[Test]
    public function a_flat_pass_has_no_place_and_that_is_said(): void
    {
        [$passes] = $this->captures(new WeightStone, new HandheldRig(width: 120, height: 90, table: false), 0);
        $gen = new Gen(2);
        $plate = [];
        for ($i = 0; $i < 2500; $i++) {
            array_push($plate, 500.0 + $gen->float(0.0, 60.0), $gen->float(0.0, 60.0), $gen->float(-0.02, 0.02));
        }
        $passes[] = Pass::of('plate', \Emberstone\Core\Cloud\PointCloud::fromFlat($plate, [], [], [530.0, 30.0, 300.0]));
        $this->expectException(UnsuitableInput::class);
        $this->expectExceptionMessageMatches('/plate.*Pick pairs/');
        (new Register)(new Workpiece($passes), new RegisterParameters(coarse: 'auto'), new NoProgress);
    }
}
