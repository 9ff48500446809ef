<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Algorithms\Cutting\PlaneCut;
use Emberstone\Core\Algorithms\Cutting\RimGraft;
use Emberstone\Core\Algorithms\Cutting\SectorCopies;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Deliver\CutPart;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * A good sector in place of all others around an axis: the teeth of a wheel after one of them, the spokes, the lobes. What was there goes.
 *
 * Output    a closed, sound body; the good sector keeps its evidence, its copies and the blends between them are marked as made. How far the old sectors lay off the new ones is told: whether the part
 *           really repeats is for people to judge.
 * Method    where no sector is named, every place on the surface is turned to all others; the sector whose places are nearest to where they come is taken. Of a pitch PHASES beginnings are looked at.
 * Error     see Algorithms\Cutting\SectorCopies.
 *
 * @implements Operation<RepeatAroundParameters>
 */
final class RepeatAround implements Operation
{
    /** Places on the surface that are compared. */
    private const SAMPLES = 6000;

    /** Of the other sectors, those that a place is compared with at most. */
    private const OTHERS = 8;

    /** Beginnings of the good sector within one pitch. */
    private const PHASES = 8;

    /** Width of a blend in edges of the mesh, where nothing is said: wide enough that its triangles are no slivers. */
    private const EDGES = 2.0;

    /** And at most as a share of the radius: on coarse meshes too it is straight across little. */
    private const NARROW = 0.02;

    /** Share of a sector that its blends take at most. */
    private const WIDEST = 0.25;

    /** How many times as far off as the sectors in the middle (half of them are nearer) one is named as different. */
    private const DIFFERS = 3.0;

