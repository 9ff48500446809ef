<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Coarse;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\PreparedPass;

/**
 * Passes in groups that are placed as one piece: those that already fit where the scanner put them, together; those that stay in the first.
 *
 * @internal
 */
final class RigidClusters
{
    /** @var list<list<int>> passes of each group */
    public readonly array $of;

    /**
     * @param  list<PreparedPass>  $passes
     * @param  list<int>  $still
     * @param  list<list<int>>|null  $of  passes of each group; those that fit as they stand unless given
     */
    public function __construct(
        private readonly Icp $fit,
        private readonly array $passes,
        private readonly AssemblyScore $standing,
        private readonly float $maxDistance,
        private readonly array $still,
        ?array $of = null,
    ) {
        $this->of = $of ?? $this->found();
    }

    /**
     * Of several of these groups one each.
     *
     * @param  list<list<int>>  $pieces  groups
     */
    public function joined(array $pieces): self
    {
        return new self($this->fit, $this->passes, $this->standing, $this->maxDistance, $this->still, array_map($this->members(...), $pieces));
    }

    /** @return list<list<int>> */
    private function found(): array
    {
        $group = array_keys($this->passes);
        $join = function (int $i, int $j) use (&$group): void {
            $group = array_map(fn (int $g) => $g === $group[$j] ? $group[$i] : $g, $group);
        };
        foreach ($this->still as $k) {
            $join($this->still[0], $k);
        }
        foreach ($this->fit->overlaps($this->maxDistance) as $i => $row) {
            foreach ($row as $j => $share) {
                if ($group[$i] !== $group[$j] && $share > 0.1 && $this->fitsAsCaptured($i, $j)) {
                    $join($i, $j);
                }
            }
        }
        $groups = [$group[$this->still[0]] => []];
        foreach ($group as $k => $g) {
            $groups[$g][] = $k;
        }

        return array_values($groups);
    }

    private function fitsAsCaptured(int $i, int $j): bool
    {
        $pass = $this->passes[$i];
        $captured = $pass->transform;
        $this->fit->onto([$i], [$j], 9);
        $fits = $this->standing->isFitting($i, $j) && PoseDistance::apart($captured, $pass->transform, $pass->corners()) < 2.0 * $this->maxDistance;
        $pass->transform = $captured;

        return $fits;
    }

    /** Tightens each group in itself: it is to be moved as one piece. */
    public function gather(Progress $progress): void
    {
        $still = $this->still;
        $ties = [];
        $overlap = $this->fit->overlaps($this->maxDistance);
        foreach ($this->of as $k => $group) {
            if ($k > 0) {
                $still[] = $group[0];
            }
            foreach ($group as $i) {
                foreach ($group as $j) {
                    if (($overlap[$i][$j] ?? 0.0) > 0.05) {
                        $ties[] = [$i, $j];
                    }
                }
            }
        }
        if ($ties !== []) {
            $this->fit->together($ties, $still, $progress);
        }
    }

    /**
     * @param  list<int>  $groups
     * @return list<int> their passes
     */
    public function members(array $groups): array
    {
        return array_merge(...array_map(fn (int $g) => $this->of[$g], $groups));
    }

    /**
     * @param  list<int>  $passes
     * @return list<int> groups with any of them
     */
    public function holding(array $passes): array
    {
        return array_values(array_filter(array_keys($this->of), fn (int $g) => array_intersect($this->of[$g], $passes) !== []));
    }

    /** @return list<int> all passes but those of a group */
    public function rest(int $g): array
    {
        return array_values(array_diff(array_keys($this->passes), $this->of[$g]));
    }

    /**
     * @param  list<int>  $groups
     * @param  list<RigidTransform>  $poses
     * @return list<float> corners of the boxes around their passes, flat xyz
     */
    public function corners(array $groups, array $poses): array
    {
        return array_merge(...array_map(fn (int $k) => $poses[$k]->points($this->passes[$k]->corners()), $this->members($groups)));
    }

    /**
     * A third of those of the passes: as many as are looked at.
     *
     * @param  list<int>  $which
     */
    public function samples(array $which): float
    {
        return array_sum(array_map(fn (int $k) => $this->passes[$k]->sampleCount(), $which)) / 3.0;
    }

    /** @param  list<int>  $groups */
    public function names(array $groups): string
    {
        return implode(', ', array_map(fn (int $k) => $this->passes[$k]->name, $this->members($groups)));
    }
}
