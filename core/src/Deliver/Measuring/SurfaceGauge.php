<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Datums\SurfaceNoise;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Datum;

/**
 * What is measured of the surface that lies on a datum: its form, and how wide the opening is.
 *
 * Form      of a surface made of passes, what lies within RIM edges of where the face ends is left out: there it rounds off, and that is no form. Noise alone makes a perfect face read a largest and a lowest place
 *           apart, the more the more places there are; the uncertainty is so wide that twice the standard deviation holds that (SurfaceNoise::ofSpan). Its size is that of what vertices miss those around by,
 *           and of what the passes disagree by (ScanError::ofSurface).
 * Tested    core/bench/coverage.php: over simulated scans.
 */
final class SurfaceGauge
{
    /** A face belongs to a datum where it looks within this of the way that the datum looks there: the cosine of 15 degrees. */
    private const LOOKS = 0.966;

    /** And where its corners lie within this many of the largest distances that the fit left, mm. */
    private const NEAR = 2.0;

    /** Of the roundness of a cylinder: slices along its axis, and the least number of corners in one. */
    private const SLICES = 12;

    private const LEAST = 12;

    /** Edges from where a face ends within which a surface made of passes rounds off. */
    private const RIM = 2;

    /** Vertices within this many edges of one tell what it misses them by; at least FEWEST of them. */
    private const AROUND = 2.5;

    private const FEWEST = 6;

    /** The middle of those lies within this share of that way from it. */
    private const ASIDE = 0.25;

    /**
     * How much the surface on a plane or a cylinder strays from the fit, from its lowest place to its highest.
     *
     * @throws InvalidParameter|UnsuitableInput
     */
    public static function form(TriangleMesh $mesh, Datum $datum, string $kind, ScanError $scan): Measurement
    {
        $wanted = $kind === 'flatness' ? 'plane' : 'cylinder';
        if ($datum->kind !== $wanted) {
            throw InvalidParameter::of('of', "names \"$datum->name\", a $datum->kind; $kind is that of a $wanted");
        }
        $points = self::points($mesh, $datum);
        $noise = self::noise($mesh, $datum, $points, $scan);
        if ($kind !== 'roundness') {
            [$low, $high] = self::extremes($datum, $points);

            return new Measurement($high - $low, 'mm', $noise === null ? null : $noise * SurfaceNoise::ofSpan([count($points)]));
        }
        $slices = [];
        foreach ($points as $point) {
            $height = Vector3::dot(Vector3::minus($point, $datum->origin), $datum->direction);
            $slices[(int) floor(0.5 * self::SLICES * ($height / max($datum->size, 1e-9) + 1.0))][] = $point;
        }
        $slices = array_filter($slices, fn (array $slice) => count($slice) >= self::LEAST);
        if ($slices === []) {
            throw UnsuitableInput::because("Too little of $datum->name is there to say how round it is.");
        }
        $spans = array_map(function (array $slice) use ($datum): float {
            [$low, $high] = self::extremes($datum, $slice);

            return $high - $low;
        }, $slices);

        return new Measurement(max($spans), 'mm', $noise === null ? null : $noise * SurfaceNoise::ofSpan(array_values(array_map(count(...), $slices))));
    }

    /**
     * The widest round thing that goes through, and the narrowest that holds the wall.
     *
     * @throws InvalidParameter|UnsuitableInput
     */
    public static function opening(TriangleMesh $mesh, Datum $datum, ScanError $scan): Measurement
    {
        if ($datum->kind !== 'cylinder') {
            throw InvalidParameter::of('of', "names \"$datum->name\", a $datum->kind; an opening is that of a cylinder");
        }
        $points = self::points($mesh, $datum);
        [$low, $high] = self::extremes($datum, $points);
        $noise = self::noise($mesh, $datum, $points, $scan);
        $fit = DatumGauge::diameter($datum, $scan)->deviation;
        $across = Vector3::scaled(Vector3::square($datum->direction)[0], $datum->radius + $low);

        return new Measurement(
            2.0 * ($datum->radius + $low), 'mm', $noise === null ? null : hypot($fit ?? 0.0, $noise * SurfaceNoise::ofSpan([count($points)])), ['outer' => 2.0 * ($datum->radius + $high)],
            line: [Vector3::minus($datum->origin, $across), Vector3::plus($datum->origin, $across)],
        );
    }

    /**
     * @param  list<array{float, float, float}>  $points
     * @return array{float, float} the least and the largest distance outside the datum
     */
    private static function extremes(Datum $datum, array $points): array
    {
        $out = array_map($datum->outside(...), $points);

        return [min($out), max($out)];
    }

