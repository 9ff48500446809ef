<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Algorithms\Fitting\ConeFit;
use Emberstone\Core\Algorithms\Fitting\CylinderFit;
use Emberstone\Core\Algorithms\Fitting\PlaneFit;
use Emberstone\Core\Algorithms\Fitting\SphereFit;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Operation\Datum;

/** Fits a datum to the area around a face; works on an open blob, so that a web request can ask for it. */
final class FitDatum
{
    /** What a step takes: whole features of heavy bodies. */
    private const MOST_FACES = 400000;

    private const MOST_POINTS = 20000;

    /** What a preview takes: its answer must come while the hand is still on the mouse. */
    private const PREVIEW_FACES = 3000;

    private const PREVIEW_POINTS = 500;

    /** How many faces of a brushed area a preview tells the distance of. */
    private const BRUSHED_FACES = 12000;

    /** Fewer faces fix nothing. */
    private const LEAST_FACES = 8;

    /** Rings of faces along the border of an area that do not count. */
    private const RINGS = 4;

    /**
     * @param  Placement  $placement  from the blob's coordinates to the project's
     * @param  bool  $preview  a quick answer from the nearest part of the area
     * @return array{datum: Datum, faces: list<int>, whole: bool, outside: list<float>} whole: the area ended by itself, not by the limit of the preview;
     *                                                                       outside: how far the middle of each face lies outside the shape, mm, in a preview
     *
     * @throws UnsuitableInput when the area is too small or no such shape
     */
    public static function spread(OpenBlob $blob, Placement $placement, int $seedFace, string $kind, float $angleDeg, string $name, bool $preview = false, ?FitConstraint $held = null): array
    {
        $grown = self::grown($blob, $seedFace, $kind, $angleDeg, $preview);
        $area = self::thinned(self::inner($grown, $blob), $placement, $preview);
        $datum = self::fitted($kind, $area['points'], $area['normals'], $area['weights'], count($grown['faces']), $name, 'spread', $held);

        return ['datum' => $datum, 'faces' => $grown['faces'], 'whole' => ! $preview || count($grown['faces']) < self::PREVIEW_FACES, 'outside' => $preview ? self::outside($datum, $grown['points'], $placement) : []];
    }

    /**
     * Fits a datum to faces that were chosen one by one.
     *
     * @param  list<array{int, int}>  $ranges  of faces, both ends in, in order and none twice
     * @param  bool  $preview  a quick answer, with the distance of the faces
     * @return array{datum: Datum, faces: list<int>, whole: bool, outside: list<float>} see spread(); of many faces some, evenly chosen
     *
     * @throws UnsuitableInput when the area is too small or no such shape
     */
    public static function brushed(OpenBlob $blob, Placement $placement, array $ranges, string $kind, string $name, bool $preview = false, ?FitConstraint $held = null): array
    {
        $count = array_sum(array_map(fn (array $range) => $range[1] - $range[0] + 1, $ranges));
        if ($count < self::LEAST_FACES) {
            throw UnsuitableInput::because("The region has only $count faces; brush over more of the surface.");
        }
        $every = intdiv($count, $preview ? self::BRUSHED_FACES : self::MOST_POINTS) + 1;
        $area = ['faces' => [], 'points' => [], 'normals' => [], 'areas' => []];
        $skip = 0;
        foreach ($ranges as [$from, $to]) {
            for ($face = $from + $skip; $face <= $to; $face += $every) {
                [$normal, $corners, $size] = Spread::face($blob, $face);
                $area['faces'][] = $face;
                array_push($area['points'], ...$corners);
                array_push($area['normals'], ...$normal);
                $area['areas'][] = $size;
            }
            $skip = $face - $to - 1;
        }
        $thin = self::thinned($area, $placement, $preview);
        $datum = self::fitted($kind, $thin['points'], $thin['normals'], $thin['weights'], $count, $name, 'region', $held);

        return ['datum' => $datum, 'faces' => $area['faces'], 'whole' => $every === 1, 'outside' => $preview ? self::outside($datum, $area['points'], $placement) : []];
    }

    /**
     * @param  list<float>  $corners  nine numbers a face, in the blob's coordinates
     * @return list<float> a face
     */
    private static function outside(Datum $datum, array $corners, Placement $placement): array
    {
        $out = [];
        for ($o = 0, $n = count($corners); $o < $n; $o += 9) {
            $out[] = round($datum->outside($placement->point([
                ($corners[$o] + $corners[$o + 3] + $corners[$o + 6]) / 3.0, ($corners[$o + 1] + $corners[$o + 4] + $corners[$o + 7]) / 3.0, ($corners[$o + 2] + $corners[$o + 5] + $corners[$o + 8]) / 3.0,
            ])), 4);
        }

        return $out;
    }

