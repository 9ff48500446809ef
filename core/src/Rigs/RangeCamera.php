<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

/**
 * A camera that measures range, with what goes wrong in real ones: noise along the ray that grows at grazing angles, drop-outs, points that fly
 * between edges, strays, the table in view.
 */
final readonly class RangeCamera
{
    /** How much wider than the radius of the part its field of view is, at the part's middle. */
    public const FIELD = 2.24;

    public function __construct(public int $width, public int $height, public float $noiseMm, public Surface $surface = Surface::Matt)
    {
    }

    /**
     * Sphere tracing (Hart 1996) of a pinhole camera.
     *
     * @param  array<int, float>  $eye
     * @param  array<int, float>  $centre  what it looks at
     * @param  float  $reach  radius of what it should see
     * @param  float|null  $table  height of the table's top, or of its underside when the part is turned over ($below)
     * @param  list<array{float, float, float}>  $drift  shift of each frame; lines are swept in as many frames
     * @return list<float> flat xyz
     */
    public function render(Part $part, array $eye, array $centre, float $reach, ?float $table, bool $below, Noise $noise, array $drift = [[0.0, 0.0, 0.0]]): array
    {
        [$ex, $ey, $ez] = $eye;
        $away = sqrt(($centre[0] - $ex) ** 2 + ($centre[1] - $ey) ** 2 + ($centre[2] - $ez) ** 2);
        [$fx, $fy, $fz] = [($centre[0] - $ex) / $away, ($centre[1] - $ey) / $away, ($centre[2] - $ez) / $away];
        $l = sqrt($fx * $fx + $fy * $fy);
        [$rx, $ry] = [-$fy / $l, $fx / $l];
        [$ux, $uy, $uz] = [$ry * $fz, -$rx * $fz, $rx * $fy - $ry * $fx];
        $focal = $this->width * $away / (self::FIELD * $reach);
        $far = $away + 2.2 * $reach;
        $depth = array_fill(0, $this->width * $this->height, 0.0);
        $points = [];
        $frames = count($drift);
        for ($v = 0; $v < $this->height; $v++) {
            $shift = $drift[intdiv($v * $frames, $this->height)];
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
                $worse = 1.0;
                if ($this->surface !== Surface::Matt && ! $onTable) {
                    $isGlazed = $this->surface->isGlazed($x, $y, $z);
                    $worse = $this->surface->response($cos, $isGlazed, $noise);
                    if ($worse === 0.0) {
                        continue;
                    }
                    $t += $isGlazed ? $this->surface->depthOfGlaze($noise) : 0.0;
                }
                $depth[$v * $this->width + $u] = $t;
                $before = $u > 0 ? $depth[$v * $this->width + $u - 1] : 0.0;
                $flies = $before > 0.0 && abs($before - $t) > 2.0 && $noise->even() < 0.25;
                $r = $flies ? $before + ($t - $before) * $noise->even() : $t + $this->noiseMm * $worse * $noise->normal() * (0.85 + 0.15 / $cos);
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
