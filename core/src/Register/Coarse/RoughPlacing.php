<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Coarse;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Diagnosis\InputDiagnostics;
use Emberstone\Core\Register\Diagnosis\MisregisteredPasses;
use Emberstone\Core\Register\Diagnosis\SymmetryAmbiguity;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\PreparedPass;

/**
 * Brings passes near their places wherever they stand, from shape alone.
 *
 * Passes that already fit where the scanner put them stay together as one group, but for those of it that clearly belong somewhere else on the others (MisregisteredPasses). Groups are laid on
 * each other in all ways that shape suggests (ShapePlaces). From these places they are put together like a puzzle (PoseAssemblySearch), in which every two are judged, whichever were laid on each
 * other: those that follow each other are enough for most sets. Where that does not make a whole, the pieces of it that hold together firmly are laid on each other in their turn. Those that would
 * stand as well elsewhere are told (SymmetryAmbiguity).
 *
 * @phpstan-import-type Pair from AssemblyScore
 * @phpstan-import-type Edge from PoseAssemblySearch
 * @phpstan-import-type Puzzle from PoseAssemblySearch
 *
 * @phpstan-type Found array{group: int, on: int, places: list<array{matrix: array<int, float>, pairs: list<Pair>}>}
 */
final class RoughPlacing
{
    /** Spacings within which surface is looked for, once passes are put together. */
    private const REACH = 5.0;

    /** Rounds in which all are tightened together in the end, with few samples: what follows is a best fit of its own. */
    private const TOGETHER = 12;

    /** How far apart groups follow each other that are laid on each other, and whether thoroughly; each only where the one before did not place all. */
    private const EFFORTS = [[3, false], [PHP_INT_MAX, false], [PHP_INT_MAX, true]];

    /** A puzzle that hangs together by less in common than this share, of either of two passes, may be whole in a wrong way. */
    private const LOOSE = 0.15;

    /** So many ways in which pieces hold together are tried. */
    private const PIECES = 4;

    /** So many pairs of groups, of some 0.4 s, to a child. */
    private const EACH = 3;

    private readonly AssemblyScore $standing;

    /** @param  list<PreparedPass>  $passes */
    public function __construct(
        private readonly Icp $fit,
        private readonly array $passes,
        private readonly float $spacing,
        private readonly float $maxDistance,
    ) {
        $this->standing = new AssemblyScore($fit, $passes, $spacing);
    }

    /** Seconds that a number of passes takes, if they are found at once. */
    public static function seconds(int $passes): float
    {
        return 0.2 * count(self::within(self::EFFORTS[0][0], $passes)) + 0.5 * $passes;
    }

    /**
     * Moves the passes near their places; those that stay do not move.
     *
     * @param  list<int>  $still
     * @param  InputDiagnostics|null  $suspects  asked why a pass has no place
     * @return list<string> what the person should know
     *
     * @throws UnsuitableInput when a pass has no place that the others speak for
     */
    public function place(array $still, Progress $progress, ?InputDiagnostics $suspects = null): array
    {
        $put = array_map(fn (PreparedPass $pass) => $pass->transform, $this->passes);
        $groups = new RigidClusters($this->fit, $this->passes, $this->standing, $this->maxDistance, $still);
        $flat = array_values(array_filter(array_keys($groups->of), fn (int $g) => count($groups->of[$g]) === 1 && $suspects?->isFlat($groups->of[$g][0])));
        if ($flat !== []) {
            throw UnsuitableInput::because('All that '.$groups->names($flat).' saw is flat: its shape does not tell where on a plane it belongs. Pick pairs for it, or leave it out.');
        }
        $groups->gather(new PartProgress($progress, 0.0, 0.08));
        $misplaced = new MisregisteredPasses($this->fit, $this->passes, $this->standing);
        $twins = array_keys($suspects?->twins() ?? []);
        $notes = array_merge(...array_map(fn (array $members) => $misplaced->settle(array_values(array_diff($members, $twins)), $still, new PartProgress($progress, 0.08, 0.1)), $groups->of));
        if (count($groups->of) < 2) {
            foreach ($notes === [] ? $this->passes : [] as $k => $pass) {
                $pass->transform = $put[$k];
            }

            return $notes;
        }
        $captured = array_map(fn (PreparedPass $pass) => $pass->transform, $this->passes);
        $single = $groups;
        [$puzzles, $puzzle, $groups] = $this->puzzled($groups, $captured, array_keys($suspects?->inOtherUnits() ?? []), $progress);
        $missing = $puzzles->pieces->missing($puzzle);
        $this->refuse($groups, $missing === [] ? $puzzles->pieces->loose($puzzle, self::LOOSE) : $missing, $suspects);
        $doubtful = $puzzles->doubtful($puzzle, new PartProgress($progress, 0.88, 0.92));
        // Puzzles are laid anywhere: all of it goes to where the first pass that stays stands.
        $back = $puzzle['poses'][$still[0]]->inverse()->then($captured[$still[0]]);
        foreach ($puzzle['poses'] as $k => $pose) {
            $pass = $this->passes[$k];
            $pass->transform = in_array($k, $still, true) ? $captured[$k] : $pose->then($back);
        }
        $this->fit->together(Overlaps::pairs($this->fit->overlaps(self::REACH * $this->spacing)), $still, new PartProgress($progress, 0.92, 0.98), self::TOGETHER);
        // With all together shape may know better of one that came in late; what is usual is told anew by right places alone.
        $standing = new AssemblyScore($this->fit, $this->passes, $this->spacing);
        (new MisregisteredPasses($this->fit, $this->passes, $standing))->settle(array_values(array_diff(array_keys($this->passes), $twins)), $still, new PartProgress($progress, 0.98, 0.99));
        // A puzzle was wrong whose pieces come apart when they are tightened.
        $adrift = Overlaps::beyond(Overlaps::mutual($this->fit->overlaps(self::REACH * $this->spacing)), $still, Overlaps::LEAST);
        $this->refuse($groups, $groups->holding($adrift), $suspects);
        // Whatever was laid as one, passes that came alone can have been taken for each other.
        $alike = (new SymmetryAmbiguity($this->fit, $this->passes, $standing, $single))->doubtful(new PartProgress($progress, 0.99, 1.0));
        $doubtful = array_unique([...$groups->members($doubtful), ...$single->members($alike)]);
        sort($doubtful);
        $names = implode(', ', array_map(fn (int $k) => $this->passes[$k]->name, $doubtful));

        return $doubtful === [] ? $notes : [...$notes, "$names: the shape fits in more than one place, as that of a part with like sides does. The places with the most support were taken; look at them, or pick pairs."];
    }

