<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\RigidTransform;

/** A simulated scanner. The same part, index and seed give the same capture to the last bit. */
interface Rig
{
    /** How many captures it takes of a part. */
    public function passes(): int;

    /** Deviation of a point along its ray, on a matt surface seen straight on. */
    public function noiseMm(): float;

    /**
     * One capture.
     *
     * @return array{cloud: PointCloud, pose: RigidTransform} the cloud in the coordinates of the capture, sensor origin included; the pose maps them onto the part
     */
    public function capture(Part $part, int $index, int $seed): array;
}
