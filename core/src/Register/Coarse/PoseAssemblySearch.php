<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Coarse;

use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\PreparedPass;

/**
 * Puts groups of passes together like a puzzle, from the places that shape suggests for every two of them.
 *
 * Parts are joined two at a time, those first that have most to say for it, and judged by every two of their passes (PairScoreCache). What came first may turn out wrong, so several puzzles
 * are kept at each stage and taken up again where the farthest came to an end (beam stack search, Zhou & Hansen 2005).
 *
 * @internal
 *
 * @phpstan-type Edge array{group: int, on: int, motion: RigidTransform, worth: float}
 * @phpstan-type Puzzle array{parts: array<int|string, list<int>>, poses: list<RigidTransform>, worth: float}
 * @phpstan-type Way array{name: string, moving: string, onto: string, motion: RigidTransform}
 */
final class PoseAssemblySearch
{
    /** Less of a pass' surface on the others than this is too little to be sure of anything. */
    public const LEAST = 0.06;

    /** Another place with so much of the support of the one taken makes it doubtful. */
    public const RIVAL = 0.5;

    /** Number of puzzles (parts put together so far) that are gone on with at a time. */
    private const PUZZLES = 12;

    /** Number of ways in which each is gone on with. */
    private const WAYS = 8;

    /** Number of puzzles with equally many parts joined that are kept. */
    private const KEPT = 60;

    /** So many times as many rounds as there are parts to join, then what came farthest is taken. */
    private const ROUNDS = 4;

    /** Rounds after the first that is whole. */
    private const FURTHER = 8;

    /** Parts that a puzzle may have joined fewer than the farthest one, to have come far. */
    private const BACK = 3;

    /** Other places that are tried for each group in the end, so often. */
    private const OTHERS = 6;

    private const LOOKS = 4;

    public readonly AssemblyComponents $pieces;

    /** @var array<int, list<Puzzle>> that were put together, by how many parts were joined, the best first */
    private array $made = [];

    /**
     * @param  list<PreparedPass>  $passes
     * @param  list<Edge>  $edges  places of groups on others, the best first
     * @param  list<RigidTransform>  $captured  poses in which the motions of the edges begin
     */
    public function __construct(
        private readonly array $passes,
        private readonly RigidClusters $groups,
        private readonly array $edges,
        private readonly array $captured,
        private readonly AssemblyScore $standing,
        private readonly PairScoreCache $verdicts,
    ) {
        $this->pieces = new AssemblyComponents($passes, $groups, $verdicts);
    }

    /**
     * The puzzle that came farthest, and of those that did the best one.
     *
     * @return Puzzle
     */
    public function together(Progress $progress): array
    {
        $parts = [];
        foreach (array_keys($this->groups->of) as $g) {
            $parts["$g"] = [$g];
        }
        $first = ['parts' => $parts, 'poses' => $this->captured, 'worth' => 0.0];
        $stages = count($this->groups->of) - 1;
        // Puzzles with this number of parts joined that are still to be gone on with.
        $open = array_fill(0, $stages + 1, []);
        $open[0] = [$first];
        $best = [0, $first];
        $after = null;
        for ($round = 0, $rounds = self::ROUNDS * $stages; $round < $rounds && array_filter(array_slice($open, 0, $stages)) !== []; $round++) {
            // Where the farthest ones came to an end, those before them are taken up again.
            $stage = (int) array_key_last(array_filter(array_slice($open, 0, $stages)));
            $tried = $asked = [];
            foreach (array_splice($open[$stage], 0, self::PUZZLES) as $puzzle) {
                foreach ($this->ways($puzzle) as $way) {
                    $tried[] = [$puzzle, $way];
                    $asked[] = AssemblyComponents::across($this->groups->members($puzzle['parts'][$way['moving']]), $this->groups->members($puzzle['parts'][$way['onto']]), $this->posed($puzzle, $way));
                }
            }
            $done = min(1.0, max($best[0] / $stages, $round / $rounds));
            $this->verdicts->find($asked, new PartProgress($progress, $done, $done));
            $next = [];
            foreach ($tried as [$puzzle, $way]) {
                $joined = $this->joined($puzzle, $way);
                if ($joined !== null) {
                    $next[] = $joined;
                }
            }
            $next = $this->distinct($next);
            if ($next !== [] && [$stage + 1, $next[0]['worth']] > [$best[0], $best[1]['worth']]) {
                $best = [$stage + 1, $next[0]];
            }
            $progress->advance('putting together', min(1.0, max($best[0] / $stages, $round / $rounds)));
            if ($best[0] === $stages) {
                // Others may come as far and have more to say for them.
                $rounds = min($rounds, $after ??= $round + 1 + self::FURTHER);
            }
            $open[$stage + 1] = array_slice($this->distinct([...$open[$stage + 1], ...$next]), 0, self::KEPT);
            $this->made[$stage + 1] = array_slice($this->distinct([...$this->made[$stage + 1] ?? [], ...$next]), 0, self::KEPT);
        }

        return $best[1];
    }

