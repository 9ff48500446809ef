<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Field;

use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Search\TriangleFeet;
use Emberstone\Core\Algorithms\Surface\Intersections;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Algorithms\Surface\PseudoNormals;
use Emberstone\Core\Algorithms\Surface\Sampling;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;

/**
 * The surface at a distance outside a closed mesh: rounded about its edges and corners, as a ball rolling over it leaves it (the Minkowski sum with that ball). Of a sheet, that on both sides and around its rims.
 *
 * Source    distances to the mesh in a sparse volume near the offset (closest points by TriangleBvh; sides after Baerentzen & Aanaes 2005), its zero surface (DualSurface); then each vertex is drawn
 *           along the way to its nearest place until it is at the distance.
 * Error     vertices are at the distance to 1e-9 of it, but where that would make faces cross; between them faces cut across curves by about spacing squared / (8 distance). `spread()` measures it.
 * Cost      about 2 microseconds a voxel of the band, which is some ten voxels thick.
 *
 * @internal
 */
final class OffsetSurface
{
    /** Voxels of the band at most; coarser than asked rather than more. */
    private const MOST = 2.5e6;

    /** Voxels that a block near the offset has at least for each piece of surface of a voxel's size. */
    private const BAND = 10.0;

    /** The step onto the distance is taken this often: it is exact where the surface is flat, and doubles its digits elsewhere. */
    private const STEPS = 3;

    /** How many voxels off the middle of a group of 4x4x4 the offset must be not to pass through it or between it and the next: half a diagonal of five. */
    private const PAST = 4.34;

    /** Voxels looked up at once, so that a stop is heard. */
    private const PORTION = 32_768;

    /** Voxel size, in distances: flats across a round edge are then off by a fiftieth of the distance (the square of this, by 8). */
    private const FINE = 0.4;

    /**
     * @param  array<int, float>  $p  flat xyz
     * @param  array<int, int>  $f  a closed mesh, or a sheet
     * @param  float  $distance  mm, more than 0
     * @param  (callable(float): void)|null  $breathe  told the share done; may throw to stop
     * @param  bool  $isSheet  no place lies inside: of a closed mesh there is an offset within, too
     * @return array{positions: array<int, float>, faces: array<int, int>, spacing: float}
     */
    public static function of(array $p, array $f, float $distance, ?callable $breathe = null, bool $isSheet = false): array
    {
        $area = array_sum(Measure::areas($p, $f));
        $spacing = max(self::FINE * $distance, sqrt(self::BAND * $area / self::MOST));
        $box = BoundingBox::of($p);
        $out = [$distance, $distance, $distance];
        $volume = Volume::around(Vector3::minus($box->min, $out), Vector3::plus($box->max, $out), $spacing);
        $many = (int) min(2e6, ceil($area / (4.0 * $spacing * $spacing)));
        Splat::allocate($volume, [...$p, ...Sampling::evenly($p, $f, max(1000, $many))['points']], $distance + 3.0 * $spacing);
        $bvh = TriangleBvh::of($p, $f);
        self::fill($volume, $bvh, $p, $isSheet ? [] : $f, $distance, $breathe);
        $surface = DualSurface::extract($volume);
        $faces = Sharpen::triangles($surface['quads'], $surface['positions']);

        return ['positions' => self::settled($surface['positions'], $faces, $bvh, $f, $distance), 'faces' => $faces, 'spacing' => $spacing];
    }

    /**
     * How far the middles of the faces of an offset are from being at the distance, the worst of them.
     *
     * @param  array<int, float>  $p  of the mesh that it was made of
     * @param  array<int, int>  $f
     * @param  array<int, float>  $q  of the offset
     * @param  array<int, int>  $g
     * @return float mm
     */
    public static function spread(array $p, array $f, array $q, array $g, float $distance): float
    {
        $face = $distanceSq = [];
        TriangleBvh::of($p, $f)->closest(Measure::centres($q, $g), $face, $distanceSq);
        $worst = 0.0;
        foreach ($distanceSq as $sq) {
            $worst = max($worst, abs(sqrt($sq) - $distance));
        }

        return $worst;
    }

    /**
     * Distances from the offset at the voxels of all blocks; without faces no side of the mesh counts as its inside. Groups of 4x4x4 voxels through which it cannot pass, as the distance at their middle says, get that of the middle.
     *
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  (callable(float): void)|null  $breathe
     */
    private static function fill(Volume $volume, TriangleBvh $bvh, array $p, array $f, float $distance, ?callable $breathe): void
    {
        $n = 512 * count($volume->blocks);
        $volume->weight = array_fill(0, $n, 1.0);
        $volume->seen = array_fill(0, $n, 1);
        $values = array_fill(0, $n, 0.0);
        $groups = range(0, 8 * count($volume->blocks) - 1);
        $middles = [];
        foreach ($groups as $g) {
            array_push($middles, ...self::place($volume, self::voxel($g, 0), 1.5));
        }
        $near = [];
        foreach (self::off($middles, $bvh, $p, $f, $distance, fn (float $done) => $breathe === null ? null : $breathe(0.2 * $done)) as $g => $value) {
            if (abs($value) < self::PAST * $volume->voxel) {
                $near[] = $g;

                continue;
            }
            for ($k = 0; $k < 64; $k++) {
                $values[self::voxel($g, $k)] = $value;
            }
        }
        $points = [];
        foreach ($near as $g) {
            for ($k = 0; $k < 64; $k++) {
                array_push($points, ...self::place($volume, self::voxel($g, $k), 0.0));
            }
        }
        foreach (self::off($points, $bvh, $p, $f, $distance, fn (float $done) => $breathe === null ? null : $breathe(0.2 + 0.7 * $done)) as $k => $value) {
            $values[self::voxel($near[$k >> 6], $k & 63)] = $value;
        }
        $volume->distance = $values;
    }

