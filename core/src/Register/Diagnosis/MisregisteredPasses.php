<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Diagnosis;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Coarse\AssemblyScore;
use Emberstone\Core\Register\Coarse\ShapePlaces;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\PreparedPass;

/**
 * Passes that lie on others where they stand, but belong somewhere else: on a part with like sides one can settle half a turn off with a small residual.
 *
 * Right places show neither of two signs: that one of two passes looked through what the other saw, or that a pass saw the same side as another and nothing else. Passes are set aside, the
 * one with the least to say for it first, until those left show no sign; then shape is asked where on these the others belong.
 *
 * @internal
 *
 * @phpstan-import-type Pair from AssemblyScore
 *
 * @phpstan-type Elsewhere array{pass: int, place: RigidTransform, off: float}
 */
final readonly class MisregisteredPasses
{
    /** A pass with less of its surface on the others does not stand among them. */
    private const LEAST = 0.06;

    /** One that saw the same as another keeps less than this share of its support. */
    private const SAME = 0.5;

    /** Factor: how much more must speak for another place than for the present one, for it to be right. */
    private const CLEARLY = 2.0;

    /** More passes than this are frames of a sweep: each follows the one before, and sees the same as a matter of course. */
    public const MANY = 24;

    /** So many pairs of passes, of some 5 ms, to a child. */
    private const EACH = 20;

    /** @param  list<PreparedPass>  $passes */
    public function __construct(
        private Icp $fit,
        private array $passes,
        private AssemblyScore $standing,
    ) {
    }

    /**
     * Moves passes to where they clearly belong; those that stay do not move.
     *
     * @param  list<int>  $members  passes that should fit each other
     * @param  list<int>  $still
     * @return list<string> what the person should know
     */
    public function settle(array $members, array $still, Progress $progress): array
    {
        $stays = array_values(array_intersect($members, $still));
        $stood = array_map(fn (int $k) => $this->passes[$k]->transform, $stays);
        $notes = [];
        foreach ($this->among($members, $progress) as ['pass' => $k, 'place' => $place, 'off' => $off]) {
            $pass = $this->passes[$k];
            // Several that stay keep their places to each other; one alone can have the others moved to suit it.
            if (! in_array($k, $stays, true) || count($stays) === 1) {
                $pass->transform = $place;
                $notes[] = "{$pass->name} lay on the others where it was put, but its shape fits them clearly better ".Format::mm($off).' from there, where it is now. Look at it, or pick pairs.';
            }
        }
        if ($notes !== [] && count($stays) === 1) {
            $back = $this->passes[$stays[0]]->transform->inverse()->then($stood[0]);
            foreach (array_diff($members, $stays) as $k) {
                $pass = $this->passes[$k];
                $pass->transform = $pass->transform->then($back);
            }
            $pass = $this->passes[$stays[0]];
            $pass->transform = $stood[0];
        }

        return $notes;
    }

    /**
     * @param  list<int>  $members
     * @return list<string> of each that clearly belongs somewhere else, what to do
     */
    public function inWords(array $members, string $toDo, Progress $progress): array
    {
        return array_map(fn (array $one) => $this->passes[$one['pass']]->name.' lies on the others where it stands, but its shape fits them clearly better '.Format::mm($one['off'])." from there. $toDo", $this->among($members, $progress));
    }

    /**
     * Passes that clearly belong somewhere else, as all stand now; none where most stand in doubt, or where there are many.
     *
     * @param  list<int>  $members  passes that should fit each other
     * @return list<Elsewhere> place: its pose there; off: how far that is from where it stands, mm
     */
    private function among(array $members, Progress $progress): array
    {
        if (count($members) > self::MANY) {
            return [];
        }
        $pairs = $this->pairs($members);
        $this->standing->expect($pairs);
        $left = array_fill_keys($members, []);
        foreach ($pairs as $pair) {
            $left[$pair['i']][] = $left[$pair['j']][] = $pair;
        }
        $aside = [];
        while (2 * count($aside) < count($members) && ($least = $this->leastSound($left)) !== null) {
            $aside[] = $least;
            unset($left[$least]);
        }
        $others = array_keys($left);
        if ($aside === [] || count($others) <= count($aside)) {
            return [];
        }
        // Of two that saw the same it may be either.
        $asked = [];
        foreach ($aside as $k) {
            $asked[] = ['for' => $k, 'pass' => $k, 'on' => $others];
            foreach ($this->sameAs($pairs, $k, $others) as $m) {
                $asked[] = ['for' => $k, 'pass' => $m, 'on' => [...array_values(array_diff($others, [$m])), $k]];
            }
        }
        $tasks = array_map(fn (array $ask) => fn (): string => $this->elsewhere($ask['pass'], $ask['on']), $asked);
        $best = [];
        foreach (Fork::map($tasks, Cores::count(), $progress, 'looking elsewhere') as $k => $bytes) {
            $gain = Packed::toDoubles($bytes)[0] ?? 0.0;
            if ($gain > ($best[$asked[$k]['for']]['gain'] ?? 0.0)) {
                $best[$asked[$k]['for']] = ['gain' => $gain, 'pass' => $asked[$k]['pass'], 'place' => RigidTransform::fromMatrix(array_slice(Packed::toDoubles($bytes), 1))];
            }
        }
        $found = [];
        foreach ($best as ['pass' => $k, 'place' => $place]) {
            $found[$k] = ['pass' => $k, 'place' => $place, 'off' => PoseDistance::apart($this->passes[$k]->transform, $place, $this->passes[$k]->corners())];
        }

        return array_values($found);
    }

    /**
     * @param  list<int>  $members
     * @return list<Pair>
     */
    private function pairs(array $members): array
    {
        $tasks = [];
        foreach ($members as $i) {
            foreach ($members as $j) {
                if ($i < $j) {
                    $tasks[] = fn (): string => serialize($this->standing->of([$i], [$j]));
                }
            }
        }

        return array_merge(...array_map(function (string $bytes): array {
            /** @var list<Pair> $pairs */
            $pairs = unserialize($bytes, ['allowed_classes' => false]);

            return $pairs;
        }, Fork::map($tasks, Cores::count(), each: self::EACH)));
    }

    /**
     * @param  array<int, list<Pair>>  $left  by pass, all that it has to do with others
     * @return int|null the pass with the least to say for it of those that show a sign of standing wrong
     */
    private function leastSound(array $left): ?int
    {
        $found = null;
        $least = INF;
        foreach (count($left) > 2 ? $left : [] as $k => $pairs) {
            $pairs = array_values(array_filter($pairs, fn (array $pair) => isset($left[$pair['i']], $left[$pair['j']])));
            $worth = $this->standing->worth($pairs);
            if ($worth < $least && (! $this->standing->isSound($pairs, self::LEAST * $this->passes[$k]->sampleCount() / 3.0) || $worth < self::SAME * $this->standing->support($pairs))) {
                $found = $k;
                $least = $worth;
            }
        }

        return $found;
    }

    /**
     * @param  list<Pair>  $pairs
     * @param  list<int>  $others
     * @return list<int> those of the others that saw the same as a pass
     */
    private function sameAs(array $pairs, int $which, array $others): array
    {
        $same = [];
        foreach ($pairs as $pair) {
            foreach ([[$pair['i'], $pair['j']], [$pair['j'], $pair['i']]] as [$one, $other]) {
                if ($one === $which && $pair['share'] > AssemblyScore::SAME[0] && in_array($other, $others, true)) {
                    $same[] = $other;
                }
            }
        }

        return $same;
    }

    /**
     * @param  list<int>  $others
     * @return string packed: how much more speaks for the best place of a pass on the others, and its pose there; empty where it stands there, or that place is not clearly better
     */
    private function elsewhere(int $which, array $others): string
    {
        $pass = $this->passes[$which];
        $places = new ShapePlaces($this->fit, $this->passes, $this->standing, [[$which], $others]);
        $now = $this->standing->worth($this->standing->of([$which], $others));
        $best = '';
        $most = self::CLEARLY * max(0.0, $now);
        foreach ($places->of(0, 1, false) as $place) {
            $to = $pass->transform->then($place['motion']);
            $worth = $this->standing->worth($place['pairs']);
            if ($worth > $most && $this->standing->isSound($place['pairs'], self::LEAST * $pass->sampleCount() / 3.0)) {
                $most = $worth;
                $best = PoseDistance::apart($pass->transform, $to, $pass->corners()) < ShapePlaces::ALIKE * $places->grain ? '' : Packed::doubles([$worth - $now, ...$to->matrix]);
            }
        }

        return $best;
    }
}
