<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Search;

use Emberstone\Core\Algorithms\Search\CurveOrder;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** The order in which questions are asked: all of them, each once, neighbours after one another. */
final class CurveOrderTest extends TestCase
{
    private const BOX = [-10.0, -10.0, -10.0, 10.0, 10.0, 10.0];

    /**
     * @param  array<int, int>  $keys
     * @return list<int>
     */
    private static function numbers(array $keys): array
    {
        return array_map(fn (int $key) => $key & CurveOrder::NUMBER, $keys);
    }

    /**
     * @param  list<float>  $p
     * @param  list<int>  $order
     */
    private static function way(array $p, array $order): float
    {
        $sum = 0.0;
        for ($k = 1; $k < count($order); $k++) {
            [$a, $b] = [3 * $order[$k - 1], 3 * $order[$k]];
            $sum += sqrt(($p[$a] - $p[$b]) ** 2 + ($p[$a + 1] - $p[$b + 1]) ** 2 + ($p[$a + 2] - $p[$b + 2]) ** 2);
        }

        return $sum;
    }

    #[Test]
    public function every_point_comes_once_and_the_way_between_them_is_short(): void
    {
        $p = (new Gen(3))->points(4000, 10.0);
        $order = self::numbers(CurveOrder::ofPoints($p, self::BOX));
        $sorted = $order;
        sort($sorted);
        self::assertSame(range(0, 3999), $sorted);
        // At random the next one is some 10 mm away; in 4,000 cells of 1.3 mm it is about two of them.
        self::assertLessThan(0.25 * self::way($p, range(0, 3999)), self::way($p, $order));
    }

    #[Test]
    public function points_outside_the_box_count_as_those_at_its_sides(): void
    {
        $keys = CurveOrder::ofPoints([99.0, 99.0, 99.0, 10.0, 10.0, 10.0, -99.0, -99.0, -99.0, -9.99, -9.99, -9.99], self::BOX);
        self::assertSame([2, 3, 0, 1], self::numbers($keys));
        self::assertSame($keys[0] >> 40, $keys[1] >> 40);
        self::assertSame($keys[2] >> 40, $keys[3] >> 40);
    }

    #[Test]
    public function rays_are_sorted_by_where_they_come_in_not_by_where_they_begin(): void
    {
        // Two that come in through the same place from far apart, and one that begins inside, at the opposite corner.
        $rays = [
            -110.0, -9.0, -9.0, 1.0, 0.0, 0.0,
            8.0, 8.0, 8.0, 0.0, 0.0, 1.0,
            -10.0, -9.0, -109.0, 0.0, 0.0, 100.0,
        ];
        $keys = CurveOrder::ofRays($rays, self::BOX);
        self::assertSame(1, self::numbers($keys)[2]);
        self::assertLessThan(1 << 12, ($keys[1] >> 40) - ($keys[0] >> 40), 'cells near each other have numbers near each other');
    }

    #[Test]
    public function no_questions_and_a_box_without_size_are_no_matter(): void
    {
        self::assertSame([], CurveOrder::ofPoints([], self::BOX));
        self::assertSame([], CurveOrder::ofRays([], self::BOX));
        self::assertSame([0, 1], self::numbers(CurveOrder::ofPoints([1.0, 2.0, 3.0, 1.0, 2.0, 3.0], [1.0, 2.0, 3.0, 1.0, 2.0, 3.0])));
    }
}
