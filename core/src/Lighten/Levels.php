<?php

declare(strict_types=1);

namespace Emberstone\Core\Lighten;

use Emberstone\Core\Algorithms\Remeshing\ProgressiveMesh;
use Emberstone\Core\Algorithms\Remeshing\QuadricCollapse;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * How far the surface moves at every count of faces, from one run of collapses. Changes nothing.
 *
 * Source    Hoppe 1996; see Algorithms/Remeshing/ProgressiveMesh and QuadricCollapse.
 * Keeps     everything; the collapses of each body are an artefact (see BodyLevels), with which a window shows the body at any count without asking again.
 * Departs   a step of `decimate` collapses anew, with more rounds near its target, and sees to it that no faces cross: its farthest place can be another one than what is told here.
 *
 * @implements Operation<LevelsParameters>
 */
final class Levels implements Operation
{
    /** Each stop has this share of the faces of the one before: fine enough that a count between two stops is told within a tenth. */
    private const STEP = 0.75;

    /** Faces of a body at the last stop: few shapes are of use with less. */
    private const FEWEST = 100;

    public static function about(): About
    {
        return new About('levels', Stage::Lighten, 'Levels', 'Shows how far the surface would move at every count of faces. Changes nothing.', 'meshes', LevelsParameters::class, looksOnly: true);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $faces = $workpiece->faceCount();

        return new Estimate(0.5 + 4e-5 * $faces, 60 + 7e-4 * $faces);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $bodies = array_values(array_filter($workpiece->meshes(), fn (Body $body) => $body->geometry instanceof TriangleMesh && $body->geometry->faces !== []));
        if ($bodies === []) {
            throw UnsuitableInput::because('There is no mesh to look at: fuse the passes first, or bring in a mesh.');
        }
        SelectedArea::check($workpiece, $parameters->selection);
        $counts = self::counts($workpiece->faceCount(), count($bodies));
        $shares = BodyAreas::shares($workpiece, $counts);
        $levels = [];
        foreach ($bodies as $k => $body) {
            $levels[] = self::levels($body, array_map(fn (array $of): int => $of[$body->id], $shares), $parameters, new PartProgress($progress, $k / count($bodies), ($k + 1) / count($bodies)));
        }
        $stops = array_map(fn (int $s) => [
            'faces' => array_sum(array_map(fn (BodyLevels $one) => $one->stops[$s]['faces'], $levels)),
            'p95' => round(max(array_map(fn (BodyLevels $one) => $one->stops[$s]['p95'], $levels)), 6),
            'farthest' => round(max(array_map(fn (BodyLevels $one) => $one->stops[$s]['farthest'], $levels)), 6),
        ], array_keys($counts));
        $last = $stops[count($stops) - 1];

        return new Result(
            $workpiece,
            sprintf('%s → %s faces: 95 %% within %s at the fewest', Format::count($workpiece->faceCount()), Format::count($last['faces']), Format::mm($last['p95'])),
            [], ['stops' => $stops],
            shown: array_map(fn (BodyLevels $one) => $one->artefact(), $levels),
        );
    }

    /** @return non-empty-list<int> of faces of all bodies together */
    private static function counts(int $faces, int $bodies): array
    {
        $counts = [];
        for ($count = (float) $faces; $count > self::FEWEST * $bodies || $counts === []; $count *= self::STEP) {
            $counts[] = (int) round($count);
        }
        $counts[] = min($faces, self::FEWEST * $bodies);

        return $counts;
    }

    /** @param  list<int>  $counts  of faces of the body, falling */
    private static function levels(Body $body, array $counts, LevelsParameters $parameters, Progress $progress): BodyLevels
    {
        $whole = $body->own();
        assert($whole instanceof TriangleMesh);
        $area = SelectedArea::of($whole, $body, $parameters->selection, $parameters->finer);
        $mesh = new ProgressiveMesh($whole->positions, $whole->faces);
        QuadricCollapse::run($whole->positions, $whole->faces, [], [], $counts[count($counts) - 1], INF, QuadricCollapse::rimWeight($parameters->keepBoundary), fn (float $done) => $progress->advance('collapsing edges', 0.3 * $done), $area->locked(), $area->weighted(), $area->weight(), $mesh);

        return BodyLevels::measured($body, $whole, $mesh, $counts, new PartProgress($progress, 0.3, 1.0));
    }
}