    /**
     * The area around a face as places to fit to.
     *
     * @param  bool  $inner  leaves out what is along its border
     * @return array{faces: list<int>, points: list<float>, normals: list<float>, weights: list<float>} points and normals in the project's coordinates
     *
     * @throws UnsuitableInput when the area is too small
     */
    public static function area(OpenBlob $blob, Placement $placement, int $seedFace, string $kind, float $angleDeg, bool $preview = false, bool $inner = true): array
    {
        $grown = self::grown($blob, $seedFace, $kind, $angleDeg, $preview);

        return ['faces' => $grown['faces']] + self::thinned($inner ? self::inner($grown, $blob) : $grown, $placement, $preview);
    }

    /** @param  list<float>  $points  flat xyz */
    private static function isExactlyFlat(array $points): bool
    {
        ['values' => $extents] = Symmetric3::ofPoints($points);

        return count($points) >= 9 && sqrt(max(0.0, $extents[0])) <= 1e-7 * sqrt($extents[2]);
    }

    /** @return array{faces: list<int>, points: list<float>, normals: list<float>, areas: list<float>} see Spread */
    private static function grown(OpenBlob $blob, int $seedFace, string $kind, float $angleDeg, bool $preview): array
    {
        $area = Spread::from($blob, $seedFace, deg2rad($angleDeg), $kind === 'plane', $preview ? self::PREVIEW_FACES : self::MOST_FACES);
        // A flat of a drawing has two: it tells its plane as well as many do.
        if (count($area['faces']) < self::LEAST_FACES && ! ($kind === 'plane' && self::isExactlyFlat($area['points']))) {
            throw UnsuitableInput::because('The area around the click has only '.count($area['faces']).' faces; click a smoother place or raise the spread angle.');
        }

        return $area;
    }

    /**
     * The area without its outermost faces: near an edge the surface of a scan is pulled over it, always the same way. At least half of it stays.
     *
     * @param  array{faces: list<int>, points: list<float>, normals: list<float>, areas: list<float>}  $area
     * @return array{faces: list<int>, points: list<float>, normals: list<float>, areas: list<float>}
     */
    private static function inner(array $area, OpenBlob $blob): array
    {
        $in = array_fill_keys($area['faces'], true);
        $rim = [];
        foreach ($area['faces'] as $face) {
            [$a, $b, $c] = $blob->ints('adjacency', $face);
            if (! isset($in[$a], $in[$b], $in[$c])) {
                $rim[] = $face;
            }
        }
        for ($ring = 1; $ring <= self::RINGS; $ring++) {
            $left = array_diff_key($in, array_flip($rim));
            // Of a narrow band as many rings as it can spare.
            if (2 * count($left) < count($area['faces'])) {
                break;
            }
            $in = $left;
            $next = [];
            foreach ($rim as $face) {
                foreach ($blob->ints('adjacency', $face) as $near) {
                    if (isset($in[$near])) {
                        $next[$near] = $near;
                    }
                }
            }
            $rim = $next;
        }
        $inner = ['faces' => [], 'points' => [], 'normals' => [], 'areas' => []];
        foreach ($area['faces'] as $k => $face) {
            if (isset($in[$face])) {
                $inner['faces'][] = $face;
                array_push($inner['points'], ...array_slice($area['points'], 9 * $k, 9));
                array_push($inner['normals'], ...array_slice($area['normals'], 3 * $k, 3));
                $inner['areas'][] = $area['areas'][$k];
            }
        }

        return $inner;
    }

    /**
     * @param  array{faces: list<int>, points: list<float>, normals: list<float>, areas: list<float>}  $area  as grown() gives it
     * @return array{faces: list<int>, points: list<float>, normals: list<float>, weights: list<float>}
     */
    private static function thinned(array $area, Placement $placement, bool $preview): array
    {
        // Evenly thinned: thousands of places fix a shape as well as all of them.
        $corners = 3 * count($area['faces']);
        $every = intdiv($corners, $preview ? self::PREVIEW_POINTS : self::MOST_POINTS) + 1;
        // Never the same corner of every face: of the wall of a drawing these all lie on one rim.
        $every += $every % 3 === 0 ? 1 : 0;
        $points = $normals = $weights = [];
        for ($i = 0; $i < $corners; $i += $every) {
            $face = intdiv($i, 3);
            for ($k = 0; $k < 3; $k++) {
                $points[] = $area['points'][3 * $i + $k];
                $normals[] = $area['normals'][3 * $face + $k];
            }
            $weights[] = $area['areas'][$face] / 3.0;
        }

        return ['faces' => $area['faces'], 'points' => $placement->points($points), 'normals' => $placement->pose->directions($normals), 'weights' => $weights];
    }

