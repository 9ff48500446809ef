<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Lighten;

use Emberstone\Core\Deliver\SurfaceDistance;
use Emberstone\Core\Lighten\Decimate;
use Emberstone\Core\Lighten\DecimateParameters;
use Emberstone\Core\Lighten\Kernel\CollapsingMesh;
use Emberstone\Core\Lighten\Kernel\FlipEdges;
use Emberstone\Core\Mend\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\NoProgress;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class FlipEdgesTest extends TestCase
{
    /** A roof of two slopes that meet over the y axis, cut across the ridge: the quad's wrong diagonal. */
    private const ROOF = [0.0, 0.0, 1.0, 0.0, 2.0, 1.0, -1.0, 1.0, 0.0, 1.0, 1.0, 0.0];

    /** Four vertices, each standing for the planes of the slopes it lies on. */
    private function roof(): CollapsingMesh
    {
        $w = 1.0 / sqrt(2.0);
        $left = [-$w, 0.0, $w, -$w];
        $right = [$w, 0.0, $w, -$w];
        $roof = new CollapsingMesh(self::ROOF, [], [], []);
        // The planes are those of the roof in its own frame.
        $roof->vertices = [];
        foreach (array_chunk(self::ROOF, 3) as $v => $at) {
            array_push($roof->vertices, ...$at, ...[$v < 2 ? 2.0 : 1.0]);
        }
        foreach ([[$left, $right], [$left, $right], [$left], [$right]] as $v => $planes) {
            $sum = array_fill(0, 10, 0.0);
            foreach ($planes as [$a, $b, $c, $d]) {
                foreach ([$a * $a, $a * $b, $a * $c, $a * $d, $b * $b, $b * $c, $b * $d, $c * $c, $c * $d, $d * $d] as $k => $term) {
                    $sum[$k] += $term;
                }
            }
            array_splice($roof->quadrics, 8 * $v, 8, array_slice($sum, 0, 8));
            array_splice($roof->rests, 2 * $v, 2, array_slice($sum, 8));
        }

        return $roof;
    }

    #[Test]
    public function a_diagonal_across_a_ridge_is_laid_along_it(): void
    {
        $f = [2, 3, 1, 3, 2, 0];
        FlipEdges::run($this->roof(), $f, [0, 0]);
        $edges = [];
        for ($h = 0; $h < 6; $h++) {
            $edges[] = $f[$h].'-'.$f[$h % 3 === 2 ? $h - 2 : $h + 1];
        }
        self::assertContains('0-1', $edges);
        self::assertContains('1-0', $edges);
        self::assertNotContains('2-3', $edges);
    }

    #[Test]
    public function an_edge_between_measured_and_filled_stays(): void
    {
        $f = [2, 3, 1, 3, 2, 0];
        FlipEdges::run($this->roof(), $f, [TriangleMesh::MEASURED, TriangleMesh::FILLED]);
        self::assertSame([2, 3, 1, 3, 2, 0], $f);
    }

    #[Test]
    public function a_ball_made_lighter_stays_closed_whole_and_near(): void
    {
        $ball = MeshBuilder::icosphere(5, 10.0);
        $light = (new Decimate)((new Workpiece)->withBodies([Body::of('b', $ball)]), new DecimateParameters(faces: 1500), new NoProgress)->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $light);
        $inspection = Inspection::of($light);
        self::assertTrue($inspection->closed);
        self::assertSame(0, $inspection->faultCount());
        self::assertSame(0, $inspection->genus);
        self::assertLessThan(0.02, SurfaceDistance::compare($light, $ball, 20000)['rms']);
    }
}
