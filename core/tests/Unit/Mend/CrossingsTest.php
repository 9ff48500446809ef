<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Mend;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Mend\Kernel\Intersections;
use Emberstone\Core\Mend\Kernel\Untangle;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class CrossingsTest extends TestCase
{
    /** @return iterable<string, array{list<float>, int}> a second triangle to (0,0,0) (4,0,0) (0,4,0), and how often they cross */
    public static function triangles(): iterable
    {
        yield 'through the middle' => [[1.0, 1.0, -1.0, 1.0, 1.0, 1.0, 5.0, 5.0, 1.0], 1];
        yield 'beside it' => [[3.0, 3.0, -1.0, 3.0, 3.0, 1.0, 5.0, 5.0, 0.0], 0];
        yield 'above it' => [[1.0, 1.0, 0.1, 2.0, 1.0, 0.1, 1.0, 2.0, 0.3], 0];
        yield 'in the same plane, overlapping' => [[1.0, 1.0, 0.0, 2.0, 1.0, 0.0, 1.0, 2.0, 0.0], 0];
        yield 'an edge in its plane, disjoint' => [[5.0, 0.0, 0.0, 8.0, 0.0, 0.0, 6.0, 0.0, 3.0], 0];
        yield 'pierced by its edge only' => [[-1.0, -1.0, 1.0, 9.0, -1.0, 1.0, 1.0, 1.0, -1.0], 1];
    }

    /** @param  list<float>  $second */
    #[Test]
    #[DataProvider('triangles')]
    public function two_triangles_cross_or_not(array $second, int $times): void
    {
        $p = [0.0, 0.0, 0.0, 4.0, 0.0, 0.0, 0.0, 4.0, 0.0, ...$second];
        self::assertSame(2 * $times, count(Intersections::pairs($p, [0, 1, 2, 3, 4, 5])));
        self::assertSame(2 * $times, count(Intersections::pairs($p, [3, 4, 5, 0, 1, 2])), 'whichever comes first');
    }

    #[Test]
    public function turning_and_moving_both_changes_nothing(): void
    {
        $gen = new Gen(11);
        $ball = MeshBuilder::icosphere(2);
        $other = $ball->transformed(Transform::shift(1.2, 0.3, 0.1));
        $n = $ball->vertexCount();
        $both = TriangleMesh::fromFlat([...$ball->positions, ...$other->positions], [...$ball->faces, ...array_map(fn (int $v) => $v + $n, $other->faces)]);
        $count = count(Intersections::pairs($both->positions, $both->faces));
        self::assertGreaterThan(40, $count);
        for ($k = 0; $k < 5; $k++) {
            $moved = $both->transformed(Transform::turn([$gen->float(-1, 1), $gen->float(-1, 1), 1.0], $gen->float(0, 3))->then(Transform::shift($gen->float(-50, 50), 0.0, 3.0)));
            self::assertSame($count, count(Intersections::pairs($moved->positions, $moved->faces)));
        }
    }

    #[Test]
    public function a_fold_is_taken_apart_and_nothing_far_from_it_moves(): void
    {
        $ball = MeshBuilder::icosphere(4);
        $p = $ball->positions;
        // A small cap slides sideways into the surface beside it.
        for ($v = 0; $v < $ball->vertexCount(); $v++) {
            if ($p[3 * $v + 2] > 0.985) {
                $p[3 * $v] += 0.3;
                $p[3 * $v + 2] -= 0.06;
            }
        }
        $folded = $p;
        self::assertNotSame([], Intersections::pairs($p, $ball->faces));
        $result = Untangle::run($p, $ball->faces);
        self::assertGreaterThan(0, $result['found']);
        self::assertSame(0, $result['left']);
        self::assertSame([], Intersections::pairs($p, $ball->faces));
        $moved = 0;
        foreach ($p as $i => $x) {
            $moved += $x === $folded[$i] ? 0 : 1;
        }
        self::assertLessThan(0.05 * count($p), $moved);
    }

    #[Test]
    public function vertices_that_may_not_move_stay(): void
    {
        $ball = MeshBuilder::icosphere(3);
        $p = $ball->positions;
        $p[3 * 100] += 0.7;
        $before = $p;
        Untangle::run($p, $ball->faces, $ball->vertexCount());
        self::assertSame($before, $p);
    }
}
