<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Datums;

use Emberstone\Core\Datums\SurfaceNoise;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Rigs\Noise;
use Emberstone\Core\Tests\Support\NoisySheet;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** What noise does to single places and to the extremes of many, against noise that was put there. */
final class SurfaceNoiseTest extends TestCase
{
    /** Of the noise put on, mm. */
    private const SIGMA = 0.02;

    #[Test]
    public function the_noise_of_a_place_is_found_whatever_the_surface_does(): void
    {
        foreach ([1e9, 60.0, 15.0] as $radius) {
            $sheet = NoisySheet::of($radius, self::SIGMA, 7);
            self::assertEqualsWithDelta(self::SIGMA, (new SurfaceNoise($sheet))->typical(), 0.15 * self::SIGMA, "radius $radius");
            // Three edges around a radius of 15 a quadric misses by a micrometre.
            self::assertLessThan(0.05 * self::SIGMA, (new SurfaceNoise(NoisySheet::of($radius, 0.0, 7)))->typical(), "radius $radius");
        }
    }

    #[Test]
    public function too_few_places_tell_nothing(): void
    {
        $box = SimpleSolid::box([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [60.0, 60.0, 8.0]);
        self::assertNull((new SurfaceNoise($box))->at([0.0, 0.0, 4.0], [0.0, 0.0, 1.0]));
    }

    #[Test]
    public function the_expected_extremes_are_those_of_normal_values(): void
    {
        $random = new Noise(11);
        foreach ([10, 200, 3000] as $count) {
            $largest = $holds = 0;
            for ($round = 0; $round < 400; $round++) {
                $values = [];
                for ($k = 0; $k < $count; $k++) {
                    $values[] = $random->normal();
                }
                $largest += max($values) / 400;
                $holds += max($values) - min($values) <= 2.0 * SurfaceNoise::ofSpan([$count]) ? 1 : 0;
            }
            self::assertEqualsWithDelta($largest, SurfaceNoise::largest($count), 0.1, "of $count");
            self::assertGreaterThanOrEqual(0.93 * 400, $holds, "of $count");
        }
        self::assertSame(0.0, SurfaceNoise::largest(1));
    }

    /** A flat of noise reads what noise makes of it and says that it may be flat; one that is bowed far beyond its noise says that it is not. */
    #[Test]
    public function a_flatness_tells_form_from_noise(): void
    {
        $flatness = function (TriangleMesh $mesh): array {
            $workpiece = new Workpiece(bodies: [Body::of('Sheet', $mesh)]);

            return Catalogue::operation('measure')($workpiece, Catalogue::parameters('measure', ['kind' => 'flatness', 'of' => [['at' => [0.0, 0.0, 0.0], 'fit' => 'plane']]]), new NoProgress)->after['measurements'][0];
        };
        for ($seed = 1; $seed <= 5; $seed++) {
            $flat = $flatness(NoisySheet::of(1e9, self::SIGMA, $seed));
            self::assertGreaterThan(5.0 * self::SIGMA, $flat['value']);
            self::assertLessThan(10.0 * self::SIGMA, $flat['uncertainty']);
            self::assertLessThanOrEqual($flat['uncertainty'], $flat['value'], "seed $seed");
            $bowed = $flatness(NoisySheet::of(1e9, self::SIGMA, $seed, 0.5));
            self::assertEqualsWithDelta($flat['uncertainty'], $bowed['uncertainty'], 0.3 * $flat['uncertainty'], 'form is not taken for noise');
            self::assertGreaterThan(0.5, $bowed['value'] + $bowed['uncertainty']);
            self::assertGreaterThan($bowed['uncertainty'], $bowed['value']);
        }
    }
}
