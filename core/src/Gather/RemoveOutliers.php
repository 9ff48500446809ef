<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Sieve;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Outlier removal on every pass and cloud. By statistics a point goes when the mean distance to its neighbours is far above the rest's; by radius
 * when too few others are near it.
 *
 * Source    Rusu et al. 2008, "Towards 3D Point cloud based object maps", section 4.
 * Departs   mean and deviation are taken without points beyond ten times the median, so that a few far strays hide nobody.
 *
 * @implements Operation<RemoveOutliersParameters>
 */
final class RemoveOutliers implements Operation
{
    /** Fewer points are done before another process has begun. */
    private const WORTH_FORKING = 100000;

    public static function about(): About
    {
        return new About('remove-outliers', Stage::Gather, 'Remove outliers', 'Takes away single points that float off the surface. Raw points stay in the pass.', 'passes', RemoveOutliersParameters::class, avoid: 'Not twice with a tighter limit until the cloud looks clean: it then eats edges. Fuse leaves out lone points by itself.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 1e-5 * $workpiece->pointCount(), 50 + 2e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        if ($parameters->by === 'radius') {
            $radius = $parameters->radius ?? RemoveOutliersParameters::suggestRadius($workpiece) ?? 1.0;

            return Sieve::apply($workpiece, fn (PointCloud $cloud) => self::lonely($cloud, $radius, $parameters->least), $progress, 'outliers');
        }

        // A pass that is alone is worked on by all cores.
        $workers = intdiv(Cores::count(), max(1, count($workpiece->passes)));

        return Sieve::apply($workpiece, fn (PointCloud $cloud) => self::mask($cloud, $parameters, $workers), $progress, 'outliers');
    }

    /** Points with fewer than $least others within a radius go. */
    private static function lonely(PointCloud $cloud, float $radius, int $least): string
    {
        $mask = str_repeat("\1", $cloud->count());
        if ($cloud->count() > 0) {
            $grid = PointGrid::of($cloud->positions, $radius);
            foreach ($grid->crowd($radius, $least) as $slot => $others) {
                if ($others < $least) {
                    $mask[$grid->order[$slot]] = "\0";
                }
            }
        }

        return $mask;
    }

    private static function mask(PointCloud $cloud, RemoveOutliersParameters $parameters, int $workers): string
    {
        $n = $cloud->count();
        if ($n <= $parameters->neighbours) {
            return str_repeat("\1", $n);
        }
        $grid = PointGrid::of($cloud->positions);
        $spacing = self::spacing($grid, $parameters->neighbours + 1, $n < self::WORTH_FORKING ? 1 : $workers);
        $limit = self::limit($spacing, $parameters->deviations);
        $mask = str_repeat("\1", $n);
        foreach ($grid->order as $slot => $i) {
            if ($spacing[$slot] > $limit) {
                $mask[$i] = "\0";
            }
        }

        return $mask;
    }

    /** @return list<float> the mean distance of each point to its neighbours, by slot */
    private static function spacing(PointGrid $grid, int $k, int $workers): array
    {
        if ($workers < 2) {
            return $grid->neighbourhoods($k)['spacing'];
        }
        $each = intdiv($grid->count() + $workers - 1, $workers);
        $tasks = [];
        for ($from = 0; $from < $grid->count(); $from += $each) {
            $slots = range($from, min($grid->count(), $from + $each) - 1);
            $tasks[] = fn (): string => Packed::doubles($grid->neighbourhoods($k, $slots)['spacing']);
        }

        return Packed::toDoubles(implode('', Fork::map($tasks, $workers)));
    }

    /**
     * The mean distance to its neighbours beyond which a point counts as an outlier.
     *
     * @param  list<float>  $spacing  of each point
     */
    public static function limit(array $spacing, float $deviations): float
    {
        $cap = 10.0 * Median::of($spacing);
        $sum = $squares = 0.0;
        $count = 0;
        foreach ($spacing as $d) {
            if ($d <= $cap) {
                $sum += $d;
                $squares += $d * $d;
                $count++;
            }
        }
        $mean = $sum / $count;

        return $mean + $deviations * sqrt(max(0.0, $squares / $count - $mean * $mean));
    }
}
