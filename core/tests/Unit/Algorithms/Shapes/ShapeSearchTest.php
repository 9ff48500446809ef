<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Algorithms\Shapes;

use Emberstone\Core\Algorithms\Shapes\FoundShape;
use Emberstone\Core\Algorithms\Shapes\ShapeSearch;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Rigs\Part;
use Emberstone\Core\Tests\Support\Captures;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class ShapeSearchTest extends TestCase
{
    private const BASE = [1000.0, -20.0, 30.0];

    /** @param  list<string>|null  $kinds */
    private static function search(TriangleMesh $mesh, ?array $kinds = null, ?float $tolerance = null, float $share = 0.001): ShapeSearch
    {
        return new ShapeSearch($mesh->positions, $mesh->faces, array_map(fn (int $mark) => $mark === TriangleMesh::MEASURED || $mark === TriangleMesh::MADE ? 1 : 0, $mesh->origin), $kinds, $tolerance, $share, fn () => null);
    }

    /** @return array<string, int> how many there are of each kind */
    private static function counts(ShapeSearch $search): array
    {
        $counts = array_count_values(array_map(fn (FoundShape $shape) => $shape->kind, $search->shapes));
        ksort($counts);

        return $counts;
    }

    /** @return list<float> rounded, the largest first */
    private static function radii(ShapeSearch $search, string $kind): array
    {
        $radii = [];
        foreach ($search->shapes as $found) {
            if ($found->kind === $kind && $found->shape !== null) {
                $radii[] = round($kind === 'sphere' ? $found->shape->tube : $found->shape->radius, 6);
            }
        }
        rsort($radii);

        return $radii;
    }

    #[Test]
    public function simple_bodies_are_made_of_what_they_were_made_of(): void
    {
        $up = Vector3::unit([0.3, -0.2, 0.9]);
        self::assertSame(['plane' => 6], self::counts(self::search(SimpleSolid::box(self::BASE, $up, [10.0, 20.0, 30.0]))));
        $cylinder = self::search(SimpleSolid::cone(self::BASE, $up, 20.0, 20.0, 30.0));
        self::assertSame([['cylinder' => 1, 'plane' => 2], [10.0]], [self::counts($cylinder), self::radii($cylinder, 'cylinder')]);
        $tube = self::search(SimpleSolid::tube(self::BASE, $up, 30.0, 20.0, 15.0));
        self::assertSame([['cylinder' => 2, 'plane' => 2], [15.0, 10.0]], [self::counts($tube), self::radii($tube, 'cylinder')]);
        $ball = self::search(SimpleSolid::ball(self::BASE, $up, 25.0));
        self::assertSame([['sphere' => 1], [12.5]], [self::counts($ball), self::radii($ball, 'sphere')]);
        foreach ([8.0, 0.0] as $top) {
            $cone = self::search(SimpleSolid::cone(self::BASE, $up, 20.0, $top, 30.0));
            self::assertSame(['cone' => 1, 'plane' => $top > 0.0 ? 2 : 1], self::counts($cone));
            $side = array_values(array_filter($cone->shapes, fn (FoundShape $shape) => $shape->kind === 'cone'))[0]->shape;
            self::assertEqualsWithDelta(atan((10.0 - 0.5 * $top) / 30.0), $side->tilt ?? 0.0, 1e-5);
            self::assertEqualsWithDelta(-1.0, Vector3::dot($up, $side->axis ?? [0.0, 0.0, 0.0]), 1e-9, 'towards the wide end');
        }
        foreach ([$cylinder, $tube, $ball] as $search) {
            self::assertLessThan(1e-6, max(array_map(fn (FoundShape $shape) => $shape->max, $search->shapes)));
        }
    }

    #[Test]
    public function a_fillet_is_told_from_what_it_joins_also_under_noise(): void
    {
        // A flange of 60 with a boss of 20, and a fillet of 3 between them.
        $corner = array_map(fn (int $k) => [13.0 - 3.0 * sin(M_PI_2 * $k / 8), 11.0 - 3.0 * cos(M_PI_2 * $k / 8)], range(0, 8));
        $mesh = SimpleSolid::lathed(self::dense([[30.0, 0.0], [30.0, 8.0], ...$corner, [10.0, 20.0]], 0.6), self::BASE, Vector3::unit([0.1, 0.5, 0.7]));
        $gen = new Gen(3);
        foreach ([0.0, 0.01] as $noise) {
            $search = self::search($mesh->withPositions(array_map(fn (float $v) => $v + $noise * $gen->float(-1.7, 1.7), $mesh->positions)));
            self::assertSame(['cylinder' => 2, 'plane' => 3, 'torus' => 1], array_intersect_key(self::counts($search), ['cylinder' => 0, 'plane' => 0, 'torus' => 0, 'cone' => 0, 'sphere' => 0]) + ['plane' => 3], "noise $noise");
            $torus = array_values(array_filter($search->shapes, fn (FoundShape $shape) => $shape->kind === 'torus'))[0]->shape;
            self::assertEqualsWithDelta([13.0, 3.0], [$torus->radius ?? 0.0, $torus->tube ?? 0.0], $noise === 0.0 ? 1e-6 : 0.02);
        }
    }

    /**
     * @param  list<array{float, float}>  $profile
     * @return list<array{float, float}>
     */
    private static function dense(array $profile, float $step): array
    {
        $dense = [];
        for ($k = 0; $k + 1 < count($profile); $k++) {
            [$a, $b] = [$profile[$k], $profile[$k + 1]];
            $parts = max(1, (int) ceil(hypot($b[0] - $a[0], $b[1] - $a[1]) / $step));
            for ($i = 0; $i < $parts; $i++) {
                $dense[] = [$a[0] + ($b[0] - $a[0]) * $i / $parts, $a[1] + ($b[1] - $a[1]) * $i / $parts];
            }
        }

        return [...$dense, $profile[count($profile) - 1]];
    }

    #[Test]
    public function a_vase_is_turned_about_its_axis_and_a_lump_is_free_form(): void
    {
        $profile = array_map(fn (int $k) => [20.0 + 6.0 * sin($k / 7.0) + 2.0 * cos($k / 4.0), 0.8 * $k], range(0, 60));
        $vase = self::search(SimpleSolid::lathed($profile, self::BASE, [0.0, 0.6, 0.8]), share: 0.01);
        self::assertSame('revolved', $vase->shapes[0]->kind);
        self::assertEqualsWithDelta(1.0, abs(Vector3::dot([0.0, 0.6, 0.8], $vase->shapes[0]->shape->axis ?? [0.0, 0.0, 0.0])), 1e-5);

        $ball = SimpleSolid::ball([0.0, 0.0, 0.0], [0.0, 0.0, 1.0], 24.0);
        $p = $ball->positions;
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $swell = 1.0 + 0.08 * sin($p[$o] / 3.0) * cos($p[$o + 1] / 4.0) + 0.06 * sin($p[$o + 2] / 5.0);
            [$p[$o], $p[$o + 1], $p[$o + 2]] = [$swell * $p[$o], $swell * $p[$o + 1], $swell * $p[$o + 2]];
        }
        self::assertSame(['free' => 1], self::counts(self::search($ball->withPositions($p), share: 0.01)));
    }

    #[Test]
    public function beads_all_over_a_ball_are_free_form_and_a_ball_on_a_stem_is_a_ball(): void
    {
        // Seen from its middle, the farthest of a ball and of sixty beads half sunk into it.
        $mesh = MeshBuilder::icosphere(5, 1.0);
        $p = $mesh->positions;
        $beads = array_map(fn (int $k) => Vector3::scaled([sqrt(1.0 - (1.0 - ($k + 0.5) / 30.0) ** 2) * cos(2.4 * $k), sqrt(1.0 - (1.0 - ($k + 0.5) / 30.0) ** 2) * sin(2.4 * $k), 1.0 - ($k + 0.5) / 30.0], 20.0), range(0, 59));
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $way = [$p[$o], $p[$o + 1], $p[$o + 2]];
            $far = 20.0;
            foreach ($beads as $bead) {
                $along = Vector3::dot($way, $bead);
                $root = $along * $along - 400.0 + 25.0;
                $far = $root > 0.0 ? max($far, $along + sqrt($root)) : $far;
            }
            [$p[$o], $p[$o + 1], $p[$o + 2]] = Vector3::scaled($way, $far);
        }
        $beaded = self::search($mesh->withPositions($p));
        self::assertSame(['free' => 1], self::counts($beaded));
        self::assertGreaterThan(40, count(self::radii(self::search($mesh->withPositions($p), ['sphere']), 'sphere')), 'who asks for balls gets them');

        $pin = array_map(fn (int $k) => [10.0 * sin(M_PI * $k / 60), 22.0 - 10.0 * cos(M_PI * $k / 60)], range(8, 60));
        $knob = self::search(SimpleSolid::lathed(self::dense([[4.0, 0.0], ...$pin], 0.4), self::BASE, [0.0, 0.0, 1.0]));
        self::assertEqualsWithDelta([10.0], self::radii($knob, 'sphere'), 0.003, 'its corners lie between those of a ball');
    }

    #[Test]
    public function kinds_that_are_not_looked_for_are_free_form_and_a_wide_tolerance_swallows_a_slope(): void
    {
        $tube = SimpleSolid::tube(self::BASE, [0.0, 0.0, 1.0], 30.0, 20.0, 15.0);
        self::assertSame(['free' => 2, 'plane' => 2], self::counts(self::search($tube, ['plane'])));
        // Its side is 0.08 mm off a cylinder at either end.
        $nearly = SimpleSolid::cone(self::BASE, [0.0, 0.0, 1.0], 30.0, 29.7, 20.0);
        self::assertArrayHasKey('cone', self::counts(self::search($nearly, null, 0.02)));
        self::assertArrayHasKey('cylinder', self::counts(self::search($nearly, null, 0.2)));
    }

    /** Fused from passes in their true poses, so that what is off is off by noise alone. */
    private static function fused(Part $part, float $voxel): TriangleMesh
    {
        $rig = new HandheldRig(width: 200, height: 150, table: false);
        $passes = [];
        for ($k = 0; $k < 8; $k++) {
            $capture = Captures::of($rig, $part, $k, 4);
            $passes[] = Pass::of("pass $k", $capture['cloud'])->moved($capture['pose'], 0.0, 1.0);
        }

        return (new Fuse)(new Workpiece($passes), new FuseParameters($voxel), new NoProgress)->workpiece->bodies[0]->placedMesh();
    }

    #[Test]
    public function a_scan_of_a_machined_part_is_its_faces(): void
    {
        $part = new BearingPedestal;
        $mesh = self::fused($part, 1.4);
        $search = self::search($mesh);
        $right = $all = 0.0;
        $areas = Measure::areas($mesh->positions, $mesh->faces);
        $centres = Measure::centres($mesh->positions, $mesh->faces);
        foreach ($search->labels as $t => $label) {
            if (($mesh->origin[$t] ?? 0) !== TriangleMesh::MEASURED) {
                continue;
            }
            $all += $areas[$t];
            [$at, $normal] = self::onPart($part, [$centres[3 * $t], $centres[3 * $t + 1], $centres[3 * $t + 2]]);
            $shape = $search->shapes[$label]->shape;
            $right += $shape !== null && abs($shape->distances($at)[0]) < 0.1 && abs(Vector3::dot($shape->normal(...$at), $normal)) > 0.985 ? $areas[$t] : 0.0;
        }
        self::assertGreaterThan(0.95, $right / $all, 'labels that tell the exact surface below them');
        // Of 25 faces that hold more than 0.3 % of the area none is found twice or more often than here and there.
        $large = array_filter($search->shapes, fn (FoundShape $shape) => $shape->area > 0.003 * array_sum($areas) && $shape->kind !== 'free');
        self::assertLessThanOrEqual(29, count($large));
        foreach ([['cylinder', 15.0], ['cylinder', 27.0]] as [$kind, $radius]) {
            $found = array_values(array_filter($large, fn (FoundShape $one) => $one->kind === $kind && abs(($one->shape->radius ?? 0.0) - $radius) < 0.5));
            self::assertCount(1, $found, "one of radius $radius");
            self::assertEqualsWithDelta(2.0 * $radius, 2.0 * ($found[0]->shape->radius ?? 0.0), 0.05);
            self::assertEqualsWithDelta(0.0, rad2deg(acos(min(1.0, abs($found[0]->shape->axis[1] ?? 0.0)))), 0.05);
            self::assertEqualsWithDelta([0.0, 52.0], [$found[0]->shape->origin[0] ?? 9.0, $found[0]->shape->origin[2] ?? 9.0], 0.03);
        }
        $base = $search->shapes[0]->kind === 'plane' ? $search->shapes[0]->shape : $search->shapes[1]->shape;
        self::assertEqualsWithDelta(0.0, rad2deg(acos(min(1.0, abs($base?->direction()[2] ?? 0.0)))), 0.02);

    }

    /**
     * @param  array{float, float, float}  $at
     * @return array{array{float, float, float}, array{float, float, float}} the place of the exact part that is next to it, and its normal
     */
    private static function onPart(Part $part, array $at): array
    {
        $gradient = function (array $q) use ($part): array {
            [$x, $y, $z] = $q;

            return Vector3::unit([$part->distance($x + 1e-4, $y, $z) - $part->distance($x - 1e-4, $y, $z), $part->distance($x, $y + 1e-4, $z) - $part->distance($x, $y - 1e-4, $z), $part->distance($x, $y, $z + 1e-4) - $part->distance($x, $y, $z - 1e-4)]);
        };
        $on = Vector3::minus($at, Vector3::scaled($gradient($at), $part->distance(...$at)));

        return [$on, $gradient($on)];
    }
}