    /**
     * What one vertex on a datum is off for noise: by what it misses those around it, and by what the passes leave.
     *
     * @param  non-empty-list<array{float, float, float}>  $points
     * @return float|null one standard deviation, mm; null where the vertices stand too far apart to tell
     */
    private static function noise(TriangleMesh $mesh, Datum $datum, array $points, ScanError $scan): ?float
    {
        $reach = max(1e-12, self::AROUND * Measure::typicalEdge($mesh->positions, $mesh->faces));
        $lattice = LatticeKeys::of(array_merge(...$points), $reach);
        $cells = $keys = [];
        foreach ($points as $k => $point) {
            $cells[$keys[$k] = $lattice->at(...$point)][] = $k;
        }
        $out = array_map($datum->outside(...), $points);
        $rough = [];
        foreach ($points as $k => $point) {
            $sum = $count = 0;
            $middle = [0.0, 0.0, 0.0];
            foreach ([-1, 0, 1] as $i) {
                foreach ([-1, 0, 1] as $j) {
                    foreach ([-1, 0, 1] as $l) {
                        foreach ($cells[$keys[$k] + $i * $lattice->layer + $j * $lattice->row + $l] ?? [] as $other) {
                            if ($other !== $k && Vector3::length(Vector3::minus($points[$other], $point)) <= $reach) {
                                $sum += $out[$other];
                                $middle = Vector3::plus($middle, Vector3::minus($points[$other], $point));
                                $count++;
                            }
                        }
                    }
                }
            }
            // At a rim all lie to one side, and what the surface leans would count as noise.
            if ($count >= self::FEWEST && Vector3::length($middle) <= self::ASIDE * $reach * $count) {
                $rough[] = $out[$k] - $sum / $count;
            }
        }

        if ($rough === []) {
            return null;
        }
        $rms = sqrt(array_sum(array_map(fn (float $one) => $one * $one, $rough)) / count($rough));
        // Deep in a bore some places are far worse than others: as wide as normal values of that span would be.
        $wide = (max($rough) - min($rough)) / max(1e-12, 2.0 * SurfaceNoise::largest(count($rough)));

        return hypot(max($rms, $wide), sqrt($scan->ofSurface($datum, $points) ?? 0.0));
    }

    /**
     * Corners of the faces that lie on a datum, without those at its rim where a scan rounds it off, as long as enough are left.
     *
     * @return non-empty-list<array{float, float, float}>
     *
     * @throws UnsuitableInput when none lies there
     */
    private static function points(TriangleMesh $mesh, Datum $datum): array
    {
        $lies = self::facesOn($mesh, $datum);
        $found = [];
        foreach ($lies as $t => $one) {
            foreach ($one ? [0, 1, 2] : [] as $c) {
                $found[$mesh->faces[3 * $t + $c]] = true;
            }
        }
        for ($ring = 0; $ring < ($mesh->support === [] ? 0 : self::RIM); $ring++) {
            $inner = $found;
            foreach ($lies as $t => $one) {
                $corners = array_slice($mesh->faces, 3 * $t, 3);
                if ($ring === 0 ? ! $one : count(array_intersect_key(array_flip($corners), $found)) < 3) {
                    foreach ($corners as $v) {
                        unset($inner[$v]);
                    }
                }
            }
            if (count($inner) < self::LEAST) {
                break;
            }
            $found = $inner;
        }
        $points = array_map(fn (int $v) => [$mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]], array_keys($found));

        return $points !== [] ? $points : throw UnsuitableInput::because("No surface lies on $datum->name any more: fit it anew.");
    }

    /** @return list<bool> by face, whether it lies on a datum and looks the same way */
    private static function facesOn(TriangleMesh $mesh, Datum $datum): array
    {
        $normals = Measure::crosses($mesh->positions, $mesh->faces);
        $near = self::NEAR * max($datum->max, 1e-6);
        $lies = [];
        foreach (array_chunk($mesh->faces, 3) as $t => $corners) {
            $normal = [$normals[3 * $t], $normals[3 * $t + 1], $normals[3 * $t + 2]];
            $lies[$t] = true;
            foreach ($corners as $v) {
                $place = [$mesh->positions[3 * $v], $mesh->positions[3 * $v + 1], $mesh->positions[3 * $v + 2]];
                $way = Vector3::minus($place, $datum->origin);
                $height = Vector3::dot($way, $datum->direction);
                $out = Vector3::minus($way, Vector3::scaled($datum->direction, $height));
                [$looks, $reach] = $datum->kind === 'plane' ? [$datum->direction, Vector3::length($out)] : [$out, abs($height)];
                if ($reach > $datum->size || abs($datum->outside($place)) > $near || abs(Vector3::dot($looks, $normal)) < self::LOOKS * Vector3::length($looks) * Vector3::length($normal)) {
                    $lies[$t] = false;
                    break;
                }
            }
        }

        return $lies;
    }
}
