<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Orient\Kernel\ShapeFit;

/** Fits a datum to the area around a face; works on an open blob, so that a web request can ask for it. */
final class FitDatum
{
    /** What a step takes: whole features of heavy bodies. */
    private const MOST_FACES = 400000;

    private const MOST_POINTS = 20000;

    /** What a preview takes: its answer must come while the hand is still on the mouse. */
    private const PREVIEW_FACES = 3000;

    private const PREVIEW_POINTS = 500;

    /**
     * @param  Transform  $placement  from the blob's coordinates to the project's
     * @param  bool  $preview  a quick answer from the nearest part of the area
     * @return array{datum: Datum, faces: list<int>, whole: bool} whole: the area ended by itself, not by the limit of the preview
     *
     * @throws UnsuitableInput when the area is too small or no such shape
     */
    public static function spread(OpenBlob $blob, Transform $placement, int $seedFace, string $kind, float $angleDeg, string $name, bool $preview = false): array
    {
        $area = Spread::from($blob, $seedFace, deg2rad($angleDeg), $kind === 'plane', $preview ? self::PREVIEW_FACES : self::MOST_FACES);
        if (count($area['faces']) < 8) {
            throw UnsuitableInput::because('The area around the click has only '.count($area['faces']).' faces; click a smoother place or raise the spread angle.');
        }
        // Evenly thinned: thousands of places fix a shape as well as all of them.
        $every = intdiv(count($area['weights']), $preview ? self::PREVIEW_POINTS : self::MOST_POINTS) + 1;
        $points = $normals = $weights = [];
        for ($i = 0, $n = count($area['weights']); $i < $n; $i += $every) {
            for ($o = 3 * $i; $o < 3 * $i + 3; $o++) {
                $points[] = $area['points'][$o];
                $normals[] = $area['normals'][$o];
            }
            $weights[] = $area['weights'][$i];
        }
        $points = $placement->points($points);
        $normals = $placement->directions($normals);
        $fit = $kind === 'plane' ? ShapeFit::plane($points, $weights) : ShapeFit::cylinder($points, $normals, $weights);
        if ($fit === null) {
            throw UnsuitableInput::because('The area around the click is not round enough for a cylinder; make a plane of it, or click another place.');
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
        } elseif ($direction[0] + 1.01 * $direction[1] + 1.02 * $direction[2] < 0.0) {
            $direction = [-$direction[0], -$direction[1], -$direction[2]];
        }

        return [
            'datum' => new Datum($name, $name, $kind, $fit['origin'], $direction, $fit['radius'] ?? 0.0, $fit['size'], $fit['rms'], $fit['max'], count($area['faces']), 'spread'),
            'faces' => $area['faces'],
            'whole' => ! $preview || count($area['faces']) < self::PREVIEW_FACES,
        ];
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
        if ($kind !== 'plane') {
            throw UnsuitableInput::because('Only a plane or a point is made from picked points; click a round area for a cylinder.');
        }
        if (count($points) < 3) {
            throw UnsuitableInput::because('A plane needs three points; pick '.(3 - count($points)).' more.');
        }
        $flat = array_merge(...$points);
        $spread = \Emberstone\Core\Linear\Symmetric3::ofPoints($flat)['values'];
        if ($spread[2] <= 0.0 || $spread[1] < 0.0025 * $spread[2]) {
            throw UnsuitableInput::because('The points lie nearly in a line; pick one more, well off the line.', $flat);
        }
        $fit = ShapeFit::plane($flat, array_fill(0, count($points), 1.0));
        $direction = $fit['direction'];
        if ($direction[2] < 0.0) {
            $direction = [-$direction[0], -$direction[1], -$direction[2]];
        }

        return new Datum($name, $name, 'plane', $fit['origin'], $direction, 0.0, $fit['size'], $fit['rms'], $fit['max'], count($points), 'picked');
    }
}
