<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * A camera on a stand and the part on a turntable that stops at even angles. The axis is known roughly: it leans a little, stands a little
 * aside, and each stop is a little off; captures are placed as if all that were exact.
 */
final readonly class TurntableRig implements Rig
{
    public function __construct(
        public int $stops = 12,
        public float $noiseMm = 0.04,
        public int $width = 360,
        public int $height = 270,
        public float $axisOffMm = 0.8,
        public float $axisLeanDeg = 0.4,
        public float $stopOffDeg = 0.15,
        public Surface $surface = Surface::Matt,
        public ?MarkerDots $dots = null,
    ) {
    }

    public function passes(): int
    {
        return $this->stops;
    }

    public function noiseMm(): float
    {
        return $this->noiseMm;
    }

    public function capture(Part $part, int $index, int $seed): array
    {
        [$min, $max] = $part->bounds();
        $extent = Extent::of($part);
        [$centre, $reach] = [$extent->centre, $extent->reach];
        $angle = -2.0 * M_PI * $index / $this->stops;
        $away = 3.8 * $reach;
        // Every other stop from higher up: one height never sees all.
        $elevation = $index % 2 === 0 ? 0.75 : 0.3;
        $eye = [$centre[0] + $away * cos($elevation) * cos($angle), $centre[1] + $away * cos($elevation) * sin($angle), $centre[2] + $away * sin($elevation)];
        $noise = new Noise($seed * 1000 + $index);
        $points = (new RangeCamera($this->width, $this->height, $this->noiseMm, $this->surface))->render($part, $eye, $centre, $reach, $min[2], false, $noise);
        $pose = $this->error($index, $angle, $centre, $seed);

        return [
            'cloud' => PointCloud::fromFlat($points, [], $this->dots?->colours($part, $points) ?? [], $eye)->transformed($pose->inverse()),
            'pose' => $pose,
        ];
    }

    /**
     * From where the rig believes a stop to be to where it is.
     *
     * @param  array{float, float, float}  $centre
     */
    private function error(int $index, float $angle, array $centre, int $seed): RigidTransform
    {
        if ($index === 0) {
            return RigidTransform::identity();
        }
        $table = new Noise($seed);
        $aside = $table->even() * 2.0 * M_PI;
        $lean = $table->even() * 2.0 * M_PI;
        // The true axis seen from the believed one: turned about it back, about the true one forth.
        $axis = RigidTransform::turn([cos($lean), sin($lean), 0.0], deg2rad($this->axisLeanDeg))
            ->then(RigidTransform::shift($centre[0] + $this->axisOffMm * cos($aside), $centre[1] + $this->axisOffMm * sin($aside), 0.0));
        $stop = new Noise($seed * 77 + $index);

        return RigidTransform::shift(-$centre[0], -$centre[1], 0.0)->then(RigidTransform::turn([0.0, 0.0, 1.0], -$angle))->then(RigidTransform::shift($centre[0], $centre[1], 0.0))
            ->then($axis->inverse())->then(RigidTransform::turn([0.0, 0.0, 1.0], $angle + deg2rad($this->stopOffDeg) * $stop->normal()))->then($axis);
    }
}
