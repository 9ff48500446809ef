<?php

declare(strict_types=1);

namespace Emberstone\Core\Capture;

use Emberstone\Core\Cloud\PointCloud;

/** Frames of one sweep laid together into one pass; the frames' own poses are taken as the scanner believed them. */
final class Sweeps
{
    /**
     * @param  iterable<Frame>  $frames
     * @return array<int, PointCloud> by sweep, in the coordinates of the capture; the sensor stands where it stood on the average
     */
    public static function of(iterable $frames): array
    {
        $positions = $colours = $eyes = $bare = [];
        foreach ($frames as $frame) {
            if ($frame->lost || $frame->cloud->count() === 0) {
                continue;
            }
            $placed = $frame->placed();
            $sweep = $frame->sweep;
            $positions[$sweep] ??= [];
            $colours[$sweep] ??= [];
            array_push($positions[$sweep], ...$placed->positions);
            array_push($colours[$sweep], ...$placed->colours);
            $bare[$sweep] = ($bare[$sweep] ?? false) || $placed->colours === [];
            $eyes[$sweep][] = $placed->sensorOrigin ?? $frame->pose->point([0.0, 0.0, 0.0]);
        }
        ksort($positions);
        $clouds = [];
        foreach ($positions as $sweep => $p) {
            $mean = fn (int $axis): float => array_sum(array_column($eyes[$sweep], $axis)) / count($eyes[$sweep]);
            $clouds[$sweep] = PointCloud::fromFlat($p, [], $bare[$sweep] ? [] : $colours[$sweep], [$mean(0), $mean(1), $mean(2)]);
        }

        return $clouds;
    }
}
