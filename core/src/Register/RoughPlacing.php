<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\PartProgress;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Parallel\Cores;
use Emberstone\Core\Parallel\Fork;

/**
 * Brings passes near their places wherever they stand, from shape alone.
 *
 * Passes that already fit where the scanner put them stay together as one group. Every two groups are laid on each other in all ways that shape suggests (ShapePlaces).
 * From these places they are put together like a puzzle (Puzzles).
 *
 * @phpstan-import-type Pair from Standing
 * @phpstan-import-type Edge from Puzzles
 */
final class RoughPlacing
{
    /** Once put together, surface is looked for within so many spacings. */
    private const REACH = 5.0;

    /** Rounds in which all are tightened together in the end. */
    private const TOGETHER = 14;

    private readonly Standing $standing;

    /** @param  list<PreparedPass>  $passes */
    public function __construct(
        private readonly BestFit $fit,
        private readonly array $passes,
        private readonly float $spacing,
        private readonly float $maxDistance,
    ) {
        $this->standing = new Standing($fit, $passes, $spacing);
    }

    /**
     * Moves the passes near their places; those that stay do not move.
     *
     * @param  list<int>  $still
     * @return list<string> what the person should know
     *
     * @throws UnsuitableInput when a pass has no place that the others speak for
     */
    public function place(array $still, Progress $progress): array
    {
        $groups = new Groups($this->fit, $this->passes, $this->standing, $this->maxDistance, $still);
        if (count($groups->of) < 2) {
            return [];
        }
        $groups->gather(new PartProgress($progress, 0.0, 0.1));
        $captured = array_map(fn (PreparedPass $pass) => $pass->transform, $this->passes);
        $places = new ShapePlaces($this->fit, $this->passes, $this->standing, $groups->of);
        $edges = $this->edges($groups, $places, new PartProgress($progress, 0.1, 0.7));
        $puzzles = new Puzzles($this->passes, $groups, $edges, $captured, $this->standing, new Verdicts($this->fit, $this->passes, $this->standing, $this->spacing, ShapePlaces::ALIKE * $places->grain));
        $puzzle = $puzzles->together(new PartProgress($progress, 0.7, 0.85));
        $first = $puzzle['parts'][$puzzles->partOf($puzzle, 0)];
        if (count($first) < count($groups->of)) {
            throw UnsuitableInput::because('No place was found by shape for '.$groups->names(array_values(array_diff(array_keys($groups->of), $first))).': too little of the same surface was seen, or nothing on it tells one place from another. Pick pairs for it, or leave it out.');
        }
        $doubtful = $puzzles->doubtful($puzzle, new PartProgress($progress, 0.85, 0.9));
        // Puzzles are laid anywhere: all of it goes to where the first pass that stays stands.
        $back = $puzzle['poses'][$still[0]]->inverse()->then($captured[$still[0]]);
        foreach ($puzzle['poses'] as $k => $pose) {
            $pass = $this->passes[$k];
            $pass->transform = in_array($k, $still, true) ? $captured[$k] : $pose->then($back);
        }
        $this->fit->together(Overlaps::pairs($this->fit->overlaps(self::REACH * $this->spacing)), $still, new PartProgress($progress, 0.9, 1.0), self::TOGETHER);

        return array_map(fn (int $g) => $groups->names([$g]).': the shape fits in more than one place, as that of a part with like sides does. The place with the most support was taken; look at it, or pick pairs.', $doubtful);
    }

    /**
     * The places of every group on every other, the best first.
     *
     * @return list<Edge>
     */
    private function edges(Groups $groups, ShapePlaces $places, Progress $progress): array
    {
        $tasks = [];
        for ($g = 1, $n = count($groups->of); $g < $n; $g++) {
            for ($h = 0; $h < $g; $h++) {
                $tasks[] = fn (): string => serialize(['group' => $g, 'on' => $h, 'places' => array_map(fn (array $place) => ['matrix' => $place['motion']->matrix, 'pairs' => $place['pairs']], $places->of($g, $h))]);
            }
        }
        /** @var list<array{group: int, on: int, places: list<array{matrix: array<int, float>, pairs: list<Pair>}>}> $found */
        $found = array_map(fn (string $bytes) => unserialize($bytes, ['allowed_classes' => false]), Fork::map($tasks, Cores::count(), $progress, 'matching'));
        $this->standing->learn(array_merge(...array_map(fn (array $of) => array_merge(...array_column($of['places'], 'pairs')), $found)));
        $edges = [];
        foreach ($found as $of) {
            foreach ($of['places'] as $place) {
                // Groups that are a little off in themselves lie loosely as a whole, and are judged pass by pass later.
                if ($this->standing->support($place['pairs']) > 0.0 || count($groups->of[$of['group']]) + count($groups->of[$of['on']]) > 2) {
                    $edges[] = ['group' => $of['group'], 'on' => $of['on'], 'motion' => Transform::fromMatrix($place['matrix']), 'worth' => $this->standing->worth($place['pairs'])];
                }
            }
        }
        usort($edges, fn (array $a, array $b) => $b['worth'] <=> $a['worth']);

        return $edges;
    }
}
