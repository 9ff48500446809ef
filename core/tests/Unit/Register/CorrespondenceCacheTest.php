<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Algorithms\Icp\CorrespondenceCache;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class CorrespondenceCacheTest extends TestCase
{
    #[Test]
    #[TestWith([1])]
    #[TestWith([2])]
    #[TestWith([3])]
    public function what_is_remembered_is_what_a_search_would_find(int $seed): void
    {
        $gen = new Gen($seed);
        $tree = KdTree::of($gen->points(3000));
        $partners = new CorrespondenceCache($tree);
        $q = $gen->points(800, 1.2);
        for ($round = 0; $round < 24; $round++) {
            $limit = [0.05, 0.3, 0.1, 0.6][$round % 4];
            $nearest = $distanceSq = [];
            $tree->nearest($q, $limit, $nearest, $distanceSq);
            self::assertSame($nearest, $partners->of($q, $limit), "seed $seed, round $round");
            // Long moves at first, then shorter and shorter ones, as rounds of a best fit make them.
            $size = 0.2 * 0.7 ** $round;
            foreach ($q as $o => $x) {
                $q[$o] = $x + $gen->float(-$size, $size);
            }
        }
    }

    #[Test]
    public function samples_that_stay_keep_their_partners_though_the_limit_changes(): void
    {
        $partners = new CorrespondenceCache(KdTree::of([0.0, 0.0, 0.0, 5.0, 0.0, 0.0]));
        $q = [1.0, 0.0, 0.0, 4.5, 0.0, 0.0];
        self::assertSame([0, 3], $partners->of($q, 2.0));
        self::assertSame([-1, 3], $partners->of($q, 0.75), 'the first is out of reach');
        self::assertSame([0, 3], $partners->of($q, 10.0), 'and back within it');
        self::assertSame([3, 3], $partners->of([3.0, 0.0, 0.0, 4.5, 0.0, 0.0], 10.0), 'it went past the middle');
    }
}
