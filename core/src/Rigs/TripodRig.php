<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Cloud\Raster;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * A long-range scanner on a tripod: from each station it sweeps the whole sphere but the floor under itself. It levels itself; heading and
 * place are its own. Edges leave points that float between what is near and what is far, glass lets some light through and mirrors some.
 */
final readonly class TripodRig implements Rig
{
    /** Heights and places of the stations, as shares of the room's half sizes. */
    private const STATIONS = [[-0.45, -0.4, 0.42], [0.5, 0.1, 0.45], [-0.1, 0.62, 0.4], [0.62, -0.66, 0.5]];

    public function __construct(
        public int $stations = 4,
        public float $noiseMm = 1.5,
        public int $columns = 900,
        public int $rows = 380,
    ) {
    }

    public function passes(): int
    {
        return $this->stations;
    }

    public function noiseMm(): float
    {
        return $this->noiseMm;
    }

    public function capture(Part $part, int $index, int $seed): array
    {
        [$min, $max] = $part->bounds();
        $at = [];
        foreach (self::STATIONS[$index % count(self::STATIONS)] as $k => $share) {
            $at[] = $k === 2 ? $min[2] + $share * ($max[2] - $min[2]) : 0.5 * ($min[$k] + $max[$k]) + 0.5 * $share * ($max[$k] - $min[$k]);
        }
        $noise = new Noise($seed * 1000 + $index);
        // In the coordinates of the station: it stands in the origin, Z is up, X is wherever it was pointed.
        $pose = RigidTransform::turn([0.0, 0.0, 1.0], 2.0 * M_PI * $noise->even())->then(RigidTransform::shift($at[0], $at[1], $at[2]));
        [$points, $cells] = $this->sweep($part, $pose, sqrt(($max[0] - $min[0]) ** 2 + ($max[1] - $min[1]) ** 2 + ($max[2] - $min[2]) ** 2), $noise);

        return ['cloud' => PointCloud::fromFlat($points, [], [], [0.0, 0.0, 0.0], [], Raster::of($this->columns, $this->rows, $cells)), 'pose' => $pose];
    }

    /** @return array{list<float>, list<int>} flat xyz in the coordinates of the station, and the ray of each point */
    private function sweep(Part $part, RigidTransform $pose, float $far, Noise $noise): array
    {
        [$ex, $ey, $ez] = $pose->point([0.0, 0.0, 0.0]);
        $points = $cells = [];
        $above = array_fill(0, $this->rows, 0.0);
        for ($u = 0; $u < $this->columns; $u++) {
            $azimuth = 2.0 * M_PI * $u / $this->columns;
            for ($v = 0; $v < $this->rows; $v++) {
                // From 60 degrees below to straight up; the legs of the tripod hide the rest.
                $elevation = deg2rad(-60.0 + 150.0 * $v / ($this->rows - 1));
                $local = [cos($elevation) * cos($azimuth), cos($elevation) * sin($azimuth), sin($elevation)];
                [$dx, $dy, $dz] = $pose->direction($local);
                $t = 0.0;
                $hit = false;
                for ($k = 0; $k < 200 && $t < $far; $k++) {
                    $d = $part->distance($ex + $t * $dx, $ey + $t * $dy, $ez + $t * $dz);
                    if ($d < 0.05) {
                        $hit = true;
                        break;
                    }
                    $t += $d;
                }
                if (! $hit || $noise->even() < 0.01) {
                    continue;
                }
                $glass = $part instanceof PressHall && $ey + $t * $dy > 3150.0;
                if ($glass) {
                    // Most light goes out; some comes back from the yard, some from the room as in a mirror.
                    $chance = $noise->even();
                    if ($chance > 0.35) {
                        continue;
                    }
                    $t += $chance < 0.25 ? 1500.0 + 6000.0 * $noise->even() : 400.0 + 2500.0 * $noise->even();
                }
                $before = $above[$v];
                $above[$v] = $t;
                // A beam on an edge measures something between the two.
                $flies = ! $glass && $before > 0.0 && abs($before - $t) > 60.0 && $noise->even() < 0.4;
                $r = $flies ? $before + ($t - $before) * $noise->even() : $t + $this->noiseMm * $noise->normal() * (0.7 + 0.3 * $t / 3000.0);
                $points[] = $r * $local[0];
                $points[] = $r * $local[1];
                $points[] = $r * $local[2];
                $cells[] = $v * $this->columns + $u;
            }
        }

        return [$points, $cells];
    }
}
