<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Algorithms\Linear\SymmetricEigen;
use Emberstone\Core\Capture\Frame;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * A simulated scanner that delivers frame after frame: the handheld one small looks along a path around the part, the others one look a stop,
 * head or station. It can be sent to look from elsewhere and the part can be sprayed while it runs.
 */
final class LiveScan
{
    /** A handheld look; a third of a second on one core. */
    private const WIDTH = 128;

    private const HEIGHT = 96;

    /** Looks for one turn around the part. */
    private const TURN = 36;

    /** Looks that become one pass: a sweep sees one side. */
    private const SWEEP = 9;

    /** The poses of handheld looks walk so far from the truth, per look. */
    private const DRIFT_MM = 0.04;

    private const DRIFT_RAD = 0.0002;

    /**
     * Tracking needs shape: of six unit moves (turns about the middle, at the part's radius) the least noticed one must change the distances of the
     * seen places, squared and averaged, by this share of a millimetre a millimetre. A bush seen from the side, its turn unnoticed, has none.
     */
    private const LEAST_SHAPE = 0.002;

    private int $looks = 0;

    private int $sweep = 0;

    private int $inSweep = 0;

    private float $azimuth = 0.6;

    private float $elevation = 0.5;

    private RigidTransform $drift;

    private readonly Noise $noise;

    private readonly Extent $extent;

    public function __construct(
        private readonly Part $part,
        private readonly string $rig,
        private Surface $surface = Surface::Matt,
        private readonly ?MarkerDots $dots = null,
        private readonly int $seed = 1,
    ) {
        $this->noise = new Noise($seed);
        $this->extent = Extent::of($part);
        $this->drift = RigidTransform::identity();
    }

    /** From now on the part is matt. */
    public function spray(): void
    {
        $this->surface = Surface::Matt;
    }

    /**
     * The handheld scanner goes there, on the same side of which it goes on around the part; a new sweep begins.
     *
     * @param  array{float, float, float}  $direction  from the part to the scanner
     */
    public function lookFrom(array $direction): void
    {
        [$x, $y, $z] = $direction;
        $this->azimuth = atan2($y, $x);
        $this->elevation = max(-1.2, min(1.2, atan2($z, sqrt($x * $x + $y * $y))));
        $this->breakOff();
    }

    /** What follows does not belong to the same sweep. */
    public function breakOff(): void
    {
        if ($this->inSweep > 0) {
            $this->sweep++;
            $this->inSweep = 0;
        }
    }

    /** How far the pose of the last look, as the handheld scanner believes it, has walked from the truth. */
    public function drift(): RigidTransform
    {
        return $this->drift;
    }

    /** The next look; null when a rig with stops has made them all. */
    public function next(): ?Frame
    {
        if ($this->rig === 'handheld') {
            return $this->handheld();
        }
        $rig = Catalogue::rig($this->rig, $this->surface, $this->dots);
        if ($this->looks >= $rig->passes()) {
            return null;
        }
        $cloud = $rig->capture($this->part, $this->looks, $this->seed)['cloud'];

        return new Frame($this->looks++, RigidTransform::identity(), $cloud);
    }

    private function handheld(): Frame
    {
        if ($this->inSweep === self::SWEEP) {
            $this->breakOff();
        }
        [$centre, $reach] = [$this->extent->centre, $this->extent->reach];
        $away = 4.2 * $reach;
        $eye = [
            $centre[0] + $away * cos($this->elevation) * cos($this->azimuth),
            $centre[1] + $away * cos($this->elevation) * sin($this->azimuth),
            $centre[2] + $away * sin($this->elevation),
        ];
        $this->azimuth += 2.0 * M_PI / self::TURN;
        $this->looks++;
        $this->inSweep++;
        $below = $this->elevation < 0.0;
        [$min, $max] = $this->part->bounds();
        $points = (new RangeCamera(self::WIDTH, self::HEIGHT, 0.05, $this->surface))->render($this->part, $eye, $centre, $reach, $below ? $max[2] : $min[2], $below, $this->noise);
        $colours = $this->dots?->colours($this->part, $points) ?? [];
        // Points come relative to the scanner, as it measures them; its axes are those of the capture.
        $pose = RigidTransform::shift($eye[0], $eye[1], $eye[2])->then($this->walked($centre));
        if (! $this->tracks($points, $colours)) {
            return new Frame($this->sweep, $pose, PointCloud::fromFlat([]), true);
        }

        return new Frame($this->sweep, $pose, PointCloud::fromFlat($points, [], $colours, $eye)->transformed(RigidTransform::shift(-$eye[0], -$eye[1], -$eye[2])));
    }

