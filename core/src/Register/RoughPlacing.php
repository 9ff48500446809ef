<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\NoProgress;
use Emberstone\Core\Operation\PartProgress;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Parallel\Cores;
use Emberstone\Core\Parallel\Fork;
use Emberstone\Core\Parallel\Packed;
use Emberstone\Core\Spatial\CellNames;
use Emberstone\Core\Spatial\KdTree;

/**
 * Brings passes near their places wherever they stand, from shape alone.
 *
 * Passes that already fit where the scanner put them stay together as one group. Places of the other groups on what stands already are
 * guessed by shape (ShapeMatch), and each guess is judged by what it means: how much surface comes to lie on surface, how well, and
 * whether anything stands where a sensor looked through. Groups with one clear place come first; what they add tells more about the others.
 */
final class RoughPlacing
{
    /** Shape is compared on at most so many points a group. */
    private const POINTS = 2200;

    /** Surroundings reach so many times the distance between those points. */
    private const RADIUS = 5.0;

    /** So many guesses are looked at, so many of those tightened, and so many of those judged with care. */
    private const GUESSES = 120;

    private const TIGHTENED = 36;

    private const JUDGED = 6;

    /** A sample that fits badly speaks against a place as loudly as so many speak for it. */
    private const BADLY = 10.0;

    /** So does one that stands where a sensor looked through: right places have next to none of these. */
    private const THROUGH = 200.0;

    /** Less of a group's surface on the others than this is too little to be sure of anything. */
    private const LEAST = 0.06;

    /** Another place with so much of the support of the best one makes it doubtful. */
    private const RIVAL = 0.1;

    /** Surfaces that are the same lie on each other with less spread than this, in spacings; those that only touch do not. */
    private const FITS = 0.5;

    /** Motions that bring nothing farther apart than so many times that distance are the same place. */
    private const ALIKE = 4.0;

    /** More samples than this share of those near, where a sensor looked through, are no noise. */
    private const MOST_AGAINST = 0.004;

    /** Rounds in which a group is tightened with what stands before it is judged. */
    private const TOGETHER = 14;

    /** @var list<array{int, int}> passes of one group that overlap */
    private array $pairs = [];

    /** @var list<list<int>> passes of each group */
    private array $groups = [];

    /** How far apart the points are on which shape is compared, mm. */
    private float $grain = 1.0;

    /** @var list<Transform> */
    private array $captured = [];

    /** @param  list<PreparedPass>  $passes */
    public function __construct(
        private readonly BestFit $fit,
        private readonly array $passes,
        private readonly float $spacing,
        private readonly float $maxDistance,
    ) {
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
        $this->groups = $this->groups($still);
        $open = array_slice(array_keys($this->groups), 1);
        if ($open === []) {
            return [];
        }
        $this->gather($still, new PartProgress($progress, 0.0, 0.2));
        $this->captured = array_map(fn (PreparedPass $pass) => $pass->transform, $this->passes);
        $progress = new PartProgress($progress, 0.2, 1.0);
        $clouds = array_map($this->cloud(...), $this->groups);
        $this->grain = max(array_map(fn (array $cloud) => $cloud['grain'], $clouds));
        $shapes = array_map(fn (array $cloud) => ShapeMatch::of($cloud['points'], $cloud['normals'], self::RADIUS * $this->grain), $clouds);
        $placed = $this->groups[0];
        $motions = array_fill_keys($open, [Transform::identity()]);
        $notes = [];
        for ($count = count($open); $open !== [];) {
            $done = 1.0 - count($open) / $count;
            $found = $this->places($open, $placed, $shapes, $clouds, $motions, new PartProgress($progress, $done, min(1.0, $done + 1.0 / $count)));
            $sure = array_keys(array_filter($found, fn (array $places) => $places !== [] && ($places[1]['score'] ?? 0.0) <= self::RIVAL * $places[0]['score']));
            if ($sure === []) {
                uasort($found, fn (array $a, array $b) => ($b[0]['score'] ?? 0.0) <=> ($a[0]['score'] ?? 0.0));
                $sure = [(int) array_key_first($found)];
                if ($found[$sure[0]] === []) {
                    throw UnsuitableInput::because('No place was found by shape for '.$this->names($open).': too little of the same surface was seen, or nothing on it tells one place from another. Pick pairs for it, or leave it out.');
                }
                $notes[] = $this->names($sure).': the shape fits in more than one place, as that of a part with like sides does. The place with the most support was taken; look at it, or pick pairs.';
            }
            foreach ($found as $g => $places) {
                $motions[$g] = array_column($places, 'motion');
            }
            foreach ($sure as $g) {
                $this->move($g, $motions[$g][0]);
                array_push($placed, ...$this->groups[$g]);
            }
            $open = array_values(array_diff($open, $sure));
        }

        return $notes;
    }

