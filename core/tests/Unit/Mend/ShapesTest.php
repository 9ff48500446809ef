<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Algorithms\Remeshing\RimQuadric;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mend\FillHoles;
use Emberstone\Core\Mend\FillHolesParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** How near filled surface comes to what was there. */
final class ShapesTest extends TestCase
{
    private function filled(TriangleMesh $open, string $shape): TriangleMesh
    {
        $mesh = (new FillHoles)(new Workpiece(bodies: [Body::of('b', $open)]), new FillHolesParameters($shape), new NoProgress)->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    /** @return iterable<string, array{int, float, string, float}> level of the ball, height of the cut, shape, share of the hole's radius */
    public static function caps(): iterable
    {
        foreach ([[4, 0.8], [5, 0.8], [5, 0.6], [4, 0.7], [5, 0.3]] as [$level, $cut]) {
            yield "level $level, cut at $cut, curved" => [$level, $cut, 'curved', 0.001];
            yield "level $level, cut at $cut, tangent" => [$level, $cut, 'tangent', $cut < 0.5 ? 0.25 : 0.08];
        }
    }

    #[Test]
    #[DataProvider('caps')]
    // Of the true shape tangent knows the slope only: a thin plate over a circle, bent up by a steep rim, is no ball.
    public function a_cap_cut_off_a_ball_comes_back(int $level, float $cut, string $shape, float $share): void
    {
        $open = MeshBuilder::without(MeshBuilder::icosphere($level, 20.0), 20.0 * $cut);
        $mesh = $this->filled($open, $shape);
        $most = 0.0;
        for ($v = $open->vertexCount(); $v < $mesh->vertexCount(); $v++) {
            [$x, $y, $z] = array_slice($mesh->positions, 3 * $v, 3);
            $most = max($most, abs(sqrt($x * $x + $y * $y + $z * $z) - 20.0));
        }
        self::assertLessThan($share * 20.0 * sqrt(1.0 - $cut * $cut), $most);
        self::assertTrue(Inspection::of($mesh)->closed);
        self::assertSame(0, Inspection::of($mesh)->faultCount());
    }

    #[Test]
    public function a_long_rim_is_filled_more_coarsely_inwards_and_as_true(): void
    {
        // A band of a ball, six rows of 1,200 edges of half a millimetre.
        [$n, $rows] = [1200, 6];
        $radius = 0.25 * $n / M_PI / 0.6;
        $p = $f = [];
        for ($k = 0; $k < $rows; $k++) {
            $down = asin(0.6) + 0.45 * $k / $radius;
            for ($i = 0; $i < $n; $i++) {
                $turn = 2.0 * M_PI * ($i + 0.5 * ($k % 2)) / $n;
                array_push($p, $radius * sin($down) * cos($turn), $radius * sin($down) * sin($turn), $radius * cos($down));
                [$a, $b, $c, $d] = [$k * $n + $i, $k * $n + ($i + 1) % $n, ($k + 1) * $n + $i, ($k + 1) * $n + ($i + 1) % $n];
                array_push($f, ...$k === $rows - 1 ? [] : ($k % 2 === 0 ? [$a, $c, $b, $b, $c, $d] : [$a, $c, $d, $a, $d, $b]));
            }
        }
        $open = TriangleMesh::fromFlat($p, $f);
        $fill = new FillHolesParameters('curved', rims: [[$p[0], $p[1], $p[2]]]);
        $mesh = (new FillHoles)(new Workpiece(bodies: [Body::of('b', $open)]), $fill, new NoProgress)->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);
        // Even triangles of half a millimetre would be 60,000.
        self::assertLessThan(15000, $mesh->vertexCount() - $open->vertexCount());
        for ($v = $open->vertexCount(), $most = 0.0; $v < $mesh->vertexCount(); $v++) {
            [$x, $y, $z] = array_slice($mesh->positions, 3 * $v, 3);
            $most = max($most, abs(sqrt($x * $x + $y * $y + $z * $z) - $radius));
        }
        self::assertLessThan(0.02 * 0.6 * $radius, $most);
        self::assertSame([1, 0], [count(Inspection::of($mesh)->holes), Inspection::of($mesh)->faultCount()]);
    }

