<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Rims;

use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\FillHoles;
use Emberstone\Core\Mend\FillHolesParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\MeshBuilder;
use Emberstone\Core\Tests\Support\SlowCheck;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** Holes that are no plain rings: slits, holes that touch, rims that are themselves faulty. */
final class CleanRimsTest extends TestCase
{
    private const RADIUS = 20.0;

    /** @param  list<array{float, float, float}>|null  $rims */
    private static function fill(TriangleMesh $mesh, string $shape, ?array $rims = null): Result
    {
        return (new FillHoles)(new Workpiece(bodies: [Body::of('b', $mesh)]), new FillHolesParameters($shape, rims: $rims), new NoProgress);
    }

    private static function mesh(Result $result): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    private static function assertSound(TriangleMesh $mesh, float $volume, float $within): void
    {
        self::assertSame([], array_filter(SlowCheck::faults($mesh)));
        $report = Inspection::of($mesh);
        self::assertSame([true, 1, 0], [$report->closed, $report->pieces, $report->faultCount()]);
        self::assertEqualsWithDelta($volume, $report->volume, $within * $volume);
    }

    private static function ball(): TriangleMesh
    {
        return MeshBuilder::icosphere(4, self::RADIUS);
    }

    private static function volume(): float
    {
        return Inspection::of(self::ball())->volume;
    }

    /**
     * The ball cut open along its edges between z = -9 and 9 near the plane x = 0, in front.
     *
     * @param  float  $apart  how far the two sides of the slit are moved from each other
     */
    private static function slit(float $apart): TriangleMesh
    {
        $ball = self::ball();
        [$p, $f] = [$ball->positions, $ball->faces];
        // Faces on either side of the plane; vertices between the two sides are doubled, but not at the ends.
        $left = fn (int $t): bool => $p[3 * $f[$t]] + $p[3 * $f[$t + 1]] + $p[3 * $f[$t + 2]] < 0.0;
        $sides = [];
        for ($t = 0; $t < count($f); $t += 3) {
            foreach ([0, 1, 2] as $k) {
                $sides[$f[$t + $k]][(int) $left($t)] = true;
            }
        }
        $twice = [];
        foreach ($sides as $v => $of) {
            if (count($of) === 2 && abs($p[3 * $v + 2]) < 9.0 && $p[3 * $v + 1] > 0.0) {
                $twice[$v] = intdiv(count($p), 3);
                array_push($p, $p[3 * $v] - $apart / 2, $p[3 * $v + 1], $p[3 * $v + 2]);
                $p[3 * $v] += $apart / 2;
            }
        }
        for ($t = 0; $t < count($f); $t += 3) {
            for ($k = $left($t) ? 0 : 3; $k < 3; $k++) {
                $f[$t + $k] = $twice[$f[$t + $k]] ?? $f[$t + $k];
            }
        }

        return TriangleMesh::fromFlat($p, $f);
    }

    #[Test]
    #[TestWith(['flat'])]
    #[TestWith(['tangent'])]
    #[TestWith(['curved'])]
    public function a_slit_without_a_width_is_sewn_up_and_not_one_face_is_made_up(string $shape): void
    {
        $slit = self::slit(0.0);
        self::assertFalse(Inspection::of($slit)->closed);
        $result = self::fill($slit, $shape);
        $mesh = self::mesh($result);
        self::assertSound($mesh, self::volume(), 1e-12);
        self::assertSame([self::ball()->vertexCount(), self::ball()->faceCount()], [$mesh->vertexCount(), $mesh->faceCount()]);
        self::assertSame(['holes' => 0, 'faces' => 0], $result->after);
    }

    #[Test]
    #[TestWith(['flat', 0.02])]
    #[TestWith(['tangent', 0.02])]
    #[TestWith(['curved', 0.02])]
    #[TestWith(['tangent', 0.0005])]
    public function a_very_long_thin_slit_closes_with_its_sides_where_they_are(string $shape, float $apart): void
    {
        $slit = self::slit($apart);
        $mesh = self::mesh(self::fill($slit, $shape));
        self::assertSound($mesh, self::volume(), 1e-3);
        self::assertSame($slit->positions, array_slice($mesh->positions, 0, count($slit->positions)));
        for ($v = $slit->vertexCount(); $v < $mesh->vertexCount(); $v++) {
            self::assertEqualsWithDelta(self::RADIUS, sqrt($mesh->positions[3 * $v] ** 2 + $mesh->positions[3 * $v + 1] ** 2 + $mesh->positions[3 * $v + 2] ** 2), 0.1);
        }
    }

