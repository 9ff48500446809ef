<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Capture\Frame;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;

/** Frames of one sweep laid together into one pass, tightened on each other where their shape allows it. */
final class Sweeps
{
    /**
     * @param  iterable<Frame>  $frames
     * @return array<int, array{cloud: PointCloud, fit: SweepFit}> by sweep, in the coordinates of the capture; the sensor stands where it stood on the average
     */
    public static function of(iterable $frames, Progress $progress): array
    {
        $clouds = $eyes = [];
        foreach ($frames as $frame) {
            if (! $frame->lost && $frame->cloud->count() > 0) {
                $clouds[$frame->sweep][] = $placed = $frame->placed();
                $eyes[$frame->sweep][] = $placed->sensorOrigin ?? $frame->pose->point([0.0, 0.0, 0.0]);
            }
        }
        ksort($clouds);
        $sweeps = [];
        foreach ($clouds as $sweep => $parts) {
            $fit = SweepFit::of($parts, new PartProgress($progress, count($sweeps) / count($clouds), (count($sweeps) + 1) / count($clouds)));
            $whole = PointCloud::joined(array_map(fn (PointCloud $part, int $k) => $part->transformed($fit->motions[$k]), $parts, array_keys($parts)));
            $stood = array_map(fn (array $eye, int $k) => $fit->motions[$k]->point($eye), $eyes[$sweep], array_keys($parts));
            $mean = fn (int $axis): float => array_sum(array_column($stood, $axis)) / count($stood);
            $sweeps[$sweep] = ['cloud' => PointCloud::fromFlat($whole->positions, [], $whole->colours, [$mean(0), $mean(1), $mean(2)], $whole->confidence), 'fit' => $fit];
            $progress->advance('laying sweeps together', count($sweeps) / count($clouds));
        }

        return $sweeps;
    }
}
