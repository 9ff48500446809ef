<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Rims;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\FillHoles;
use Emberstone\Core\Mend\FillHolesParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** Holes with pieces of surface loose inside them. */
final class HoleIslandsTest extends TestCase
{
    private const RADIUS = 20.0;

    /**
     * A ball without the faces whose middle is so.
     *
     * @param  callable(float $x, float $y, float $z): bool  $isGone  asked of a direction
     */
    private static function ball(callable $isGone): TriangleMesh
    {
        $ball = MeshBuilder::icosphere(5, self::RADIUS);
        $keep = [];
        for ($t = 0; $t < $ball->faceCount(); $t++) {
            $at = [0.0, 0.0, 0.0];
            for ($k = 0; $k < 9; $k++) {
                $at[$k % 3] += $ball->positions[3 * $ball->faces[3 * $t + intdiv($k, 3)] + $k % 3] / 3.0 / self::RADIUS;
            }
            if (! $isGone(...$at)) {
                $keep[] = $t;
            }
        }

        return $ball->withFaces($keep);
    }

    private static function filled(TriangleMesh $mesh, FillHolesParameters $parameters): TriangleMesh
    {
        $filled = (new FillHoles)(new Workpiece(bodies: [Body::of('ball', $mesh)]), $parameters, new NoProgress)->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $filled);

        return $filled;
    }

    private static function farthestOff(TriangleMesh $mesh): float
    {
        return max(array_map(fn (array $at) => abs(sqrt($at[0] ** 2 + $at[1] ** 2 + $at[2] ** 2) - self::RADIUS), array_chunk($mesh->positions, 3)));
    }

    #[Test]
    #[TestWith(['flat', 1.6])]
    #[TestWith(['tangent', 0.3])]
    #[TestWith(['curved', 0.2])]
    public function an_island_becomes_part_of_the_surface_that_closes_the_hole(string $shape, float $atMost): void
    {
        // Between 12 and 30 degrees from the top nothing is there; the island is the cap above.
        $open = self::ball(fn (float $x, float $y, float $z) => $z < cos(deg2rad(12.0)) && $z > cos(deg2rad(30.0)));
        self::assertSame([2, 2], [count(Inspection::of($open)->holes), Inspection::of($open)->pieces]);
        $mesh = self::filled($open, new FillHolesParameters($shape));
        $inspection = Inspection::of($mesh);
        self::assertTrue($inspection->closed);
        self::assertSame([1, 0, 0], [$inspection->pieces, $inspection->genus, $inspection->faultCount()]);
        self::assertLessThan($atMost, self::farthestOff($mesh));
        self::assertSame($open->faceCount(), count(array_keys($mesh->origin, TriangleMesh::MEASURED, true)), 'all that was there is there');
    }

    #[Test]
    public function three_islands_in_one_hole_are_all_taken_in(): void
    {
        $islands = [[0.0, 10.0], [120.0, 16.0], [230.0, 14.0]];
        $open = self::ball(function (float $x, float $y, float $z) use ($islands): bool {
            foreach ($islands as [$around, $down]) {
                $at = [sin(deg2rad($down)) * cos(deg2rad($around)), sin(deg2rad($down)) * sin(deg2rad($around)), cos(deg2rad($down))];
                if ($x * $at[0] + $y * $at[1] + $z * $at[2] > cos(deg2rad(5.0))) {
                    return false;
                }
            }

            return $z > cos(deg2rad(30.0));
        });
        self::assertSame(4, Inspection::of($open)->pieces);
        $mesh = self::filled($open, new FillHolesParameters('curved'));
        $inspection = Inspection::of($mesh);
        self::assertTrue($inspection->closed);
        self::assertSame([1, 0, 0], [$inspection->pieces, $inspection->genus, $inspection->faultCount()]);
        self::assertLessThan(0.4, self::farthestOff($mesh));
    }

    #[Test]
    public function pieces_that_lie_in_no_hole_and_rims_that_shall_stay_open_are_let_be(): void
    {
        // The lower half of the ball, and a cap high above the opening of another one.
        $cup = self::ball(fn (float $x, float $y, float $z) => $z > cos(deg2rad(30.0)));
        $cap = self::ball(fn (float $x, float $y, float $z) => $z < cos(deg2rad(12.0)));
        $p = $cap->positions;
        for ($o = 2, $n = count($p); $o < $n; $o += 3) {
            $p[$o] += 30.0;
        }
        $both = MeshBuilder::together($cup, $cap->withPositions($p));
        self::assertSame(2, Inspection::of(self::filled($both, new FillHolesParameters('flat')))->pieces, 'each by itself');

        $open = self::ball(fn (float $x, float $y, float $z) => $z < cos(deg2rad(12.0)) && $z > cos(deg2rad(30.0)));
        $rim = self::RADIUS * sin(deg2rad(30.0));
        $kept = self::filled($open, new FillHolesParameters('flat', leaveOpen: [[$rim, 0.0, self::RADIUS * cos(deg2rad(30.0))]]));
        self::assertSame([2, 1], [Inspection::of($kept)->pieces, count(Inspection::of($kept)->holes)]);
    }
}