    #[Test]
    public function sides_cut_into_unlike_edges_are_sewn_up_too(): void
    {
        // Two halves of a box of 60 by 20 by 20, one closed side each missing; along the seam one has three edges where the other has two.
        $half = function (int $cells, float $from): TriangleMesh {
            $brick = MeshBuilder::brick([30.0, 20.0, 20.0], $cells);
            $p = $brick->positions;
            foreach (range(0, $brick->vertexCount() - 1) as $v) {
                $p[3 * $v] += $from;
            }
            $keep = array_filter(range(0, $brick->faceCount() - 1), fn (int $t) => array_filter(array_slice($brick->faces, 3 * $t, 3), fn (int $v) => abs($p[3 * $v] - 30.0) > 1e-9) !== []);

            return $brick->withPositions($p)->withFaces(array_values($keep));
        };
        $mesh = self::mesh(self::fill(MeshBuilder::together($half(2, 0.0), $half(3, 30.0)), 'flat'));
        self::assertSound($mesh, 60.0 * 20.0 * 20.0, 1e-12);
        self::assertSame([], array_filter($mesh->origin));
    }

    #[Test]
    #[TestWith(['flat'])]
    #[TestWith(['tangent'])]
    #[TestWith(['curved'])]
    public function holes_that_touch_in_a_vertex_are_closed_each(string $shape): void
    {
        $ball = self::ball();
        // All faces around the ends of an edge but those at the vertex between them.
        $v = $ball->vertexCount() - 1;
        $around = fn (int $w): array => array_filter(range(0, $ball->faceCount() - 1), fn (int $t) => in_array($w, array_slice($ball->faces, 3 * $t, 3), true));
        $ring = array_values(array_unique(array_merge(...array_map(fn (int $t) => array_slice($ball->faces, 3 * $t, 3), $around($v)))));
        $far = array_values(array_diff($ring, [$v]));
        $one = $far[0];
        // The vertex across from the first: no common face with it.
        $other = array_values(array_filter($far, fn (int $w) => array_intersect($around($one), $around($w)) === []))[0];
        $gone = array_flip([...$around($one), ...$around($other)]);
        $open = $ball->withFaces(array_values(array_filter(range(0, $ball->faceCount() - 1), fn (int $t) => ! isset($gone[$t]))));
        self::assertSame(1, Inspection::of($open)->faults['nonManifoldVertices']);
        $result = self::fill($open, $shape);
        self::assertSame([2, 0], [$result->before['holes'], $result->after['holes']]);
        self::assertSound(self::mesh($result), self::volume(), 2e-3);
    }

    /** @return iterable<string, array{callable(list<float> $p, list<int> $f, list<int> $rim): array{array<int, float>, array<int, int>}}> */
    public static function faulty(): iterable
    {
        $inner = function (array $f, array $rim, int $k): int {
            for ($h = 0; $h < count($f); $h++) {
                if ($f[$h] === $rim[$k] && $f[$h % 3 === 2 ? $h - 2 : $h + 1] === $rim[$k + 1]) {
                    return $f[$h % 3 === 0 ? $h + 2 : $h - 1];
                }
            }
            throw new \LogicException('no such edge');
        };
        // A tooth on the rim's edge k that lies back over the surface.
        $folded = function (array $p, array $f, array $rim, int $k = 0) use ($inner): array {
            [$a, $b, $c] = [$rim[$k], $rim[$k + 1], $inner($f, $rim, $k)];
            $n = intdiv(count($p), 3);

            return [[...$p, $p[3 * $c] * 1.01, $p[3 * $c + 1] * 1.01, $p[3 * $c + 2] * 1.01], [...$f, $b, $a, $n]];
        };
        $double = fn (array $p, array $f, array $rim, int $k = 4): array => [$p, [...$f, $rim[$k], $rim[$k + 1], $inner($f, $rim, $k)]];
        // A face without height on the rim's edge k: a vertex in its middle.
        $sliver = function (array $p, array $f, array $rim, int $k = 8): array {
            [$a, $b] = [$rim[$k], $rim[$k + 1]];
            $n = intdiv(count($p), 3);

            return [[...$p, ($p[3 * $a] + $p[3 * $b]) / 2, ($p[3 * $a + 1] + $p[3 * $b + 1]) / 2, ($p[3 * $a + 2] + $p[3 * $b + 2]) / 2], [...$f, $b, $a, $n]];
        };
        // A face that stands on an edge between two others, just inside the rim.
        $fin = function (array $p, array $f, array $rim, int $k = 12) use ($inner): array {
            [$a, $c] = [$rim[$k], $inner($f, $rim, $k)];
            $n = intdiv(count($p), 3);

            return [[...$p, 1.1 * $p[3 * $c], 1.1 * $p[3 * $c + 1], 1.1 * $p[3 * $c + 2]], [...$f, $a, $c, $n]];
        };
        // The rim's vertex once more in the same place, and a face between: its edge has no length.
        $twice = function (array $p, array $f, array $rim, int $k = 16): array {
            [$a, $b] = [$rim[$k], $rim[$k + 1]];
            $n = intdiv(count($p), 3);

            return [[...$p, $p[3 * $a], $p[3 * $a + 1], $p[3 * $a + 2]], [...$f, $b, $a, $n]];
        };
        yield 'a tooth that lies back over the surface' => [$folded];
        yield 'a face twice' => [$double];
        yield 'a face without height' => [$sliver];
        yield 'a fin' => [$fin];
        yield 'an edge without length' => [$twice];
        yield 'all of them' => [function (array $p, array $f, array $rim) use ($folded, $double, $sliver, $fin, $twice): array {
            foreach ([$folded, $double, $sliver, $fin, $twice] as $spoil) {
                [$p, $f] = $spoil($p, $f, $rim);
            }

            return [$p, $f];
        }];
    }

