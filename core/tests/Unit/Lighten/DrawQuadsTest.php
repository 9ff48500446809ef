<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Lighten;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Lighten\DrawQuads;
use Emberstone\Core\Lighten\DrawQuadsParameters;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class DrawQuadsTest extends TestCase
{
    /** Four corners of a cell on the front of a ball of 10 mm, and one more to its right. */
    private const POINTS = [[11.0, -3.0, -3.0], [11.0, 3.0, -3.0], [11.0, 3.0, 3.0], [11.0, -3.0, 3.0], [9.0, 7.0, 0.0]];

    /** @param  array<mixed>  $faces */
    private static function drawn(array $faces, ?string $onto = null, int $balls = 1): Result
    {
        $bodies = array_map(fn (int $k) => Body::of("ball $k", MeshBuilder::icosphere(4, 10.0)), range(1, $balls));

        return (new DrawQuads)(new Workpiece(bodies: $bodies), new DrawQuadsParameters(self::POINTS, $faces, $onto), new NoProgress);
    }

    #[Test]
    public function corners_lie_on_the_surface_and_cells_look_outwards_whichever_way_they_are_named(): void
    {
        foreach ([[[0, 1, 2, 3], [1, 4, 2]], [[3, 2, 1, 0], [2, 4, 1]]] as $faces) {
            $result = self::drawn($faces);
            $mesh = $result->workpiece->bodies[1]->placedMesh();
            self::assertSame('Drawn', $result->workpiece->bodies[1]->name);
            self::assertSame([1, 3], [count($mesh->quads), $mesh->faceCount()]);
            foreach (array_chunk($mesh->positions, 3) as $at) {
                self::assertEqualsWithDelta(10.0, sqrt($at[0] ** 2 + $at[1] ** 2 + $at[2] ** 2), 0.05);
            }
            foreach ($mesh->cells() as $cell) {
                [$a, $b, $c] = array_map(fn (int $v) => array_slice($mesh->positions, 3 * $v, 3), array_slice($cell, 0, 3));
                $x = ($b[1] - $a[1]) * ($c[2] - $a[2]) - ($b[2] - $a[2]) * ($c[1] - $a[1]);
                self::assertGreaterThan(0.0, $x, 'it looks along x, away from the middle of the ball');
            }
            self::assertSame(Outcome::Reached, $result->outcome);
        }
    }

    #[Test]
    public function a_point_far_off_and_a_cell_turned_in_are_told(): void
    {
        self::assertStringContainsString('turned in', implode(' ', self::drawn([[0, 2, 1, 3]])->notes));
        $far = (new DrawQuads)(new Workpiece(bodies: [Body::of('ball', MeshBuilder::icosphere(3, 10.0))]), new DrawQuadsParameters([[40.0, 0.0, 0.0], [9.0, 4.0, 0.0], [9.0, 2.0, 4.0]], [[0, 1, 2]]), new NoProgress);
        self::assertStringContainsString('off the surface', implode(' ', $far->notes));
    }

    #[Test]
    public function what_does_not_fit_is_refused_with_the_cell(): void
    {
        foreach ([
            [fn () => self::drawn([[0, 1, 2, 3], [0, 1, 4]]), 'cells 1 and 2'],
            [fn () => self::drawn([[0, 1, 7]]), 'cell 1'],
            [fn () => self::drawn([[0, 1, 2], [0, 1, 1, 2]]), 'cell 2'],
            [fn () => self::drawn([]), 'no cell'],
            [fn () => self::drawn([[0, 1, 2]], null, 2), 'ball 1, ball 2'],
            [fn () => self::drawn([[0, 1, 2]], 'cap'), '"cap"'],
            [fn () => (new DrawQuads)(new Workpiece, new DrawQuadsParameters(self::POINTS, [[0, 1, 2]]), new NoProgress), 'no mesh'],
        ] as [$wrong, $words]) {
            try {
                $wrong();
                self::fail($words);
            } catch (InvalidParameter|UnsuitableInput $problem) {
                self::assertStringContainsString($words, $problem->getMessage());
            }
        }
    }
}
