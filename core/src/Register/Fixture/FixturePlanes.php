<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Fixture;

use Emberstone\Core\Algorithms\Fitting\PlaneFit;
use Emberstone\Core\Algorithms\Fitting\Robust;
use Emberstone\Core\Geometry\Vector3;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/**
 * Finds the flat faces in a capture.
 *
 * A point and its normal name a plane, roughly; it is fitted to what lies on it around that point, ever farther out, while its band stays narrow. Of planes begun at many points the one
 * with the most on it is kept, its points are set aside, and the next is looked for. Source: sample consensus (Fischler & Bolles 1981) with local refinement (Chum, Matas, Kittler 2003).
 *
 * @internal
 */
final class FixturePlanes
{
    /** Number of points among which planes are looked for. */
    private const SAMPLE = 2500;

    /** Number of those points at which a plane is begun. */
    private const TRIES = 30;

    /** Number of planes that are found at most. */
    private const MOST = 10;

    /** Points of a face that tell it as well as all of them. */
    private const FITTED = 1500;

    /** Multiple of the noise within which points lie on a plane. */
    private const BAND = 4.0;

    /** The same distance at least, mm. */
    private const LEAST_BAND = 0.02;

    /** Cosine between the normal of a point and that of the plane that it lies on, at least. */
    private const FACING = 0.97;

    /** Spacings around a point within which a plane is begun. */
    private const NEAR = 6.0;

    /** Fewer points than this, and less than this share of all, make no face. */
    private const LEAST_POINTS = 60;

    private const LEAST_SHARE = 0.004;

    /**
     * @param  array<int, float>  $p  flat xyz, mm
     * @param  array<int, float>  $n  unit normals, outwards
     * @param  float  $noise  of points across the surface, mm
     * @return list<array{origin: array{float, float, float}, normal: array{float, float, float}, points: list<float>, rms: float}> those with the most points first; points: some of those on it, evenly chosen
     */
    public static function find(array $p, array $n, float $spacing, float $noise): array
    {
        $band = max(self::LEAST_BAND, self::BAND * $noise);
        $count = intdiv(count($p), 3);
        $left = range(0, max(0, $count - 1));
        $random = new Randomizer(new Xoshiro256StarStar(1));
        $planes = [];
        while (count($planes) < self::MOST && count($left) >= self::LEAST_POINTS) {
            $step = intdiv(count($left) - 1, self::SAMPLE) + 1;
            $some = [];
            for ($k = 0, $e = count($left); $k < $e; $k += $step) {
                $some[] = $left[$k];
            }
            $best = null;
            for ($try = 0; $try < self::TRIES; $try++) {
                $plane = self::grown($p, $n, $some, 3 * $some[$random->getInt(0, count($some) - 1)], self::NEAR * sqrt($step) * $spacing, $band);
                if ($plane !== null && $plane['many'] > ($best['many'] ?? 0)) {
                    $best = $plane;
                }
            }
            $on = $best === null ? [] : self::on($p, $n, $left, $best['origin'], $best['normal'], $band);
            if ($best === null || count($on) < max(self::LEAST_POINTS, self::LEAST_SHARE * $count)) {
                break;
            }
            $step = intdiv(count($on) - 1, self::FITTED) + 1;
            $points = self::some($p, array_filter($on, fn (int $k) => $k % $step === 0, ARRAY_FILTER_USE_KEY));
            ['origin' => $origin, 'direction' => $normal, 'rms' => $rms] = PlaneFit::of($points, array_fill(0, intdiv(count($points), 3), 1.0));
            $planes[] = ['origin' => $origin, 'normal' => Vector3::dot($normal, $best['normal']) < 0.0 ? Vector3::scaled($normal, -1.0) : $normal, 'points' => $points, 'rms' => $rms];
            // With what lies at its edges, whose normals lean.
            $left = array_values(array_diff($left, $on, self::on($p, $n, $left, $origin, $best['normal'], 2.0 * $band, 0.7)));
        }

        return $planes;
    }

    /**
     * A plane begun at a point and fitted to ever more of what lies around it.
     *
     * @param  array<int, float>  $p
     * @param  array<int, float>  $n
     * @param  list<int>  $some  points
     * @param  int  $seed  offset of the point
     * @return array{origin: array{float, float, float}, normal: array{float, float, float}, many: int}|null null where too few lie on it
     */
    private static function grown(array $p, array $n, array $some, int $seed, float $radius, float $band): ?array
    {
        $origin = [$p[$seed], $p[$seed + 1], $p[$seed + 2]];
        $normal = [$n[$seed], $n[$seed + 1], $n[$seed + 2]];
        if (Vector3::length($normal) < 0.5) {
            return null;
        }
        $many = 0;
        for ($round = 0; $round < 8; $round++, $radius *= 2.0) {
            $on = self::on($p, $n, $some, $origin, $normal, $band, within: $radius, around: $seed);
            if (count($on) < 8) {
                return null;
            }
            ['centre' => $origin, 'vectors' => [$flattest]] = Robust::moments(self::some($p, $on), array_fill(0, count($on), 1.0));
            $normal = Vector3::dot($flattest, $normal) < 0.0 ? Vector3::scaled($flattest, -1.0) : $flattest;
            if ($round > 2 && count($on) === $many) {
                break;
            }
            $many = count($on);
        }

        return ['origin' => $origin, 'normal' => $normal, 'many' => $many];
    }

    /**
     * Points that lie on a plane and face as it does.
     *
     * @param  array<int, float>  $p
     * @param  array<int, float>  $n
     * @param  list<int>  $some
     * @param  array{float, float, float}  $origin
     * @param  array{float, float, float}  $normal
     * @param  int  $around  offset of the point that they are no farther from than $within
     * @return list<int>
     */
    private static function on(array $p, array $n, array $some, array $origin, array $normal, float $band, float $facing = self::FACING, float $within = INF, int $around = 0): array
    {
        [$a, $b, $c] = $normal;
        $d = $a * $origin[0] + $b * $origin[1] + $c * $origin[2];
        [$x, $y, $z] = [$p[$around], $p[$around + 1], $p[$around + 2]];
        $most = $within * $within;
        $on = [];
        foreach ($some as $i) {
            $o = 3 * $i;
            $off = $a * $p[$o] + $b * $p[$o + 1] + $c * $p[$o + 2] - $d;
            if ($off > $band || $off < -$band || $a * $n[$o] + $b * $n[$o + 1] + $c * $n[$o + 2] < $facing) {
                continue;
            }
            $dx = $p[$o] - $x;
            $dy = $p[$o + 1] - $y;
            $dz = $p[$o + 2] - $z;
            if ($dx * $dx + $dy * $dy + $dz * $dz < $most) {
                $on[] = $i;
            }
        }

        return $on;
    }

    /**
     * @param  array<int, float>  $p
     * @param  array<int>  $which
     * @return list<float>
     */
    private static function some(array $p, array $which): array
    {
        $some = [];
        foreach ($which as $i) {
            array_push($some, $p[3 * $i], $p[3 * $i + 1], $p[3 * $i + 2]);
        }

        return $some;
    }
}