    #[Test]
    #[DataProvider('faulty')]
    public function a_faulty_rim_is_cleaned_before_it_is_spanned(callable $spoil): void
    {
        $open = MeshBuilder::without(self::ball(), 14.0);
        $rim = self::rim($open);
        [$p, $f] = $spoil($open->positions, $open->faces, $rim);
        $clean = self::mesh(self::fill($open, 'curved'));
        foreach (['flat', 'tangent', 'curved'] as $shape) {
            $mesh = self::mesh(self::fill(TriangleMesh::fromFlat($p, $f), $shape));
            self::assertSound($mesh, Inspection::of($clean)->volume, $shape === 'curved' ? 1e-3 : 0.1);
        }
    }

    #[Test]
    public function what_is_at_a_rim_that_stays_open_stays_too(): void
    {
        // The same tooth at a hole on top and at one below; the one on top is picked.
        $below = fn (TriangleMesh $mesh): TriangleMesh => $mesh->withPositions(array_map(fn (float $x) => -$x, $mesh->positions));
        $turned = $below(MeshBuilder::without($below(MeshBuilder::without(self::ball(), 14.0)), 14.0));
        [$p, $f] = [$turned->positions, $turned->faces];
        foreach (Inspection::of($turned)->holes as $hole) {
            $rim = self::rim($turned, $hole['centre'][2] > 0.0 ? 1 : -1);
            [$p, $f] = iterator_to_array(self::faulty())['a tooth that lies back over the surface'][0]($p, $f, $rim);
        }
        $spoiled = TriangleMesh::fromFlat($p, $f);
        $result = self::fill($spoiled, 'curved', [array_slice($turned->positions, 3 * self::rim($turned, 1)[5], 3)]);
        self::assertSame([2, 1], [$result->before['holes'], $result->after['holes']]);
        $mesh = self::mesh($result);
        $lowest = fn (TriangleMesh $of): array => array_values(array_filter(array_chunk($of->positions, 3), fn (array $at) => $at[2] < 0.0));
        self::assertSame($lowest($spoiled), $lowest($mesh));
        self::assertCount(count(array_filter(array_chunk($spoiled->positions, 3), fn (array $at) => $at[2] > 0.0 && $at[2] < 13.0)), array_filter(array_chunk($mesh->positions, 3), fn (array $at) => $at[2] > 0.0 && $at[2] < 13.0));
        self::assertSame(['1 rim stays open.', 'One measured face at a rim was replaced, where it was faulty or a patch passed through it.'], $result->notes);
    }

    /** @return list<int> the vertices of the only rim, or of that above (1) or below (-1) the middle, in its own direction */
    private static function rim(TriangleMesh $mesh, int $side = 0): array
    {
        $next = [];
        foreach ($mesh->faces as $h => $v) {
            $next["$v ".$mesh->faces[$h % 3 === 2 ? $h - 2 : $h + 1]] = $v;
        }
        $onward = [];
        foreach (array_keys($next) as $edge) {
            [$a, $b] = array_map(intval(...), explode(' ', $edge));
            if (! isset($next["$b $a"]) && $side * $mesh->positions[3 * $a + 2] >= 0.0) {
                $onward[$a] = $b;
            }
        }
        $rim = [array_key_first($onward)];
        while (($v = $onward[end($rim)]) !== $rim[0]) {
            $rim[] = $v;
        }

        return $rim;
    }
}
