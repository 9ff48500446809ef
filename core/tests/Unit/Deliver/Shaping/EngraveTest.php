<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver\Shaping;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Deliver\Shaping\EngraveParameters;
use Emberstone\Core\Deliver\Shaping\Lettering;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class EngraveTest extends TestCase
{
    use Refuses;

    /**
     * @param  array<string, mixed>  $parameters
     * @param  list<Body>  $others
     */
    private static function engraved(TriangleMesh $mesh, array $parameters, array $others = []): TriangleMesh
    {
        $result = Catalogue::operation('engrave')(new Workpiece(bodies: [...$others, Body::of('block', $mesh)]), Catalogue::parameters('engrave', $parameters), new NoProgress);
        $made = $result->workpiece->bodies[count($others)]->placedMesh();
        $found = Inspection::of($made);
        self::assertTrue($found->closed);
        self::assertSame([], array_filter($found->faults));
        foreach ($others as $k => $other) {
            self::assertSame($other->placedMesh()->positions, $result->workpiece->bodies[$k]->placedMesh()->positions, 'the text stands on the nearest body alone');
        }

        return $made;
    }

    private static function measured(TriangleMesh $mesh): TriangleMesh
    {
        return TriangleMesh::fromFlat($mesh->positions, $mesh->faces);
    }

    private static function block(): TriangleMesh
    {
        return self::measured(SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [60.0, 30.0, 20.0]));
    }

    private static function volume(TriangleMesh $mesh): float
    {
        return Measure::volume($mesh->positions, $mesh->faces);
    }

    /** @param  list<list<array{float, float}>>  $loops */
    private static function area(array $loops): float
    {
        $sum = 0.0;
        foreach ($loops as $loop) {
            foreach ($loop as $k => [$x, $y]) {
                [$u, $v] = $loop[($k + 1) % count($loop)];
                $sum += 0.5 * ($x * $v - $y * $u);
            }
        }

        return $sum;
    }

    #[Test]
    public function on_a_flat_face_letters_take_and_give_their_area_times_their_depth(): void
    {
        foreach (['sans' => -0.7, 'serif' => 1.3] as $font => $depth) {
            $made = self::engraved(self::block(), ['text' => "RW-8Ä\n3 B", 'at' => ['point' => [1.0, 0.5, 20.0]], 'height' => 6.0, 'depth' => $depth, 'font' => $font]);
            self::assertEqualsWithDelta(60.0 * 30.0 * 20.0 + $depth * self::area(Lettering::of("RW-8Ä\n3 B", $font, 6.0)), self::volume($made), 1e-6);
            $ends = array_column(array_chunk($made->positions, 3), 2);
            self::assertEqualsWithDelta($depth > 0.0 ? 20.0 + $depth : 20.0, max($ends), 1e-9);
        }
    }

    #[Test]
    public function letters_are_read_from_outside_upright_and_marked_as_made(): void
    {
        // On the front an L has its stem on the left and its foot below, and turned by 90 degrees its stem below.
        foreach ([[0.0, -1, -1], [90.0, 1, -1], [180.0, 1, 1]] as [$turned, $x, $z]) {
            $made = self::engraved(self::block(), ['text' => 'L', 'at' => ['point' => [0.0, -15.0, 10.0]], 'height' => 8.0, 'depth' => 0.5, 'turned' => $turned]);
            $sum = [0.0, 0.0, 0.0];
            $areas = Measure::areas($made->positions, $made->faces);
            foreach ($made->origin as $t => $origin) {
                for ($c = 0; $origin === TriangleMesh::MADE && $c < 3; $c++) {
                    $v = 3 * $made->faces[3 * $t + $c];
                    $sum = [$sum[0] + $areas[$t] * $made->positions[$v], $sum[1] + $areas[$t] * ($made->positions[$v + 2] - 10.0), $sum[2] + $areas[$t]];
                }
            }
            self::assertGreaterThan(10.0, $sum[2] / 3.0, 'all that is new is marked');
            self::assertSame([$x, $z], [$sum[0] <=> 0.0, $sum[1] <=> 0.0], "turned by $turned");
        }
    }

    #[Test]
    public function letters_follow_a_round_wall_at_the_same_depth(): void
    {
        $wall = self::measured(SimpleSolid::lathed([[20.0, 0.0], [20.0, 40.0]], [0.0, 0.0, 0.0], [0.0, 0.0, 1.0]));
        $area = self::area(Lettering::of('1902', 'bold', 8.0));
        // Straight across a stroke of 1.6 mm they lie up to 1.6^2 / 160 = 0.016 mm below the round.
        foreach ([0.6, -0.6] as $depth) {
            $made = self::engraved($wall, ['text' => '1902', 'at' => ['point' => [0.0, -20.0, 20.0]], 'height' => 8.0, 'depth' => $depth, 'font' => 'bold', 'wrap' => true]);
            self::assertEqualsWithDelta($depth * $area, self::volume($made) - self::volume($wall), 0.016 * $area);
        }
        // On a plane they sink to different depths: less than nothing at the sides of so wide a text.
        self::assertRefused([[fn () => self::engraved($wall, ['text' => 'XWWWX', 'at' => ['point' => [0.0, -20.0, 20.0]], 'height' => 8.0, 'depth' => 0.6]), 'reaches beyond its surface']]);
    }

    #[Test]
    public function it_stands_on_the_nearest_body_wherever_that_is(): void
    {
        $turn = RigidTransform::turn([0.3, 0.5, -0.8], 1.1)->then(RigidTransform::shift(1e5, -4e4, 7e3));
        $made = self::engraved(self::block()->transformed($turn), ['text' => 'B7', 'at' => ['point' => $turn->point([0.0, 0.0, 20.0]), 'up' => $turn->direction([0.0, 1.0, 0.0])], 'height' => 6.0, 'depth' => -0.5], [Body::of('other', self::block())]);
        self::assertEqualsWithDelta(60.0 * 30.0 * 20.0 - 0.5 * self::area(Lettering::of('B7', 'sans', 6.0)), self::volume($made), 1e-4);
    }

    #[Test]
    public function every_font_that_can_be_chosen_ships(): void
    {
        self::assertSame(array_keys(Lettering::FONTS), EngraveParameters::FONTS);
        foreach (EngraveParameters::FONTS as $font) {
            self::assertNotSame([], Lettering::of('H', $font, 5.0));
        }
    }

    #[Test]
    public function what_cannot_be_engraved_is_told(): void
    {
        $at = ['point' => [0.0, 0.0, 20.0]];
        self::assertRefused([
            [fn () => self::engraved(self::block(), ['text' => ' ', 'at' => $at, 'height' => 5.0]), 'is empty'],
            [fn () => self::engraved(self::block(), ['text' => 'A', 'at' => $at, 'height' => 5.0, 'depth' => 0.0]), 'is 0'],
            [fn () => self::engraved(self::block(), ['text' => "A\u{10FFFF}", 'at' => $at, 'height' => 5.0]), 'has no letter for'],
            [fn () => self::engraved(self::block(), ['text' => 'WWWWWWWWWW', 'at' => $at, 'height' => 8.0]), 'reaches beyond its surface on block'],
            [fn () => self::engraved(self::block(), ['text' => 'A', 'at' => ['point' => [0.0, 0.0, 40.0]], 'height' => 5.0]), 'lies 20.0 mm off block'],
            [fn () => self::engraved(self::block(), ['text' => 'A', 'at' => ['normal' => [0.0, 0.0, 1.0]], 'height' => 5.0]), 'needs "point"'],
            [fn () => self::engraved(self::block(), ['text' => 'A', 'at' => $at + ['up' => [0.0, 0.0, 1.0]], 'height' => 5.0]), '"up" points along'],
        ]);
    }
}