    /** The voxel of a group of 64, of which every block has eight. */
    private static function voxel(int $group, int $k): int
    {
        return $group >> 3 << 9 | ($group >> 2 & 1) << 8 | ($k >> 4) << 6 | ($group >> 1 & 1) << 5 | ($k >> 2 & 3) << 3 | ($group & 1) << 2 | ($k & 3);
    }

    /**
     * Where a voxel is, and voxels farther on along all axes.
     *
     * @return array{float, float, float}
     */
    private static function place(Volume $volume, int $v, float $on): array
    {
        $t = $volume->blocks[$v >> 9];
        $r = intdiv($t, $volume->bz);

        return [
            $volume->x0 + $volume->voxel * (8 * intdiv($r, $volume->by) + ($v & 7) + $on),
            $volume->y0 + $volume->voxel * (8 * ($r % $volume->by) + ($v >> 3 & 7) + $on),
            $volume->z0 + $volume->voxel * (8 * ($t % $volume->bz) + ($v >> 6 & 7) + $on),
        ];
    }

    /**
     * How far points lie outside the offset, less than 0 inside it.
     *
     * @param  list<float>  $points  flat xyz
     * @param  array<int, float>  $p
     * @param  array<int, int>  $f
     * @param  callable(float): mixed  $breathe
     * @return list<float> mm
     */
    private static function off(array $points, TriangleBvh $bvh, array $p, array $f, float $distance, callable $breathe): array
    {
        $values = $far = $farFace = $farPoint = [];
        for ($from = 0, $n = intdiv(count($points), 3); $from < $n; $from += self::PORTION) {
            $breathe($from / $n);
            $face = $distanceSq = [];
            $bvh->closest(array_slice($points, 3 * $from, 3 * self::PORTION), $face, $distanceSq);
            foreach ($distanceSq as $k => $sq) {
                $values[] = $value = sqrt($sq) - $distance;
                // Nearer than the distance lies within the offset on either side; farther off, the side must be known.
                if ($value > 0.0) {
                    $o = 3 * ($from + $k);
                    array_push($far, $points[$o], $points[$o + 1], $points[$o + 2]);
                    $farFace[] = $face[$k];
                    $farPoint[] = $from + $k;
                }
            }
        }
        foreach ($f === [] ? [] : PseudoNormals::sides($p, $f, $far, $farFace) as $k => $side) {
            if ($side < 0.0) {
                $values[$farPoint[$k]] = -$values[$farPoint[$k]] - 2.0 * $distance;
            }
        }

        return $values;
    }

    /**
     * Vertices drawn onto the distance; those of faces that would cross stay.
     *
     * @param  array<int, float>  $q
     * @param  array<int, int>  $g
     * @param  array<int, int>  $f
     * @return array<int, float>
     */
    private static function settled(array $q, array $g, TriangleBvh $bvh, array $f, float $distance): array
    {
        $before = $q;
        for ($step = 0; $step < self::STEPS; $step++) {
            $q = self::drawn($q, $bvh, $f, $distance);
        }
        // Where faces fold over each other, at the creases of an offset about a dent, their corners go back.
        for ($round = 0; $round < 4; $round++) {
            $pairs = Intersections::pairs($q, $g);
            if ($pairs === []) {
                break;
            }
            foreach ($pairs as $t) {
                for ($h = 3 * $t; $h < 3 * $t + 3; $h++) {
                    for ($k = 0; $k < 3; $k++) {
                        $q[3 * $g[$h] + $k] = $before[3 * $g[$h] + $k];
                    }
                }
            }
        }

        return $q;
    }

    /**
     * @param  array<int, float>  $q
     * @param  array<int, int>  $f
     * @return array<int, float>
     */
    private static function drawn(array $q, TriangleBvh $bvh, array $f, float $distance): array
    {
        $face = $distanceSq = [];
        $bvh->closest($q, $face, $distanceSq);
        $feet = TriangleFeet::of($q, $face, $bvh->points, $f);
        foreach ($distanceSq as $v => $sq) {
            $length = sqrt($sq);
            if ($length > 0.0) {
                $by = ($distance - $length) / $length;
                for ($o = 3 * $v, $end = $o + 3; $o < $end; $o++) {
                    $q[$o] += $by * ($q[$o] - $feet[$o]);
                }
            }
        }

        return $q;
    }
}
