<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Gather;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Gather\NoiseReport;
use Emberstone\Core\Gather\NoiseReportParameters;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\DoubleSkins;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/**
 * One wall in two layers is found with its gap; what only looks like it is not.
 *
 * @phpstan-import-type Skin from DoubleSkins
 */
final class DoubleSkinsTest extends TestCase
{
    private const SPACING = 0.5;

    private const NOISE = 0.02;

    /** Walls of 40 x 40 mm sampled every half millimetre, somewhere in space, turned somehow. */
    private static function wall(Gen $gen, float $height, float $noise = self::NOISE, float $fromX = -20.0, float $toX = 20.0, float $facing = 1.0): PointCloud
    {
        $p = $n = [];
        for ($x = $fromX; $x < $toX; $x += self::SPACING) {
            for ($y = -20.0; $y < 20.0; $y += self::SPACING) {
                // Twelve even numbers added are nearly normal.
                $z = array_sum(array_map(fn () => $gen->float(-0.5, 0.5), range(1, 12)));
                array_push($p, $x + $gen->float(-0.2, 0.2), $y + $gen->float(-0.2, 0.2), $height + $noise * $z);
                array_push($n, 0.0, 0.0, $facing);
            }
        }

        return PointCloud::fromFlat($p, $n);
    }

    private static function turned(PointCloud $cloud): PointCloud
    {
        return $cloud->transformed(RigidTransform::turn([0.3, -0.5, 0.81], 0.7)->then(RigidTransform::shift(-300.0, 80.0, 12.0)));
    }

    /**
     * @param  list<PointCloud>  $clouds
     * @return list<Skin>
     */
    private static function skins(array $clouds): array
    {
        return DoubleSkins::of(array_map(self::turned(...), $clouds), array_map(fn (int $k) => "pass $k", array_keys($clouds)), self::SPACING, self::NOISE);
    }

    #[Test]
    public function two_passes_of_a_wall_four_tenths_apart_are_one_place_with_that_gap(): void
    {
        $gen = new Gen(3);
        [$place] = $places = self::skins([self::wall($gen, 0.0), self::wall($gen, 0.4)]);
        self::assertCount(1, $places);
        self::assertEqualsWithDelta(0.4, $place['gapMm'], 0.02);
        self::assertSame(['pass 0', 'pass 1'], $place['passes']);
        self::assertFalse($place['within'], 'each layer is of one pass');
        // Cells at the rim are cut; most of 1600 square millimetres count.
        self::assertEqualsWithDelta(1600.0, $place['areaMm2'], 500.0);
        self::assertEqualsWithDelta(RigidTransform::turn([0.3, -0.5, 0.81], 0.7)->then(RigidTransform::shift(-300.0, 80.0, 12.0))->point([0.0, 0.0, 0.2]), $place['centre'], 2.0);
    }

    #[Test]
    public function of_nine_passes_the_one_that_stands_off_is_named_though_it_has_few_of_all_points(): void
    {
        $gen = new Gen(7);
        $clouds = array_map(fn (int $k) => self::wall($gen, $k === 4 ? 0.4 : 0.0), range(0, 8));
        $places = self::skins($clouds);
        self::assertCount(1, $places);
        self::assertSame(['pass 4'], $places[0]['off']);
        self::assertCount(9, $places[0]['passes']);
        self::assertEqualsWithDelta(0.4, $places[0]['gapMm'], 0.02);
        self::assertEqualsWithDelta(1600.0, $places[0]['areaMm2'], 500.0);
        // Two against two: nobody can say which stand off.
        self::assertSame([], self::skins([...array_slice($clouds, 0, 2), self::wall($gen, 0.4), self::wall($gen, 0.4)])[0]['off']);
    }

    /** Wherever the walls lie to the raster in which they are looked for. */
    #[Test]
    public function no_border_between_cells_hides_two_layers(): void
    {
        $gen = new Gen(8);
        for ($at = 0.0; $at < 3.0; $at += 0.4) {
            $places = DoubleSkins::of(array_map(fn (float $height) => self::wall($gen, $at + $height), [0.0, 0.6]), ['a', 'b'], self::SPACING, self::NOISE);
            self::assertGreaterThan(1000.0, array_sum(array_column($places, 'areaMm2')), "walls at $at");
        }
    }

    #[Test]
    public function a_pass_during_which_the_part_moved_is_doubled_within(): void
    {
        $gen = new Gen(4);
        $places = self::skins([PointCloud::joined([self::wall($gen, 0.0), self::wall($gen, 0.5)])]);
        self::assertNotSame([], $places);
        self::assertTrue($places[0]['within']);
    }

    /** @return iterable<string, array{list<PointCloud>}> */
    public static function singles(): iterable
    {
        $gen = new Gen(5);
        yield 'one noisy wall' => [[self::wall($gen, 0.0)]];
        yield 'two passes that fit' => [[self::wall($gen, 0.0), self::wall($gen, 0.0)]];
        yield 'two passes that fit within the noise' => [[self::wall($gen, 0.0), self::wall($gen, 0.03)]];
        yield 'a step of a millimetre' => [[self::wall($gen, 0.0, fromX: -20.0, toX: 0.0), self::wall($gen, 1.0, fromX: 0.0, toX: 20.0)]];
        yield 'a plate half a millimetre thick, from both sides' => [[self::wall($gen, 0.5), self::wall($gen, 0.0, facing: -1.0)]];
        yield 'a wall with strays above it' => [[self::wall($gen, 0.0), PointCloud::fromFlat([...array_map(fn (float $v) => 20.0 * $v, $gen->points(60))], array_merge(...array_fill(0, 60, [0.0, 0.0, 1.0])))]];
    }

    /** @param  list<PointCloud>  $clouds */
    #[Test]
    #[DataProvider('singles')]
    public function what_only_looks_like_two_layers_is_left_alone(array $clouds): void
    {
        self::assertSame([], self::skins($clouds));
    }

    #[Test]
    public function the_report_lists_double_skins_and_colours_passes_by_spacing_and_noise(): void
    {
        $gen = new Gen(6);
        $first = self::wall($gen, 0.0);
        $mask = str_repeat("\1", $first->count());
        $mask[5] = "\0";
        $passes = [new Pass('a', 'A', $first, RigidTransform::identity(), $mask), Pass::of('B', self::wall($gen, 0.5, 0.04))];
        $result = (new NoiseReport)(new Workpiece($passes), new NoiseReportParameters, new NoProgress);
        self::assertCount(1, $result->after['doubleSkins']);
        self::assertEqualsWithDelta(0.5, $result->after['doubleSkins'][0]['gapMm'], 0.03);
        self::assertStringContainsString('Double skins', implode(' ', $result->notes));
        self::assertSame(['Spacing', 'Noise', 'Spacing', 'Noise'], array_map(fn ($map) => $map->label, $result->maps));
        self::assertSame($first->count(), strlen($result->maps[0]->bytes));
        self::assertSame([0, 0], [ord($result->maps[0]->bytes[5]), ord($result->maps[1]->bytes[5])], 'a point cut away has no colour');
        // Inside the wall points lie as far apart as usual; at its corner their neighbours are farther.
        $inside = 40 * 80 + 40;
        self::assertLessThan(40, ord($result->maps[0]->bytes[$inside]));
        self::assertGreaterThan(ord($result->maps[0]->bytes[$inside]), ord($result->maps[0]->bytes[0]));
        self::assertEqualsWithDelta(0.16, $result->maps[3]->to, 0.02, 'four times the noise');
    }
}
