<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\Despike;
use Emberstone\Core\Mend\DespikeParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class DespikeTest extends TestCase
{
    private function despiked(TriangleMesh $mesh, float $sensitivity = 0.5): Result
    {
        return (new Despike)(new Workpiece(bodies: [Body::of('b', $mesh)]), new DespikeParameters($sensitivity), new NoProgress);
    }

    private function mesh(Result $result): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    /** @param  array<int, float>  $heights  by vertex, along the radius */
    private function spiked(TriangleMesh $ball, array $heights): TriangleMesh
    {
        $p = $ball->positions;
        foreach ($heights as $v => $h) {
            for ($c = 0; $c < 3; $c++) {
                $p[3 * $v + $c] *= 1.0 + $h;
            }
        }

        return $ball->withPositions($p);
    }

    #[Test]
    public function spikes_that_nothing_holds_around_are_told(): void
    {
        // Every vertex of a tetrahedron is a spike, and nothing is left to lay them into.
        $tetrahedron = TriangleMesh::fromFlat([1.0, 1.0, 1.0, 1.0, -1.0, -1.0, -1.0, 1.0, -1.0, -1.0, -1.0, 1.0], [0, 1, 2, 0, 3, 1, 0, 2, 3, 1, 3, 2]);
        $result = $this->despiked($tetrahedron, 0.9);
        self::assertSame(4, $result->before['spikes']);
        self::assertSame(Outcome::StoppedEarly, $result->outcome);
        self::assertStringStartsWith('Some spikes of b could not be laid down smoothly', $result->notes[1]);
    }

    #[Test]
    #[TestWith([1])]
    #[TestWith([2])]
    #[TestWith([3])]
    public function needles_out_and_in_go_back_to_the_ball_and_nothing_else_moves(int $seed): void
    {
        $gen = new Gen($seed);
        $ball = MeshBuilder::icosphere(4);
        $heights = [];
        for ($k = 0; $k < 25; $k++) {
            $v = $gen->int(0, $ball->vertexCount() - 1);
            // Of needles side by side the vertex between them looks like one too.
            $apart = array_map(fn (int $w) => Vector3::length(Vector3::minus(array_slice($ball->positions, 3 * $v, 3), array_slice($ball->positions, 3 * $w, 3))), array_keys($heights));
            if (min([1.0, ...$apart]) > 0.3) {
                $heights[$v] = $gen->float(0.15, 0.5) * ($k % 2 === 0 ? 1.0 : -1.0);
            }
        }
        self::assertGreaterThan(12, count($heights));
        $spiked = $this->spiked($ball, $heights);
        $result = $this->despiked($spiked);
        $mesh = $this->mesh($result);
        self::assertSame(count($heights), $result->before['spikes']);
        self::assertSame($spiked->faces, $mesh->faces);
        for ($v = 0; $v < $mesh->vertexCount(); $v++) {
            $at = array_slice($mesh->positions, 3 * $v, 3);
            if (isset($heights[$v])) {
                self::assertEqualsWithDelta(1.0, sqrt($at[0] ** 2 + $at[1] ** 2 + $at[2] ** 2), 0.004, "needle $v of ".$heights[$v]);
            } else {
                self::assertSame(array_slice($ball->positions, 3 * $v, 3), $at, 'to the last bit');
            }
        }
        self::assertEqualsWithDelta(max(array_map(abs(...), $heights)), $result->after['maxShift'], 0.004);
        foreach ($mesh->origin as $t => $mark) {
            $touched = array_filter(array_slice($mesh->faces, 3 * $t, 3), fn (int $v) => isset($heights[$v])) !== [];
            self::assertSame($touched ? TriangleMesh::RESHAPED : TriangleMesh::MEASURED, $mark);
        }
    }

    #[Test]
    public function more_sensitivity_catches_lower_spikes(): void
    {
        $ball = MeshBuilder::icosphere(4);
        $spiked = $this->spiked($ball, [100 => 0.02, 300 => 0.04, 500 => 0.07, 700 => 0.12, 900 => 0.3]);
        $caught = array_map(fn (float $s) => $this->despiked($spiked, $s)->before['spikes'], [0.0, 0.25, 0.5, 0.75, 1.0]);
        $rising = $caught;
        sort($rising);
        self::assertSame($rising, $caught, 'never fewer');
        self::assertLessThan($caught[4], $caught[0]);
        self::assertGreaterThanOrEqual(1, $caught[0], 'the needle is caught at any setting');
    }

    #[Test]
    #[TestWith([0.5])]
    #[TestWith([1.0])]
    public function edges_and_corners_of_a_block_are_no_spikes(float $sensitivity): void
    {
        // A block of squares, turned anyhow.
        $n = 8;
        $p = $f = [];
        $id = [];
        $vertex = function (int $x, int $y, int $z) use (&$id, &$p): int {
            if (! isset($id["$x $y $z"])) {
                $id["$x $y $z"] = intdiv(count($p), 3);
                array_push($p, (float) $x, (float) $y, (float) $z);
            }

            return $id["$x $y $z"];
        };
        for ($i = 0; $i < $n; $i++) {
            for ($j = 0; $j < $n; $j++) {
                foreach ([0, 1, 2] as $axis) {
                    foreach ([0, $n] as $side) {
                        $corner = function (int $a, int $b) use ($axis, $side, $vertex): int {
                            $at = [$a, $b];
                            array_splice($at, $axis, 0, [$side]);

                            return $vertex(...$at);
                        };
                        $quad = [$corner($i, $j), $corner($i + 1, $j), $corner($i + 1, $j + 1), $corner($i, $j + 1)];
                        // The middle axis turns the pair of the others round.
                        $quad = ($side > 0) === ($axis !== 1) ? $quad : array_reverse($quad);
                        array_push($f, $quad[0], $quad[1], $quad[2], $quad[0], $quad[2], $quad[3]);
                    }
                }
            }
        }
        $block = TriangleMesh::fromFlat($p, $f)->transformed(RigidTransform::turn([1.0, 2.0, 0.5], 0.6));
        self::assertTrue(Inspection::of($block)->closed);
        $result = $this->despiked($block, $sensitivity);
        self::assertSame('no spike', $result->headline);
        self::assertSame($block, $this->mesh($result));
    }

    #[Test]
    public function the_border_of_an_open_mesh_is_left_alone(): void
    {
        $open = MeshBuilder::without(MeshBuilder::icosphere(3), 0.4);
        $rim = Inspection::of($open)->holes[0];
        self::assertGreaterThan(10, $rim['edges']);
        self::assertSame(0, $this->despiked($open, 1.0)->before['spikes']);
    }
}
