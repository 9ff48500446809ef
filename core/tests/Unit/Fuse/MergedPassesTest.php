<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Fuse;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Fuse\MergedPasses;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\Noise;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class MergedPassesTest extends TestCase
{
    /** A square of 20 mm at the given height, points 0.25 mm apart, seen from (0, 0, 40). */
    private function square(string $name, float $z, float $noiseMm, int $seed): Pass
    {
        $noise = new Noise($seed);
        $p = [];
        for ($i = -40; $i <= 40; $i++) {
            for ($j = -40; $j <= 40; $j++) {
                array_push($p, 0.25 * $i, 0.25 * $j, $z + $noiseMm * $noise->normal());
            }
        }

        return Pass::of($name, PointCloud::fromFlat($p, [], [], [0.0, 0.0, 40.0]));
    }

    #[Test]
    public function a_point_counts_by_the_slant_of_its_ray_and_by_how_far_away_it_was_seen(): void
    {
        $points = MergedPasses::of([$this->square('a', 0.0, 0.0, 1)], new NoProgress);
        $squares = array_map(fn (array $at) => $at[0] ** 2 + $at[1] ** 2 + (40.0 - $at[2]) ** 2, array_chunk($points->positions, 3));
        $usual = Median::of($squares);
        foreach ($points->quality as $i => $weight) {
            // Cosine squared, over the fourth power of the distance.
            self::assertEqualsWithDelta(1600.0 / $squares[$i] * ($usual / $squares[$i]) ** 2, $weight, 1e-6);
        }
        self::assertGreaterThan(1.1 * min($points->quality), max($points->quality));
    }

    #[Test]
    public function of_two_passes_that_differ_the_one_with_less_noise_is_believed(): void
    {
        $good = $this->square('good', 0.0, 0.05, 1);
        $bad = $this->square('bad', 0.3, 0.3, 2);
        $middle = function (Pass ...$passes): float {
            $body = (new Fuse)(new Workpiece(array_values($passes)), new FuseParameters(voxel: 1.0, detail: 'even'), new NoProgress)->workpiece->bodies[0]->geometry;
            self::assertInstanceOf(TriangleMesh::class, $body);
            // Away from the rim, where surfaces end.
            $inner = array_filter(array_chunk($body->positions, 3), fn (array $at) => abs($at[0]) < 7.0 && abs($at[1]) < 7.0);

            return array_sum(array_column($inner, 2)) / count($inner);
        };
        // Noise 6 to 1: weights 36 to 1.
        self::assertEqualsWithDelta(0.3 / 37.0, $middle($good, $bad), 0.02);
        self::assertEqualsWithDelta(0.15, $middle($this->square('a', 0.0, 0.05, 3), $this->square('b', 0.3, 0.05, 4)), 0.02, 'as good the one as the other');
    }
}
