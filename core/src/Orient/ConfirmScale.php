<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Somebody says that the size is that of the real part, with what they measured on it. Changes nothing; it holds until the scale changes.
 *
 * Error     of the scale, where a length was read: what the reading may be off, what the fits at its ends may be, and what the two differ by, which is left as it is.
 *
 * @implements Operation<ConfirmScaleParameters>
 */
final class ConfirmScale implements Operation
{
    /** Standard deviations that a length may miss the reading by before it is said. */
    private const MISSES = 3.0;

    public static function about(): About
    {
        return new About('confirm-scale', Stage::Orient, 'Confirm scale', 'Says that the part is as large as the real one, by its size or by lengths read on it. Changes nothing; it lapses when the size changes.', 'any', ConfirmScaleParameters::class, together: true, avoid: 'Not by eye: take one length with a caliper and type it.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1 + 2e-7 * ($workpiece->faceCount() + $workpiece->pointCount()), 20 + 1e-4 * ($workpiece->faceCount() + $workpiece->pointCount()));
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $workpiece->refuseEmpty();
        $box = Extent::of($workpiece);
        $size = Vector3::minus($box->max, $box->min);
        $progress->advance('measuring', 0.5);
        $lengths = $notes = [];
        $best = null;
        foreach ($parameters->known() as $known) {
            $measured = $known->measured($workpiece->datums);
            $off = $measured - $known->actual;
            $deviation = hypot($parameters->readTo / sqrt(3.0), $known->deviation($workpiece->datums) ?? 0.0);
            $lengths[] = ['measured' => $measured, 'actual' => $known->actual, 'residual' => $off];
            if (abs($off) > self::MISSES * $deviation) {
                $notes[] = sprintf('A length of %s was read as %s on the real part: %.2f %% off, more than reading and fits explain. Scale it by that length, or measure again.', Format::mm($measured), Format::mm($known->actual), 100.0 * $off / $known->actual);
            }
            $error = hypot($deviation, $off) / $known->actual;
            $best = $best === null ? $error : min($best, $error);
        }
        if ($best !== null) {
            $notes[] = sprintf('The scale is known to ± %.3f %% (k = 2).', 200.0 * $best);
        }
        $words = implode(' × ', array_map(fn (float $v) => number_format($v, 2, '.', ''), $size)).' mm'.($lengths === [] ? '' : sprintf(' · %s, read %s', Format::mm($lengths[0]['measured']), Format::mm($lengths[0]['actual'])));
        $progress->advance('measuring', 1.0);

        return new Result($workpiece, $words, [], ['size' => $size] + ($lengths === [] ? [] : ['lengths' => $lengths]) + ($best === null ? [] : ['scaleError' => $best]), $notes, everything: Placement::of(1.0, RigidTransform::identity()), scaleError: $best);
    }
}
