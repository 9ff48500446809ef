<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Orient;

use Emberstone\Core\Algorithms\Fitting\SmallestBox;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\ExactSurface;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** The smallest box around a shape, against shapes whose smallest box is known and against boxes that are no larger by chance. */
final class SmallestBoxTest extends TestCase
{
    private static function anyhow(Gen $gen): RigidTransform
    {
        $axis = $gen->points(1);

        return RigidTransform::turn([$axis[0], $axis[1], $axis[2] + 1.5], $gen->float(-3.0, 3.0))->then(RigidTransform::shift($gen->float(-90.0, 90.0), 4.0, -7.0));
    }

    #[Test]
    public function a_brick_is_its_own_smallest_box_however_it_stands(): void
    {
        $gen = new Gen(2);
        for ($k = 0; $k < 8; $k++) {
            $sides = [$gen->float(3.0, 9.0), $gen->float(10.0, 20.0), $gen->float(21.0, 40.0)];
            $placed = self::anyhow($gen);
            $box = SmallestBox::around($placed->points(MeshBuilder::brick([$sides[0], $sides[1], $sides[2]], 3)->positions));
            self::assertEqualsWithDelta($sides, $box['sides'], 1e-3);
            foreach ([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]] as $axis => $own) {
                $turned = $placed->direction($own);
                self::assertEqualsWithDelta(1.0, abs($turned[0] * $box['axes'][$axis][0] + $turned[1] * $box['axes'][$axis][1] + $turned[2] * $box['axes'][$axis][2]), 1e-8);
            }
        }
    }

    #[Test]
    public function no_box_turned_at_random_around_the_same_points_is_smaller(): void
    {
        $gen = new Gen(6);
        for ($k = 0; $k < 5; $k++) {
            $p = $gen->points(60, 20.0);
            $box = SmallestBox::around($p);
            $volume = array_product($box['sides']);
            for ($try = 0; $try < 400; $try++) {
                $other = BoundingBox::of(self::anyhow($gen)->points($p));
                self::assertGreaterThan(0.999 * $volume, array_product(array_map(fn (float $a, float $b) => $b - $a, $other->min, $other->max)));
            }
        }
    }

    #[Test]
    public function a_sheet_without_thickness_lies_in_its_smallest_rectangle(): void
    {
        $gen = new Gen(9);
        $sheet = [];
        for ($i = 0; $i <= 12; $i++) {
            for ($j = 0; $j <= 5; $j++) {
                array_push($sheet, 3.0 * $i, 2.0 * $j, 0.0);
            }
        }
        self::assertEqualsWithDelta([0.0, 10.0, 36.0], SmallestBox::around(self::anyhow($gen)->points($sheet))['sides'], 1e-2);
    }

    #[Test]
    public function the_pedestal_is_centred_along_the_sides_of_its_box_and_not_its_main_axes(): void
    {
        $mesh = ExactSurface::of(new BearingPedestal, 3.0);
        $workpiece = new Workpiece([], [new Body('b', 'b', $mesh, self::anyhow(new Gen(4)))]);
        $parameters = Catalogue::parameters('centre', ['at' => 'box', 'smallestBox' => true]);
        $result = Catalogue::operation('centre')($workpiece, $parameters, new NoProgress);
        self::assertEqualsWithDelta([120.0, 79.0, 71.0], $result->after['box'], 1.2);
        $box = BoundingBox::of($result->workpiece->bodies[0]->placed()->positions);
        self::assertEqualsWithDelta($result->after['box'], array_map(fn (float $a, float $b) => $b - $a, $box->min, $box->max), 1e-6);
        self::assertEqualsWithDelta($box->max, array_map(fn (float $v) => -$v, $box->min), 1e-9, 'the origin in its middle');
        self::assertStringContainsString('The smallest box is 1', $result->notes[0]);
    }
}