    /**
     * Looks for other places of each group on all the others, takes those that are better, and tells whose place has a rival.
     *
     * @param  Puzzle  $puzzle  (changed)
     * @return list<int> groups
     */
    public function doubtful(array &$puzzle, Progress $progress): array
    {
        $doubtful = [];
        for ($look = 0; $look < self::LOOKS; $look++) {
            $poses = array_map(fn (int $g) => $this->elsewhere($g, $puzzle['poses']), array_keys($this->groups->of));
            $this->verdicts->find(array_map(fn (array $one) => AssemblyComponents::across($this->groups->of[$one[0]], $this->groups->rest($one[0]), $one[1]), array_merge(...$poses)), new PartProgress($progress, $look / self::LOOKS, ($look + 1) / self::LOOKS));
            $doubtful = [];
            $better = ['gain' => 0.0, 'poses' => $puzzle['poses']];
            foreach ($poses as $g => $places) {
                $found = array_map(fn (array $one) => array_merge(...array_map(fn (array $pair) => $this->verdicts->of(...$pair), AssemblyComponents::across($this->groups->of[$g], $this->groups->rest($g), $one[1]))), $places);
                $now = $this->standing->worth($found[0]);
                foreach (array_slice($found, 1) as $k => $pairs) {
                    if (! $this->standing->isSound($pairs, self::LEAST * $this->groups->samples($this->groups->of[$g]), $this->verdicts->asAWhole)) {
                        continue;
                    }
                    $worth = $this->standing->worth($pairs);
                    if ($g > 0 && $worth > ($now > 0.0 ? self::RIVAL * $now : $now)) {
                        $doubtful[$g] = $g;
                    }
                    if ($worth - $now > $better['gain']) {
                        $better = ['gain' => $worth - $now, 'poses' => $places[$k + 1][1]];
                    }
                }
            }
            if ($better['gain'] === 0.0) {
                break;
            }
            $puzzle['poses'] = $better['poses'];
        }

        return array_values($doubtful);
    }

    /**
     * Ways to go on with a puzzle: two of its parts joined by a place of a group of the one on a group of the other; no two alike.
     *
     * @param  Puzzle  $puzzle
     * @return list<Way>
     */
    private function ways(array $puzzle): array
    {
        $ways = [];
        foreach ($this->edges as $k => $edge) {
            $moving = AssemblyComponents::partOf($puzzle, $edge['group']);
            $onto = AssemblyComponents::partOf($puzzle, $edge['on']);
            if ($moving === $onto || count($ways) >= self::WAYS) {
                continue;
            }
            $motion = $this->motion($edge, $puzzle['poses']);
            foreach ($ways as $way) {
                if ([$way['moving'], $way['onto']] === [$moving, $onto] && PoseDistance::apart($way['motion'], $motion, $this->groups->corners($puzzle['parts'][$moving], $puzzle['poses'])) < $this->verdicts->alike) {
                    continue 2;
                }
            }
            $ways[] = ['name' => "($moving $onto $k)", 'moving' => $moving, 'onto' => $onto, 'motion' => $motion];
        }

        return $ways;
    }

    /**
     * The motion of a group's part, as it stands, that an edge asks for.
     *
     * @param  Edge  $edge
     * @param  list<RigidTransform>  $poses
     */
    private function motion(array $edge, array $poses): RigidTransform
    {
        [$m, $n] = [$this->groups->of[$edge['group']][0], $this->groups->of[$edge['on']][0]];
        $target = $this->captured[$m]->then($edge['motion'])->then($this->captured[$n]->inverse()->then($poses[$n]));

        return $poses[$m]->inverse()->then($target);
    }

    /**
     * @param  Puzzle  $puzzle
     * @param  Way  $way
     * @return list<RigidTransform> poses once the way was gone
     */
    private function posed(array $puzzle, array $way): array
    {
        $poses = $puzzle['poses'];
        foreach ($this->groups->members($puzzle['parts'][$way['moving']]) as $k) {
            $poses[$k] = $poses[$k]->then($way['motion']);
        }

        return array_values($poses);
    }

