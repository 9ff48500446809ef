<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Operation\Datum;

/**
 * How well a datum is known: one standard deviation of its direction, place and diameter, from the scatter about the fit, or from what it was picked on or made of (CarriedError).
 *
 * Source    least squares with independent errors of equal size: covariance s2 (J'J)^-1 with the points spread evenly over the area. What faces of a
 *           fused surface miss by is not independent: the noise of a pass goes into some voxels around, so a patch of FACES_A_PLACE counts once; and
 *           a pass drifts slowly, which no number of faces averages out, so that an area is worth no more than MOST_PLACES. Taken from the fused
 *           pedestal in true poses, where planes miss by 0.004 to 0.013 degrees (core/bench/fits.php says both side by side).
 * Leaves    what all points miss by together (scale, registration), and how much of its circumference a round datum has: a third fixes it less well.
 */
final readonly class Uncertainty
{
    /** Faces of a fused mesh that move together: two a vertex, over some two edges around. */
    private const FACES_A_PLACE = 25;

    private const MOST_PLACES = 20;

    /**
     * @param  float|null  $angleDeg  of the normal or axis, about any direction across it
     * @param  float|null  $placeMm  along the normal of a plane, across an axis, of a centre along each axis
     */
    private function __construct(public ?float $angleDeg, public ?float $placeMm, public ?float $diameterMm)
    {
    }

    /** @return self with null for what nothing tells: datums that were typed, or made of others of which nothing is known */
    public static function of(Datum $datum): self
    {
        $fit = self::ofFit($datum);
        if ($datum->error === null) {
            return $fit;
        }

        // Three places always lie on a plane: their own errors count too.
        return new self(
            $datum->hasDirection() ? max($datum->error['angleDeg'], $fit->angleDeg ?? 0.0) : null, max($datum->error['placeMm'], $fit->placeMm ?? 0.0),
            $datum->radius > 0.0 ? max($datum->error['diameterMm'], $fit->diameterMm ?? 0.0) : null,
        );
    }

    private static function ofFit(Datum $datum): self
    {
        $isFitted = in_array($datum->made, ['spread', 'region'], true);
        if (! $isFitted && ! (in_array($datum->made, ['picked', 'rim'], true) && $datum->points > 2)) {
            return new self(null, null, null);
        }
        $free = ['plane' => 3, 'line' => 4, 'sphere' => 4, 'cylinder' => 5, 'cone' => 6][$datum->kind] ?? 1;
        $places = $isFitted ? min(self::MOST_PLACES, $datum->points / self::FACES_A_PLACE) : $datum->points;
        $s = $datum->rms / sqrt(max(1.0, $places - $free));
        // Mean square of the distance from the middle: a third of the square of half the extent.
        $reach = $datum->size / sqrt(3.0);

        return match ($datum->kind) {
            'plane' => new self(rad2deg($s / $reach), $s, null),
            'line' => new self(rad2deg($s / $reach), $s, null),
            // Of an error across the axis a point on the side feels the cosine: half the square on average.
            'cylinder', 'cone' => new self(rad2deg(M_SQRT2 * $s / $reach), M_SQRT2 * $s, 2.0 * $s),
            'sphere' => new self(null, sqrt(3.0) * $s, 2.0 * $s),
            default => new self(null, null, null),
        };
    }
}
