<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Scales everything evenly about the origin. Nothing is resampled.
 *
 * @implements Operation<ScaleParameters>
 */
final class Scale implements Operation
{
    /** Factors that usually mean a mistaken unit. */
    private const UNIT_FACTORS = [['inch and mm', 25.4], ['cm and mm', 10.0], ['feet and mm', 304.8], ['m and mm', 1000.0], ['feet and inch', 12.0]];

    public static function about(): About
    {
        return new About('scale', Stage::Orient, 'Scale', 'Corrects the size by a known length or a factor.', 'any', ScaleParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $workpiece->refuseEmpty();
        $factor = $parameters->value();
        $notes = [];
        foreach (self::UNIT_FACTORS as [$units, $known]) {
            foreach ([$known, 1.0 / $known] as $suspect) {
                if (abs($factor / $suspect - 1.0) < 0.01) {
                    $notes[] = "The factor is close to the one between $units; check the unit of the passes.";
                }
            }
        }
        if ($notes === [] && ($factor < 0.8 || $factor > 1.25)) {
            $notes[] = sprintf('The factor %.4g is far from 1; check the measured length.', $factor);
        }

        return new Result($workpiece->moved(Transform::scale($factor)), sprintf('× %.6g', $factor), [], ['factor' => $factor], $notes);
    }
}
