<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * A handheld range camera carried around the part, once with the base down and once turned over, if it is.
 *
 * What goes wrong with real ones goes wrong here: noise along the ray that grows at grazing angles, drop-outs, flying points
 * at edges, strays, the table under the part, and a pose that drifts from frame to frame.
 */
final readonly class HandheldRig implements Rig
{
    /** A capture is swept line by line in this many frames. */
    private const FRAMES = 20;

    /** @param  float  $scale  measured over true length, 1 for a scanner that measures right */
    public function __construct(
        public int $passes = 8,
        public float $noiseMm = 0.05,
        public int $width = 400,
        public int $height = 300,
        public float $driftMm = 3.0,
        public float $driftDeg = 2.0,
        public bool $table = true,
        public float $frameDriftMm = 0.02,
        public Surface $surface = Surface::Matt,
        public ?MarkerDots $dots = null,
        public bool $turnsOver = true,
        public float $scale = 1.0,
    ) {
    }

    public function passes(): int
    {
        return $this->passes;
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
        $half = $this->turnsOver ? intdiv($this->passes + 1, 2) : $this->passes;
        $below = $index >= $half;
        // Low looks into bores from both ends alternate with steep ones over the sides.
        $low = $index % 2 === 0;
        $azimuth = 2.0 * M_PI * ($index % $half) / $half + ($below ? 1.78 : 1.36);
        $elevation = ($below ? -1.0 : 1.0) * ($low ? ($below ? 0.36 : 0.23) : 0.6);
        $away = 4.2 * $reach;
        $eye = [
            $centre[0] + $away * cos($elevation) * cos($azimuth),
            $centre[1] + $away * cos($elevation) * sin($azimuth),
            $centre[2] + $away * sin($elevation),
        ];
        $drift = $this->drift($index, $seed, $centre);
        $table = $this->table ? ($below ? $max[2] : $min[2]) : null;
        $noise = new Noise($seed * 1000 + $index);
        // The camera asks for the drift before it takes its first point.
        $camera = new RangeCamera($this->width, $this->height, $this->noiseMm, $this->surface);
        $points = $camera->render($part, $eye, $centre, $reach, $table, $below, $noise, $this->frameDrift($noise));

        return [
            'cloud' => PointCloud::fromFlat($points, [], $this->dots?->colours($part, $points) ?? [], $eye)->transformed($drift)->scaled($this->scale),
            // Of a capture that is too long: the pose once its lengths are right.
            'pose' => $drift->inverse(),
        ];
    }

    /**
     * The pose error of a capture: a random walk along the path, the first capture being the origin of it.
     *
     * @param  array<int, float>  $centre
     */
    private function drift(int $index, int $seed, array $centre): RigidTransform
    {
        $noise = new Noise($seed);
        $shift = $turn = [0.0, 0.0, 0.0];
        for ($k = 0; $k < $index; $k++) {
            $a = $noise->direction();
            $b = $noise->direction();
            for ($c = 0; $c < 3; $c++) {
                $shift[$c] += 0.7 * $a[$c];
                $turn[$c] += 0.7 * $b[$c];
            }
            // The walk is reflected at the stated bounds.
            $shift = self::within($shift, 1.0);
            $turn = self::within($turn, 1.0);
        }
        $angle = sqrt($turn[0] ** 2 + $turn[1] ** 2 + $turn[2] ** 2) * deg2rad($this->driftDeg);

        return RigidTransform::shift(-$centre[0], -$centre[1], -$centre[2])
            ->then(RigidTransform::turn($turn, $angle))
            ->then(RigidTransform::shift($centre[0] + $shift[0] * $this->driftMm, $centre[1] + $shift[1] * $this->driftMm, $centre[2] + $shift[2] * $this->driftMm));
    }

    /**
     * The slow drift inside a capture: one small shift a frame, a random walk held within `frameDriftMm`, zero on the average.
     *
     * @return list<array{float, float, float}>
     */
    private function frameDrift(Noise $noise): array
    {
        $walk = [];
        $at = $mean = [0.0, 0.0, 0.0];
        for ($frame = 0; $frame < self::FRAMES; $frame++) {
            $step = $noise->direction();
            $at = self::within([$at[0] + 0.4 * $step[0], $at[1] + 0.4 * $step[1], $at[2] + 0.4 * $step[2]], 1.0);
            $walk[] = $at;
            foreach ($at as $c => $v) {
                $mean[$c] += $v / self::FRAMES;
            }
        }

        return array_map(fn (array $v) => [$this->frameDriftMm * ($v[0] - $mean[0]), $this->frameDriftMm * ($v[1] - $mean[1]), $this->frameDriftMm * ($v[2] - $mean[2])], $walk);
    }

    /**
     * @param  array{float, float, float}  $v
     * @return array{float, float, float}
     */
    private static function within(array $v, float $limit): array
    {
        $length = sqrt($v[0] ** 2 + $v[1] ** 2 + $v[2] ** 2);
        $k = $length > $limit ? (2.0 * $limit - $length) / $length : 1.0;

        return [$v[0] * $k, $v[1] * $k, $v[2] * $k];
    }
}
