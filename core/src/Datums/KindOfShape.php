<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Exchange\OpenBlob;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;

/** Which kind of datum suits the surface around a face best; works on an open blob, so that a web request can ask for it. */
final class KindOfShape
{
    /** A shape with more freedoms is chosen over a plainer one only if the plainer errs by this many times as much. */
    private const WORTH = 1.3;

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
        $flat = FitDatum::area($blob, $placement, $face, 'plane', $angleDeg, preview: true, inner: false);
        $round = FitDatum::area($blob, $placement, $face, 'sphere', $angleDeg, preview: true, inner: false);
        $noise = self::error('plane', $flat);
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
            if ($error * self::WORTH < $rms[$best]) {
                $best = $kind;
            }
        }

        return ['kind' => $best, 'rms' => $rms];
    }

    /** @param  array{faces: list<int>, points: list<float>, normals: list<float>, weights: list<float>}  $area */
    private static function error(string $kind, array $area): ?float
    {
        try {
            return FitDatum::fitted($kind, $area['points'], $area['normals'], $area['weights'], count($area['faces']), $kind, 'spread')->rms;
        } catch (UnsuitableInput) {
            return null;
        }
    }
}
