<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * Four heads fixed around a stand, each with coordinates of its own; where they stand to each other nobody has measured yet. They stay where they
 * are from part to part, whatever the seed, until one is bumped.
 */
final readonly class RingRig implements Rig
{
    private const HEADS = 4;

    /** Where the heads were screwed down. */
    private const LAYOUT = 1902;

    public function __construct(
        public float $noiseMm = 0.03,
        public int $width = 400,
        public int $height = 300,
        public float $awayMm = 420.0,
        public ?int $bumped = null,
        public Surface $surface = Surface::Matt,
        public ?MarkerDots $dots = null,
    ) {
    }

    public function passes(): int
    {
        return self::HEADS;
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
        $pose = $this->head($index);
        $eye = $pose->point([0.0, 0.0, 0.0]);
        $points = (new RangeCamera($this->width, $this->height, $this->noiseMm, $this->surface))->render($part, $eye, $centre, $reach, $min[2], false, new Noise($seed * 1000 + $index));

        return [
            'cloud' => PointCloud::fromFlat($points, [], $this->dots?->colours($part, $points) ?? [], $eye)->transformed($pose->inverse()),
            'pose' => $pose,
        ];
    }

    /** From a head's coordinates, in whose origin it stands and along whose Z it looks, to those of the stand. */
    public function head(int $index): RigidTransform
    {
        $noise = new Noise(self::LAYOUT + $index);
        $azimuth = 2.0 * M_PI * $index / self::HEADS + 0.35 + 0.2 * ($noise->even() - 0.5);
        $elevation = 0.65 + 0.3 * ($noise->even() - 0.5);
        $away = $this->awayMm * (0.95 + 0.1 * $noise->even());
        // Z of the head is turned down onto the stand, then the whole is turned about its own line of sight by any angle.
        $pose = RigidTransform::turn([0.0, 0.0, 1.0], 2.0 * M_PI * $noise->even())
            ->then(RigidTransform::turn([0.0, 1.0, 0.0], -0.5 * M_PI - $elevation))
            ->then(RigidTransform::turn([0.0, 0.0, 1.0], $azimuth))
            ->then(RigidTransform::shift($away * cos($elevation) * cos($azimuth), $away * cos($elevation) * sin($azimuth), $away * sin($elevation) + 30.0));
        if ($this->bumped === $index) {
            return RigidTransform::turn([0.3, 1.0, 0.2], deg2rad(0.4))->then(RigidTransform::shift(1.2, -0.8, 0.5))->then($pose);
        }

        return $pose;
    }
}