    /**
     * @param  list<int>  $missing  groups
     *
     * @throws UnsuitableInput when there are any
     */
    private function refuse(RigidClusters $groups, array $missing, ?InputDiagnostics $suspects): void
    {
        if ($missing === []) {
            return;
        }
        // One in another unit may keep the others apart: whatever else is wrong shows once it is set right.
        $inOtherUnits = $groups->holding(array_values(array_intersect($groups->members($missing), array_keys($suspects?->inOtherUnits() ?? []))));
        $missing = $inOtherUnits === [] ? $missing : $inOtherUnits;
        $reasons = $suspects?->reasons($groups->members($missing), true) ?? '';
        $what = count($groups->members($missing)) > 1 ? 'Pick pairs for each, or leave them out. If they show another object, keep it in a project of its own.' : 'Pick pairs for it, or leave it out.';
        throw UnsuitableInput::because('No place was found by shape for '.$groups->names($missing).($reasons === '' ? ": too little of the same surface was seen, or nothing on it tells one place from another. $what" : ".$reasons Or leave it out."));
    }

    /**
     * Puts the groups together with as little effort as it takes.
     *
     * @param  list<RigidTransform>  $captured  where the passes stand
     * @param  list<int>  $inOtherUnits  passes that more effort finds no place for
     * @return array{PoseAssemblySearch, Puzzle, RigidClusters} the puzzle that came farthest, and what it is made of
     */
    private function puzzled(RigidClusters $groups, array $captured, array $inOtherUnits, Progress $progress): array
    {
        $places = new ShapePlaces($this->fit, $this->passes, $this->standing, $groups->of);
        $verdicts = new PairScoreCache($this->fit, $this->passes, $this->standing, $this->spacing, ShapePlaces::ALIKE * $places->grain);
        $found = $before = [];
        $tried = null;
        foreach (self::EFFORTS as $k => [$apart, $thoroughly]) {
            $known = $thoroughly ? [] : $found;
            $from = 0.1 + 0.26 * $k;
            $found = $this->found($places, self::within($apart, count($groups->of)), $thoroughly, $known, new PartProgress($progress, $from, $from + 0.17));
            // Of few groups all follow each other closely.
            if ($tried === null || count($found) > count($known)) {
                $this->standing->learn(array_merge(...array_map(fn (array $of) => array_merge(...array_column($of['places'], 'pairs')), array_values($found))));
                $puzzles = new PoseAssemblySearch($this->passes, $groups, $this->edges($groups, $found), $captured, $this->standing, $verdicts);
                $puzzle = $puzzles->together(new PartProgress($progress, $from + 0.17, $from + 0.22));
                if ($tried === null || [-count($puzzles->pieces->missing($puzzle)), $puzzle['worth']] > [-count($tried[0]->pieces->missing($tried[1])), $tried[1]['worth']]) {
                    $tried = [$puzzles, $puzzle, $groups];
                }
            }
            $missing = $tried[2]->members($tried[0]->pieces->missing($tried[1]));
            if (self::isWhole($tried) || array_intersect($missing, $inOtherUnits) !== []) {
                return $tried;
            }
            // What holds together firmly shows more of the shape than a pass alone: such pieces are laid on each other as a whole.
            foreach ($k > 0 ? $puzzles->inPieces(self::LOOSE, self::PIECES, $before) : [] as $n => $laid) {
                $before[] = $laid;
                $whole = $this->laidInPieces($laid, $groups, $captured, new PartProgress($progress, $from + 0.22 + 0.04 * $n / self::PIECES, $from + 0.22 + 0.04 * ($n + 1) / self::PIECES));
                if ($whole !== null) {
                    return $whole;
                }
            }
        }

        return $tried;
    }

