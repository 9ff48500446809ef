<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Coarse;

use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Algorithms\Search\LatticeKeys;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\PreparedPass;

/**
 * Places of one group of passes on another, from shape alone: guesses (ShapeMatch), of which the best are tightened coarsely, and of those the best finely.
 *
 * @internal
 *
 * @phpstan-import-type Pair from AssemblyScore
 *
 * @phpstan-type Found array{motion: RigidTransform, pairs: list<Pair>}
 */
final class ShapePlaces
{
    /** Points of a group on which shape is compared, at most. */
    private const POINTS = 2200;

    /** How far surroundings reach, in distances between those points. */
    private const RADIUS = 5.0;

    /** Number of guesses that are looked at. */
    private const GUESSES = 120;

    /** Points of which one is taken at a glance. */
    private const GLANCE = 4;

    /** Number of those that are looked at closely: quickly, and thoroughly. */
    private const LOOKED = [30, 60];

    /** Number of those that are tightened: quickly, and thoroughly. */
    private const TIGHTENED = [12, 36];

    /** Number of those that are judged with care: quickly, and thoroughly. */
    private const JUDGED = [8, 12];

    /** Steps by which points are taken to tighten. */
    private const COARSELY = 2;

    /** Distances between points: motions that bring nothing farther apart are the same place. */
    public const ALIKE = 4.0;

    /** How far apart the points are on which shape is compared, mm. */
    public readonly float $grain;

    /** @var list<array{points: list<float>, normals: list<float>, grain: float}> */
    private readonly array $clouds;

    /** @var list<ShapeMatch> */
    private readonly array $shapes;

    /**
     * @param  list<PreparedPass>  $passes  as they were captured
     * @param  list<list<int>>  $groups  passes of each
     */
    public function __construct(
        private readonly Icp $fit,
        private readonly array $passes,
        private readonly AssemblyScore $standing,
        private readonly array $groups,
    ) {
        $clouds = array_map(fn (array $group) => $this->cloud($group), $groups);
        $grain = $this->grain = max(array_map(fn (array $cloud) => $cloud['grain'], $clouds));
        $this->clouds = $clouds;
        $this->shapes = ShapeMatch::of($clouds, self::RADIUS * $grain);
    }

    /**
     * @param  bool  $thoroughly  three times as many guesses are tightened: for passes that have little in common
     * @return list<Found> no two alike
     */
    public function of(int $group, int $on, bool $thoroughly): array
    {
        $guesses = [RigidTransform::identity(), ...$this->shapes[$group]->onto($this->shapes[$on], $this->grain, self::GUESSES)];
        $captured = array_map(fn (int $k) => $this->passes[$k]->transform, $this->groups[$group]);
        $found = [];
        foreach ($this->tightened($group, $guesses, $on, (int) $thoroughly) as $motion) {
            foreach ($this->groups[$group] as $m => $k) {
                $pass = $this->passes[$k];
                $pass->transform = $captured[$m]->then($motion);
            }
            $this->fit->onto($this->groups[$group], $this->groups[$on], 9, 1.5 * $this->grain);
            $pairs = $this->standing->of($this->groups[$group], $this->groups[$on]);
            $found[] = ['motion' => $captured[0]->inverse()->then($this->passes[$this->groups[$group][0]]->transform), 'score' => $this->standing->support($pairs), 'pairs' => $pairs];
        }
        foreach ($this->groups[$group] as $m => $k) {
            $pass = $this->passes[$k];
            $pass->transform = $captured[$m];
        }

        return array_map(fn (array $place) => ['motion' => $place['motion'], 'pairs' => $place['pairs']], PoseDistance::distinct($found, $this->corners($group), self::ALIKE * $this->grain));
    }

    /**
     * Other places of a group on itself: the motions of a part that has like sides.
     *
     * @param  float  $covers  how much of it comes to lie on it
     * @return list<RigidTransform> those first that lay most of it on it
     */
    public function ofItself(int $group, float $covers): array
    {
        $shape = $this->shapes[$group];
        [$moving, $ground] = [$this->wholeOf($this->clouds[$group], 3), $this->wholeOf($this->clouds[$group], 3)];
        $fit = new Icp([$moving, $ground], 3.0 * $this->grain, $this->grain);
        $lying = $motions = [];
        foreach ($this->tightened($group, $shape->onto($shape, $this->grain, self::GUESSES), $group, 0) as $motion) {
            $moving->transform = $motion;
            $near = $fit->lies(0, 1, $this->grain, 1)['near'];
            if ($near > $covers * $moving->sampleCount() && PoseDistance::apart($motion, RigidTransform::identity(), $this->corners($group)) > self::ALIKE * $this->grain) {
                $lying[] = $near;
                $motions[] = $motion;
            }
        }
        arsort($lying);

        return array_map(fn (int $k) => $motions[$k], array_keys($lying));
    }

