<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Linear\Median;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Format;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Parallel\Cores;
use Emberstone\Core\Parallel\Fork;
use Emberstone\Core\Spatial\PointGrid;

/**
 * How noisy each pass is, and in a sentence whether removing points would help. Changes nothing.
 *
 * Noise is the RMS distance of neighbours from the plane through them (median over the points inside the surface): along the normal,
 * not along the ray. Curvature adds to it what the surface bends over some three spacings.
 *
 * @implements Operation<NoiseReportParameters>
 *
 * @phpstan-type Line array{pass: string, points: int, spacingMm: float, noiseMm: float, outliers: float, off: float, isolated: float, grazing: float|null}
 *
 * Shares are of the points: outliers what removing would take, off those of them that float over the surface or between two (the rest is rim).
 */
final class NoiseReport implements Operation
{
    /** Points so many times farther from their neighbours than usual stand alone. */
    private const ISOLATED = 8.0;

    /** The centre of its neighbours lies so far aside, in spacings, for a point at a rim (as in registering). */
    private const RIM_LEAN = 0.35;

    /** An outlier whose neighbours all lie to one side floats over the surface; at a rim they lie around half of it. */
    private const STRAY_LEAN = 0.9;

    /** An outlier whose neighbours fill space, not a surface, flies between two of them. */
    private const STRAY_BEND = 0.15;

    /** Share of points off the surface from which removing them changes a fused surface. */
    private const WORTH_IT = 0.001;

    public static function about(): About
    {
        return new About('noise-report', Stage::Gather, 'Noise report', 'Measures the noise of each pass and says whether removing points would help. Changes nothing.', 'passes', NoiseReportParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 1e-5 * $workpiece->pointCount(), 50 + 2e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $clouds = Sieve::clouds($workpiece->withBodies([]));
        $tasks = array_map(fn (array $one) => fn (): string => json_encode(self::line($one[0], $one[1], $parameters), JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION), $clouds);
        $lines = [];
        $outliers = $isolated = $off = 0.0;
        foreach (Fork::map($tasks, Cores::count(), $progress, 'noise') as $k => $json) {
            $line = json_decode($json, true, 8, JSON_THROW_ON_ERROR);
            $lines[] = ['pass' => $workpiece->passes[$k]->name] + $line;
            $outliers += $line['outliers'] * $line['points'];
            $isolated += $line['isolated'] * $line['points'];
            $off += $line['off'] * $line['points'];
        }
        $points = max(1, array_sum(array_column($lines, 'points')));
        $noise = Median::of(array_column($lines, 'noiseMm'));

        return new Result(
            $workpiece, 'noise '.Format::mm($noise), [],
            ['noiseMm' => round($noise, 5), 'outliers' => round($outliers / $points, 5), 'off' => round($off / $points, 5), 'isolated' => round($isolated / $points, 5), 'passes' => $lines],
            self::advice($lines, $noise, $outliers / $points, $off / $points),
        );
    }

    /** @return array{points: int, spacingMm: float, noiseMm: float, outliers: float, off: float, isolated: float, grazing: float|null} */
    private static function line(PointCloud $cloud, float $mmPerUnit, NoiseReportParameters $parameters): array
    {
        $n = $cloud->count();
        $empty = ['points' => $n, 'spacingMm' => 0.0, 'noiseMm' => 0.0, 'outliers' => 0.0, 'off' => 0.0, 'isolated' => 0.0, 'grazing' => null];
        if ($n <= $parameters->neighbours) {
            return $empty;
        }
        $grid = PointGrid::of($cloud->positions);
        $near = $grid->neighbourhoods($parameters->neighbours + 1);
        $limit = RemoveOutliers::limit($near['spacing'], $parameters->deviations);
        $alone = self::ISOLATED * Median::of($near['spacing']);
        $outliers = $isolated = $off = 0;
        $across = [];
        foreach ($near['spacing'] as $slot => $spacing) {
            $outliers += $spacing > $limit ? 1 : 0;
            $isolated += $spacing > $alone ? 1 : 0;
            $off += $spacing > $alone || $spacing > $limit && ($near['lean'][$slot] > self::STRAY_LEAN || ($near['lean'][$slot] < self::RIM_LEAN && $near['bend'][$slot] > self::STRAY_BEND)) ? 1 : 0;
            if ($spacing <= $limit && $near['lean'][$slot] < self::RIM_LEAN) {
                $across[] = $near['across'][$slot];
            }
        }
        $grazing = null;
        if ($cloud->sensorOrigin !== null) {
            $least = cos(deg2rad($parameters->grazing));
            $grazing = count(array_filter(RemoveGrazing::cosines($grid, $near['normals'], $cloud->sensorOrigin), fn (float $cosine) => $cosine < $least)) / $n;
        }

        return [
            'points' => $n, 'spacingMm' => round($grid->medianSpacing() * $mmPerUnit, 4), 'noiseMm' => $across === [] ? 0.0 : round(Median::of($across) * $mmPerUnit, 5),
            'outliers' => round($outliers / $n, 5), 'off' => round($off / $n, 5), 'isolated' => round($isolated / $n, 6), 'grazing' => $grazing === null ? null : round($grazing, 4),
        ];
    }

    /**
     * @param  list<Line>  $lines
     * @return list<string>
     */
    private static function advice(array $lines, float $noise, float $outliers, float $off): array
    {
        $notes = [];
        if ($off < self::WORTH_IT) {
            $notes[] = sprintf('Clean: only %.2f %% of the points stand off the surface. Removing outliers would take %.1f %%, nearly all of it rim; leave them.', 100 * $off, 100 * $outliers);
        } else {
            $notes[] = sprintf('%.2f %% of the points stand off the surface: removing outliers would help. It would take %.1f %% at the present setting, rims included.', 100 * $off, 100 * $outliers);
        }
        foreach ($lines as $line) {
            if ($line['noiseMm'] > 2.0 * $noise && $noise > 0.0) {
                $notes[] = sprintf('%s is %.1f times as noisy as the others (%s): scan that side again, or leave it out if others saw it.', $line['pass'], $line['noiseMm'] / $noise, Format::mm($line['noiseMm']));
            }
            if (($line['grazing'] ?? 0.0) > 0.25) {
                $notes[] = sprintf('%s saw %d %% of its points nearly along the surface: remove grazing points where other passes saw the same place.', $line['pass'], round(100 * $line['grazing']));
            }
        }

        return $notes;
    }
}
