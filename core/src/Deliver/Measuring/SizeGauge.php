<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Algorithms\HalfEdge\Topology;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Datums\SurfaceNoise;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * Area, volume and box of a body.
 *
 * Error     area: what noise roughens it by (the difference between faces and their shadows along the normals around), and what a surface made of passes rounds off at edges. Volume: as an area off by the drift
 *           of the passes, by where they stand (ScanError::ofVolume), and by the edges. Box: of two ends of many places each, the outermost is that with the most noise (SurfaceNoise::largest).
 *           How far made-up surface is off nobody knows: it counts as if it had been seen.
 * Tested    core/bench/coverage.php: over simulated scans.
 */
final class SizeGauge
{
    /** A face bends to its neighbour at an edge of the part, not for noise, beyond this: radians (25 degrees). */
    private const SHARP = 0.436;

    /** What a square edge loses of its area where it is rounded, as a share of its length times the edge of a face: measured on fused caps and pedestals in the bench, 0.04 to 0.11. */
    private const ROUNDED = 0.08;

    /** And of its volume, as a share of its length times the square of that edge: an edge that loses (2 - pi/2) r of its area is rounded by r, and loses (1 - pi/4) r^2. */
    private const CUT = 0.0075;

    /** Places of the whole surface that are off independently of each other: its sides, as a pass that drifts is off by the same over a whole side. */
    private const PLACES = 4;

    /** What lies within this many standard deviations of the noise of an end of a body might be its outermost place. */
    private const NEAR_END = 4.0;

    /** And the outermost is mostly one at the rim of a face, where fewer points speak and the noise is as many times that of the face. */
    private const AT_RIM = 2.0;

    /**
     * @param  string  $kind  `area`, `volume` or `box`
     *
     * @throws UnsuitableInput of a volume where the body is not closed
     */
    public static function of(string $kind, TriangleMesh $mesh, ScanError $scan): Measurement
    {
        return match ($kind) {
            'box' => self::box($mesh, $scan),
            'area' => new Measurement(array_sum(Measure::areas($mesh->positions, $mesh->faces)), 'mm2', self::ofArea($mesh)),
            default => self::volume($mesh, $scan),
        };
    }

    private static function box(TriangleMesh $mesh, ScanError $scan): Measurement
    {
        $box = BoundingBox::of($mesh->positions);
        $size = Vector3::minus($box->max, $box->min);
        $longest = (int) array_search(max($size), $size, true);
        $surface = new SurfaceNoise($mesh);
        $noise = $surface->typical();
        $bias = 0.0;
        $ends = [];
        foreach ([[$box->min, -1.0], [$box->max, 1.0]] as [$end, $sign]) {
            $place = [0.0, 0.0, 0.0];
            $near = 0;
            for ($o = 0, $n = count($mesh->positions); $o < $n; $o += 3) {
                $away = $sign * ($end[$longest] - $mesh->positions[$o + $longest]);
                $near += $away <= self::NEAR_END * ($noise ?? 0.0) ? 1 : 0;
                if ($away <= 0.0) {
                    $place = [$mesh->positions[$o], $mesh->positions[$o + 1], $mesh->positions[$o + 2]];
                }
            }
            $normal = [0.0, 0.0, 0.0];
            $normal[$longest] = $sign;
            $own = $surface->at($place, $normal) ?? $noise ?? 0.0;
            $bias += self::AT_RIM * $own * (SurfaceNoise::largest($near) + 1.0);
            array_push($ends, $place, $normal);
        }

        return new Measurement($size[$longest], 'mm', $noise === null ? null : sqrt((0.5 * $bias) ** 2 + $scan->ofPlaces(...$ends)), array_combine(['along X', 'along Y', 'along Z'], $size));
    }

