<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Fuse;

use Emberstone\Core\Algorithms\Field\Gaps;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\Noise;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** Gaps that `fuse` closes, by patches or inside the volume. */
final class GapsTest extends TestCase
{
    private const RADIUS = 20.0;

    private const VOXEL = 0.8;

    #[Test]
    public function made_up_surface_that_nothing_measured_holds_is_told(): void
    {
        $p = [1.0, 1.0, 1.0, 1.0, -1.0, -1.0, -1.0, 1.0, -1.0, -1.0, -1.0, 1.0];
        $faces = [0, 1, 2, 0, 3, 1, 0, 2, 3, 1, 3, 2];
        self::assertFalse(Gaps::smooth($p, $faces, [0, 0, 0, 0], fn () => null));
        self::assertTrue(Gaps::smooth($p, $faces, [0, 1, 1, 1], fn () => null));
    }

    /**
     * A ball of which nothing was seen in some places.
     *
     * @param  callable(float $x, float $y, float $z): bool  $unseen  asked of a direction
     */
    private static function ball(callable $unseen, float $noiseMm = 0.0): Workpiece
    {
        $noise = new Noise(3);
        $p = $n = [];
        for ($i = 0; $i < 40000; $i++) {
            $d = $noise->direction();
            $r = self::RADIUS + $noiseMm * $noise->normal();
            if (! $unseen(...$d)) {
                array_push($p, $r * $d[0], $r * $d[1], $r * $d[2]);
                array_push($n, ...$d);
            }
        }

        return new Workpiece([Pass::of('ball', PointCloud::fromFlat($p, $n))]);
    }

    /** How far along the ball a direction is from the top, mm. */
    private static function arc(float $z): float
    {
        return self::RADIUS * acos(max(-1.0, min(1.0, $z)));
    }

    private static function mesh(Result $result): TriangleMesh
    {
        $mesh = $result->workpiece->bodies[0]->geometry;
        self::assertInstanceOf(TriangleMesh::class, $mesh);

        return $mesh;
    }

    /** Root mean square distance from the ball of the vertices of made-up faces, mm. */
    private static function off(TriangleMesh $mesh): float
    {
        $made = [];
        foreach (array_keys(array_filter($mesh->origin)) as $t) {
            for ($k = 0; $k < 3; $k++) {
                $o = 3 * $mesh->faces[3 * $t + $k];
                $made[$o] = (sqrt($mesh->positions[$o] ** 2 + $mesh->positions[$o + 1] ** 2 + $mesh->positions[$o + 2] ** 2) - self::RADIUS) ** 2;
            }
        }

        return $made === [] ? 0.0 : sqrt(array_sum($made) / count($made));
    }

    #[Test]
    #[TestWith([0.0, 0.06])]
    #[TestWith([0.05, 0.09])]
    public function a_gap_around_an_island_closes_as_one(float $noiseMm, float $atMost): void
    {
        $ball = self::ball(fn (float $x, float $y, float $z) => self::arc($z) > 3.0 && self::arc($z) < 8.0, $noiseMm);
        $mesh = self::mesh((new Fuse)($ball, new FuseParameters(self::VOXEL, 'all'), new NoProgress));
        $inspection = Inspection::of($mesh);
        self::assertTrue($inspection->closed);
        self::assertSame([1, 0, 0], [$inspection->pieces, $inspection->genus, $inspection->faultCount()]);
        self::assertLessThan($atMost, self::off($mesh));
        // Of the whole ball lies between the two circles; the points reach a voxel or two over them.
        $share = 0.5 * (cos(3.0 / self::RADIUS) - cos(8.0 / self::RADIUS));
        self::assertSame(['filled'], array_keys($inspection->madeUp));
        self::assertGreaterThan(0.5 * $share, $inspection->madeUp['filled']);
        self::assertLessThan($share, $inspection->madeUp['filled']);
    }

    #[Test]
    public function what_is_wider_than_asked_for_stays_open_without_flaps_although_it_is_near(): void
    {
        // A wide gap at the top and a narrow one beside it, 2 mm of seen ball between them: the box around the narrow one reaches over the rim of the wide one.
        $beside = 13.0;
        $ball = self::ball(fn (float $x, float $y, float $z) => self::arc($z) < 7.0 || self::arc($x * sin($beside / self::RADIUS) + $z * cos($beside / self::RADIUS)) < 4.0);
        $open = Inspection::of(self::mesh((new Fuse)($ball, new FuseParameters(self::VOXEL), new NoProgress)));
        $result = (new Fuse)($ball, new FuseParameters(self::VOXEL, 12.0), new NoProgress);
        $inspection = Inspection::of(self::mesh($result));
        self::assertSame([true, false], [$open->holes[0]['diameter'] > 12.0, $open->holes[1]['diameter'] > 12.0]);
        self::assertSame([2, 1], [count($open->holes), count($inspection->holes)]);
        self::assertEqualsWithDelta($open->holes[0]['perimeter'], $inspection->holes[0]['perimeter'], 1e-6, 'the rim of the wide gap is what it was');
        self::assertSame(1, $inspection->pieces);
        self::assertSame(['filled'], array_keys($inspection->madeUp));
        self::assertMatchesRegularExpression('/^\d\.\d % of the area is patched\.$/', $result->notes[0]);
        self::assertSame(sprintf('1 hole is wider and left open: %s.', Format::mm($inspection->holes[0]['diameter'])), $result->notes[1]);
    }

