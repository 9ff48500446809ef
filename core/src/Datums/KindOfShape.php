<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;

/** Which kind of datum suits the surface around a face best; works on an open blob, so that a web request can ask for it. */
final class KindOfShape
{
    /** A shape with more freedoms is chosen over a plainer one only if the plainer errs by this many times as much. */
    private const WORTH = 1.3;

    /** Parts of the angle over which a flat area is looked for, and the faces that are enough of it to tell its noise. */
    private const PARTS = [0.25, 0.5, 1.0];

    private const ENOUGH = 40;

    /** Standard deviations in the median distance of what is spread normally. */
    private const OF_MEDIAN = 1.4826;

    /** Errors within which a round area that is as flat as the flat one is a plane. */
    private const AS_FLAT = 2.5;

    /**
     * Plane, cylinder, sphere, cone: the plainest of those that fit about as well as the best.
     *
     * @param  Placement  $placement  from the blob's coordinates to the project's
     * @return array{kind: string, rms: array<string, float>} and the error of each kind that was tried and fits at all, mm
     *
     * @throws UnsuitableInput when the area is too small
     */
    public static function around(OpenBlob $blob, Placement $placement, int $face, float $angleDeg): array
    {
        $rms = [];
        $round = FitDatum::area($blob, $placement, $face, 'sphere', $angleDeg, preview: true, inner: false);
        $noise = self::noise($blob, $placement, $face, $angleDeg);
        foreach (['plane', 'cylinder', 'sphere', 'cone'] as $kind) {
            $error = self::error($kind, $round);
            if ($error !== null) {
                $rms[$kind] = $error;
            }
            // Round shapes are fitted to what is round: on a plane a cone would be sought for long, and in vain.
            if ($noise === null || ($rms['plane'] ?? INF) <= self::AS_FLAT * $noise) {
                return ['kind' => 'plane', 'rms' => $rms];
            }
        }
        $best = 'plane';
        foreach ($rms as $kind => $error) {
            if ($error * self::WORTH < ($rms[$best] ?? INF)) {
                $best = $kind;
            }
        }

        return ['kind' => $best, 'rms' => $rms];
    }

    /** The error of a plane where the surface is about flat. A wide round is flat over a quarter of the angle; where that is too little surface, since it is rough, over more of it. */
    private static function noise(OpenBlob $blob, Placement $placement, int $face, float $angleDeg): ?float
    {
        foreach (self::PARTS as $part) {
            try {
                $area = FitDatum::area($blob, $placement, $face, 'plane', $part * $angleDeg, preview: true, inner: false);
            } catch (UnsuitableInput $tooSmall) {
                continue;
            }
            if (count($area['faces']) >= self::ENOUGH || $part === 1.0) {
                return self::error('plane', $area);
            }
        }

        return null;
    }

    /** @param  array{faces: list<int>, points: list<float>, normals: list<float>, weights: list<float>}  $area */
    private static function error(string $kind, array $area): ?float
    {
        try {
            $datum = FitDatum::fitted($kind, $area['points'], $area['normals'], $area['weights'], count($area['faces']), $kind, 'spread');
            // Of all that is there: a fit leaves out what does not suit it, and of an exact round one flat suits a plane exactly.
            $off = array_map(fn (array $at) => abs($datum->outside([$at[0], $at[1], $at[2]])), array_chunk($area['points'], 3));

            return max($datum->rms, self::OF_MEDIAN * Median::of($off));
        } catch (UnsuitableInput) {
            return null;
        }
    }
}
