<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Diagnosis;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Coarse\AssemblyScore;
use Emberstone\Core\Register\Coarse\PoseAssemblySearch;
use Emberstone\Core\Register\Coarse\RigidClusters;
use Emberstone\Core\Register\Coarse\ShapePlaces;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\PreparedPass;

/**
 * Groups of passes that would stand as well on another side of the part: where a motion lays all on itself, those it brings to each other's places may have been taken for each other.
 *
 * One by one they have no other place, for it is taken. So two at a time change places, and what speaks for them there is set against what speaks for them where they are.
 *
 * @internal
 *
 * @phpstan-import-type Pair from AssemblyScore
 */
final readonly class SymmetryAmbiguity
{
    /** Share of a part that a motion lays on the part itself, from which its sides are alike. */
    private const COVERS = 0.7;

    /** Number of motions that are looked at. */
    private const MOTIONS = 2;

    /** Steps by which samples are taken to tell whether two passes saw the same. */
    private const GLANCE = 9;

    /** So many changes of place, of some 0.2 s, to a child. */
    private const EACH = 3;

    /**
     * @param  list<PreparedPass>  $passes  all together
     * @param  AssemblyScore  $standing  that was told how these lie on each other
     */
    public function __construct(
        private Icp $fit,
        private array $passes,
        private AssemblyScore $standing,
        private RigidClusters $groups,
    ) {
    }

    /** @return list<int> groups that would stand as well elsewhere */
    public function doubtful(Progress $progress): array
    {
        if (count($this->passes) > MisregisteredPasses::MANY) {
            return [];
        }
        $places = new ShapePlaces($this->fit, $this->passes, $this->standing, [array_keys($this->passes)]);
        $tasks = $moved = [];
        foreach (array_slice($places->ofItself(0, self::COVERS), 0, self::MOTIONS) as $motion) {
            foreach ($this->changes($motion, $places->grain) as $change) {
                $moved[] = array_keys($change);
                $tasks[] = fn (): string => Packed::ints([(int) $this->standsAsWell($change, $places->grain)]);
            }
        }
        $doubtful = [];
        foreach (Fork::map($tasks, Cores::count(), $progress, 'looking at like sides', self::EACH) as $k => $bytes) {
            if (Packed::toInts($bytes)[0] === 1) {
                // Where the first one would change places, it is the other that stands elsewhere to it.
                array_push($doubtful, ...(count($moved[$k]) > 1 ? array_diff($moved[$k], [0]) : $moved[$k]));
            }
        }
        $doubtful = array_values(array_unique($doubtful));
        sort($doubtful);

        return $doubtful;
    }

    /**
     * Groups that a motion brings to where another one looks from, with that one, which goes the other way; and those that it brings to where none does.
     *
     * @return list<array<int, RigidTransform>> motions by group
     */
    private function changes(RigidTransform $motion, float $grain): array
    {
        $changes = [];
        foreach ($this->groups->of as $g => $members) {
            $most = AssemblyScore::SAME[0];
            $other = $g;
            $this->shifted([$g => $motion], function () use ($members, $g, $grain, &$most, &$other): void {
                foreach ($this->groups->of as $h => $those) {
                    $same = $h !== $g && count($members) === 1 && count($those) === 1 ? min($this->lying($members[0], $those[0], $grain), $this->lying($those[0], $members[0], $grain)) : 0.0;
                    if ($same > $most) {
                        $most = $same;
                        $other = $h;
                    }
                }
            });
            // Of two that change places by a half turn it is the same change either way.
            $changes[min($g, $other).' '.max($g, $other)] ??= $other === $g ? [$g => $motion] : [$g => $motion, $other => $motion->inverse()];
        }

        return array_values($changes);
    }

    /** The share of a pass that lies on another. */
    private function lying(int $pass, int $on, float $grain): float
    {
        return $this->fit->lies($pass, $on, $grain, self::GLANCE)['near'] * self::GLANCE / $this->passes[$pass]->sampleCount();
    }

    /** @param  array<int, RigidTransform>  $change  motions by group */
    private function standsAsWell(array $change, float $grain): bool
    {
        $members = $this->groups->members(array_keys($change));
        $rest = array_values(array_diff(array_keys($this->passes), $members));
        if ($rest === []) {
            return false;
        }
        $stood = array_map(fn (int $k) => $this->passes[$k]->transform, $members);
        $now = $this->standing->worth($this->standing->of($members, $rest));
        $well = false;
        $this->shifted($change, function () use ($change, $members, $rest, $stood, $grain, $now, &$well): void {
            foreach (array_keys($change) as $g) {
                $this->fit->onto($this->groups->of[$g], $rest, 9, 1.5 * $grain);
            }
            $off = max(array_map(fn (int $k, RigidTransform $was) => PoseDistance::apart($this->passes[$k]->transform, $was, $this->passes[$k]->corners()), $members, $stood));
            $pairs = $off > ShapePlaces::ALIKE * $grain ? $this->unlessContradicted($members, $rest) : [];
            $well = $this->standing->isSound($pairs, PoseAssemblySearch::LEAST * $this->groups->samples($members)) && $this->standing->worth($pairs) > PoseAssemblySearch::RIVAL * max(0.0, $now);
        });

        return $well;
    }

    /**
     * @param  list<int>  $members
     * @param  list<int>  $rest
     * @return list<Pair> none where one of them is enough to rule the place out
     */
    private function unlessContradicted(array $members, array $rest): array
    {
        $pairs = [];
        foreach ($rest as $k) {
            $with = $this->standing->of($members, [$k]);
            if ($this->standing->isContradicted($with)) {
                return [];
            }
            array_push($pairs, ...$with);
        }

        return $pairs;
    }

    /**
     * Does something with groups elsewhere, and puts them back.
     *
     * @param  array<int, RigidTransform>  $change  motions by group
     */
    private function shifted(array $change, callable $do): void
    {
        $was = [];
        foreach ($change as $g => $motion) {
            foreach ($this->groups->of[$g] as $k) {
                $pass = $this->passes[$k];
                $was[$k] = $pass->transform;
                $pass->transform = $pass->transform->then($motion);
            }
        }
        $do();
        foreach ($was as $k => $transform) {
            $pass = $this->passes[$k];
            $pass->transform = $transform;
        }
    }
}