    #[Test]
    public function what_would_take_too_many_voxels_is_patched_too(): void
    {
        $ball = self::ball(fn (float $x, float $y, float $z) => self::arc($z) < 24.0);
        $mesh = self::mesh((new Fuse)($ball, new FuseParameters(self::VOXEL, 'all'), new NoProgress));
        $inspection = Inspection::of($mesh);
        self::assertTrue($inspection->closed);
        self::assertSame(['filled'], array_keys($inspection->madeUp));
    }

    /**
     * A turned part, seen with 0.02 mm of noise.
     *
     * @param  list<array{list<float>, float, float}>  $bands  [r, z] where a band begins, r and z where it ends; outside is to the right of its way
     */
    private static function turned(array $bands): Workpiece
    {
        $noise = new Noise(5);
        $share = fn (): float => 0.5 * (1.0 + $noise->direction()[2]);
        $p = $n = [];
        foreach ($bands as [[$r, $z], $toR, $toZ]) {
            $long = hypot($toR - $r, $toZ - $z);
            [$nr, $nz] = [($toZ - $z) / $long, ($r - $toR) / $long];
            for ($i = 0, $many = (int) (M_PI * ($r + $toR) * $long / 0.09); $i < $many; $i++) {
                // As many points an area on the outside of a disc as in its middle.
                $s = $share();
                $s = $r === $toR ? $s : (sqrt($r * $r + $s * ($toR * $toR - $r * $r)) - $r) / ($toR - $r);
                $angle = 2.0 * M_PI * $share();
                [$x, $y, $off] = [cos($angle), sin($angle), 0.02 * $noise->normal()];
                $at = $r + $s * ($toR - $r) + $off * $nr;
                array_push($p, $at * $x, $at * $y, $z + $s * ($toZ - $z) + $off * $nz);
                array_push($n, $nr * $x, $nr * $y, $nz);
            }
        }

        return new Workpiece([Pass::of('turned', PointCloud::fromFlat($p, $n))]);
    }

    #[Test]
    public function the_unseen_floor_of_a_groove_is_closed_in_the_volume_and_the_shaft_stays_in_one(): void
    {
        // A shaft of 24 mm, 36 mm long; the groove of 6 mm is seen down to a diameter of 18 mm.
        $shaft = self::turned([
            [[0.0, 0.0], 12.0, 0.0], [[12.0, 0.0], 12.0, 15.0], [[12.0, 15.0], 9.0, 15.0],
            [[9.0, 21.0], 12.0, 21.0], [[12.0, 21.0], 12.0, 36.0], [[12.0, 36.0], 0.0, 36.0],
        ]);
        $mesh = self::mesh((new Fuse)($shaft, new FuseParameters(self::VOXEL, 'all'), new NoProgress));
        $inspection = Inspection::of($mesh);
        self::assertSame([true, 1, 0, 0], [$inspection->closed, $inspection->pieces, $inspection->genus, $inspection->faultCount()]);
        self::assertSame(['closed in the volume'], array_keys($inspection->madeUp));
        // Patches over both rims would end the shaft at the walls of the groove and leave nothing between; how deep it is nobody saw.
        $core = ($inspection->volume - M_PI * 30.0 * 12.0 ** 2) / (M_PI * 6.0 * 9.0 ** 2);
        self::assertGreaterThan(0.4, $core);
        self::assertLessThan(1.0, $core);
    }

    #[Test]
    public function the_unseen_middle_of_a_bore_is_closed_in_the_volume_and_the_bore_stays_open(): void
    {
        // A bush of 30 mm with a bore of 16 mm, whose wall was not seen between 9 and 15 mm of its 24.
        $bush = self::turned([
            [[8.0, 0.0], 15.0, 0.0], [[15.0, 0.0], 15.0, 24.0], [[15.0, 24.0], 8.0, 24.0],
            [[8.0, 24.0], 8.0, 15.0], [[8.0, 9.0], 8.0, 0.0],
        ]);
        $mesh = self::mesh((new Fuse)($bush, new FuseParameters(self::VOXEL, 'all'), new NoProgress));
        $inspection = Inspection::of($mesh);
        self::assertSame([true, 1, 1, 0], [$inspection->closed, $inspection->pieces, $inspection->genus, $inspection->faultCount()]);
        self::assertSame(['closed in the volume'], array_keys($inspection->madeUp));
        foreach (array_keys(array_filter($mesh->origin)) as $t) {
            $v = $mesh->faces[3 * $t];
            self::assertEqualsWithDelta(8.0, hypot($mesh->positions[3 * $v], $mesh->positions[3 * $v + 1]), 0.3);
        }
    }

    #[Test]
    public function a_small_sheet_is_closed_and_not_taken_for_a_shred(): void
    {
        $p = $n = [];
        for ($i = 0; $i < 900; $i++) {
            array_push($p, 0.2 * ($i % 30), 0.2 * intdiv($i, 30), 0.0);
            array_push($n, 0.0, 0.0, 1.0);
        }
        $mesh = self::mesh((new Fuse)(new Workpiece([Pass::of('sheet', PointCloud::fromFlat($p, $n))]), new FuseParameters(self::VOXEL, 'all'), new NoProgress));
        self::assertGreaterThan(40, count(array_keys($mesh->origin, TriangleMesh::MEASURED, true)));
    }

    #[Test]
    public function nothing_is_made_up_where_nothing_is_missing(): void
    {
        $ball = self::ball(fn () => false);
        $mesh = self::mesh((new Fuse)($ball, new FuseParameters(self::VOXEL, 'all'), new NoProgress));
        self::assertSame([], Inspection::of($mesh)->madeUp);
        $open = self::mesh((new Fuse)($ball, new FuseParameters(self::VOXEL), new NoProgress));
        self::assertSame($open->positions, $mesh->positions);
    }
}
