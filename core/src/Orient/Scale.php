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
        return new About('scale', Stage::Orient, 'Scale', 'Corrects the size by a known length or a factor.', 'any', ScaleParameters::class, together: true, avoid: 'Not to fit a part to a drawing: the scan then says nothing any more. Only for a known length.');
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

        $error = self::error($parameters, $factor, $lengths, $workpiece->datums);
        if ($error !== null) {
            $notes[] = sprintf('The scale is known to ± %.3f %% (k = 2)%s', 200.0 * $error, array_filter($known, fn (KnownLength $length) => $length->deviation($workpiece->datums) === null) === [] && $known !== [] ? '.' : ', and to how well the length on the mesh was told: between datums that is in it.');
        }

        return new Result($workpiece->scaled($factor), sprintf('× %.6g', $factor), [], ['factor' => $factor] + ($error === null ? [] : ['scaleError' => $error]) + ($lengths === [] ? [] : ['lengths' => $lengths]), $notes, everything: Placement::of($factor, RigidTransform::identity()), scaleError: $error);
    }

    /**
     * One standard deviation of the factor, over the factor; null where no length was measured on the real part.
     *
     * Source    the variance of a slope through the origin by least squares, with errors in the readings (even within what the instrument is good for: its square over 3) and in the lengths of the mesh; where
     *           several lengths disagree by more than that, what they disagree by.
     *
     * @param  list<array{measured: float, actual: float, residual: float}>  $lengths
     * @param  list<Datum>  $datums
     */
    private static function error(ScaleParameters $parameters, float $factor, array $lengths, array $datums): ?float
    {
        if ($lengths === []) {
            return $parameters->actual === null ? null : $parameters->readTo / sqrt(3.0) / $parameters->actual;
        }
        $weighed = $squares = $misses = 0.0;
        foreach ($parameters->known() as $k => $known) {
            $variance = $parameters->readTo ** 2 / 3.0 + ($factor * ($known->deviation($datums) ?? 0.0)) ** 2;
            $weighed += $lengths[$k]['actual'] ** 2 * $variance;
            $squares += $lengths[$k]['actual'] ** 2;
            $misses += $lengths[$k]['residual'] ** 2;
        }
        $expected = $weighed / $squares;
        $found = count($lengths) > 1 ? $misses / (count($lengths) - 1) : 0.0;

        return sqrt(max($expected, $found) / $squares);
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
