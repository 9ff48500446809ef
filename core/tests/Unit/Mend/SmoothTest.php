<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\Smooth;
use Emberstone\Core\Mend\SmoothParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class SmoothTest extends TestCase
{
    private function smooth(TriangleMesh $mesh, SmoothParameters $parameters): TriangleMesh
    {
        $smooth = (new Smooth)((new Workpiece)->withBodies([Body::of('b', $mesh)]), $parameters, new NoProgress)->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $smooth);

        return $smooth;
    }

    private function shaken(TriangleMesh $mesh, float $by, int $seed): TriangleMesh
    {
        $gen = new Gen($seed);

        return $mesh->withPositions(array_map(fn (float $x) => $x + $gen->float(-$by, $by), $mesh->positions));
    }

    private function roughness(TriangleMesh $ball): float
    {
        $sum = 0.0;
        for ($v = 0; $v < $ball->vertexCount(); $v++) {
            $sum += (sqrt($ball->positions[3 * $v] ** 2 + $ball->positions[3 * $v + 1] ** 2 + $ball->positions[3 * $v + 2] ** 2) - 1.0) ** 2;
        }

        return sqrt($sum / $ball->vertexCount());
    }

    #[Test]
    #[TestWith([true, 0.6])]
    #[TestWith([false, 0.5])]
    public function noise_on_a_ball_shrinks_and_the_volume_stays(bool $keepEdges, float $share): void
    {
        $rough = $this->shaken(MeshBuilder::icosphere(4), 0.01, 5);
        $smooth = $this->smooth($rough, new SmoothParameters(1.0, $keepEdges));
        self::assertLessThan($share * $this->roughness($rough), $this->roughness($smooth));
        self::assertEqualsWithDelta(Inspection::of($rough)->volume, Inspection::of($smooth)->volume, 0.03);
        self::assertSame($rough->faces, $smooth->faces);
    }

    #[Test]
    public function a_square_edge_stands_when_edges_are_kept_and_rounds_when_not(): void
    {
        // Two square plates, 20 by 10 cells each, that meet at a right angle along x.
        $p = $f = [];
        for ($j = 0; $j <= 20; $j++) {
            for ($i = 0; $i <= 20; $i++) {
                array_push($p, (float) $i, $j < 10 ? 10.0 - $j : 0.0, $j > 10 ? $j - 10.0 : 0.0);
                if ($i < 20 && $j < 20) {
                    $a = 21 * $j + $i;
                    array_push($f, $a, $a + 1, $a + 22, $a, $a + 22, $a + 21);
                }
            }
        }
        $exact = TriangleMesh::fromFlat($p, $f);
        $rough = $this->shaken($exact, 0.08, 9);
        $off = function (TriangleMesh $mesh): float {
            $worst = 0.0;
            for ($i = 4; $i <= 16; $i++) {
                $o = 3 * (210 + $i);
                $worst = max($worst, sqrt($mesh->positions[$o + 1] ** 2 + $mesh->positions[$o + 2] ** 2));
            }

            return $worst;
        };
        self::assertLessThan(0.15, $off($this->smooth($rough, new SmoothParameters(1.0, true))));
        self::assertGreaterThan(0.25, $off($this->smooth($exact, new SmoothParameters(1.0, false))));
        $kept = $this->smooth($exact, new SmoothParameters(1.0, true));
        self::assertEqualsWithDelta($exact->positions, $kept->positions, 1e-9, 'without noise nothing moves');
    }

    #[Test]
    public function no_vertex_moves_farther_than_allowed_and_rims_stay(): void
    {
        $rough = $this->shaken(MeshBuilder::without(MeshBuilder::icosphere(3), 0.5), 0.05, 2);
        $smooth = $this->smooth($rough, new SmoothParameters(1.0, false, 0.004));
        $moved = 0.0;
        for ($v = 0; $v < $rough->vertexCount(); $v++) {
            $d = 0.0;
            for ($k = 0; $k < 3; $k++) {
                $d += ($smooth->positions[3 * $v + $k] - $rough->positions[3 * $v + $k]) ** 2;
            }
            $moved = max($moved, sqrt($d));
        }
        self::assertLessThanOrEqual(0.004, $moved);
        self::assertGreaterThan(0.0039, $moved);
        self::assertSame(Inspection::of($rough)->holes, Inspection::of($smooth)->holes);
    }

    #[Test]
    public function no_strength_changes_nothing(): void
    {
        $ball = MeshBuilder::icosphere(2);
        self::assertSame($ball->positions, $this->smooth($ball, new SmoothParameters(0.0))->positions);
        self::assertSame($ball->positions, $this->smooth($ball, new SmoothParameters(0.0, false))->positions);
    }
}