    /**
     * Passes that fit where the scanner put them, together; those that stay in the first group.
     *
     * @param  list<int>  $still
     * @return list<list<int>>
     */
    private function groups(array $still): array
    {
        $group = array_keys($this->passes);
        $join = function (int $i, int $j) use (&$group): void {
            $group = array_map(fn (int $g) => $g === $group[$j] ? $group[$i] : $g, $group);
        };
        foreach ($still as $k) {
            $join($still[0], $k);
        }
        foreach ($this->fit->overlaps($this->maxDistance) as $i => $row) {
            foreach ($row as $j => $share) {
                if ($group[$i] !== $group[$j] && $share > 0.1 && $this->fitsAsCaptured($i, $j)) {
                    $join($i, $j);
                }
            }
        }
        $groups = [$group[$still[0]] => []];
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
        $there = $this->fit->lies($i, $j, 2.5 * $this->spacing);
        $fits = $there['near'] > 0.1 * $pass->sampleCount() / 3 && $there['scale'] < self::FITS * $this->spacing
            && $this->against($i, $j) < self::MOST_AGAINST * $there['near'] && Motions::apart($captured, $pass->transform, $this->box([$i])) < 2.0 * $this->maxDistance;
        $pass->transform = $captured;

        return $fits;
    }

    /**
     * Tightens each group in itself: it is to be moved as one piece.
     *
     * @param  list<int>  $still
     */
    private function gather(array $still, Progress $progress): void
    {
        $overlap = $this->fit->overlaps($this->maxDistance);
        foreach ($this->groups as $k => $group) {
            if ($k > 0) {
                $still[] = $group[0];
            }
            foreach ($group as $i) {
                foreach ($group as $j) {
                    if (($overlap[$i][$j] ?? 0.0) > 0.05) {
                        $this->pairs[] = [$i, $j];
                    }
                }
            }
        }
        if ($this->pairs !== []) {
            $this->fit->together($this->pairs, $still, $progress);
        }
    }

    /** Samples of two passes that stand where the other looked through. */
    private function against(int $i, int $j): int
    {
        return $this->fit->judged($i, $j, 2.0 * $this->spacing)['before'] + $this->fit->judged($j, $i, 2.0 * $this->spacing)['before'];
    }