    public static function about(): About
    {
        return new About('repeat-around', Stage::Deliver, 'Repeat around', 'Puts a good sector in place of all others around an axis, as for the teeth of a wheel.', 'meshes', RepeatAroundParameters::class, avoid: 'Not where the sectors are meant to differ, as by a keyway: the step says how far the old ones lay off.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5 + 1.5e-5 * $workpiece->faceCount(), 80 + 1.5e-3 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $axis = AxisChoice::of('axis', $parameters->axis, $workpiece->datums);
        $chosen = Choice::of($workpiece, $parameters->body, $parameters->on);
        $changed = $notes = [];
        $sum = ['faces' => 0, 'rms' => 0.0, 'most' => 0.0, 'from' => 0.0];
        $before = 0;
        foreach (array_values($chosen) as $k => $body) {
            $part = new PartProgress($progress, $k / count($chosen), ($k + 1) / count($chosen));
            $mesh = $body->placedMesh();
            Combination::refuseOpen($body->name, $mesh);
            $samples = self::beyond(SurfaceDistance::onSurface($mesh, self::SAMPLES), $axis, $parameters->beyond ?? 0.0);
            if ($samples === []) {
                throw UnsuitableInput::because(sprintf('%s does not reach beyond %g mm from %s. Make it less, or leave it empty.', $body->name, $parameters->beyond, $axis->name));
            }
            [$made, $from] = self::made($body, $mesh, $samples, $axis, $parameters, $part);
            $part->advance('comparing with what was there', 0.8);
            $off = self::off($samples, $made, $axis, deg2rad($from), $parameters->copies());
            array_push($notes, ...self::told($body->name, $off, $from, $parameters->copies()));
            $changed[$body->id] = $body->reshaped($made);
            $before += $mesh->faceCount();
            $sum = ['faces' => $sum['faces'] + $made->faceCount(), 'rms' => max($sum['rms'], Median::of(array_column($off, 'rms'))), 'most' => max($sum['most'], ...array_column($off, 'most')), 'from' => $from];
        }
        $progress->advance('repeating', 1.0);

        return new Result(
            $workpiece->withBodies(array_map(fn (Body $body) => $changed[$body->id] ?? $body, $workpiece->bodies)),
            sprintf('%d sectors of %g° after the one from %s°', $parameters->copies(), round(360.0 / $parameters->copies(), 3), Format::plain($sum['from'], 1)),
            ['faces' => $before], $sum, $notes,
        );
    }

    /**
     * @param  list<float>  $samples
     * @return array{TriangleMesh, float} and where its good sector begins, degrees
     */
    private static function made(Body $body, TriangleMesh $mesh, array $samples, AxisChoice $axis, RepeatAroundParameters $parameters, Progress $progress): array
    {
        $copies = $parameters->copies();
        $begins = $parameters->begins();
        $across = $axis->across();
        if ($begins === null) {
            $progress->advance('looking for the good sector', 0.0);
            $candidates = self::best($samples, self::oddness($mesh, $samples, $axis, $copies), $axis, $copies);
            $progress->advance('looking for the good sector', 0.3);
        } else {
            $candidates = [fmod(fmod($begins, 360.0) + 360.0, 360.0)];
        }
        [$wide, $gap] = self::gap($mesh, $axis, $parameters, $copies);
        $outer = $parameters->beyond === null ? $mesh : CutPart::of($mesh, self::cutAround($mesh, $axis, $parameters->beyond + 0.5 * $wide), 1);
        $why = null;
        foreach ($candidates as $k => $from) {
            $progress->advance('joining sectors', 0.3 + 0.4 * $k / count($candidates));
            $made = SectorCopies::of($outer->positions, $outer->faces, $axis->point, $axis->direction, $across, deg2rad($from), $copies, $gap);
            if ($made->trouble === null) {
                $whole = self::withEvidence($outer, $made);
                $inner = $parameters->beyond === null ? null : CutPart::of($mesh, self::cutAround($mesh, $axis, max(0.0, $parameters->beyond - 0.5 * $wide)), 0);
                if ($inner === null || $inner->faces === []) {
                    return [$whole, $from];
                }
                $graft = RimGraft::of([$inner->positions, $inner->faces], [$whole->positions, $whole->faces]);
                if ($graft->trouble === null) {
                    $both = TriangleMesh::joined([$inner, $whole]);

                    return [TriangleMesh::fromFlat($both->positions, [...$both->faces, ...$graft->strips], $both->support, [...($both->origin !== [] ? $both->origin : array_fill(0, $both->faceCount(), TriangleMesh::MEASURED)), ...array_fill(0, intdiv(count($graft->strips), 3), TriangleMesh::MADE)]), $from];
                }
            }
            $why ??= $made->trouble ?? $graft->trouble;
        }
        throw UnsuitableInput::because(sprintf('%s cannot be repeated around %s%s: %s Choose another beginning, another count, or the axis it really turns about.', $body->name, $axis->name, $begins === null ? '' : sprintf(' from %g°', $begins), $why));
    }

    /** The mesh parted where it is so far from the axis: within, and beyond. */
    private static function cutAround(TriangleMesh $mesh, AxisChoice $axis, float $radius): PlaneCut
    {
        return PlaneCut::atHeights($mesh->positions, $mesh->faces, array_map(fn (array $at) => self::away($axis, $at) - $radius, array_chunk($mesh->positions, 3)), $axis->direction);
    }

    /**
     * How far a place is from the axis, mm.
     *
     * @param  list<float>  $at
     */
    private static function away(AxisChoice $axis, array $at): float
    {
        $from = Vector3::minus($at, $axis->point);

        return Vector3::length(Vector3::minus($from, Vector3::scaled($axis->direction, Vector3::dot($from, $axis->direction))));
    }

    /**
     * @param  list<float>  $points
     * @return list<float> those farther from the axis than a radius
     */
    private static function beyond(array $points, AxisChoice $axis, float $radius): array
    {
        return array_merge(...array_filter(array_chunk($points, 3), fn (array $at) => self::away($axis, $at) >= $radius));
    }

    /** @return array{float, float} the gap that a blend crosses: mm on the outside, and radians between sectors */
    private static function gap(TriangleMesh $mesh, AxisChoice $axis, RepeatAroundParameters $parameters, int $copies): array
    {
        $far = $edges = 0.0;
        foreach (array_chunk($mesh->positions, 3) as $at) {
            $far = max($far, self::away($axis, $at));
        }
        if ($parameters->blend === null) {
            for ($o = 0, $n = count($mesh->faces); $o < $n; $o += 3) {
                [$a, $b] = [3 * $mesh->faces[$o], 3 * $mesh->faces[$o + 1]];
                $edges += sqrt(($mesh->positions[$a] - $mesh->positions[$b]) ** 2 + ($mesh->positions[$a + 1] - $mesh->positions[$b + 1]) ** 2 + ($mesh->positions[$a + 2] - $mesh->positions[$b + 2]) ** 2);
            }
        }
        $wide = $parameters->blend ?? min(self::EDGES * 3.0 * $edges / max(1, count($mesh->faces)), self::NARROW * $far);

        return [$wide, min($wide / max(1e-9, $far), self::WIDEST * 2.0 * M_PI / $copies)];
    }

    /**
     * How far each place lies from the surface when it is turned to the other sectors, in the middle of these.
     *
     * @param  list<float>  $samples
     * @return list<float>
     */
    private static function oddness(TriangleMesh $mesh, array $samples, AxisChoice $axis, int $copies): array
    {
        $tree = TriangleBvh::of($mesh->positions, $mesh->faces);
        $apart = [];
        $others = min($copies - 1, self::OTHERS);
        for ($k = 1; $k <= $others; $k++) {
            $turn = (int) round($k * $copies / ($others + 1));
            $face = $distanceSq = [];
            $tree->closest(SectorCopies::turn($axis->point, $axis->direction, 2.0 * M_PI * $turn / $copies)->points($samples), $face, $distanceSq);
            foreach ($distanceSq as $i => $d) {
                $apart[$i][] = sqrt($d);
            }
        }

        return array_map(Median::of(...), array_values($apart));
    }

    /**
     * Beginnings of a good sector, degrees, the best first: one for each phase.
     *
     * @param  list<float>  $samples
     * @param  list<float>  $odd
     * @return list<float>
     */
    private static function best(array $samples, array $odd, AxisChoice $axis, int $copies): array
    {
        $angles = self::angles($samples, $axis);
        $found = [];
        for ($phase = 0; $phase < self::PHASES; $phase++) {
            $sums = array_fill(0, $copies, [0.0, 0]);
            foreach ($angles as $i => $angle) {
                $sector = ((int) floor($angle * $copies / 360.0 - $phase / self::PHASES) + $copies) % $copies;
                $sums[$sector] = [$sums[$sector][0] + $odd[$i] ** 2, $sums[$sector][1] + 1];
            }
            $means = array_map(fn (array $sum) => $sum[1] > 0 ? $sum[0] / $sum[1] : INF, $sums);
            $least = (int) array_search(min($means), $means, true);
            $found[] = [$means[$least], round(($least + $phase / self::PHASES) * 360.0 / $copies, 6)];
        }
        sort($found);

        return array_column($found, 1);
    }

    /**
     * @param  list<float>  $points
     * @return list<float> degrees about the axis, 0 to 360
     */
    private static function angles(array $points, AxisChoice $axis): array
    {
        $across = $axis->across();
        $beside = Vector3::cross($axis->direction, $across);
        $angles = [];
        foreach (array_chunk($points, 3) as $at) {
            $from = Vector3::minus($at, $axis->point);
            $angle = rad2deg(atan2(Vector3::dot($from, $beside), Vector3::dot($from, $across)));
            $angles[] = $angle < 0.0 ? $angle + 360.0 : $angle;
        }

        return $angles;
    }

    private static function withEvidence(TriangleMesh $mesh, SectorCopies $made): TriangleMesh
    {
        $support = [];
        if ($mesh->support !== []) {
            $own = $mesh->support;
            foreach ($made->between as [$a, $b, $t]) {
                $own[] = $own[$t < 0.5 ? $a : $b];
            }
            foreach ($made->vertexOf as $v => $of) {
                $support[] = $made->isCopied[$v] ? 0 : $own[$of];
            }
        }
        $origin = array_map(fn (int $t) => $t < 0 ? TriangleMesh::MADE : $mesh->origin[$t] ?? TriangleMesh::MEASURED, $made->source);

        return TriangleMesh::fromFlat($made->positions, $made->faces, $support, $origin);
    }

    /**
     * How far the old surface lies from the new one, sector by sector from the good one on.
     *
     * @param  list<float>  $samples
     * @return list<array{rms: float, most: float}> mm
     */
    private static function off(array $samples, TriangleMesh $made, AxisChoice $axis, float $from, int $copies): array
    {
        $face = $distanceSq = [];
        TriangleBvh::of($made->positions, $made->faces)->closest($samples, $face, $distanceSq);
        $sums = array_fill(0, $copies, [0.0, 0, 0.0]);
        foreach (self::angles($samples, $axis) as $i => $angle) {
            $sector = ((int) floor(($angle - rad2deg($from)) * $copies / 360.0) % $copies + $copies) % $copies;
            [$sum, $many, $most] = $sums[$sector];
            $sums[$sector] = [$sum + $distanceSq[$i], $many + 1, max($most, sqrt($distanceSq[$i]))];
        }

        return array_map(fn (array $of) => ['rms' => $of[1] > 0 ? sqrt($of[0] / $of[1]) : 0.0, 'most' => $of[2]], $sums);
    }

    /**
     * @param  list<array{rms: float, most: float}>  $off
     * @return list<string>
     */
    private static function told(string $name, array $off, float $from, int $copies): array
    {
        // The good one itself lies on the new surface.
        $others = array_slice($off, 1);
        $usual = Median::of(array_column($others, 'rms'));
        $notes = [sprintf('The old sectors of %s lay %s off the new ones (root mean square, in the middle of them).', $name, Format::mm($usual))];
        foreach ($others as $k => $one) {
            if ($one['rms'] > self::DIFFERS * $usual && $one['most'] > 0.0) {
                $begin = fmod($from + 360.0 * ($k + 1) / $copies, 360.0);
                $notes[] = sprintf('From %s° to %s° it was %s off, %s at the worst place.', Format::plain($begin, 1), Format::plain(fmod($begin + 360.0 / $copies, 360.0), 1), Format::mm($one['rms']), Format::mm($one['most']));
            }
        }

        return $notes;
    }
}