    #[Test]
    public function curved_goes_on_over_a_pipe_and_tangent_nearly(): void
    {
        // A piece of a pipe wall with a hole of 10 mm, radius 15.
        $p = $f = [];
        for ($i = 0; $i <= 60; $i++) {
            for ($j = 0; $j <= 40; $j++) {
                $angle = 0.04 * ($i - 30);
                array_push($p, 15.0 * sin($angle), 0.6 * $j - 12.0, 15.0 * cos($angle));
                $a = 41 * $i + $j;
                if ($i < 60 && $j < 40 && ((0.6 * ($i - 29.5)) ** 2 + (0.6 * ($j - 19.5)) ** 2 > 25.0)) {
                    array_push($f, $a, $a + 41, $a + 42, $a, $a + 42, $a + 1);
                }
            }
        }
        $open = TriangleMesh::fromFlat($p, $f)->withFaces(range(0, intdiv(count($f), 3) - 1));
        $inner = Inspection::of($open)->holes[1];
        foreach (['curved' => 0.01, 'tangent' => 0.04, 'flat' => 0.25] as $shape => $share) {
            $mesh = (new FillHoles)(new Workpiece(bodies: [Body::of('b', $open)]), new FillHolesParameters($shape, rims: [$inner['outline'][0]]), new NoProgress)->workpiece->bodies[0]->geometry;
            self::assertInstanceOf(TriangleMesh::class, $mesh);
            $most = 0.0;
            for ($v = $open->vertexCount(); $v < $mesh->vertexCount(); $v++) {
                $most = max($most, abs(sqrt($mesh->positions[3 * $v] ** 2 + $mesh->positions[3 * $v + 2] ** 2) - 15.0));
            }
            self::assertLessThan($share * 5.0, $most, $shape);
            $shape !== 'flat' || self::assertGreaterThan(0.3, $most, 'a flat one cuts the corner');
        }
    }

    #[Test]
    #[TestWith(['sphere'])]
    #[TestWith(['cylinder'])]
    #[TestWith(['plane'])]
    public function the_quadric_of_a_strip_is_the_shape_it_is_of(string $shape): void
    {
        $gen = new Gen(5);
        $p = $n = [];
        $on = fn (float $u, float $v): array => match ($shape) {
            'sphere' => [[8.0 * cos($u) * cos($v) + 3.0, 8.0 * sin($u) * cos($v), 8.0 * sin($v) - 1.0], [cos($u) * cos($v), sin($u) * cos($v), sin($v)]],
            'cylinder' => [[8.0 * cos($u), 8.0 * sin($u) + 2.0, 10.0 * $v], [cos($u), sin($u), 0.0]],
            default => [[5.0 * $u, 7.0 * $v, 2.0 * $u + 1.0], [-0.4 / sqrt(1.16), 0.0, 1.0 / sqrt(1.16)]],
        };
        for ($k = 0; $k < 60; $k++) {
            [$at, $normal] = $on($gen->float(-1.0, 1.0), 0.9 + $gen->float(0.0, 0.15));
            array_push($p, ...$at);
            array_push($n, ...$normal);
        }
        $quadric = RimQuadric::of($p, $n);
        self::assertNotNull($quadric);
        self::assertLessThan(1e-3, $quadric->rms);
        foreach ([[0.0, 1.2], [0.3, 1.4], [-0.5, 0.8]] as [$u, $v]) {
            [$at, $normal] = $on($u, $v);
            $off = [$at[0] + 0.5 * $normal[0], $at[1] + 0.5 * $normal[1], $at[2] + 0.5 * $normal[2]];
            foreach ($quadric->nearest($off) as $c => $x) {
                self::assertEqualsWithDelta($at[$c], $x, 0.02);
            }
        }
        self::assertNull(RimQuadric::of(array_slice($p, 0, 27), array_slice($n, 0, 27)));
    }

    #[Test]
    public function triangles_grow_inside_a_long_rim_and_not_inside_a_short_one(): void
    {
        $faces = function (int $n): int {
            $p = $f = [];
            for ($j = 0; $j < 3; $j++) {
                for ($i = 0; $i < $n; $i++) {
                    array_push($p, 50.0 * cos(2.0 * M_PI * $i / $n), 50.0 * sin(2.0 * M_PI * $i / $n), 300.0 * $j / $n);
                    if ($j < 2) {
                        [$a, $b] = [$j * $n + $i, $j * $n + ($i + 1) % $n];
                        array_push($f, $a, $b, $b + $n, $a, $b + $n, $a + $n);
                    }
                }
            }
            $open = TriangleMesh::fromFlat($p, $f);

            return (new FillHoles)(new Workpiece(bodies: [Body::of('b', $open)]), new FillHolesParameters('flat', rims: [[50.0, 0.0, 600.0 / $n]]), new NoProgress)->after['faces'];
        };
        // Even triangles are as many as 0.18 times the square of the edges.
        self::assertEqualsWithDelta(0.18 * 200 ** 2, $faces(200), 0.06 * 200 ** 2);
        self::assertLessThan(0.05 * 1200 ** 2, $faces(1200));
    }
}
