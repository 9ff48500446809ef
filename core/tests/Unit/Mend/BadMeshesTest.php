<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Foundation\EmberstoneException;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\FillHoles;
use Emberstone\Core\Mend\FillHolesParameters;
use Emberstone\Core\Mend\Repair;
use Emberstone\Core\Mend\RepairParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Meshes that no scan should give, and that come in as files all the same. */
final class BadMeshesTest extends TestCase
{
    private static function repaired(TriangleMesh $mesh): Result
    {
        return (new Repair)(new Workpiece(bodies: [Body::of('body', $mesh)]), new RepairParameters, new NoProgress);
    }

    private static function meshOf(Result $result): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    /** A band of squares around a ring that comes back turned over: with one twist it has no outside; closed across as well, it is a Klein bottle. */
    private static function turnedOver(bool $isBottle): TriangleMesh
    {
        [$around, $across] = [48, 12];
        $p = $f = [];
        for ($i = 0; $i < $around; $i++) {
            $u = 2.0 * M_PI * $i / $around;
            for ($j = 0; $j < $across; $j++) {
                $v = 2.0 * M_PI * $j / $across;
                // Bottle: a figure of eight carried around, half a turn on its way. Band: a stretch, half a turn too.
                [$x, $z] = $isBottle ? [sin($v), sin(2.0 * $v)] : [2.0 * $j / ($across - 1) - 1.0, 0.0];
                [$x, $z] = [cos(0.5 * $u) * $x - sin(0.5 * $u) * $z, sin(0.5 * $u) * $x + cos(0.5 * $u) * $z];
                array_push($p, (10.0 + 3.0 * $x) * cos($u), (10.0 + 3.0 * $x) * sin($u), 3.0 * $z);
            }
        }
        $at = function (int $i, int $j) use ($around, $across, $isBottle): int {
            // Once around, the other end of the stretch or the other half of the eight is met.
            $j = $i < $around ? $j : ($isBottle ? $across - $j : $across - 1 - $j);

            return ($i % $around) * $across + ($j + $across) % $across;
        };
        for ($i = 0; $i < $around; $i++) {
            for ($j = 0; $j < ($isBottle ? $across : $across - 1); $j++) {
                array_push($f, $at($i, $j), $at($i + 1, $j), $at($i + 1, $j + 1), $at($i, $j), $at($i + 1, $j + 1), $at($i, $j + 1));
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    /** @return iterable<string, array{TriangleMesh}> */
    public static function meshes(): iterable
    {
        yield 'a band without an outside' => [self::turnedOver(false)];
        yield 'a Klein bottle' => [self::turnedOver(true)];
        yield 'one triangle' => [TriangleMesh::fromFlat([0.0, 0.0, 0.0, 5.0, 0.0, 0.0, 0.0, 5.0, 0.0], [0, 1, 2])];
        yield 'the same triangle from both sides' => [TriangleMesh::fromFlat([0.0, 0.0, 0.0, 5.0, 0.0, 0.0, 0.0, 5.0, 0.0], [0, 1, 2, 0, 2, 1])];
        yield 'faces of no area alone' => [TriangleMesh::fromFlat([0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 2.0, 0.0, 0.0, 3.0, 0.0, 0.0], [0, 1, 2, 1, 2, 3, 0, 0, 1])];
        yield 'every vertex in one place' => [TriangleMesh::fromFlat(array_fill(0, 30, 1.5), [0, 1, 2, 3, 4, 5, 6, 7, 8])];
        yield 'six faces at one edge' => [TriangleMesh::fromFlat([0.0, 0.0, 0.0, 0.0, 0.0, 4.0, ...array_merge(...array_map(fn (int $k) => [3.0 * cos($k), 3.0 * sin($k), 2.0], range(0, 5)))], array_merge(...array_map(fn (int $k) => [0, 1, 2 + $k], range(0, 5))))];
    }

    #[Test]
    #[DataProvider('meshes')]
    public function the_outcome_is_sound_or_what_is_left_is_said(TriangleMesh $mesh): void
    {
        $before = $mesh->positions;
        try {
            $result = self::repaired($mesh);
        } catch (EmberstoneException $refused) {
            self::assertMatchesRegularExpression('/[a-z]{3}.*\.$/', $refused->getMessage());
            self::assertSame($before, $mesh->positions, 'nothing is lost');

            return;
        }
        $inspection = Inspection::of(self::meshOf($result));
        self::assertTrue($inspection->faultCount() === 0 || $result->notes !== [], 'what is left is said');
        foreach (self::meshOf($result)->positions as $x) {
            self::assertTrue(is_finite($x));
        }
    }

    #[Test]
    public function a_surface_without_an_outside_is_named(): void
    {
        foreach ([true, false] as $isBottle) {
            self::assertStringContainsString('body has no outside', implode(' ', self::repaired(self::turnedOver($isBottle))->notes));
        }
        $ball = MeshBuilder::icosphere(2);
        $turned = TriangleMesh::fromFlat($ball->positions, [$ball->faces[0], $ball->faces[2], $ball->faces[1], ...array_slice($ball->faces, 3)]);
        self::assertSame([], self::repaired($turned)->notes);
    }

    #[Test]
    public function thousands_of_holes_are_closed(): void
    {
        // Of the faces of a finely meshed ball every thirtieth is missing.
        $ball = MeshBuilder::icosphere(6, 50.0);
        $open = $ball->withFaces(array_values(array_filter(range(0, $ball->faceCount() - 1), fn (int $t) => $t % 30 !== 7)));
        $holes = count(Inspection::of($open)->holes);
        self::assertGreaterThan(2500, $holes);
        $result = (new FillHoles)(new Workpiece(bodies: [Body::of('ball', $open)]), new FillHolesParameters('flat'), new NoProgress);
        $inspection = Inspection::of(self::meshOf($result));
        self::assertSame([true, 0], [$inspection->closed, $inspection->faultCount()]);
        self::assertSame($holes, $result->before['holes']);
    }

    #[Test]
    public function a_hole_through_whose_place_the_body_itself_passes_is_closed_or_said(): void
    {
        // A ball open at the top, and a rod of the same body that stands through the opening.
        $ball = MeshBuilder::without(MeshBuilder::icosphere(4, 20.0), 16.0);
        $rod = MeshBuilder::brick([2.0, 2.0, 30.0], 6);
        $p = $rod->positions;
        for ($o = 2, $n = count($p); $o < $n; $o += 3) {
            $p[$o] += 2.0;
        }
        $body = MeshBuilder::together($ball, $rod->withPositions($p));
        $result = (new FillHoles)(new Workpiece(bodies: [Body::of('ball', $body)]), new FillHolesParameters('tangent'), new NoProgress);
        $mesh = self::meshOf($result);
        $inspection = Inspection::of($mesh);
        // New surface is marked, and where it cannot but touch the rod that is told.
        self::assertSame(0, count($inspection->holes));
        self::assertNotSame([], array_keys($mesh->origin, TriangleMesh::FILLED, true));
        self::assertTrue($inspection->faults['selfIntersections'] === 0 || $result->notes !== [], 'crossings are said');
    }
}
