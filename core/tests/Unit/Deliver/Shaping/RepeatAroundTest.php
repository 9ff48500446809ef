<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Deliver\Shaping;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\Refuses;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class RepeatAroundTest extends TestCase
{
    use Refuses;

    /** Rings of vertices from the middle outwards, mm; lobes begin beyond the last. */
    private const RADII = [6.0, 12.0, 18.0];

    private const HEIGHT = 5.0;

    /**
     * A wheel of eight lobes about Z, 3 mm high each, one of them flat where asked; with a bore, or solid to its axis.
     *
     * @param  float  $hub  how much the bore is wider on the side of X, as by a keyway
     */
    private static function wheel(?int $flat, bool $isBored, float $hub = 0.0): TriangleMesh
    {
        $n = 8 * 30;
        $positions = $faces = [];
        $rings = count(self::RADII) + 1;
        foreach ([0.0, self::HEIGHT] as $z) {
            for ($k = 0; $k < $n; $k++) {
                $angle = 2.0 * M_PI * $k / $n;
                $lobe = intdiv($k, 30) === $flat ? 0.0 : 3.0 * sin(4.0 * $angle) ** 2;
                foreach ([...self::RADII, 20.0 + $lobe] as $ring => $radius) {
                    $radius += $ring === 0 && cos($angle) > 0.9 ? $hub : 0.0;
                    array_push($positions, $radius * cos($angle), $radius * sin($angle), $z);
                }
            }
        }
        $at = fn (int $side, int $k, int $ring): int => ($side * $n + $k % $n) * $rings + $ring;
        $quad = function (int $a, int $b, int $c, int $d) use (&$faces): void {
            array_push($faces, $a, $b, $c, $a, $c, $d);
        };
        for ($k = 0; $k < $n; $k++) {
            for ($ring = 0; $ring + 1 < $rings; $ring++) {
                $quad($at(1, $k, $ring), $at(1, $k, $ring + 1), $at(1, $k + 1, $ring + 1), $at(1, $k + 1, $ring));
                $quad($at(0, $k, $ring), $at(0, $k + 1, $ring), $at(0, $k + 1, $ring + 1), $at(0, $k, $ring + 1));
            }
            $quad($at(0, $k, $rings - 1), $at(0, $k + 1, $rings - 1), $at(1, $k + 1, $rings - 1), $at(1, $k, $rings - 1));
            $isBored && $quad($at(0, $k, 0), $at(1, $k, 0), $at(1, $k + 1, 0), $at(0, $k + 1, 0));
        }
        if (! $isBored) {
            array_push($positions, 0.0, 0.0, 0.0, 0.0, 0.0, self::HEIGHT);
            for ($k = 0; $k < $n; $k++) {
                array_push($faces, 2 * $n * $rings, $at(0, $k + 1, 0), $at(0, $k, 0), 2 * $n * $rings + 1, $at(1, $k, 0), $at(1, $k + 1, 0));
            }
        }

        return TriangleMesh::fromFlat($positions, $faces);
    }

    /** @param  array<string, mixed>  $parameters */
    private static function repeated(TriangleMesh $mesh, array $parameters): Result
    {
        $result = Catalogue::operation('repeat-around')(new Workpiece(bodies: [Body::of('wheel', $mesh)]), Catalogue::parameters('repeat-around', $parameters), new NoProgress);
        $made = $result->workpiece->bodies[0]->placedMesh();
        $found = Inspection::of($made);
        self::assertTrue($found->closed);
        self::assertSame([], array_filter($found->faults));

        return $result;
    }

    private static function volume(TriangleMesh $mesh): float
    {
        return Measure::volume($mesh->positions, $mesh->faces);
    }

    #[Test]
    public function a_flat_lobe_becomes_like_the_others_and_is_told(): void
    {
        foreach ([true, false] as $isBored) {
            $result = self::repeated(self::wheel(5, $isBored), ['axis' => 'Z', 'count' => 8]);
            $made = $result->workpiece->bodies[0]->placedMesh();
            self::assertEqualsWithDelta(1.0, self::volume($made) / self::volume(self::wheel(null, $isBored)), 2e-4);
            // The flat lobe lies between 225 and 270 degrees; sectors need not begin with lobes.
            $told = array_values(array_filter($result->notes, fn (string $note) => str_starts_with($note, 'From ')));
            self::assertLessThanOrEqual(2, count($told));
            self::assertMatchesRegularExpression('/^From (2[0-4]\d|1[89]\d)/', $told[0]);
            // The middle of the flat lobe's wall: the new surface is nearest at the top and at the bottom.
            self::assertEqualsWithDelta(0.5 * self::HEIGHT, $result->after['most'], 0.15);
            self::assertLessThan(0.02, $result->after['rms']);
        }
    }

    #[Test]
    public function the_good_sector_keeps_its_vertices_and_evidence_and_all_else_is_made(): void
    {
        $wheel = self::wheel(5, true);
        $wheel = TriangleMesh::fromFlat($wheel->positions, $wheel->faces, array_fill(0, $wheel->vertexCount(), 7));
        $made = self::repeated($wheel, ['axis' => 'Z', 'count' => 8, 'sector' => ['from' => 40.0, 'to' => 85.0], 'blend' => 0.6])->workpiece->bodies[0]->placedMesh();
        $given = array_flip(array_map(fn (array $at) => serialize($at), array_chunk($wheel->positions, 3)));
        $kept = 0;
        foreach (array_chunk($made->positions, 3) as $v => $at) {
            $angle = rad2deg(atan2($at[1], $at[0]));
            if ($angle > 41.5 && $angle < 83.5) {
                self::assertSame(7, $made->support[$v]);
                self::assertArrayHasKey(serialize($at), $given);
                $kept++;
            }
        }
        self::assertSame(28 * 8, $kept, '28 steps of 1.5 degrees, four rings, two sides');
        // A strip between two sectors is 1.5 degrees wide at most, and so is a step of the wheel.
        foreach ($made->origin as $t => $origin) {
            $x = $y = 0.0;
            foreach ([0, 1, 2] as $c) {
                $x += $made->positions[3 * $made->faces[3 * $t + $c]];
                $y += $made->positions[3 * $made->faces[3 * $t + $c] + 1];
            }
            $angle = rad2deg(atan2($y, $x));
            if ($angle > 42.0 && $angle < 83.0) {
                self::assertSame(TriangleMesh::MEASURED, $origin);
            } elseif ($angle < 40.0 || $angle > 85.0) {
                self::assertSame(TriangleMesh::MADE, $origin);
            }
        }
    }

    #[Test]
    public function what_lies_within_a_radius_stays_to_the_bit(): void
    {
        $wheel = self::wheel(5, true, 1.5);
        $turn = RigidTransform::turn([0.3, 0.5, -0.8], 1.1)->then(RigidTransform::shift(100.0, -40.0, 7.0));
        $placed = $wheel->transformed($turn);
        $axis = ['point' => $turn->point([0.0, 0.0, 30.0]), 'direction' => $turn->direction([0.0, 0.0, 1.0])];
        $made = self::repeated($placed, ['axis' => $axis, 'count' => 8, 'beyond' => 15.0])->workpiece->bodies[0]->placedMesh();
        self::assertEqualsWithDelta(1.0, self::volume($made) / self::volume(self::wheel(null, true, 1.5)), 3e-4);
        $there = array_flip(array_map(fn (array $at) => serialize($at), array_chunk($made->positions, 3)));
        foreach (array_chunk($wheel->positions, 3) as $v => [$x, $y]) {
            if (hypot($x, $y) < 13.0) {
                self::assertArrayHasKey(serialize(array_slice($placed->positions, 3 * $v, 3)), $there);
            }
        }
    }

    #[Test]
    public function a_sector_may_span_several_places(): void
    {
        $result = self::repeated(self::wheel(5, true), ['axis' => 'Z', 'count' => 8, 'sector' => ['from' => 350, 'to' => 80]]);
        self::assertEqualsWithDelta(1.0, self::volume($result->workpiece->bodies[0]->placedMesh()) / self::volume(self::wheel(null, true)), 2e-4);
        self::assertStringContainsString('4 sectors of 90°', $result->headline);
    }

    #[Test]
    public function what_does_not_repeat_is_refused_in_words(): void
    {
        $wheel = self::wheel(5, true);
        $cup = MeshBuilder::without(MeshBuilder::icosphere(3, 10.0), 5.0);
        $corner = MeshBuilder::brick([30.0, 4.0, 4.0], 3)->transformed(RigidTransform::shift(20.0, 0.0, 0.0));
        self::assertRefused([
            [fn () => self::repeated($wheel, ['axis' => 'Z', 'count' => 8, 'sector' => ['from' => 0, 'to' => 50]]), 'no whole part of a turn of 8 places; it may span 45, 90, 180 degrees'],
            [fn () => self::repeated($wheel, ['axis' => 'Z', 'count' => 8, 'sector' => ['from' => 0]]), 'needs "from" and "to"'],
            [fn () => self::repeated($wheel, ['axis' => 'Z', 'count' => 8, 'from' => 1.0, 'sector' => ['from' => 0, 'to' => 45]]), 'say the same'],
            [fn () => self::repeated($wheel, ['axis' => 'Z', 'count' => 8, 'beyond' => 40.0]), 'does not reach beyond 40 mm'],
            [fn () => self::repeated($cup, ['axis' => 'Z', 'count' => 8]), 'is not closed'],
            [fn () => self::repeated($corner, ['axis' => 'Z', 'count' => 3, 'from' => 0.0]), 'cannot be repeated around Z from 0°'],
        ]);
    }
}
