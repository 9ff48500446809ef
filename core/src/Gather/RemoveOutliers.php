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
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Parallel\Cores;
use Emberstone\Core\Parallel\Fork;
use Emberstone\Core\Spatial\PointGrid;

/**
 * Statistical outlier removal on every pass and cloud: a point goes when the mean distance to its neighbours is far above the rest's.
 *
 * Source    Rusu et al. 2008, "Towards 3D Point cloud based object maps", section 4.
 * Departs   mean and deviation are taken without points beyond ten times the median, so that a few far strays hide nobody.
 *
 * @implements Operation<RemoveOutliersParameters>
 */
final class RemoveOutliers implements Operation
{
    public static function about(): About
    {
        return new About('remove-outliers', Stage::Gather, 'Remove outliers', 'Takes away single points that float off the surface. Raw points stay in the pass.', 'passes', RemoveOutliersParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 1e-5 * $workpiece->pointCount(), 50 + 2e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $clouds = array_map(fn ($pass) => $pass->keptCloud(), $workpiece->passes);
        $own = count($clouds);
        foreach ($workpiece->bodies as $body) {
            if ($body->geometry instanceof PointCloud) {
                $clouds[] = $body->geometry;
            }
        }
        if ($clouds === []) {
            throw UnsuitableInput::because('There are no points to look at; bring in a pass first.');
        }
        $masks = Fork::map(
            array_map(fn (PointCloud $cloud) => fn (): string => self::mask($cloud, $parameters), $clouds),
            Cores::count(), $progress, 'outliers',
        );
        $before = array_sum(array_map(fn (PointCloud $cloud) => $cloud->count(), $clouds));
        $gone = array_sum(array_map(fn (string $mask) => substr_count($mask, "\0"), $masks));
        $passes = [];
        foreach ($workpiece->passes as $k => $pass) {
            $passes[] = $pass->narrowed($masks[$k]);
        }
        $bodies = [];
        foreach ($workpiece->bodies as $body) {
            $geometry = $body->geometry;
            $bodies[] = $geometry instanceof PointCloud ? new $body($body->id, $body->name, $geometry->kept($masks[$own++]), $body->transform) : $body;
        }

        return new Result(
            $workpiece->withPasses($passes)->withBodies($bodies),
            '− '.Format::count($gone).' points',
            ['points' => $before],
            ['points' => $before - $gone, 'share' => round($gone / max(1, $before), 5)],
        );
    }

    private static function mask(PointCloud $cloud, RemoveOutliersParameters $parameters): string
    {
        $n = $cloud->count();
        if ($n <= $parameters->neighbours) {
            return str_repeat("\1", $n);
        }
        $grid = PointGrid::of($cloud->positions);
        $spacing = $grid->neighbourhoods($parameters->neighbours + 1)['spacing'];
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
        $limit = $mean + $parameters->deviations * sqrt(max(0.0, $squares / $count - $mean * $mean));
        $mask = str_repeat("\1", $n);
        foreach ($grid->order as $slot => $i) {
            if ($spacing[$slot] > $limit) {
                $mask[$i] = "\0";
            }
        }

        return $mask;
    }
}