    /**
     * @param  Puzzle  $puzzle
     * @param  Way  $way
     * @return Puzzle|null null where something speaks against the way
     */
    private function joined(array $puzzle, array $way): ?array
    {
        [$members, $onto] = [$this->groups->members($puzzle['parts'][$way['moving']]), $this->groups->members($puzzle['parts'][$way['onto']])];
        $poses = $this->posed($puzzle, $way);
        $pairs = array_merge(...array_map(fn (array $one) => $this->verdicts->of(...$one), AssemblyComponents::across($members, $onto, $poses)));
        if (! $this->standing->isSound($pairs, self::LEAST * min($this->groups->samples($members), $this->groups->samples($onto)), $this->verdicts->asAWhole)) {
            return null;
        }
        $both = [...$puzzle['parts'][$way['moving']], ...$puzzle['parts'][$way['onto']]];
        unset($puzzle['parts'][$way['moving']], $puzzle['parts'][$way['onto']]);
        $puzzle['parts'][$way['name']] = $both;

        return ['parts' => $puzzle['parts'], 'poses' => $poses, 'worth' => $puzzle['worth'] + $this->standing->worth($pairs)];
    }

    /**
     * The best puzzles first, no two alike.
     *
     * @param  list<Puzzle>  $puzzles
     * @return list<Puzzle>
     */
    private function distinct(array $puzzles): array
    {
        usort($puzzles, fn (array $a, array $b) => $b['worth'] <=> $a['worth']);
        $kept = [];
        foreach ($puzzles as $puzzle) {
            foreach ($kept as $other) {
                if ($this->pieces->alike($puzzle, $other)) {
                    continue 2;
                }
            }
            $kept[] = $puzzle;
        }

        return $kept;
    }

    /**
     * The poses of all passes as they are, and with a group in other places that shape suggested.
     *
     * @param  list<RigidTransform>  $poses
     * @return list<array{int, list<RigidTransform>}> the group, and all poses
     */
    private function elsewhere(int $g, array $poses): array
    {
        $corners = $this->groups->corners([$g], $poses);
        $motions = [RigidTransform::identity()];
        foreach ($this->edges as $edge) {
            if ($edge['on'] === $g) {
                $edge = ['group' => $g, 'on' => $edge['group'], 'motion' => $edge['motion']->inverse(), 'worth' => $edge['worth']];
            }
            if ($edge['group'] !== $g || count($motions) > self::OTHERS) {
                continue;
            }
            $motion = $this->motion($edge, $poses);
            foreach ($motions as $other) {
                if (PoseDistance::apart($motion, $other, $corners) < $this->verdicts->alike) {
                    continue 2;
                }
            }
            $motions[] = $motion;
        }

        return array_map(function (RigidTransform $motion) use ($g, $poses): array {
            foreach ($this->groups->of[$g] as $k) {
                $poses[$k] = $poses[$k]->then($motion);
            }

            return [$g, array_values($poses)];
        }, $motions);
    }

    /**
     * Other ways to put groups together: what of the puzzles that came far holds together firmly, in the fewest pieces first; no two alike.
     *
     * @param  float  $least  share that two passes must have in common to hold each other
     * @param  list<Puzzle>  $before  those that were tried
     * @return list<Puzzle> of two pieces or more that are fewer than the groups
     */
    public function inPieces(float $least, int $most, array $before = []): array
    {
        $groups = count($this->groups->of);
        $found = [];
        foreach (array_slice(array_reverse($this->made), 0, self::BACK) as $puzzles) {
            foreach ($puzzles as $puzzle) {
                $pieces = $this->pieces->of($puzzle, $least);
                if (count($pieces) > 1 && count($pieces) < $groups) {
                    $found[] = ['parts' => array_combine(array_map(fn (int $k) => "piece $k", array_keys($pieces)), $pieces)] + $puzzle;
                }
            }
        }
        usort($found, fn (array $a, array $b) => [count($a['parts']), $b['worth']] <=> [count($b['parts']), $a['worth']]);
        $kept = [];
        foreach ($found as $puzzle) {
            foreach ([...$before, ...$kept] as $other) {
                if ($this->pieces->alike($puzzle, $other)) {
                    continue 2;
                }
            }
            $kept[] = $puzzle;
            if (count($kept) === $most) {
                break;
            }
        }

        return $kept;
    }
}