    private static function volume(TriangleMesh $mesh, ScanError $scan): Measurement
    {
        $twins = Topology::twins($mesh->faces);
        if (in_array(-1, $twins, true) || in_array(-2, $twins, true)) {
            throw UnsuitableInput::because('A body that is not closed has no volume. Fill its holes first.');
        }
        $crosses = Measure::crosses($mesh->positions, $mesh->faces);
        $area = array_sum(Measure::areas($mesh->positions, $mesh->faces));
        $noise = (new SurfaceNoise($mesh))->typical();
        $edges = self::CUT * ScanError::edge($area, $mesh->faceCount()) ** 2 * ($mesh->support === [] ? 0.0 : self::sharp($mesh, $crosses));
        $deviation = $noise === null ? null : sqrt(($area * $noise) ** 2 / self::PLACES + $scan->ofVolume(Measure::centres($mesh->positions, $mesh->faces), $crosses) + $edges ** 2);

        return new Measurement(Measure::volume($mesh->positions, $mesh->faces), 'mm3', $deviation);
    }

    /** @return float standard deviation of the area, mm2 */
    private static function ofArea(TriangleMesh $mesh): float
    {
        $crosses = Measure::crosses($mesh->positions, $mesh->faces);
        $area = array_sum(Measure::areas($mesh->positions, $mesh->faces));
        $rounded = $mesh->support === [] ? 0.0 : self::ROUNDED * ScanError::edge($area, $mesh->faceCount()) * self::sharp($mesh, $crosses);

        return hypot(self::roughness($mesh, $crosses), $rounded);
    }

    /**
     * By how much the area is larger than that of its shadow along the mean normal of each face and its neighbours, edges of the part left out, mm2.
     *
     * @param  array<int, float>  $crosses
     */
    private static function roughness(TriangleMesh $mesh, array $crosses): float
    {
        $twins = Topology::twins($mesh->faces);
        $rough = 0.0;
        for ($t = 0, $n = $mesh->faceCount(); $t < $n; $t++) {
            $own = [$crosses[3 * $t], $crosses[3 * $t + 1], $crosses[3 * $t + 2]];
            $mean = $own;
            for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                $o = 3 * intdiv($twins[$h], 3);
                $other = $twins[$h] < 0 ? $own : [$crosses[$o], $crosses[$o + 1], $crosses[$o + 2]];
                if (Vector3::dot($own, $other) < cos(self::SHARP) * Vector3::length($own) * Vector3::length($other)) {
                    continue 2;
                }
                $mean = Vector3::plus($mean, $other);
            }
            $rough += 0.5 * (Vector3::length($own) - Vector3::dot($own, Vector3::unit($mean)));
        }

        return $rough;
    }

    /**
     * How long the edges of the part are, mm: each bend counts as the share of a square corner that it is, so that one rounded over some faces counts once.
     *
     * @param  array<int, float>  $crosses
     */
    private static function sharp(TriangleMesh $mesh, array $crosses): float
    {
        $length = 0.0;
        foreach (Topology::twins($mesh->faces) as $h => $twin) {
            if ($twin < $h) {
                continue;
            }
            [$s, $t] = [3 * intdiv($h, 3), 3 * intdiv($twin, 3)];
            [$one, $two] = [[$crosses[$s], $crosses[$s + 1], $crosses[$s + 2]], [$crosses[$t], $crosses[$t + 1], $crosses[$t + 2]]];
            $bend = atan2(Vector3::length(Vector3::cross($one, $two)), Vector3::dot($one, $two));
            if ($bend > self::SHARP) {
                [$a, $b] = [3 * $mesh->faces[$h], 3 * $mesh->faces[$h % 3 === 2 ? $h - 2 : $h + 1]];
                $length += $bend / M_PI_2 * sqrt(($mesh->positions[$a] - $mesh->positions[$b]) ** 2 + ($mesh->positions[$a + 1] - $mesh->positions[$b + 1]) ** 2 + ($mesh->positions[$a + 2] - $mesh->positions[$b + 2]) ** 2);
            }
        }

        return $length;
    }
}
