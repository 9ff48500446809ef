<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Register;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Place;
use Emberstone\Core\Register\PlaceParameters;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Bodies placed by laying their datums on those of another. */
final class DatumPairsTest extends TestCase
{
    private const SIZE = [60.0, 40.0, 20.0];

    /** The datums of a brick: its base, a bore across it and a corner. */
    private static function datums(string $body, string $prefix, RigidTransform $where): array
    {
        return array_map(fn (Datum $datum) => $datum->moved($where), [
            new Datum("$prefix-base", "$prefix base", 'plane', [30.0, 20.0, 0.0], [0.0, 0.0, -1.0], bodyId: $body),
            new Datum("$prefix-bore", "$prefix bore", 'cylinder', [30.0, 12.0, 8.0], [1.0, 0.0, 0.0], 5.0, bodyId: $body),
            new Datum("$prefix-corner", "$prefix corner", 'point', [60.0, 40.0, 20.0], bodyId: $body),
            new Datum("$prefix-side", "$prefix side", 'plane', [60.0, 20.0, 10.0], [1.0, 0.0, 0.0], bodyId: $body),
        ]);
    }

    private static function workpiece(RigidTransform $thrown): Workpiece
    {
        $brick = MeshBuilder::brick(self::SIZE, 4);

        return new Workpiece(bodies: [Body::of('rough', $brick), Body::of('good', $brick)->moved($thrown)], datums: [...self::datums('rough', 'rough', RigidTransform::identity()), ...self::datums('good', 'good', $thrown)]);
    }

    /** @param  list<array{from: string, to: string, flip?: bool}>  $pairs */
    private static function place(Workpiece $workpiece, array $pairs, bool $tighten = false): Result
    {
        return (new Place)($workpiece, new PlaceParameters('good', 'rough', 'datums', datums: $pairs, tighten: $tighten), new NoProgress);
    }

    private static function off(Result $result, RigidTransform $thrown): float
    {
        $by = RigidTransform::fromMatrix($result->after['transform']);
        $worst = 0.0;
        foreach ([[0.0, 0.0, 0.0], self::SIZE, [60.0, 0.0, 20.0]] as $at) {
            $there = $by->point($thrown->point($at));
            $worst = max($worst, sqrt(($there[0] - $at[0]) ** 2 + ($there[1] - $at[1]) ** 2 + ($there[2] - $at[2]) ** 2));
        }

        return $worst;
    }

    /** @return iterable<string, array{list<array{string, string}>}> */
    public static function whole(): iterable
    {
        yield 'plane, axis, plane' => [[['base', 'base'], ['bore', 'bore'], ['side', 'side']]];
        yield 'axis, plane, point' => [[['bore', 'bore'], ['base', 'base'], ['corner', 'corner']]];
        yield 'plane, axis, point' => [[['base', 'base'], ['bore', 'bore'], ['corner', 'corner']]];
        yield 'point, plane, axis' => [[['corner', 'corner'], ['base', 'base'], ['bore', 'bore']]];
    }

    #[Test]
    #[DataProvider('whole')]
    public function three_datums_laid_on_three_bring_a_body_home_from_anywhere_and_its_datums_along(array $pairs): void
    {
        for ($seed = 1; $seed <= 8; $seed++) {
            $gen = new Gen($seed);
            $thrown = RigidTransform::turn($gen->points(1), $gen->float(-3.0, 3.0))->then(RigidTransform::shift(...$gen->points(1, 300.0)));
            $result = self::place(self::workpiece($thrown), array_map(fn (array $pair) => ['from' => "good $pair[0]", 'to' => "rough $pair[1]"], $pairs));
            self::assertLessThan(1e-8, self::off($result, $thrown), "seed $seed");
            self::assertSame([], $result->notes);
            self::assertLessThan(1e-3, max(array_column($result->after['datums'], 'off')));
            self::assertLessThan(1e-3, max(array_column($result->after['datums'], 'angle')));
            [$rough, $good] = [array_slice($result->workpiece->datums, 0, 4), array_slice($result->workpiece->datums, 4)];
            self::assertEqualsWithDelta($rough[2]->origin, $good[2]->origin, 1e-8, 'its corner went along');
            self::assertSame(self::workpiece($thrown)->bodies[0]->transform->matrix, $result->workpiece->bodies[0]->transform->matrix);
        }
    }

