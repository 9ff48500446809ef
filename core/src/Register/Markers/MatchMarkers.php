<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Markers;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Still;

/**
 * Brings passes near their places by the marker dots glued to the part, wherever they stand: dots that several passes saw lie to each other in the same
 * way. Passes with no three dots in common with the others stay where they are and are named.
 *
 * @implements Operation<MatchMarkersParameters>
 */
final class MatchMarkers implements Operation
{
    /** So many dots that agree are no chance. */
    private const SURE = 4;

    public static function about(): About
    {
        return new About('match-markers', Stage::Register, 'Match by dots', 'Brings passes near their places by the marker dots on the part, wherever they stand. Register tightens them afterwards.', 'passes', MatchMarkersParameters::class, avoid: 'Not without marker dots on the part, and not with dots on a thing that moved between passes.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(1.0 + count($workpiece->passes) + 2e-6 * $workpiece->pointCount(), 60 + 1e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $passes = $workpiece->passes;
        if (count($passes) < 2) {
            throw UnsuitableInput::because('Matching needs two passes or more; bring in another.');
        }
        $still = Still::of($passes, $parameters->reference, $parameters->locked);
        $dots = $this->dots($passes, $parameters->diameter, new PartProgress($progress, 0.0, 0.5));
        if (count($dots[$still[0]]) < 3) {
            throw UnsuitableInput::because("{$passes[$still[0]]->name}, which the others are brought to, shows ".count($dots[$still[0]]).' dots of '.$parameters->diameter.' mm; three are needed. Check the diameter, or choose another reference. Files without colour hold no dots.');
        }
        $by = array_fill(0, count($passes), RigidTransform::identity());
        $placed = [];
        foreach ($still as $k) {
            $placed = self::joined($placed, $dots[$k], $parameters->tolerance);
        }
        $open = array_diff(array_keys($passes), $still);
        $figures = [];
        $notes = [];
        $count = count($open);
        while ($open !== []) {
            $best = null;
            foreach ($open as $k) {
                $found = DotMarkers::pose($dots[$k], $placed, $parameters->tolerance);
                if ($found !== null && $found['agree'] >= self::SURE && ($best === null || $found['agree'] - $found['rival'] > $best['agree'] - $best['rival'])) {
                    $best = ['pass' => $k] + $found;
                    if ($best['agree'] >= 2 * self::SURE && 2 * $best['rival'] <= $best['agree']) {
                        break;
                    }
                }
            }
            if ($best === null) {
                break;
            }
            $k = $best['pass'];
            $by[$k] = $best['pose'];
            $placed = self::joined($placed, array_map(fn (array $dot) => $best['pose']->point($dot), $dots[$k]), $parameters->tolerance);
            $figures[] = ['pass' => $passes[$k]->name, 'dots' => count($dots[$k]), 'agree' => $best['agree'], 'residual' => round($best['rms'], 4)];
            if ($best['rival'] > 0.75 * $best['agree']) {
                $notes[] = "{$passes[$k]->name}: its dots fit in more than one place ({$best['agree']} and {$best['rival']} of them). Look at it, or pick pairs.";
            }
            $open = array_diff($open, [$k]);
            $progress->advance('constellations', 0.5 + 0.5 * (1.0 - count($open) / $count));
        }
        if ($figures === []) {
            throw UnsuitableInput::because('No pass shows four dots that lie to each other as those of the reference do. Glue more dots where passes overlap, or pick pairs.');
        }
        foreach ($open as $k) {
            $notes[] = "{$passes[$k]->name} shows ".count($dots[$k]).' dots, of which no four lie as on the others; it stays where it is. Pick pairs for it.';
        }
        $moved = array_map(fn (Pass $pass, int $k) => $by[$k]->isIdentity() ? $pass : $pass->moved($pass->transform->then($by[$k])), $passes, array_keys($passes));

        return new Result(
            $workpiece->withPasses($moved), count($figures).' of '.$count.' passes placed by dots', [],
            ['placed' => $figures, 'unplaced' => count($open), 'dots' => count($placed)], $notes, $notes === [] ? Outcome::Reached : Outcome::NotConverged,
        );
    }

    /**
     * @param  list<Pass>  $passes
     * @return list<list<array{float, float, float}>> in project coordinates as the passes stand
     */
    private function dots(array $passes, float $diameter, Progress $progress): array
    {
        $tasks = array_map(fn (Pass $pass) => fn (): string => Packed::doubles(array_merge([], ...DotMarkers::find($pass->placed(), $diameter))), $passes);

        /** @var list<list<array{float, float, float}>> */
        return array_map(fn (string $bytes) => array_chunk(Packed::toDoubles($bytes), 3), Fork::map($tasks, Cores::count(), $progress, 'dots'));
    }

    /**
     * @param  list<array{float, float, float}>  $placed
     * @param  list<array{float, float, float}>  $more
     * @return list<array{float, float, float}> those of $more that are there already are left out
     */
    private static function joined(array $placed, array $more, float $tolerance): array
    {
        foreach ($more as $dot) {
            foreach ($placed as $there) {
                if (($dot[0] - $there[0]) ** 2 + ($dot[1] - $there[1]) ** 2 + ($dot[2] - $there[2]) ** 2 < 4.0 * $tolerance * $tolerance) {
                    continue 2;
                }
            }
            $placed[] = $dot;
        }

        return $placed;
    }
}