    /**
     * The places of groups on those that stand, the best first, no two alike.
     *
     * @param  list<int>  $open
     * @param  list<int>  $placed  passes
     * @param  list<ShapeMatch>  $shapes
     * @param  list<array{points: list<float>, normals: list<float>, grain: float}>  $clouds
     * @param  array<int, list<Transform>>  $motions  places found before, a group
     * @return array<int, list<array{motion: Transform, score: float}>>
     */
    private function places(array $open, array $placed, array $shapes, array $clouds, array $motions, Progress $progress): array
    {
        $all = $this->cloud($placed);
        $shape = ShapeMatch::of($all['points'], $all['normals'], self::RADIUS * $this->grain);
        $tree = KdTree::of($all['points']);
        $normals = [];
        foreach ($tree->order as $i) {
            array_push($normals, $all['normals'][3 * $i], $all['normals'][3 * $i + 1], $all['normals'][3 * $i + 2]);
        }
        // What stands, as one pass.
        $ground = new PreparedPass('', $tree, $normals, [], [], [], $this->grain, Transform::identity());
        $tasks = array_map(fn (int $g) => function () use ($g, $shapes, $shape, $ground, $placed, $clouds, $motions): string {
            $guesses = [...$motions[$g], ...array_column($shapes[$g]->onto($shape, $this->grain, self::GUESSES), 'transform')];
            $bytes = '';
            foreach ($this->judged($g, $this->tightened($g, $guesses, $ground, $placed, $clouds[$g]), $placed) as $place) {
                $bytes .= pack('e*', $place['score'], ...$place['motion']->matrix);
            }

            return $bytes;
        }, $open);
        $found = [];
        foreach (Fork::map($tasks, Cores::count(), $progress, 'matching') as $k => $bytes) {
            $found[$open[$k]] = array_map(
                fn (array $numbers) => ['score' => $numbers[0], 'motion' => Transform::fromMatrix(array_slice($numbers, 1))],
                array_chunk(Packed::toDoubles($bytes), 17),
            );
        }

        return $found;
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
            $cells = CellNames::of($p, $grain);
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
     * The best of many guesses, tightened on what stands as a whole.
     *
     * @param  list<Transform>  $guesses
     * @param  list<int>  $placed  passes
     * @param  array{points: list<float>, normals: list<float>, grain: float}  $cloud  the group's
     * @return list<Transform>
     */
    private function tightened(int $group, array $guesses, PreparedPass $ground, array $placed, array $cloud): array
    {
        // The group as one pass, every third of its points.
        $p = $n = [];
        for ($o = 0, $e = count($cloud['points']); $o < $e; $o += 9) {
            array_push($p, $cloud['points'][$o], $cloud['points'][$o + 1], $cloud['points'][$o + 2]);
            array_push($n, $cloud['normals'][$o], $cloud['normals'][$o + 1], $cloud['normals'][$o + 2]);
        }
        $moving = new PreparedPass('', $ground->tree, [], $p, $n, array_fill(0, intdiv(count($p), 3), 1.0), $this->grain, Transform::identity());
        $fit = new BestFit([$moving, $ground], 3.0 * $this->grain, $this->grain);
        $worth = [];
        foreach ($guesses as $k => $guess) {
            $moving->transform = $guess;
            $worth[$k] = $fit->lies(0, 1, 1.5 * $this->grain, 1)['near'] - 4.0 * $this->seenThrough($moving, $placed, 1.5);
        }
        arsort($worth);
        $tightened = [];
        foreach (array_slice(array_keys($worth), 0, self::TIGHTENED) as $k) {
            $moving->transform = $guesses[$k];
            $fit->onto([0], [1], 1);
            $tightened[] = ['motion' => $moving->transform, 'score' => $fit->lies(0, 1, $this->grain, 1)['near'] - 20.0 * $this->seenThrough($moving, $placed, 1.0)];
        }

        return array_column(array_slice(Motions::distinct($tightened, $this->box($this->groups[$group]), self::ALIKE * $this->grain), 0, self::JUDGED), 'motion');
    }

    /**
     * Samples that stand where one of the passes looked through.
     *
     * @param  list<int>  $placed
     */
    private function seenThrough(PreparedPass $moving, array $placed, float $grains): int
    {
        $before = 0;
        foreach ($placed as $k) {
            $before += $this->passes[$k]->sight?->judge($moving->samplesIn($this->passes[$k]->transform, 1), $grains * $this->grain)['before'] ?? 0;
        }

        return $before;
    }

    /**
     * Tightens motions of a group onto the passes that stand, and sorts them by what speaks for them; no two alike.
     *
     * @param  list<Transform>  $motions
     * @param  list<int>  $onto  passes
     * @return list<array{motion: Transform, score: float}>
     */
    private function judged(int $group, array $motions, array $onto): array
    {
        $members = $this->groups[$group];
        $samples = array_sum(array_map(fn (int $k) => $this->passes[$k]->sampleCount(), $members)) / 3;
        $found = [];
        foreach ($motions as $motion) {
            $this->move($group, $motion);
            $this->fit->onto($members, $onto, 9, 1.5 * $this->grain);
            $lie = $this->lie($members, $onto);
            if (count($members) > 1 && $lie['near'] > self::LEAST * $samples && $lie['score'] <= 0.0 && $lie['against'] < self::MOST_AGAINST * $lie['near']) {
                // Nothing speaks against the place but that surfaces lie loosely: a group that is a little off in itself does that.
                // A single pass is not: tightened with what stands it would bend that to its place, wherever it is.
                $lie = $this->lieTogether($members, $onto, $lie['pairs']);
            }
            if ($lie['near'] > self::LEAST * $samples && $lie['score'] > 0.0) {
                $found[] = ['motion' => $this->captured[$members[0]]->inverse()->then($this->passes[$members[0]]->transform), 'score' => $lie['score']];
            }
        }
        $this->move($group, Transform::identity());

        return Motions::distinct($found, $this->box($members), self::ALIKE * $this->grain);
    }

    /**
     * What speaks for and against the places of passes on others.
     *
     * @param  list<int>  $members
     * @param  list<int>  $onto
     * @return array{near: int, against: int, score: float, pairs: list<array{int, int}>} pairs: those that have surface in common, both ways
     */
    private function lie(array $members, array $onto): array
    {
        $near = $tight = $against = 0;
        $pairs = [];
        foreach ($members as $i) {
            foreach ($onto as $j) {
                $there = $this->fit->lies($i, $j, 2.5 * $this->spacing);
                $near += $there['near'];
                $tight += $there['scale'] < self::FITS * $this->spacing ? $there['tight'] : 0;
                $against += $this->against($i, $j);
                if ($there['near'] > Overlaps::LEAST * $this->passes[$i]->sampleCount() / 3) {
                    array_push($pairs, [$i, $j], [$j, $i]);
                }
            }
        }

        return ['near' => $near, 'against' => $against, 'score' => $tight - self::BADLY * ($near - $tight) - self::THROUGH * $against, 'pairs' => $pairs];
    }

    /**
     * The same after all these passes were tightened at once; what stood stands as before when it is told.
     *
     * @param  list<int>  $members
     * @param  list<int>  $onto
     * @param  list<array{int, int}>  $pairs  of one and the other that have surface in common
     * @return array{near: int, against: int, score: float, pairs: list<array{int, int}>}
     */
    private function lieTogether(array $members, array $onto, array $pairs): array
    {
        $stood = array_map(fn (int $k) => $this->passes[$k]->transform, $onto);
        $within = array_filter($this->pairs, fn (array $pair) => array_diff($pair, $members) === [] || array_diff($pair, $onto) === []);
        $others = array_values(array_diff(array_keys($this->passes), $members, $onto));
        $this->fit->together([...array_values($within), ...$pairs], [$onto[0], ...$others], new NoProgress, self::TOGETHER);
        $lie = $this->lie($members, $onto);
        foreach ($onto as $k => $pass) {
            $stands = $this->passes[$pass];
            $stands->transform = $stood[$k];
        }

        return $lie;
    }

    private function move(int $group, Transform $motion): void
    {
        foreach ($this->groups[$group] as $k) {
            $pass = $this->passes[$k];
            $pass->transform = $this->captured[$k]->then($motion);
        }
    }

    /** @param  list<int>  $groups */
    private function names(array $groups): string
    {
        return implode(', ', array_map(fn (int $k) => $this->passes[$k]->name, array_merge(...array_map(fn (int $g) => $this->groups[$g], $groups))));
    }

    /**
     * The corners of the box around passes.
     *
     * @param  list<int>  $passes
     * @return list<float> flat xyz, eight points
     */
    private function box(array $passes): array
    {
        $p = [];
        foreach ($passes as $k) {
            array_push($p, ...$this->passes[$k]->samples);
        }
        $box = BoundingBox::of($p);
        $corners = [];
        for ($k = 0; $k < 8; $k++) {
            array_push($corners, ($k & 1 ? $box->max : $box->min)[0], ($k & 2 ? $box->max : $box->min)[1], ($k & 4 ? $box->max : $box->min)[2]);
        }

        return $corners;
    }
}
