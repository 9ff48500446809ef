<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Rigs;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Rigs\Catalogue;
use Emberstone\Core\Rigs\ExactSurface;
use Emberstone\Core\Rigs\Part;
use Emberstone\Core\Rigs\Sdf;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** The demo world: every part is a sound distance function and a closed body, and stands where its features say. */
final class PartsTest extends TestCase
{
    /** @return iterable<string, array{Part}> */
    public static function parts(): iterable
    {
        foreach (array_keys(Catalogue::PARTS) as $name) {
            yield $name => [Catalogue::part($name)];
        }
    }

    #[Test]
    #[DataProvider('parts')]
    public function its_distance_never_grows_faster_than_the_way_so_that_rays_do_not_step_through(Part $part): void
    {
        $gen = new Gen(crc32($part->name()));
        [$min, $max] = $part->bounds();
        $size = max($max[0] - $min[0], $max[1] - $min[1], $max[2] - $min[2]);
        $through = [];
        for ($k = 0; $k < 10_000; $k++) {
            $a = array_map(fn (int $c) => $gen->float($min[$c] - 0.3 * $size, $max[$c] + 0.3 * $size), [0, 1, 2]);
            $step = $gen->float(0.001, 0.1) * $size;
            $d = [$gen->float(-1.0), $gen->float(-1.0), $gen->float(-1.0)];
            $l = sqrt($d[0] ** 2 + $d[1] ** 2 + $d[2] ** 2) + 1e-9;
            $b = array_map(fn (int $c) => $a[$c] + $d[$c] / $l * $step, [0, 1, 2]);
            $from = $part->distance(...$a);
            // From outside only: what rays need. A point so far from the surface cannot be inside a step of that length later.
            if ($from > 0.0 && $step < $from && $part->distance(...$b) < -1e-9) {
                $through[] = implode(' ', $a).' to '.implode(' ', $b);
            }
        }
        self::assertSame([], $through);
    }

    #[Test]
    #[DataProvider('parts')]
    public function nothing_of_it_lies_outside_its_bounds(Part $part): void
    {
        if ($part->name() === 'press-hall') {
            self::assertLessThan(0.0, $part->distance(9000.0, 0.0, 1000.0), 'beyond the walls all is solid');

            return;
        }
        $gen = new Gen(7);
        [$min, $max] = $part->bounds();
        $beyond = [];
        for ($k = 0; $k < 4000; $k++) {
            $p = array_map(fn (int $c) => $gen->float($min[$c] - 20.0, $max[$c] + 20.0), [0, 1, 2]);
            $outside = max(...array_map(fn (int $c) => max($min[$c] - $p[$c], $p[$c] - $max[$c]), [0, 1, 2]));
            if ($outside > 0.0 && $part->distance(...$p) <= 0.0) {
                $beyond[] = implode(' ', $p);
            }
        }
        self::assertSame([], $beyond);
    }

    /** @return iterable<string, array{string}> */
    public static function small(): iterable
    {
        // Those with many small faces take a quarter of a minute each.
        foreach (['cap', 'bush', 'ratchet-wheel', ...(Gen::seeds(1, 2) === 1 ? [] : ['finial', 'target'])] as $name) {
            yield $name => [$name];
        }
    }

    #[Test]
    #[DataProvider('small')]
    public function its_exact_surface_is_one_closed_piece_that_lies_on_it(string $name): void
    {
        $part = Catalogue::part($name);
        $mesh = ExactSurface::of($part, 3.0);
        $report = Inspection::of($mesh);
        self::assertTrue($report->closed);
        self::assertSame(1, $report->pieces);
        self::assertGreaterThan(0.0, Measure::volume($mesh->positions, $mesh->faces));
        $off = [];
        for ($o = 0, $n = count($mesh->positions); $o < $n; $o += 3) {
            $off[] = abs($part->distance($mesh->positions[$o], $mesh->positions[$o + 1], $mesh->positions[$o + 2]));
        }
        sort($off);
        self::assertLessThan(0.01, $off[(int) (0.98 * count($off))]);
    }

    #[Test]
    public function the_parts_of_the_bearing_fit_into_each_other(): void
    {
        // The bush fills the bore and leaves nothing of it; the cap sits on the boss; neither goes through the pedestal.
        $pedestal = Catalogue::part('pedestal');
        foreach (['bush', 'cap'] as $name) {
            $part = Catalogue::part($name);
            $gen = new Gen(3);
            [$min, $max] = $part->bounds();
            $shared = [];
            for ($k = 0; $k < 10_000; $k++) {
                $p = array_map(fn (int $c) => $gen->float($min[$c], $max[$c]), [0, 1, 2]);
                if ($part->distance(...$p) < -0.05 && $pedestal->distance(...$p) < -0.05) {
                    $shared[] = implode(' ', $p);
                }
            }
            self::assertSame([], $shared, $name);
        }
        self::assertEqualsWithDelta(0.0, Catalogue::part('bush')->distance(0.0, 0.0, 67.0), 1e-9);
        self::assertEqualsWithDelta(0.0, $pedestal->distance(0.0, 0.0, 67.0), 1e-9);
        self::assertEqualsWithDelta(0.0, Catalogue::part('cap')->distance(0.0, -10.0, 79.0), 1e-9);
        self::assertEqualsWithDelta(0.0, $pedestal->distance(0.0, -10.0, 79.0), 1e-9);
    }

    #[Test]
    public function features_stand_where_they_are_said_to(): void
    {
        foreach (Catalogue::part('target')->features()['balls'] as $ball) {
            self::assertEqualsWithDelta(0.0, Catalogue::part('target')->distance($ball['centre'][0], $ball['centre'][1], $ball['centre'][2] + 0.5 * $ball['diameter']), 1e-9);
        }
        $wheel = Catalogue::part('ratchet-wheel');
        self::assertEqualsWithDelta(0.0, $wheel->distance(0.0, 8.0, 20.0), 1e-9);
        // A whole tooth has its tip at 60.7 from the axis, the broken one ends short of 55.
        $tip = fn (int $k) => $wheel->distance(58.0 * cos(2.0 * M_PI * $k / 16 - 0.15), 58.0 * sin(2.0 * M_PI * $k / 16 - 0.15), 7.0);
        self::assertLessThan(0.0, $tip(4));
        self::assertGreaterThan(1.0, $tip(5));
        self::assertEqualsWithDelta(0.0, Catalogue::part('press-hall')->distance(75.0, 0.0, 2200.0 - 300.0), 1e-9);
    }

    #[Test]
    public function distances_of_plain_shapes_are_exact(): void
    {
        self::assertSame(-1.0, Sdf::box(0.0, 0.0, 0.0, 1.0, 2.0, 3.0));
        self::assertEqualsWithDelta(5.0, Sdf::box(4.0, 6.0, 0.0, 1.0, 2.0, 3.0), 1e-12);
        self::assertEqualsWithDelta(5.0, Sdf::cylinder(5.0, 0.0, 7.0, 2.0, 3.0), 1e-12);
        self::assertSame(-2.0, Sdf::cylinder(0.0, 0.0, 0.0, 2.0, 3.0));
        $square = [[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]];
        self::assertEqualsWithDelta(sqrt(2.0), Sdf::polygon(2.0, 2.0, $square), 1e-12);
        self::assertEqualsWithDelta(-0.5, Sdf::polygon(0.5, 0.0, $square), 1e-12);
    }
}
