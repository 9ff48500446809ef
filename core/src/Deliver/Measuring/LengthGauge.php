<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Algorithms\Cutting\PlaneSection;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Datums\SurfaceNoise;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * The length along the surface between two places.
 *
 * Error     zigzag: heights that are off by s from one vertex to the next, an edge e apart, make a way longer by s^2 / e^2 of itself; bends: where it turns by an angle, a surface off by s makes it longer or
 *           shorter by the angle times s (a parallel curve); ends: where the passes that saw them stand (ScanError). Where it was clicked is no error: it begins and ends there.
 */
final class LengthGauge
{
    /** Picked places lie on the surface but for rounding of what was picked: the share of a body's size by which they may miss. */
    private const OFF = 0.01;

    /** A bend is looked at over this many edges: from one piece of the way to the next noise bends it more than the shape does. */
    private const STEP = 3.0;

    /**
     * In the plane through both places that stands upright on the surface: the shorter way.
     *
     * @param  array{float, float, float}  $from
     * @param  array{float, float, float}  $to
     *
     * @throws UnsuitableInput when no piece of surface leads from one to the other in that plane
     */
    public static function between(TriangleMesh $mesh, array $from, array $to, ScanError $scan): Measurement
    {
        $face = $distanceSq = [];
        TriangleBvh::of($mesh->positions, $mesh->faces)->closest([...$from, ...$to], $face, $distanceSq);
        $crosses = Measure::crosses($mesh->positions, $mesh->faces);
        $normals = array_map(fn (int $t) => Vector3::unit([$crosses[3 * $t], $crosses[3 * $t + 1], $crosses[3 * $t + 2]]), $face);
        $across = Vector3::cross(Vector3::minus($to, $from), Vector3::plus($normals[0], $normals[1]));
        if (Vector3::length($across) < 1e-9) {
            throw UnsuitableInput::because('The two places stand above each other: there is no one way along the surface between them.');
        }
        $best = [];
        $least = INF;
        $plane = Vector3::unit($across);
        foreach ((new PlaneSection($mesh->positions, $mesh->faces, $plane))->at([Vector3::dot($from, $plane)])[0] as $curve) {
            $way = self::way($curve['points'], $curve['closed'], $from, $to, self::OFF * BoundingBox::of($mesh->positions)->diagonal());
            $length = self::length($way);
            if ($way !== [] && $length < $least) {
                [$best, $least] = [$way, $length];
            }
        }
        if ($best === []) {
            throw UnsuitableInput::because('No way along the surface leads straight from one place to the other; choose places nearer to each other.');
        }

        return new Measurement($least, 'mm', self::deviation($mesh, $best, $least, [$from, $normals[0]], [$to, $normals[1]], $scan), line: [$from, $to]);
    }

    /**
     * @param  non-empty-list<array{float, float, float}>  $way
     * @param  array{array{float, float, float}, array{float, float, float}}  $one  place and normal
     * @param  array{array{float, float, float}, array{float, float, float}}  $two
     */
    private static function deviation(TriangleMesh $mesh, array $way, float $length, array $one, array $two, ScanError $scan): ?float
    {
        $surface = new SurfaceNoise($mesh);
        $known = array_filter([$surface->at(...$one), $surface->at(...$two)], fn (?float $noise) => $noise !== null);
        $noise = $known === [] ? $surface->typical() : max($known);
        if ($noise === null) {
            return null;
        }
        $edge = Measure::typicalEdge($mesh->positions, $mesh->faces);

        return sqrt(($length * ($noise / max($edge, 1e-12)) ** 2) ** 2 + (self::bend($way, self::STEP * $edge) * $noise) ** 2 + $scan->ofPlaces(...[...$one, ...$two]));
    }

    /**
     * @param  list<array{float, float, float}>  $way
     * @return float how much it turns in all, radians, looked at in steps of a length
     */
    private static function bend(array $way, float $step): float
    {
        $bend = $gone = 0.0;
        $last = $before = null;
        foreach ($way as $k => $place) {
            $gone += $k > 0 ? Vector3::length(Vector3::minus($place, $way[$k - 1])) : 0.0;
            if ($last !== null && $gone < $step && $k < count($way) - 1) {
                continue;
            }
            $run = $last === null ? null : Vector3::minus($place, $last);
            if ($run !== null && $before !== null) {
                $bend += atan2(Vector3::length(Vector3::cross($before, $run)), Vector3::dot($before, $run));
            }
            [$last, $before, $gone] = [$place, $run ?? $before, 0.0];
        }

        return $bend;
    }

    /** @param  list<array{float, float, float}>  $way */
    private static function length(array $way): float
    {
        $length = 0.0;
        for ($k = 1, $n = count($way); $k < $n; $k++) {
            $length += Vector3::length(Vector3::minus($way[$k], $way[$k - 1]));
        }

        return $length;
    }

    /**
     * @param  list<float>  $points  flat xyz of a curve
     * @param  array{float, float, float}  $from
     * @param  array{float, float, float}  $to
     * @param  float  $off  mm by which it may pass the two
     * @return list<array{float, float, float}> the shorter piece of it between its places next to the two; nothing where it does not come near both
     */
    private static function way(array $points, bool $isClosed, array $from, array $to, float $off): array
    {
        /** @var non-empty-list<array{float, float, float}> $places */
        $places = array_chunk($points, 3);
        $isClosed && $places[] = $places[0];
        $ends = array_map(fn (array $place) => self::nextTo($places, $place), [$from, $to]);
        if (max($ends[0]['off'], $ends[1]['off']) > $off) {
            return [];
        }
        [$a, $b] = $ends[0]['at'] <= $ends[1]['at'] ? $ends : [$ends[1], $ends[0]];
        $straight = [$a['place'], ...array_slice($places, (int) floor($a['at']) + 1, (int) floor($b['at']) - (int) floor($a['at'])), $b['place']];
        if (! $isClosed) {
            return $straight;
        }
        // The other way around; the last place is the first once more.
        $around = [$b['place'], ...array_slice($places, (int) floor($b['at']) + 1), ...array_slice($places, 1, (int) floor($a['at'])), $a['place']];

        return self::length($straight) <= self::length($around) ? $straight : $around;
    }

    /**
     * @param  non-empty-list<array{float, float, float}>  $places
     * @param  array{float, float, float}  $place
     * @return array{off: float, at: float, place: array{float, float, float}} how far the line passes, where along it (piece and share of it), and the place on it
     */
    private static function nextTo(array $places, array $place): array
    {
        $best = ['off' => INF, 'at' => 0.0, 'place' => $places[0]];
        for ($k = 1, $n = count($places); $k < $n; $k++) {
            $step = Vector3::minus($places[$k], $places[$k - 1]);
            $square = Vector3::dot($step, $step);
            $share = $square > 0.0 ? max(0.0, min(1.0, Vector3::dot(Vector3::minus($place, $places[$k - 1]), $step) / $square)) : 0.0;
            $foot = Vector3::plus($places[$k - 1], Vector3::scaled($step, $share));
            $off = Vector3::length(Vector3::minus($place, $foot));
            if ($off < $best['off']) {
                $best = ['off' => $off, 'at' => $k - 1 + min($share, 1.0 - 1e-9), 'place' => $foot];
            }
        }

        return $best;
    }
}
