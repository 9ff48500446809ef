<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Property;

use Emberstone\Core\Algorithms\Field\DualSurface;
use Emberstone\Core\Algorithms\Field\Sharpen;
use Emberstone\Core\Algorithms\Field\Volume;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class SurfaceTest extends TestCase
{
    /** White noise holds every ambiguous pattern many times over; the rim of the block is outside, so the surface must close. */
    #[Test]
    public function the_surface_of_random_signs_is_always_a_closed_manifold(): void
    {
        for ($seed = 1; $seed <= 12; $seed++) {
            $gen = new Gen($seed);
            $volume = new Volume(1.0, 0.0, 0.0, 0.0, 2, 2, 2);
            for ($b = 0; $b < 8; $b++) {
                $volume->top[$b] = $b;
                $volume->blocks[] = $b;
                $z = 8 * ($b & 1);
                $y = 8 * ($b >> 1 & 1);
                $x = 8 * ($b >> 2);
                for ($k = 0; $k < 512; $k++) {
                    $at = [$x + ($k & 7), $y + ($k >> 3 & 7), $z + ($k >> 6)];
                    $volume->distance[] = min($at) === 0 || max($at) === 15 ? 1.0 : $gen->float(-1.0, 1.0);
                }
            }
            $volume->weight = $volume->seen = array_fill(0, 4096, 1);
            $surface = DualSurface::extract($volume);
            $mesh = TriangleMesh::fromFlat($surface['positions'], Sharpen::triangles($surface['quads'], $surface['positions']));
            $inspection = Inspection::of($mesh);
            self::assertTrue($inspection->closed, "seed $seed: ".json_encode($inspection->faults));
            self::assertGreaterThan(0.0, $inspection->volume, "seed $seed");
        }
    }
}
