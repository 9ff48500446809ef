<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Algorithms\Icp\CorrespondenceCache;
use Emberstone\Core\Algorithms\Icp\IcpEquations;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Geometry\RigidTransform;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class IcpEquationsTest extends TestCase
{
    #[Test]
    public function tells_how_far_normals_that_agree_are_off_each_other(): void
    {
        // A grid on the plane z = 0 and the same 0.02 above it, its normals leaning 4 degrees; of every tenth 20, which is another surface for all that is known.
        $lower = $upper = $leaning = [];
        for ($i = 0; $i < 30; $i++) {
            for ($j = 0; $j < 30; $j++) {
                array_push($lower, 1.0 * $i, 1.0 * $j, 0.0);
                array_push($upper, 1.0 * $i, 1.0 * $j, 0.02);
                $lean = ($j % 10 === 0 ? 20.0 : 4.0) * M_PI / 180.0;
                array_push($leaning, sin($lean), 0.0, cos($lean));
            }
        }
        $tree = KdTree::of($lower);
        $straight = array_merge(...array_fill(0, 900, [0.0, 0.0, 1.0]));
        $place = RigidTransform::identity()->matrix;
        $pair = IcpEquations::pair($upper, $leaning, array_fill(0, 900, 1.0), $place, new CorrespondenceCache($tree), $straight, $place, $place, 1.0, 0.1);
        self::assertEqualsWithDelta(1.0 - cos(4.0 * M_PI / 180.0), $pair['tilt'], 1e-12);
        self::assertSame(900, $pair['pairs']);
        self::assertEqualsWithDelta(0.0199, sqrt($pair['squares'] / $pair['weight']), 2e-4);
    }
}
