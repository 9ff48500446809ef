<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\PoseError as PassPoseError;
use Emberstone\Core\Operation\Registration;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\ShadeMap;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Register\Coarse\AssemblyScore;
use Emberstone\Core\Register\Coarse\Overlaps;
use Emberstone\Core\Register\Coarse\RoughPlacing;
use Emberstone\Core\Register\Diagnosis\FreeSpaceViolations;
use Emberstone\Core\Register\Diagnosis\InputDiagnostics;
use Emberstone\Core\Register\Diagnosis\MisregisteredPasses;
use Emberstone\Core\Register\Diagnosis\SkinsLeft;
use Emberstone\Core\Register\Diagnosis\SlippageAnalysis;

/**
 * Brings all passes into the coordinates of those that stay: pairwise along the strongest overlaps, then all together. Where shape does not hold them they stay as they were put (SlippageAnalysis).
 *
 * Source    Chen & Medioni 1992, Pulli 1999; robust weights after Tukey.
 * Input     two passes or more, placed within `maxDistance` of the truth, or anywhere with `coarse: auto` (RoughPlacing); units mm.
 * Keeps     the points of every pass; only poses change. The reference and locked passes stay to the last bit.
 * Cost      about 1 s a pass of 75 k points, 400 bytes a point; passes by the hundred 0.7 s each (PoseEquations, Overlaps).
 *
 * @implements Operation<RegisterParameters>
 *
 * @phpstan-import-type Joint from MultiviewIcp
 * @phpstan-import-type PoseError from SurfaceAdjustment
 */
final class Register implements Operation, Registration
{
    /** So often a pass that contradicts the others is placed anew. */
    private const TRIES = 3;

    /** Groups of passes with less in common than this are pointed out when they were placed by shape: right places are nearly sure from here on. */
    private const LOOSE = 0.25;

    /** Passes that hang together by ties of this share where they were put are tightened from there, if shape has no place for one. By chance they do not. */
    private const AS_PUT = 0.3;

