<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Algorithms\Search\Clusters;
use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Sieve;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Takes away small clusters that float apart from the part: fixtures' ends, dust, the hand that held it.
 *
 * @implements Operation<RemoveStraysParameters>
 */
final class RemoveStrays implements Operation
{
    /** Clusters listed by place and size; the rest is only counted. */
    private const LISTED = 12;

    public static function about(): About
    {
        return new About('remove-strays', Stage::Gather, 'Remove strays', 'Takes away small clusters of points that hang together apart from the part. Raw points stay in the pass.', 'passes', RemoveStraysParameters::class, avoid: 'Not where small pieces of the part are seen apart from the rest, as through a gap.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 2e-6 * $workpiece->pointCount(), 50 + 1e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $gap = $parameters->gap ?? RemoveStraysParameters::suggestGap($workpiece) ?? 1.0;
        // Each task is handed its pass' points alone; where they stand is needed for the places that stay.
        $stands = array_map(fn (Pass $pass) => $pass->transform->inverse(), $workpiece->passes);
        $result = Sieve::apply($workpiece, function (PointCloud $cloud, int $k) use ($gap, $parameters, $stands): string {
            $stay = array_map(fn (array $place) => isset($stands[$k]) ? $stands[$k]->point([(float) $place[0], (float) $place[1], (float) $place[2]]) : $place, $parameters->keep);

            return self::mask($cloud, $gap, $parameters->share, $parameters->distance, $stay);
        }, new PartProgress($progress, 0.0, 0.8), 'clusters');
        $clusters = $this->gone($workpiece, $result->workpiece, $gap, new PartProgress($progress, 0.8, 1.0));
        $notes = array_map(fn (array $one) => sprintf('%s: %d points, %.1f mm large, at %.1f, %.1f, %.1f mm.', $one['pass'], $one['points'], $one['sizeMm'], ...$one['centre']), array_slice($clusters, 0, self::LISTED));
        if (count($clusters) > self::LISTED) {
            $notes[] = 'And '.(count($clusters) - self::LISTED).' smaller ones.';
        }

        return new Result($result->workpiece, $result->headline, $result->before, [...$result->after, 'clusters' => count($clusters), 'listed' => array_slice($clusters, 0, self::LISTED)], $notes);
    }

    /** @param  array<int, array{float, float, float}>  $stay  places whose cluster is left alone */
    private static function mask(PointCloud $cloud, float $gap, float $share, float $distance, array $stay): string
    {
        $n = $cloud->count();
        if ($n === 0) {
            return '';
        }
        ['label' => $label, 'size' => $size] = Clusters::of($cloud->positions, $gap);
        $least = $share * $n;
        // The largest stays whatever its share: a pass is never emptied.
        $goes = array_map(fn (int $many, int $cluster) => $cluster > 0 && $many < $least, $size, array_keys($size));
        if ($distance > 0.0 && in_array(true, $goes, true)) {
            $goes = self::far($cloud->positions, $label, $goes, $distance);
        }
        foreach ($stay as $place) {
            $goes[$label[self::nearest($cloud->positions, $place)]] = false;
        }
        $mask = str_repeat("\1", $n);
        foreach ($label as $i => $cluster) {
            if ($goes[$cluster]) {
                $mask[$i] = "\0";
            }
        }

        return $mask;
    }

    /**
     * Of the clusters that would go, those with no point within a distance of the largest.
     *
     * @param  list<float>  $p
     * @param  list<int>  $label
     * @param  array<int, bool>  $goes
     * @return array<int, bool>
     */
    private static function far(array $p, array $label, array $goes, float $distance): array
    {
        $largest = $others = $of = [];
        foreach ($label as $i => $cluster) {
            if ($cluster === 0) {
                array_push($largest, $p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
            } elseif ($goes[$cluster]) {
                array_push($others, $p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
                $of[] = $cluster;
            }
        }
        $nearest = $distanceSq = [];
        KdTree::of($largest)->nearest($others, $distance, $nearest, $distanceSq);
        foreach ($nearest as $k => $found) {
            if ($found >= 0) {
                $goes[$of[$k]] = false;
            }
        }

        return $goes;
    }

    /**
     * @param  list<float>  $p
     * @param  array{float, float, float}  $to
     */
    private static function nearest(array $p, array $to): int
    {
        $best = INF;
        $at = 0;
        for ($i = 0, $o = 0, $e = count($p); $o < $e; $i++, $o += 3) {
            $d = ($p[$o] - $to[0]) ** 2 + ($p[$o + 1] - $to[1]) ** 2 + ($p[$o + 2] - $to[2]) ** 2;
            if ($d < $best) {
                $best = $d;
                $at = $i;
            }
        }

        return $at;
    }

    /** @return list<array{pass: string, points: int, sizeMm: float, centre: array{float, float, float}}> what went, largest first */
    private function gone(Workpiece $before, Workpiece $after, float $gap, Progress $progress): array
    {
        $gone = [];
        foreach ($before->passes as $k => $pass) {
            $points = self::between($pass->allCloud(), $pass->mask, $after->passes[$k]->mask)->transformed($pass->transform)->positions;
            ['label' => $label, 'size' => $size] = $points === [] ? ['label' => [], 'size' => []] : Clusters::of($points, $gap);
            $of = array_fill(0, count($size), []);
            foreach ($label as $i => $cluster) {
                if ($cluster < 100) {
                    array_push($of[$cluster], $points[3 * $i], $points[3 * $i + 1], $points[3 * $i + 2]);
                }
            }
            foreach ($size as $cluster => $many) {
                $box = $of[$cluster] === [] ? null : BoundingBox::of($of[$cluster]);
                $gone[] = ['pass' => $pass->name, 'points' => $many, 'sizeMm' => $box?->longestSide() ?? 0.0, 'centre' => $box?->centre() ?? [0.0, 0.0, 0.0]];
            }
            $progress->advance('listing', ($k + 1) / count($before->passes));
        }
        usort($gone, fn (array $a, array $b) => $b['points'] <=> $a['points']);

        return $gone;
    }

    /** The points that one mask keeps and the other does not. */
    private static function between(PointCloud $cloud, ?string $before, ?string $after): PointCloud
    {
        $all = str_repeat("\1", $cloud->count());

        return $cloud->kept(($before ?? $all) & ~($after ?? $all) & $all);
    }
}
