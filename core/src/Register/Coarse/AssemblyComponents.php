<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Coarse;

use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\PreparedPass;

/**
 * What holds together of a puzzle (PoseAssemblySearch), and whether two are the same.
 *
 * @internal
 *
 * @phpstan-import-type Puzzle from PoseAssemblySearch
 */
final readonly class AssemblyComponents
{
    /** @param  list<PreparedPass>  $passes */
    public function __construct(
        private array $passes,
        private RigidClusters $groups,
        private PairScoreCache $verdicts,
    ) {
    }

    /**
     * @param  Puzzle  $puzzle
     * @return list<int> groups that are not together with most passes, or with the first where two parts have as many
     */
    public function missing(array $puzzle): array
    {
        $most = $puzzle['parts'][self::partOf($puzzle, 0)];
        foreach ($puzzle['parts'] as $part) {
            $most = count($this->groups->members($part)) > count($this->groups->members($most)) ? $part : $most;
        }

        return array_values(array_diff(array_keys($this->groups->of), $most));
    }

    /**
     * @param  Puzzle  $puzzle  a whole one
     * @param  float  $least  share that two passes must have in common to hold each other
     * @return list<int> groups that hang together with the first by less
     */
    public function loose(array $puzzle, float $least): array
    {
        return array_values(array_diff(array_keys($this->groups->of), $this->of($puzzle, $least)[0]));
    }

    /**
     * What of a puzzle holds together firmly.
     *
     * @param  Puzzle  $puzzle
     * @param  float  $least  share that two passes must have in common to hold each other
     * @return list<list<int>> groups, that with the first group first
     */
    public function of(array $puzzle, float $least): array
    {
        $shares = $this->shares($puzzle);
        $pieces = [];
        $left = array_keys($this->groups->of);
        while ($left !== []) {
            $loose = $this->groups->holding(Overlaps::beyond($shares, $this->groups->of[reset($left)], $least));
            $pieces[] = array_values(array_diff($left, $loose));
            $left = array_intersect($left, $loose);
        }

        return $pieces;
    }

    /**
     * Are the same groups together, in the same places to each other?
     *
     * @param  Puzzle  $a
     * @param  Puzzle  $b
     */
    public function alike(array $a, array $b): bool
    {
        foreach ($a['parts'] as $groups) {
            $others = $b['parts'][self::partOf($b, $groups[0])];
            if (array_diff($groups, $others) !== [] || array_diff($others, $groups) !== []) {
                return false;
            }
            $k = $this->groups->of[$groups[0]][0];
            $back = $b['poses'][$k]->inverse()->then($a['poses'][$k]);
            foreach ($this->groups->members($groups) as $m) {
                if (PoseDistance::apart($a['poses'][$m], $b['poses'][$m]->then($back), $this->passes[$m]->corners()) > $this->verdicts->alike) {
                    return false;
                }
            }
        }

        return true;
    }

    /**
     * @param  Puzzle  $puzzle
     * @return array<int, array<int, float>> what every two passes have in common that are together
     */
    private function shares(array $puzzle): array
    {
        $shares = array_fill_keys(array_keys($this->passes), []);
        foreach ($puzzle['parts'] as $part) {
            $members = $this->groups->members($part);
            foreach ($members as $n => $i) {
                foreach (self::across([$i], array_slice($members, 0, $n), $puzzle['poses']) as $one) {
                    foreach ($this->verdicts->of(...$one) as $pair) {
                        $shares[$pair['i']][$pair['j']] = $shares[$pair['j']][$pair['i']] = $pair['share'];
                    }
                }
            }
        }
        // Passes of one group were not looked at on each other: they fit.
        foreach ($this->groups->of as $members) {
            foreach ($members as $k) {
                $shares[$members[0]][$k] = $shares[$k][$members[0]] = 1.0;
            }
        }

        return $shares;
    }

    /**
     * Places of passes on others.
     *
     * @param  list<int>  $members
     * @param  list<int>  $onto
     * @param  list<RigidTransform>  $poses
     * @return list<array{int, int, RigidTransform}>
     */
    public static function across(array $members, array $onto, array $poses): array
    {
        $across = [];
        foreach ($members as $i) {
            foreach ($onto as $j) {
                [$a, $b] = $i < $j ? [$i, $j] : [$j, $i];
                $across[] = [$a, $b, $poses[$a]->then($poses[$b]->inverse())];
            }
        }

        return $across;
    }

    /**
     * @param  Puzzle  $puzzle
     * @return string the name of the part a group belongs to
     */
    public static function partOf(array $puzzle, int $group): string
    {
        foreach ($puzzle['parts'] as $name => $groups) {
            if (in_array($group, $groups, true)) {
                return (string) $name;
            }
        }

        return '';
    }
}