    /**
     * The samples of a group, thinned evenly, in project coordinates.
     *
     * @param  list<int>  $group
     * @return array{points: list<float>, normals: list<float>, grain: float}
     */
    private function cloud(array $group): array
    {
        $p = $n = [];
        foreach ($group as $k) {
            $pass = $this->passes[$k];
            array_push($p, ...$pass->transform->points($pass->samples));
            array_push($n, ...$pass->transform->directions($pass->sampleNormals));
        }
        for ($grain = BoundingBox::of($p)->diagonal() / 80.0; ; $grain *= 1.1) {
            $seen = [];
            $cells = LatticeKeys::of($p, $grain);
            for ($o = 0, $e = count($p); $o < $e; $o += 3) {
                $seen[$cells->at($p[$o], $p[$o + 1], $p[$o + 2])] ??= $o;
            }
            if (count($seen) <= self::POINTS) {
                break;
            }
        }
        $points = $normals = [];
        foreach ($seen as $o) {
            array_push($points, $p[$o], $p[$o + 1], $p[$o + 2]);
            array_push($normals, $n[$o], $n[$o + 1], $n[$o + 2]);
        }

        return ['points' => $points, 'normals' => $normals, 'grain' => $grain];
    }

    /**
     * The best of many guesses, tightened on the other group as a whole.
     *
     * @param  list<RigidTransform>  $guesses
     * @param  int  $effort  index of LOOKED, TIGHTENED and JUDGED
     * @return list<RigidTransform>
     */
    private function tightened(int $group, array $guesses, int $on, int $effort): array
    {
        [$moving, $ground] = [$this->wholeOf($this->clouds[$group], 3), $this->wholeOf($this->clouds[$on], 3)];
        $fit = new Icp([$moving, $ground], 3.0 * $this->grain, $this->grain);
        $worth = function (int $k, int $every) use ($guesses, $moving, $ground, $fit, $group, $on): float {
            $moving->transform = $guesses[$k];

            return $fit->lies(0, 1, 1.5 * $this->grain, $every)['near'] - 4.0 * $this->seenThrough($moving, $ground, $group, $on, 1.5, $every);
        };
        $glance = array_map(fn (int $k) => $worth($k, self::GLANCE), array_keys($guesses));
        arsort($glance);
        $looked = [];
        foreach (array_slice(array_keys($glance), 0, self::LOOKED[$effort]) as $k) {
            $looked[$k] = $worth($k, 1);
        }
        arsort($looked);
        $tightened = [];
        foreach (array_slice(array_keys($looked), 0, self::TIGHTENED[$effort]) as $k) {
            $moving->transform = $guesses[$k];
            $fit->onto([0], [1], self::COARSELY);
            $tightened[] = ['motion' => $moving->transform, 'score' => $fit->lies(0, 1, $this->grain, 1)['near'] - 20.0 * $this->seenThrough($moving, $ground, $group, $on, 1.0)];
        }

        return array_column(array_slice(PoseDistance::distinct($tightened, $this->corners($group), self::ALIKE * $this->grain), 0, self::JUDGED[$effort]), 'motion');
    }

    /**
     * A group as one pass in project coordinates: all its points to lie on, some to be laid.
     *
     * @param  array{points: list<float>, normals: list<float>, grain: float}  $cloud
     */
    private function wholeOf(array $cloud, int $every): PreparedPass
    {
        $tree = KdTree::of($cloud['points']);
        $normals = $p = $n = [];
        foreach ($tree->order as $i) {
            array_push($normals, $cloud['normals'][3 * $i], $cloud['normals'][3 * $i + 1], $cloud['normals'][3 * $i + 2]);
        }
        for ($o = 0, $e = count($cloud['points']); $o < $e; $o += 3 * $every) {
            array_push($p, $cloud['points'][$o], $cloud['points'][$o + 1], $cloud['points'][$o + 2]);
            array_push($n, $cloud['normals'][$o], $cloud['normals'][$o + 1], $cloud['normals'][$o + 2]);
        }

        return new PreparedPass('', $tree, $normals, $p, $n, array_fill(0, intdiv(count($p), 3), 1.0), $this->grain, RigidTransform::identity());
    }

    /** Samples of either group that stand where a pass of the other looked through. */
    private function seenThrough(PreparedPass $moving, PreparedPass $ground, int $group, int $on, float $grains, int $every = 1): int
    {
        $before = 0;
        foreach ($this->groups[$on] as $k) {
            $before += $this->passes[$k]->sight?->judge($moving->samplesIn($this->passes[$k]->transform, $every), $grains * $this->grain)['before'] ?? 0;
        }
        foreach ($this->groups[$group] as $k) {
            $before += $this->passes[$k]->sight?->judge($ground->samplesIn($this->passes[$k]->transform->then($moving->transform), $every), $grains * $this->grain)['before'] ?? 0;
        }

        return $before;
    }

    /** @return list<float> of the boxes around a group's passes, in project coordinates, flat xyz */
    private function corners(int $group): array
    {
        return array_merge(...array_map(fn (int $k) => $this->passes[$k]->transform->points($this->passes[$k]->corners()), $this->groups[$group]));
    }
}