    /**
     * Fits a shape to places on a surface.
     *
     * @param  list<float>  $points  flat xyz, project coordinates
     * @param  list<float>  $normals
     * @param  list<float>  $weights
     * @param  int  $faces  how many the places are of
     * @param  FitConstraint|null  $held  what the shape keeps to
     *
     * @throws UnsuitableInput when it is no such shape
     */
    public static function fitted(string $kind, array $points, array $normals, array $weights, int $faces, string $name, string $made, ?FitConstraint $held = null): Datum
    {
        $fit = match ($kind) {
            'plane' => PlaneFit::of($points, $weights, $held?->by),
            'sphere' => SphereFit::of($points, $weights, $held?->by),
            'cone' => ConeFit::of($points, $normals, $weights, $held?->by),
            'cylinder' => CylinderFit::of($points, $normals, $weights, $held?->by),
            default => throw UnsuitableInput::because("A $kind is not fitted to surface; make a plane or a round shape of it, or pick its points."),
        };
        if ($fit === null) {
            throw UnsuitableInput::because("The area is not round enough for a $kind; make a plane of it, or choose another place.");
        }
        $direction = $fit['direction'];
        if ($kind === 'plane') {
            // Out of the part, as the faces look.
            $side = 0.0;
            foreach ($weights as $i => $w) {
                $side += $w * ($normals[3 * $i] * $direction[0] + $normals[3 * $i + 1] * $direction[1] + $normals[3 * $i + 2] * $direction[2]);
            }
            if ($side < 0.0) {
                $direction = [-$direction[0], -$direction[1], -$direction[2]];
            }
        } elseif ($kind === 'cylinder' && $direction[0] + 1.01 * $direction[1] + 1.02 * $direction[2] < 0.0) {
            $direction = [-$direction[0], -$direction[1], -$direction[2]];
        }

        return new Datum($name, $name, $kind, $fit['origin'], $direction, $fit['radius'] ?? 0.0, $fit['size'], $fit['rms'], $fit['max'], $faces, $made, halfAngleDeg: rad2deg($fit['halfAngle'] ?? 0.0), parents: $held->parents ?? []);
    }

    /**
     * @param  list<array{float, float, float}>  $points
     *
     * @throws UnsuitableInput when there are too few points or they lie in a line
     */
    public static function fromPoints(array $points, string $kind, string $name): Datum
    {
        if ($kind === 'point') {
            return new Datum($name, $name, 'point', $points[0], size: 2.0, points: 1, made: 'picked');
        }
        if ($kind === 'line') {
            return self::line($points, $name);
        }
        if ($kind === 'sphere') {
            if (count($points) < 4) {
                throw UnsuitableInput::because('A sphere needs four points that lie in no plane; pick '.(4 - count($points)).' more.');
            }

            return self::fitted('sphere', array_merge(...$points), [], array_fill(0, count($points), 1.0), count($points), $name, 'picked');
        }
        if ($kind !== 'plane') {
            throw UnsuitableInput::because("A $kind is not made from picked points; click a round area for it.");
        }
        if (count($points) < 3) {
            throw UnsuitableInput::because('A plane needs three points; pick '.(3 - count($points)).' more.');
        }
        $flat = array_merge(...$points);
        $spread = Symmetric3::ofPoints($flat)['values'];
        if ($spread[2] <= 0.0 || $spread[1] < 0.0025 * $spread[2]) {
            throw UnsuitableInput::because('The points lie nearly in a line; pick one more, well off the line.', $flat);
        }
        $fit = PlaneFit::of($flat, array_fill(0, count($points), 1.0));
        $direction = $fit['direction'];
        if ($direction[2] < 0.0) {
            $direction = [-$direction[0], -$direction[1], -$direction[2]];
        }

        return new Datum($name, $name, 'plane', $fit['origin'], $direction, 0.0, $fit['size'], $fit['rms'], $fit['max'], count($points), 'picked');
    }

    /** @param  list<array{float, float, float}>  $points */
    private static function line(array $points, string $name): Datum
    {
        if (count($points) < 2) {
            throw UnsuitableInput::because('A line needs two points; pick one more.');
        }
        $flat = array_merge(...$points);
        $axes = Symmetric3::ofPoints($flat);
        if ($axes['values'][2] < 1e-18) {
            throw UnsuitableInput::because('The points lie in one place; pick one elsewhere.', $flat);
        }
        $d = $axes['vectors'][2];
        // From the first point to the last.
        $last = $points[count($points) - 1];
        $along = ($last[0] - $points[0][0]) * $d[0] + ($last[1] - $points[0][1]) * $d[1] + ($last[2] - $points[0][2]) * $d[2];
        $d = $along < 0.0 ? [-$d[0], -$d[1], -$d[2]] : $d;
        $squares = $most = $size = 0.0;
        foreach ($points as $point) {
            $r = [$point[0] - $axes['centre'][0], $point[1] - $axes['centre'][1], $point[2] - $axes['centre'][2]];
            $t = $r[0] * $d[0] + $r[1] * $d[1] + $r[2] * $d[2];
            $e = max(0.0, $r[0] ** 2 + $r[1] ** 2 + $r[2] ** 2 - $t * $t);
            $squares += $e;
            $most = max($most, sqrt($e));
            $size = max($size, abs($t));
        }

        return new Datum($name, $name, 'line', $axes['centre'], $d, 0.0, $size, sqrt($squares / count($points)), $most, count($points), 'picked');
    }
}