    #[Test]
    public function faces_that_meet_look_at_each_other_when_flipped(): void
    {
        // The brick on top of the other: its base on the other's top.
        $top = new Datum('top', 'rough top', 'plane', [30.0, 20.0, 20.0], [0.0, 0.0, 1.0], bodyId: 'rough');
        $workpiece = self::workpiece(RigidTransform::turn([1.0, 0.0, 0.0], 0.4)->then(RigidTransform::shift(5.0, 6.0, 7.0)));
        $result = self::place(new Workpiece(bodies: $workpiece->bodies, datums: [...$workpiece->datums, $top]), [['from' => 'good base', 'to' => 'rough top', 'flip' => true]]);
        $placed = $result->workpiece->bodies[1]->placed();
        self::assertEqualsWithDelta(20.0, min(array_map(fn (array $at) => $at[2], array_chunk($placed->positions, 3))), 1e-9);
        self::assertEqualsWithDelta(40.0, max(array_map(fn (array $at) => $at[2], array_chunk($placed->positions, 3))), 1e-9);
        self::assertEqualsWithDelta([30.0, 20.0, 20.0], $result->workpiece->datums[4]->origin, 1e-9, 'along the faces nothing holds it: their middles meet');
        self::assertSame(['The datums leave 3 of six freedoms open; their middles were laid on each other there.'], $result->notes);
        self::assertSame([['from' => 'good base', 'to' => 'rough top', 'off' => 0.0, 'angle' => 0.0]], $result->after['datums']);
    }

    #[Test]
    public function what_the_datums_leave_open_or_have_wrong_best_fit_mends(): void
    {
        $thrown = RigidTransform::turn([0.3, 1.0, 0.2], 2.0)->then(RigidTransform::shift(100.0, 20.0, -60.0));
        $workpiece = self::workpiece($thrown);
        // The bore of the one was fitted 0.8 mm off.
        $datums = array_map(fn (Datum $datum) => $datum->name === 'good bore' ? $datum->moved(RigidTransform::shift(...$thrown->direction([0.0, 0.8, 0.0]))) : $datum, $workpiece->datums);
        $pairs = [['from' => 'good base', 'to' => 'rough base'], ['from' => 'good bore', 'to' => 'rough bore'], ['from' => 'good side', 'to' => 'rough side']];
        $as = self::place(new Workpiece(bodies: $workpiece->bodies, datums: $datums), $pairs);
        self::assertEqualsWithDelta(0.8, self::off($as, $thrown), 0.01);
        $tight = self::place(new Workpiece(bodies: $workpiece->bodies, datums: $datums), $pairs, tighten: true);
        self::assertLessThan(0.02, self::off($tight, $thrown));
    }

    /** @return iterable<string, array{list<mixed>, string}> */
    public static function refusals(): iterable
    {
        yield 'none' => [[], 'is empty; choose a datum'];
        yield 'unlike kinds' => [[['from' => 'good base', 'to' => 'rough bore']], 'lays the plane "good base" on the cylinder "rough bore"'];
        yield 'of another body' => [[['from' => 'rough base', 'to' => 'rough side']], 'no datum of good and would stay behind'];
        yield 'on itself' => [[['from' => 'good base', 'to' => 'good side']], 'on its own datum "good side"'];
        yield 'one that is not there' => [[['from' => 'good base', 'to' => 'table']], 'cannot find "table"'];
        yield 'one twice' => [[['from' => 'good base', 'to' => 'rough base'], ['from' => 'good base', 'to' => 'rough side']], 'names one datum twice'];
        yield 'four' => [array_fill(0, 4, ['from' => 'good base', 'to' => 'rough base']), 'three at most'];
        yield 'half a pair' => [[['from' => 'good base']], 'entry 1 must be'];
        yield 'parallel here, across there' => [[['from' => 'good base', 'to' => 'rough base'], ['from' => 'good side', 'to' => 'rough lid']], 'parallel here and across there'];
    }

    #[Test]
    #[DataProvider('refusals')]
    public function pairs_without_sense_are_refused_in_words(array $pairs, string $why): void
    {
        $workpiece = self::workpiece(RigidTransform::shift(90.0, 0.0, 0.0));
        $lid = new Datum('lid', 'rough lid', 'plane', [30.0, 20.0, 20.0], [0.0, 0.0, 1.0], bodyId: 'rough');
        try {
            self::place(new Workpiece(bodies: $workpiece->bodies, datums: [...$workpiece->datums, $lid]), $pairs);
            self::fail('placed');
        } catch (InvalidParameter|UnsuitableInput $refused) {
            self::assertStringContainsString($why, $refused->getMessage());
        }
    }
}
