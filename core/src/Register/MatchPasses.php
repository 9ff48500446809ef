<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Coarse\RoughPlacing;
use Emberstone\Core\Register\Diagnosis\InputDiagnostics;

/**
 * Brings passes near their places from shape alone, wherever they stand; tightening is left to `register`.
 *
 * @implements Operation<MatchParameters>
 */
final class MatchPasses implements Operation
{
    /** As far as passes that fit as captured may be apart, in spacings. */
    private const REACH = 10.0;

    public static function about(): About
    {
        return new About('match', Stage::Register, 'Match', 'Brings passes near their places from their shape alone, wherever they stand. Register tightens them afterwards.', 'passes', MatchParameters::class, avoid: 'Not for parts that look the same from several sides: pair points, or use dots.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(2.0 + RoughPlacing::seconds(count($workpiece->passes)) + 1e-5 * $workpiece->pointCount(), 60 + 4e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $passes = $workpiece->passes;
        if (count($passes) < 2) {
            throw UnsuitableInput::because('Matching needs two passes or more; bring in another.');
        }
        $still = Still::of($passes, $parameters->reference, $parameters->locked);
        $local = LocalPasses::of($passes, $still[0]);
        $prepared = Prepare::all($local->passes, new PartProgress($progress, 0.0, 0.3));
        $spacing = max(array_map(fn ($pass) => $pass->spacing, $prepared));
        $reach = self::REACH * $spacing;
        $suspects = new InputDiagnostics($local->passes, $prepared, array_map(fn (Pass $pass) => $pass->scale, $passes));
        $doubts = (new RoughPlacing(new Icp($prepared, $reach, 2.5 * $spacing), $prepared, $spacing, $reach))->place($still, new PartProgress($progress, 0.3, 1.0), $suspects);
        $moved = $placed = [];
        foreach ($passes as $k => $pass) {
            $placed[] = $pass->moved($local->pose($k, $prepared[$k]->transform), null, null);
            if (end($placed)->transform->matrix !== $pass->transform->matrix) {
                $moved[] = $pass->name;
            }
        }

        return new Result(
            $workpiece->withPasses($placed), $moved === [] ? 'all fit as captured' : count($moved).(count($moved) === 1 ? ' pass' : ' passes').' placed by shape', ['passes' => count($passes)],
            ['moved' => $moved, 'doubtful' => count($doubts)], [...$suspects->inThemselves(), ...$doubts], $doubts === [] ? Outcome::Reached : Outcome::NotConverged,
        );
    }
}
