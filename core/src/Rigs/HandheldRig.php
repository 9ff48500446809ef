<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\Transform;

/**
 * A handheld range camera carried around the part, once with the base down and once turned over.
 *
 * What goes wrong with real ones goes wrong here: noise along the ray that grows at grazing angles, drop-outs, flying points
 * at edges, strays, the table under the part, and a pose that drifts from frame to frame.
 */
final readonly class HandheldRig
{
    /** A capture is swept line by line in this many frames. */
    private const FRAMES = 20;

    public function __construct(
        public int $passes = 8,
        public float $noiseMm = 0.05,
        public int $width = 400,
        public int $height = 300,
        public float $driftMm = 3.0,
        public float $driftDeg = 2.0,
        public bool $table = true,
        public float $frameDriftMm = 0.02,
    ) {
    }

    /**
     * One capture.
     *
     * @return array{cloud: PointCloud, pose: Transform} the cloud in the coordinates of the capture, sensor origin included; the pose maps them onto the part
     */
    public function capture(Part $part, int $index, int $seed): array
    {
        [$min, $max] = $part->bounds();
        $centre = [0.5 * ($min[0] + $max[0]), 0.5 * ($min[1] + $max[1]), 0.5 * ($min[2] + $max[2])];
        $reach = 0.5 * sqrt(($max[0] - $min[0]) ** 2 + ($max[1] - $min[1]) ** 2 + ($max[2] - $min[2]) ** 2);
        $half = intdiv($this->passes + 1, 2);
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
        $pose = $this->drift($index, $seed, $centre)->inverse();
        $table = $this->table ? ($below ? $max[2] : $min[2]) : null;
        $points = $this->render($part, $eye, $centre, $reach, $table, $below, new Noise($seed * 1000 + $index));

        return [
            'cloud' => PointCloud::fromFlat($points, [], [], $eye)->transformed($pose->inverse()),
            'pose' => $pose,
        ];
    }

    /**
     * The pose error of a capture: a random walk along the path, the first capture being the origin of it.
     *
     * @param  array<int, float>  $centre
     */
    private function drift(int $index, int $seed, array $centre): Transform
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

        return Transform::shift(-$centre[0], -$centre[1], -$centre[2])
            ->then(Transform::turn($turn, $angle))
            ->then(Transform::shift($centre[0] + $shift[0] * $this->driftMm, $centre[1] + $shift[1] * $this->driftMm, $centre[2] + $shift[2] * $this->driftMm));
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

    /**
     * Sphere tracing (Hart 1996) of a pinhole camera.
     *
     * @param  array<int, float>  $eye
     * @param  array<int, float>  $centre
     * @return list<float> flat xyz
     */
    private function render(Part $part, array $eye, array $centre, float $reach, ?float $table, bool $below, Noise $noise): array
    {
        [$ex, $ey, $ez] = $eye;
        $away = sqrt(($centre[0] - $ex) ** 2 + ($centre[1] - $ey) ** 2 + ($centre[2] - $ez) ** 2);
        [$fx, $fy, $fz] = [($centre[0] - $ex) / $away, ($centre[1] - $ey) / $away, ($centre[2] - $ez) / $away];
        $l = sqrt($fx * $fx + $fy * $fy);
        [$rx, $ry] = [-$fy / $l, $fx / $l];
        [$ux, $uy, $uz] = [$ry * $fz, -$rx * $fz, $rx * $fy - $ry * $fx];
        $focal = 0.5 * $this->width * $away / (1.12 * $reach);
        $far = $away + 2.2 * $reach;
        $depth = array_fill(0, $this->width * $this->height, 0.0);
        $points = [];
        $drift = $this->frameDrift($noise);
        for ($v = 0; $v < $this->height; $v++) {
            $shift = $drift[intdiv($v * self::FRAMES, $this->height)];
            for ($u = 0; $u < $this->width; $u++) {
                $a = ($u + 0.5 - 0.5 * $this->width) / $focal;
                $b = (0.5 * $this->height - $v - 0.5) / $focal;
                $w = 1.0 / sqrt(1.0 + $a * $a + $b * $b);
                $dx = ($fx + $a * $rx + $b * $ux) * $w;
                $dy = ($fy + $a * $ry + $b * $uy) * $w;
                $dz = ($fz + $b * $uz) * $w;
                $t = $away - 1.05 * $reach;
                $hit = false;
                for ($k = 0; $k < 160; $k++) {
                    $d = $part->distance($ex + $t * $dx, $ey + $t * $dy, $ez + $t * $dz);
                    if ($d < 1e-4) {
                        $hit = true;
                        break;
                    }
                    $t += $d;
                    if ($t > $away + 1.1 * $reach) {
                        break;
                    }
                }
                $onTable = false;
                if ($table !== null && ($below ? $dz > 1e-6 : $dz < -1e-6)) {
                    $s = ($table - $ez) / $dz;
                    $px = $ex + $s * $dx - $centre[0];
                    $py = $ey + $s * $dy - $centre[1];
                    if ($s > 0.0 && (! $hit || $s < $t) && $px * $px + $py * $py < 1.21 * $reach * $reach) {
                        $t = $s;
                        $hit = $onTable = true;
                    }
                }
                if (! $hit) {
                    continue;
                }
                $x = $ex + $t * $dx;
                $y = $ey + $t * $dy;
                $z = $ez + $t * $dz;
                if ($onTable) {
                    $cos = abs($dz);
                } else {
                    $nx = $part->distance($x + 1e-3, $y, $z) - $part->distance($x - 1e-3, $y, $z);
                    $ny = $part->distance($x, $y + 1e-3, $z) - $part->distance($x, $y - 1e-3, $z);
                    $nz = $part->distance($x, $y, $z + 1e-3) - $part->distance($x, $y, $z - 1e-3);
                    $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
                    $cos = $l > 0.0 ? -($nx * $dx + $ny * $dy + $nz * $dz) / $l : 0.0;
                }
                // Seen too flat, a place gives nothing; a little steeper, only sometimes.
                if ($cos < 0.1 || ($cos < 0.25 && $noise->even() > ($cos - 0.1) / 0.15) || $noise->even() < 0.01) {
                    continue;
                }
                $depth[$v * $this->width + $u] = $t;
                $before = $u > 0 ? $depth[$v * $this->width + $u - 1] : 0.0;
                $flies = $before > 0.0 && abs($before - $t) > 2.0 && $noise->even() < 0.25;
                $r = $flies ? $before + ($t - $before) * $noise->even() : $t + $this->noiseMm * $noise->normal() * (0.85 + 0.15 / $cos);
                $points[] = $ex + $r * $dx + $shift[0];
                $points[] = $ey + $r * $dy + $shift[1];
                $points[] = $ez + $r * $dz + $shift[2];
            }
        }
        // Strays: dust, reflections, a sleeve.
        for ($k = intdiv(count($points), 6000); $k > 0; $k--) {
            $d = $noise->direction();
            $r = $reach * (0.3 + 1.2 * $noise->even());
            $points[] = $centre[0] + $r * $d[0];
            $points[] = $centre[1] + $r * $d[1];
            $points[] = $centre[2] + $r * abs($d[2]) * ($below ? -1.0 : 1.0);
        }

        return $points;
    }
}