    public static function about(): About
    {
        return new About('register', Stage::Register, 'Register', 'Brings all passes into one place: pair by pair, then all together.', 'passes', RegisterParameters::class, avoid: 'Not with passes that hardly overlap, or of bare round or flat shapes alone: match them by dots, or pair points first.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        $points = $workpiece->pointCount();

        // Of many points only the passes that are worked on are in memory.
        $atOnce = 500.0 + 4.8e-4 * Cores::count() * max([0, ...array_map(fn (Pass $pass) => $pass->keptCount(), $workpiece->passes)]);

        return new Estimate(2.0 + min(5e-5 * $points, 30.0 + 5e-6 * $points) + ($parameters->coarse === 'auto' ? RoughPlacing::seconds(count($workpiece->passes)) : 0.0), 60 + min(4e-4 * $points, $atOnce));
    }

    public function registered(Workpiece $workpiece, float $reach, array $locked, Progress $progress): Result
    {
        return $this($workpiece, new RegisterParameters('none', $reach, locked: $locked), $progress);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $passes = $workpiece->passes;
        if (count($passes) < 2) {
            throw UnsuitableInput::because('Registering needs two passes or more; bring in another.');
        }
        $still = Still::of($passes, $parameters->reference, $parameters->locked);
        $local = LocalPasses::of($passes, $still[0]);
        $passes = $local->passes;
        $maxDistance = $parameters->maxDistance ?? $workpiece->reachMm() ?? 1.0;
        $prepared = Prepare::all($passes, new PartProgress($progress, 0.0, 0.3));
        $spacing = max(array_map(fn (PreparedPass $pass) => $pass->spacing, $prepared));
        $fit = new Icp($prepared, $maxDistance, min($maxDistance, 2.5 * $spacing));

        $overlap = $fit->overlaps($maxDistance);
        $before = $this->figures($fit, $overlap, $maxDistance, $prepared, $still);
        $progress->advance('pairs', 0.32);
        $suspects = new InputDiagnostics($passes, $prepared, array_map(fn (Pass $pass) => $pass->scale, $workpiece->passes));
        $notes = $suspects->inThemselves();
        if ($parameters->coarse === 'auto') {
            array_push($notes, ...$this->placedByShape($fit, $prepared, $overlap, $spacing, $maxDistance, $still, $suspects, new PartProgress($progress, 0.32, 0.5)));
            $overlap = $fit->overlaps($maxDistance);
        }
        $start = array_map(fn (PreparedPass $pass) => $pass->transform, $prepared);
        $isByShape = array_column($start, 'matrix') !== array_map(fn (Pass $pass) => $pass->transform->matrix, $passes);
        $this->placeAlongTree($fit, $overlap, $still, $passes, $parameters->coarse, $suspects, new PartProgress($progress, 0.5, 0.55));

        // A wide look: pairs that do not meet yet must pull too.
        $pairs = Overlaps::pairs($fit->overlaps(max(2.5 * $spacing, 0.6 * $maxDistance)));
        $joint = $fit->together($pairs, $still, new PartProgress($progress, 0.55, 0.75), isFirst: true);

        $contradictions = new FreeSpaceViolations($fit, $prepared, $spacing);
        $doubt = $contradictions->worst($still);
        for ($try = 0; $doubt !== null && $try < self::TRIES; $try++) {
            $contradictions->retry($doubt['pass'], $start[$doubt['pass']], $maxDistance);
            $pairs = Overlaps::pairs($fit->overlaps(max(2.5 * $spacing, 0.3 * $maxDistance)));
            $joint = $fit->together($pairs, $still, new PartProgress($progress, 0.75 + 0.1 * $try / self::TRIES, 0.75 + 0.1 * ($try + 1) / self::TRIES), isFirst: true);
            $doubt = $contradictions->worst($still);
        }

        $slides = new SlippageAnalysis($fit, $prepared, $spacing);
        ['pairs' => $pairs, 'joint' => $joint, 'slides' => $left] = $slides->settle($pairs, $joint, $start, $still, $maxDistance, new PartProgress($progress, 0.85, 0.88));
        $adjustment = new SurfaceAdjustment($prepared);
        $surface = $adjustment->settle($still, new PartProgress($progress, 0.88, 0.9), settlesAgain: true);
        if (array_filter($surface['errors'], fn (?array $error) => $error !== null && ! $error['isHeld']) !== []) {
            // Along what surface does not hold the place is that of best fit, which stopped early where the adjustment was to follow.
            $joint = $fit->together($pairs, $still, new PartProgress($progress, 0.9, 0.91));
            // What nothing holds at all wandered with it, and stays as it was put.
            ['pairs' => $pairs, 'joint' => $joint, 'slides' => $left] = $slides->settle($pairs, $joint, $start, $still, $maxDistance, new PartProgress($progress, 0.91, 0.92));
            $surface = $adjustment->settle($still, new PartProgress($progress, 0.92, 0.94));
        }
        $joint = $fit->as($pairs, $joint);
        array_push($notes, ...$slides->inWords($left, $isByShape, $local->centre));

        // Of passes that were tightened from where the scanner put them it is the outcome alone that says so.
        if ($isByShape && ! $joint['converged'] && $doubt === null) {
            $notes[] = 'The passes have not settled where their shape put them: one or more may stand wrong. Look at each, or pick pairs for those that do.';
        }
        if ($isByShape) {
            array_push($notes, ...self::looselyHeld($passes, $pairs, array_column($joint['pairs'], 'overlap')));
        }
        $elsewhere = (new MisregisteredPasses($fit, $prepared, new AssemblyScore($fit, $prepared, $spacing)))->inWords(array_keys(array_diff_key($prepared, $suspects->twins())), $parameters->coarse === 'auto' ? 'Pick pairs for it, or leave it out.' : 'Pick pairs for it, or set the rough placing to auto.', new PartProgress($progress, 0.94, 0.95));
        array_push($notes, ...$elsewhere);
        $skins = array_map(fn (array $skin) => ['centre' => $local->place($skin['centre'])] + $skin, SkinsLeft::of($prepared));
        array_push($notes, ...SkinsLeft::inWords($skins));
        $residuals = ResidualMaps::of($passes, $prepared, $pairs, array_column($joint['pairs'], 'overlap'), new PartProgress($progress, 0.95, 1.0));

        return $this->result($workpiece, $local, $prepared, $surface['errors'], $still, $pairs, $joint, $before, $doubt, $notes, $residuals + ['doubleSkins' => $skins, 'unsure' => $elsewhere !== [] || ($isByShape && $left !== [])]);
    }

    /**
     * Passes that shape has no place for, but that lie on each other where they were put, start from there.
     *
     * @param  list<PreparedPass>  $prepared
     * @param  array<int, array<int, float>>  $overlap  as they were put
     * @param  list<int>  $still
     * @return list<string>
     *
     * @throws UnsuitableInput when a pass has no place
     */
    private function placedByShape(Icp $fit, array $prepared, array $overlap, float $spacing, float $maxDistance, array $still, InputDiagnostics $suspects, Progress $progress): array
    {
        $put = array_map(fn (PreparedPass $pass) => $pass->transform, $prepared);
        try {
            return (new RoughPlacing($fit, $prepared, $spacing, $maxDistance))->place($still, $progress, $suspects);
        } catch (UnsuitableInput $refused) {
            $pairs = Overlaps::pairs($overlap);
            $tie = Overlaps::weakest(count($prepared), $pairs, array_map(fn (array $pair) => $overlap[$pair[0]][$pair[1]], $pairs));
            if ($tie === null || $tie['share'] < self::AS_PUT) {
                throw $refused;
            }
            foreach ($prepared as $k => $pass) {
                $pass->transform = $put[$k];
            }

            return [$refused->getMessage().' All were tightened from where they were put: look at how they lie on each other.'];
        }
    }

    /**
     * Best fits outwards from the passes that stay, each pass onto all that it overlaps and that stand already; the strongest overlap next
     * (a maximum spanning tree, Prim 1957).
     *
     * @param  array<int, array<int, float>>  $overlap
     * @param  list<int>  $still
     * @param  list<Pass>  $passes
     */
    private function placeAlongTree(Icp $fit, array $overlap, array $still, array $passes, string $coarse, InputDiagnostics $suspects, Progress $progress): void
    {
        $mutual = Overlaps::mutual($overlap);
        $placed = array_fill_keys($still, true);
        $given = count($placed);
        $n = count($passes);
        while (count($placed) < $n) {
            $best = [0.0, -1];
            foreach (array_diff_key($mutual, $placed) as $i => $row) {
                foreach (array_intersect_key($row, $placed) as $share) {
                    if ($share > $best[0]) {
                        $best = [$share, $i];
                    }
                }
            }
            [$share, $moving] = $best;
            if ($share < Overlaps::LEAST) {
                $loose = array_map(fn (Pass $pass) => $pass->name, array_values(array_diff_key($passes, $placed)));
                [$do, $them] = count($loose) === 1 ? ['does', 'it'] : ['do', 'them'];
                [$putBy, $first] = $coarse === 'auto' ? ['their shape', 'Pick'] : ['the scanner', 'Set the rough placing to auto, pick'];
                throw UnsuitableInput::because(implode(', ', $loose)." $do not overlap the other passes where $putBy put them. $first pairs to bring $them near, raise the reach, or leave $them out.".$suspects->reasons(array_keys(array_diff_key($passes, $placed)), false));
            }
            $onto = array_filter(array_intersect_key($mutual[$moving], $placed), fn (float $share) => $share >= Overlaps::LEAST);
            arsort($onto);
            $fit->onto([$moving], array_slice(array_keys($onto), 0, Overlaps::PARTNERS));
            $placed[$moving] = true;
            $progress->advance('pairs', (count($placed) - $given) / ($n - $given));
        }
    }

    /**
     * @param  array<int, array<int, float>>  $overlap
     * @param  list<PreparedPass>  $prepared
     * @param  list<int>  $still
     * @return array<string, mixed>
     */
    private function figures(Icp $fit, array $overlap, float $reach, array $prepared, array $still): array
    {
        $pairs = Overlaps::pairs($overlap);
        if ($pairs === []) {
            return ['residual' => null];
        }
        // A look at the residuals as captured: one round whose step is thrown away.
        $kept = array_map(fn (PreparedPass $pass) => $pass->transform, $prepared);
        $quiet = new \Emberstone\Core\Foundation\NoProgress;
        $report = (new Icp($prepared, 4.0 * $reach, $reach))->together($pairs, $still, $quiet, 1);
        foreach ($prepared as $k => $pass) {
            $pass->transform = $kept[$k];
        }

        return ['residual' => round(self::rms(array_column($report['pairs'], 'residual')), 5)];
    }

    /**
     * @param  list<Pass>  $passes
     * @param  list<array{int, int}>  $pairs
     * @param  list<float>  $overlaps  a pair
     * @return list<string> one where passes that were placed by shape hang together in two groups with little in common
     */
    private static function looselyHeld(array $passes, array $pairs, array $overlaps): array
    {
        $link = Overlaps::weakest(count($passes), $pairs, $overlaps);
        if ($link === null || $link['share'] >= self::LOOSE) {
            return [];
        }
        $names = fn (array $which): string => implode(', ', array_map(fn (int $k) => $passes[$k]->name, $which));

        return [sprintf('%s and %s have only %.0f %% in common: look at how they lie on each other. If these are two objects, keep each in a project of its own.', $names($link['one']), $names($link['other']), 100 * $link['share'])];
    }

    /**
     * Of a pass that is held in all directions, or that the others were brought to; null where nobody knows.
     *
     * @param  PoseError|null  $error
     */
    private static function poseError(?array $error, bool $isStill): ?PassPoseError
    {
        return match (true) {
            $isStill => PassPoseError::none(),
            $error === null || ! $error['isHeld'] => null,
            default => new PassPoseError($error['shiftMm'], $error['turnDeg']),
        };
    }

    /** @param  list<float>  $values */
    private static function rms(array $values): float
    {
        return $values === [] ? 0.0 : sqrt(array_sum(array_map(fn (float $v) => $v * $v, $values)) / count($values));
    }

    /**
     * @param  list<PreparedPass>  $prepared
     * @param  list<PoseError|null>  $errors
     * @param  list<int>  $still
     * @param  list<array{int, int}>  $pairs
     * @param  Joint  $joint
     * @param  array<string, mixed>  $before
     * @param  array{pass: int, with: int, share: float}|null  $doubt
     * @param  list<string>  $notes
     * @param  array{maps: list<ShadeMap>, histogram: array<string, mixed>|null, doubleSkins: list<array<string, mixed>>, unsure: bool}  $local  see ResidualMaps and SkinsLeft; unsure: passes belong elsewhere, or slide that shape alone put there
     */
    private function result(Workpiece $workpiece, LocalPasses $places, array $prepared, array $errors, array $still, array $pairs, array $joint, array $before, ?array $doubt, array $notes, array $local): Result
    {
        $rows = [];
        $residuals = $overlaps = array_fill(0, count($prepared), []);
        foreach ($pairs as $k => [$i, $j]) {
            $pair = $joint['pairs'][$k];
            $rows[] = ['moving' => $prepared[$i]->name, 'still' => $prepared[$j]->name, 'overlap' => round($pair['overlap'], 4), 'residual' => round($pair['residual'], 5)];
            $residuals[$i][] = $residuals[$j][] = $pair['residual'];
            $overlaps[$i][] = $pair['overlap'];
        }
        $passes = [];
        $figures = [];
        foreach ($workpiece->passes as $k => $pass) {
            $residual = self::rms($residuals[$k]);
            $overlap = min(1.0, array_sum($overlaps[$k]));
            $now = $places->pose($k, $prepared[$k]->transform);
            $passes[] = $pass->moved($now, $residual, $overlap, self::poseError($errors[$k], in_array($k, $still, true)));
            $back = $now->inverse()->then($pass->transform);
            $figures[] = [
                'id' => $pass->id, 'name' => $pass->name, 'residual' => round($residual, 5), 'overlap' => round($overlap, 4),
                'moved' => round(PoseDistance::apart($places->passes[$k]->transform, $prepared[$k]->transform, $prepared[$k]->corners()), 4), 'turned' => round($back->angleDeg(), 4),
                // Where it stands, and the motion from there to where it stood.
                'is' => $passes[$k]->placement()->matrix(), 'back' => $back->matrix,
                // How well the points know where it stands: its middle in the direction they know worst, and its turn.
                'standardError' => $errors[$k] === null ? null : ['shiftMm' => round($errors[$k]['shiftMm'], 5), 'turnDeg' => round($errors[$k]['turnDeg'], 5), 'direction' => array_map(fn (float $v) => round($v, 3) + 0.0, $errors[$k]['direction']), 'held' => $errors[$k]['isHeld']],
            ];
        }
        $after = self::rms(array_column($joint['pairs'], 'residual'));
        $worst = array_search(max(array_column($figures, 'residual')), array_column($figures, 'residual'), true);
        if ($worst !== false && $figures[$worst]['residual'] > 1.6 * $after) {
            $notes[] = "{$figures[$worst]['name']} fits worst: residual ".Format::mm($figures[$worst]['residual']).'.';
        }
        if ($doubt !== null) {
            $notes[] = sprintf(
                '%s does not stand right: %.0f %% of what it shares with %s lies where one of them looked through. Pick pairs for it, or leave it out, and register again.',
                $prepared[$doubt['pass']]->name, 100 * $doubt['share'], $prepared[$doubt['with']]->name,
            );
        }
        $was = $before['residual'] === null ? '' : sprintf('%.2f → ', $before['residual']);

        return new Result(
            $workpiece->withPasses($passes),
            sprintf('residual %s%.3f mm', $was, $after),
            $before,
            ['residual' => round($after, 5), 'rounds' => $joint['rounds'], 'doubtful' => $doubt === null ? null : $prepared[$doubt['pass']]->name, 'passes' => $figures, 'pairs' => $rows, 'histogram' => $local['histogram'], 'doubleSkins' => $local['doubleSkins']],
            $notes,
            $joint['converged'] && $doubt === null && ! $local['unsure'] ? Outcome::Reached : Outcome::NotConverged,
            $local['maps'],
        );
    }
}
