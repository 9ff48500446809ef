<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Fuse;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Tests\Support\Gen;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class FreeSpaceTest extends TestCase
{
    /**
     * A level square at a height, from the sensor's side.
     *
     * @return list<float> flat xyz
     */
    private static function sheet(float $half, float $height, Gen $gen): array
    {
        $p = [];
        for ($x = -$half; $x <= $half; $x += 0.5) {
            for ($y = -$half; $y <= $half; $y += 0.5) {
                array_push($p, $x + $gen->float(-0.1, 0.1), $y + $gen->float(-0.1, 0.1), $height + $gen->float(-0.02, 0.02));
            }
        }

        return $p;
    }

    /** @param  list<array{list<float>, array{float, float, float}|null}>  $passes  points and sensor */
    private static function fused(array $passes, ?RigidTransform $moved = null, ?string $mask = null): Result
    {
        $moved ??= RigidTransform::identity();
        $made = array_map(fn (array $pass) => Pass::of('p', PointCloud::fromFlat($pass[0], sensorOrigin: $pass[1])->transformed($moved))->moved($moved->inverse()), $passes);
        if ($mask !== null) {
            $made[1] = $made[1]->narrowed($mask);
        }

        return (new Fuse)(new Workpiece($made), new FuseParameters(1.0), new NoProgress);
    }

    private static function highest(Result $result): float
    {
        $mesh = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return max(array_map(fn (array $at) => $at[2], array_chunk($mesh->positions, 3)));
    }

    #[Test]
    public function a_sheet_that_another_pass_looked_through_is_taken_off_and_one_that_hides_behind_nothing_stays(): void
    {
        $gen = new Gen(5);
        $floor = self::sheet(25.0, 0.0, $gen);
        $ghost = self::sheet(4.0, 15.0, $gen);
        [$left, $right] = [[-40.0, 0.0, 100.0], [40.0, 0.0, 100.0]];
        $carved = self::fused([[[...$floor, ...$ghost], $left], [self::sheet(25.0, 0.0, $gen), $right]]);
        self::assertLessThan(0.3, self::highest($carved));
        self::assertStringContainsString('faces in space that other passes looked through were taken off', $carved->notes[0]);

        $away = RigidTransform::turn([0.2, 1.0, 0.4], 0.8)->then(RigidTransform::shift(50.0, 3.0, -20.0));
        self::assertLessThan(0.3, self::highest(self::fused([[[...$floor, ...$ghost], $left], [self::sheet(25.0, 0.0, $gen), $right]], $away)), 'wherever the pass lies in its file');

        $kept = self::fused([[[...$floor, ...$ghost], $left], [self::sheet(25.0, 0.0, $gen), null]]);
        self::assertGreaterThan(14.5, self::highest($kept), 'who does not know where the sensor stood cannot tell');
        self::assertSame([], $kept->notes);

        $both = self::fused([[[...$floor, ...$ghost], $left], [[...self::sheet(25.0, 0.0, $gen), ...self::sheet(4.0, 15.0, $gen)], $right]]);
        self::assertGreaterThan(14.5, self::highest($both), 'what both saw is there');
    }

    #[Test]
    public function what_was_cut_away_behind_a_place_still_tells_that_it_was_looked_through(): void
    {
        $gen = new Gen(6);
        [$left, $right] = [[-40.0, 0.0, 100.0], [40.0, 0.0, 100.0]];
        $post = self::sheet(6.0, 0.0, $gen);
        // The second pass saw the whole floor; all of it but a small part was cut away since.
        $floor = self::sheet(25.0, 0.0, $gen);
        $mask = implode('', array_map(fn (array $at) => max(abs($at[0]), abs($at[1])) < 6.0 ? "\1" : "\0", array_chunk($floor, 3)));
        $result = self::fused([[[...$post, ...self::sheet(4.0, 15.0, $gen)], $left], [$floor, $right]], mask: $mask);
        self::assertLessThan(0.3, self::highest($result));
    }
}