    /**
     * The error of the believed pose: a walk from look to look.
     *
     * @param  array{float, float, float}  $centre
     */
    private function walked(array $centre): RigidTransform
    {
        [$a, $b] = [$this->noise->direction(), $this->noise->direction()];
        $this->drift = $this->drift->then(RigidTransform::shift(-$centre[0], -$centre[1], -$centre[2]))->then(RigidTransform::turn($a, self::DRIFT_RAD))
            ->then(RigidTransform::shift($centre[0] + self::DRIFT_MM * $b[0], $centre[1] + self::DRIFT_MM * $b[1], $centre[2] + self::DRIFT_MM * $b[2]));

        return $this->drift;
    }

    /**
     * Whether what is seen fixes where the scanner stands: by three marker dots, or by shape (Gelfand et al. 2003, "Geometrically Stable Sampling for
     * the ICP Algorithm").
     *
     * @param  list<float>  $points
     * @param  list<int>  $colours
     */
    private function tracks(array $points, array $colours): bool
    {
        if ($colours !== [] && $this->dotsSeen($points, $colours) >= 3) {
            return true;
        }

        return $this->shape($points) >= self::LEAST_SHAPE;
    }

    /**
     * The least of six unit moves, as LEAST_SHAPE says.
     *
     * @param  list<float>  $points
     */
    private function shape(array $points): float
    {
        [$cx, $cy, $cz] = $this->extent->centre;
        $reach = $this->extent->reach;
        [$min, $max] = $this->part->bounds();
        $sum = array_fill(0, 36, 0.0);
        $used = 0;
        for ($o = 0, $e = count($points), $step = 3 * max(1, intdiv($e, 1800)); $o < $e; $o += $step) {
            [$x, $y, $z] = [$points[$o], $points[$o + 1], $points[$o + 2]];
            // The table fixes nothing: the part may be moved on it.
            if ($z < $min[2] + 1.0 || $z > $max[2] + 1.0 || abs($this->part->distance($x, $y, $z)) > 1.0) {
                continue;
            }
            $nx = $this->part->distance($x + 1e-2, $y, $z) - $this->part->distance($x - 1e-2, $y, $z);
            $ny = $this->part->distance($x, $y + 1e-2, $z) - $this->part->distance($x, $y - 1e-2, $z);
            $nz = $this->part->distance($x, $y, $z + 1e-2) - $this->part->distance($x, $y, $z - 1e-2);
            $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz) ?: 1.0;
            [$nx, $ny, $nz] = [$nx / $l, $ny / $l, $nz / $l];
            [$x, $y, $z] = [($x - $cx) / $reach, ($y - $cy) / $reach, ($z - $cz) / $reach];
            $j = [$y * $nz - $z * $ny, $z * $nx - $x * $nz, $x * $ny - $y * $nx, $nx, $ny, $nz];
            for ($r = 0; $r < 6; $r++) {
                for ($c = 0; $c < 6; $c++) {
                    $sum[6 * $r + $c] += $j[$r] * $j[$c];
                }
            }
            $used++;
        }

        return $used < 30 ? 0.0 : SymmetricEigen::of($sum, 6)['values'][0] / $used;
    }

    /**
     * White places that lie apart.
     *
     * @param  list<float>  $points
     * @param  list<int>  $colours
     */
    private function dotsSeen(array $points, array $colours): int
    {
        $found = [];
        foreach ($colours as $i => $colour) {
            if ($colour !== MarkerDots::WHITE) {
                continue;
            }
            foreach ($found as [$x, $y, $z]) {
                if (($points[3 * $i] - $x) ** 2 + ($points[3 * $i + 1] - $y) ** 2 + ($points[3 * $i + 2] - $z) ** 2 < 64.0) {
                    continue 2;
                }
            }
            $found[] = [$points[3 * $i], $points[3 * $i + 1], $points[3 * $i + 2]];
        }

        return count($found);
    }
}
