<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
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

    /** Share by which known lengths may miss the balanced factor before it is said. */
    private const DISAGREE = 0.002;

    public static function about(): About
    {
        return new About('scale', Stage::Orient, 'Scale', 'Corrects the size by a known length or a factor.', 'any', ScaleParameters::class, together: true);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $workpiece->refuseEmpty();
        $known = $parameters->known();
        [$factor, $lengths] = $known === [] ? [$parameters->value(), []] : self::balanced($known, $workpiece->datums);
        $notes = [];
        $worst = max([0.0, ...array_map(fn (array $length) => abs($length['residual']) / $length['actual'], $lengths)]);
        if ($worst > self::DISAGREE) {
            $notes[] = sprintf('The known lengths disagree by up to %.2f %%; measure them again, or look for a picked place that is off.', 100.0 * $worst);
        }
        $isUnit = false;
        foreach (self::UNIT_FACTORS as [$units, $usual]) {
            foreach ([$usual, 1.0 / $usual] as $suspect) {
                if (abs($factor / $suspect - 1.0) < 0.01) {
                    $isUnit = true;
                    $notes[] = "The factor is close to the one between $units; check the unit of the passes.";
                }
            }
        }
        if (! $isUnit && ($factor < 0.8 || $factor > 1.25)) {
            $notes[] = sprintf('The factor %.4g is far from 1; check the measured length.', $factor);
        }

        return new Result($workpiece->scaled($factor), sprintf('× %.6g', $factor), [], ['factor' => $factor] + ($lengths === [] ? [] : ['lengths' => $lengths]), $notes, everything: Placement::of($factor, RigidTransform::identity()));
    }

    /**
     * The factor that brings all lengths nearest to the actual ones, by least squares.
     *
     * @param  non-empty-list<KnownLength>  $known
     * @param  list<Datum>  $datums
     * @return array{float, list<array{measured: float, actual: float, residual: float}>} residual: what is left of each after scaling, mm
     */
    public static function balanced(array $known, array $datums): array
    {
        $measured = array_map(fn (KnownLength $length) => $length->measured($datums), $known);
        $products = $squares = 0.0;
        foreach ($known as $k => $length) {
            $products += $measured[$k] * $length->actual;
            $squares += $measured[$k] ** 2;
        }
        $factor = $products / $squares;

        return [$factor, array_map(fn (KnownLength $length, float $was) => ['measured' => $was, 'actual' => $length->actual, 'residual' => $factor * $was - $length->actual], $known, $measured)];
    }
}
