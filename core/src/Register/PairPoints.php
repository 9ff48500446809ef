<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Linear\Horn;
use Emberstone\Core\Linear\Symmetric3;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Format;
use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;

/**
 * Moves a pass so that picked places fall on their partners: least squares over three pairs or more.
 *
 * Source    Horn 1987. Picks nearly in a line are refused: they leave the turn about that line open.
 *
 * @implements Operation<PairPointsParameters>
 */
final class PairPoints implements Operation
{
    /** Picks whose spread across their own line is below this share of their length leave a turn open. */
    private const LEAST_SPREAD = 0.06;

    public static function about(): About
    {
        return new About('pair-points', Stage::Register, 'Pair points', 'Brings a pass near the others by picking the same places on both.', 'passes', PairPointsParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $from = $to = [];
        foreach ($parameters->pairs as $pair) {
            array_push($from, ...array_map(floatval(...), $pair['from']));
            array_push($to, ...array_map(floatval(...), $pair['to']));
        }
        $count = count($parameters->pairs);
        if ($count < 3) {
            throw UnsuitableInput::because('Three pairs are needed; pick '.(3 - $count).' more.');
        }
        self::refuseLine($from);
        self::refuseLine($to);
        $by = Horn::fit($from, $to);
        $residuals = self::residuals($by, $from, $to);
        $passes = [];
        $found = false;
        foreach ($workpiece->passes as $pass) {
            $moves = $pass->id === $parameters->moving || $pass->name === $parameters->moving;
            $found = $found || $moves;
            $passes[] = $moves ? $pass->moved($pass->transform->then($by)) : $pass;
        }
        if (! $found) {
            throw InvalidParameter::of('moving', "names \"{$parameters->moving}\", but the passes are ".implode(', ', array_map(fn (Pass $pass) => $pass->name, $workpiece->passes)));
        }
        $rms = sqrt(array_sum(array_map(fn (float $r) => $r * $r, $residuals)) / $count);

        return new Result($workpiece->withPasses($passes), "$count pairs, residual ".Format::mm($rms), [], ['pairs' => array_map(fn (float $r) => round($r, 4), $residuals), 'residual' => round($rms, 4)]);
    }

    /** @param  list<float>  $points */
    private static function refuseLine(array $points): void
    {
        $values = Symmetric3::ofPoints($points)['values'];
        if ($values[2] <= 0.0 || sqrt(max(0.0, $values[1]) / $values[2]) < self::LEAST_SPREAD) {
            throw UnsuitableInput::because('The picks lie nearly in a line, which leaves the turn about that line open. Pick one more, well off the line.', $points);
        }
    }

    /**
     * @param  list<float>  $from
     * @param  list<float>  $to
     * @return list<float>
     */
    private static function residuals(Transform $by, array $from, array $to): array
    {
        $moved = $by->points($from);
        $residuals = [];
        for ($o = 0, $n = count($to); $o < $n; $o += 3) {
            $residuals[] = sqrt(($moved[$o] - $to[$o]) ** 2 + ($moved[$o + 1] - $to[$o + 1]) ** 2 + ($moved[$o + 2] - $to[$o + 2]) ** 2);
        }

        return $residuals;
    }
}