    /**
     * @param  Puzzle  $laid  its parts are the pieces
     * @param  list<RigidTransform>  $captured  where the passes stand
     * @return array{PoseAssemblySearch, Puzzle, RigidClusters}|null null where they do not make a whole; then all stand where they stood
     */
    private function laidInPieces(array $laid, RigidClusters $groups, array $captured, Progress $progress): ?array
    {
        foreach ($this->passes as $k => $pass) {
            $pass->transform = $laid['poses'][$k];
        }
        $pieces = array_values($laid['parts']);
        $joined = $groups->joined($pieces);
        $joined->gather(new PartProgress($progress, 0.0, 0.2));
        $places = new ShapePlaces($this->fit, $this->passes, $this->standing, $joined->of);
        $found = $this->found($places, self::within(PHP_INT_MAX, count($pieces)), true, [], new PartProgress($progress, 0.2, 0.8));
        $verdicts = new PairScoreCache($this->fit, $this->passes, $this->standing, $this->spacing, ShapePlaces::ALIKE * $places->grain, true);
        $puzzles = new PoseAssemblySearch($this->passes, $joined, $this->edges($joined, $found), array_map(fn (PreparedPass $pass) => $pass->transform, $this->passes), $this->standing, $verdicts);
        $whole = [$puzzles, $puzzles->together(new PartProgress($progress, 0.8, 1.0)), $joined];
        if (self::isWhole($whole)) {
            return $whole;
        }
        foreach ($this->passes as $k => $pass) {
            $pass->transform = $captured[$k];
        }

        return null;
    }

    /**
     * Are all together, and none by so little that the whole may be wrong?
     *
     * @param  array{PoseAssemblySearch, Puzzle, RigidClusters}  $tried
     */
    private static function isWhole(array $tried): bool
    {
        [$puzzles, $puzzle] = $tried;

        return $puzzles->pieces->missing($puzzle) === [] && $puzzles->pieces->loose($puzzle, self::LOOSE) === [];
    }

    /**
     * Pairs of groups that follow each other at most so far apart, all in a ring.
     *
     * @return list<array{int, int}>
     */
    private static function within(int $apart, int $groups): array
    {
        $pairs = [];
        for ($g = 1; $g < $groups; $g++) {
            for ($h = 0; $h < $g; $h++) {
                if (min($g - $h, $groups - $g + $h) <= $apart) {
                    $pairs[] = [$g, $h];
                }
            }
        }

        return $pairs;
    }

    /**
     * The places of groups on others.
     *
     * @param  list<array{int, int}>  $pairs
     * @param  array<string, Found>  $known  these need not be looked for again
     * @return array<string, Found>  by pair, what was known among them
     */
    private function found(ShapePlaces $places, array $pairs, bool $thoroughly, array $known, Progress $progress): array
    {
        $tasks = [];
        foreach ($pairs as [$g, $h]) {
            if (! isset($known["$g-$h"])) {
                $tasks["$g-$h"] = fn (): string => serialize(['group' => $g, 'on' => $h, 'places' => array_map(fn (array $place) => ['matrix' => $place['motion']->matrix, 'pairs' => $place['pairs']], $places->of($g, $h, $thoroughly))]);
            }
        }
        foreach (array_combine(array_keys($tasks), Fork::map(array_values($tasks), Cores::count(), $progress, 'matching', self::EACH)) as $pair => $bytes) {
            /** @var Found $found */
            $found = unserialize($bytes, ['allowed_classes' => false]);
            $known[$pair] = $found;
        }

        return $known;
    }

    /**
     * What speaks for places at all, the best first.
     *
     * @param  array<string, Found>  $found
     * @return list<Edge>
     */
    private function edges(RigidClusters $groups, array $found): array
    {
        $edges = [];
        foreach ($found as $of) {
            foreach ($of['places'] as $place) {
                // Groups that are a little off in themselves lie loosely as a whole, and are judged pass by pass later.
                if ($this->standing->support($place['pairs']) > 0.0 || count($groups->of[$of['group']]) + count($groups->of[$of['on']]) > 2) {
                    $edges[] = ['group' => $of['group'], 'on' => $of['on'], 'motion' => RigidTransform::fromMatrix($place['matrix']), 'worth' => $this->standing->worth($place['pairs'])];
                }
            }
        }
        usort($edges, fn (array $a, array $b) => $b['worth'] <=> $a['worth']);

        return $edges;
    }
}
