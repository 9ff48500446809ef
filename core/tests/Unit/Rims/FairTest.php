<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Rims;

use Emberstone\Core\Algorithms\Remeshing\Fair;
use Emberstone\Core\Rims\Filling;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class FairTest extends TestCase
{
    #[Test]
    public function a_vertex_goes_to_the_middle_of_what_is_around_it(): void
    {
        $p = [5.0, 5.0, 9.0, 0.0, 0.0, 0.0, 10.0, 0.0, 0.0, 10.0, 10.0, 0.0, 0.0, 10.0, 0.0];
        self::assertTrue(Fair::run($p, [[1, 2, 3, 4]], [0], 1, fn () => null));
        self::assertEqualsWithDelta([5.0, 5.0, 0.0], array_slice($p, 0, 3), 1e-12);
    }

    #[Test]
    public function vertices_that_nothing_holds_stay_where_they_are_and_that_is_told(): void
    {
        // Three free vertices that know one another alone: any shift of them solves the equations.
        $p = $before = [0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 5.0];
        self::assertFalse(Fair::run($p, [[1, 2], [0, 2], [0, 1]], [0, 1, 2], 1, fn () => null));
        self::assertSame($before, $p);
        self::assertSame([], Filling::plainInWords(0));
        self::assertStringStartsWith('One hole came out plainer than asked for: what is around it', Filling::plainInWords(1)[0]);
        self::assertStringStartsWith('3 holes came out plainer than asked for: what is around them', Filling::plainInWords(3)[0]);
    }
}
