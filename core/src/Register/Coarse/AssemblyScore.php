<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Coarse;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\PreparedPass;

/**
 * What speaks for and against passes where they stand: how much surface lies on surface, how well, and whether anything stands where a sensor looked through.
 *
 * @internal
 *
 * @phpstan-type Pair array{i: int, j: int, near: int, tight: int, scale: float, against: int, share: float}
 */
final class AssemblyScore
{
    /** Spacings within which surface is near. */
    private const NEAR = 2.5;

    /** Spacings that surface stands in front of what was looked through, to be before it. */
    private const BEFORE = 2.0;

    /** A pass fits another with so much of it near. */
    private const ENOUGH = 0.1;

    /** Surfaces that are the same lie on each other with less spread than this, in spacings; those that only touch do not. */
    private const FITS = 0.5;

    /** More samples than this share of those near, where a sensor looked through, are no noise. */
    private const MOST_AGAINST = 0.004;

    /** Samples that fit, which one that stands where a sensor looked through outweighs: right places have next to none of these. */
    private const THROUGH = 200.0;

    /** Factor: how much more than usual may lie loosely at right places. */
    private const LOOSER = 3.0;

    /** Share of what is near that may lie loosely in addition to what is usual, where that is more than LOOSER allows. */
    private const LOOSE = 0.008;

    /** Their spread, in usual ones, from which it begins to speak against a place, and does so wholly at the second figure. */
    private const WIDER = [1.5, 2.0];

    /** What is usual is told by places with so much in common, and a few lie closer by chance. */
    private const TELLING = 0.12;

    /** So few samples lie loosely anywhere. */
    private const CHANCE = 2;

    /** Two passes that fit less than this cannot both stand right. */
    private const UNFIT = -1.0;

    /** Of all that is near so much may stand where another looked through, and lie on another that it does not fit, where whole pieces are laid on each other. */
    private const WHOLE = [0.001, 0.1];

    /** Passes with more than the first share in common count less, with more than the second hardly: they look from the same place. */
    public const SAME = [0.7, 0.9];

    private const TWICE = 0.02;

    /** Shared samples that weigh as much for a place as one that is seen twice weighs against it. */
    private const DISLIKE = 2.0;

    /** The usual spread is no more than this, in spacings. */
    private const USUAL = 0.2;

    /** The share of loosely lying samples at which as much speaks against a place as for it. */
    private float $tooLoose = 0.09;

    /** The usual spread, mm, of surfaces that are the same. */
    private float $usual;

    /** @param  list<PreparedPass>  $passes */
    public function __construct(
        private readonly Icp $fit,
        private readonly array $passes,
        private readonly float $spacing,
    ) {
        $this->usual = self::USUAL * $spacing;
    }

    /**
     * How surfaces lie on each other that are the same: as the closest of each pass do, for each has a right place among its places.
     *
     * @param  list<Pair>  $pairs  passes in places that may be right
     */
    public function learn(array $pairs): void
    {
        $closest = [];
        foreach ($pairs as $pair) {
            foreach (self::tells($pair) ? [$pair['i'], $pair['j']] : [] as $pass) {
                if ($pair['scale'] < ($closest[$pass]['scale'] ?? INF)) {
                    $closest[$pass] = $pair;
                }
            }
        }
        $this->expect(array_values($closest));
    }

    /**
     * How surfaces lie on each other that are the same: as most of these do.
     *
     * @param  list<Pair>  $right  most of them in right places
     */
    public function expect(array $right): void
    {
        $telling = array_values(array_filter($right, self::tells(...)));
        if ($telling !== []) {
            $loose = Median::of(array_map(self::loose(...), $telling));
            $this->tooLoose = min($this->tooLoose, max(self::LOOSER * $loose, $loose + self::LOOSE));
            $this->usual = min($this->usual, Median::of(array_column($telling, 'scale')));
        }
    }

    /**
     * Enough in common to tell anything, but not all: a pass that is there twice lies on itself as no two passes do.
     *
     * @param  Pair  $pair
     */
    private static function tells(array $pair): bool
    {
        return $pair['share'] > self::TELLING && $pair['share'] < array_sum(self::SAME) / 2.0;
    }

    /**
     * @param  list<int>  $members
     * @param  list<int>  $onto
     * @return list<Pair> of passes with surface in common; share: of what the one saw, and the other, the lesser
     */
    public function of(array $members, array $onto): array
    {
        $pairs = [];
        foreach ($members as $i) {
            foreach ($onto as $j) {
                array_push($pairs, ...$this->pair($i, $j, $this->seenThrough($i, $j)));
            }
        }

        return $pairs;
    }

    /**
     * @param  int  $against  samples of either that stand where the other looked through
     * @return list<Pair> one, or none where two passes have nothing to do with each other
     */
    public function pair(int $i, int $j, int $against): array
    {
        $near = $tight = 0;
        $scale = 0.0;
        $share = 1.0;
        foreach ([[$i, $j], [$j, $i]] as [$a, $b]) {
            $there = $this->fit->lies($a, $b, self::NEAR * $this->spacing);
            $near += $there['near'];
            $tight += $there['scale'] < self::FITS * $this->spacing ? $there['tight'] : 0;
            $scale += 0.5 * $there['scale'];
            $share = min($share, 3.0 * $there['near'] / $this->passes[$a]->sampleCount());
        }

        return $against > 0 || $share > 0.5 * Overlaps::LEAST ? [['i' => $i, 'j' => $j, 'near' => $near, 'tight' => $tight, 'scale' => $scale, 'against' => $against, 'share' => $share]] : [];
    }

    /** Would that number of samples that stand where the other looked through rule a place out, however much of both passes lay on the other? */
    public function rulesOut(int $i, int $j, int $against): bool
    {
        return $against > 1 && $against > self::MOST_AGAINST * ($this->passes[$i]->sampleCount() + $this->passes[$j]->sampleCount() + 4) / 3.0;
    }

    /** Do two passes fit where they stand: enough of the one closely on the other, and hardly any of it seen through? */
    public function isFitting(int $i, int $j): bool
    {
        $there = $this->fit->lies($i, $j, self::NEAR * $this->spacing);

        return $there['near'] > self::ENOUGH * $this->passes[$i]->sampleCount() / 3 && $there['scale'] < self::FITS * $this->spacing
            && $this->seenThrough($i, $j) < self::MOST_AGAINST * $there['near'];
    }

    /** How many samples of either stand where the other looked through, by a tolerance in mm; BEFORE unless given. */
    public function seenThrough(int $i, int $j, ?float $tolerance = null): int
    {
        $tolerance ??= self::BEFORE * $this->spacing;

        return $this->fit->judged($i, $j, $tolerance)['before'] + $this->fit->judged($j, $i, $tolerance)['before'];
    }

    /**
     * What a number of samples says that stand where the other pass looked through, whatever else there is to be said.
     *
     * @return list<Pair> one where there are any
     */
    public static function against(int $i, int $j, int $against): array
    {
        return $against === 0 ? [] : [['i' => $i, 'j' => $j, 'near' => 0, 'tight' => 0, 'scale' => 0.0, 'against' => $against, 'share' => 0.0]];
    }

    /**
     * Samples that speak for a place, less what speaks against it.
     *
     * @param  list<Pair>  $pairs
     */
    public function support(array $pairs): float
    {
        $support = 0.0;
        foreach ($pairs as $pair) {
            $support += $pair['near'] * self::adds($pair['share']) * $this->fits($pair) - self::THROUGH * $pair['against'];
        }

        return $support;
    }

    /**
     * By how much a place is preferred to others that are sound too: its support, but for passes that see all the same.
     *
     * On a part with like sides all passes can come to lie on each other from one side, with more in common than where they were taken from. A scanner that is carried around
     * looks from somewhere else each time.
     *
     * @param  list<Pair>  $pairs
     */
    public function worth(array $pairs): float
    {
        $twice = 0.0;
        foreach ($pairs as $pair) {
            $twice += $pair['near'] * max(0.0, min(1.0, ($pair['share'] - self::SAME[0]) / (self::SAME[1] - self::SAME[0])));
        }

        return $this->support($pairs) - self::DISLIKE * $twice;
    }

    /**
     * Does nothing speak against a place, and enough for it?
     *
     * @param  list<Pair>  $pairs
     * @param  bool  $asAWhole  of pieces of several passes each, that hold together firmly in themselves
     */
    public function isSound(array $pairs, float $least, bool $asAWhole = false): bool
    {
        return array_sum(array_column($pairs, 'near')) > $least && ! ($asAWhole ? $this->isContradictedAsAWhole($pairs) : $this->isContradicted($pairs)) && $this->support($pairs) > 0.0;
    }

    /**
     * Does what any two passes saw rule a place out, whatever others say for it?
     *
     * @param  list<Pair>  $pairs
     */
    public function isContradicted(array $pairs): bool
    {
        foreach ($pairs as $pair) {
            if ($pair['against'] > max(1.0, self::MOST_AGAINST * $pair['near']) || $this->isUnfit($pair)) {
                return true;
            }
        }

        return false;
    }

    /**
     * Does what all saw together rule a place out? A few samples of one pass are no reason where thousands of others fit.
     *
     * @param  list<Pair>  $pairs
     */
    private function isContradictedAsAWhole(array $pairs): bool
    {
        $near = array_sum(array_column($pairs, 'near'));
        $unfit = array_sum(array_column(array_filter($pairs, $this->isUnfit(...)), 'near'));

        return array_sum(array_column($pairs, 'against')) > max(1.0, self::WHOLE[0] * $near) || $unfit > self::WHOLE[1] * $near;
    }

    /** @param  Pair  $pair */
    private function isUnfit(array $pair): bool
    {
        return $pair['share'] > self::TELLING && $this->fits($pair) < self::UNFIT;
    }

    /** What two passes with so much in common say for each other. */
    private static function adds(float $share): float
    {
        return max(self::TWICE, min(1.0, (self::SAME[1] - $share) / (self::SAME[1] - self::SAME[0])));
    }

    /**
     * 1 where two passes lie on each other as the same surface does, 0 where that says nothing, below where it cannot be the same.
     *
     * @param  Pair  $pair
     */
    private function fits(array $pair): float
    {
        return min(1.0 - self::loose($pair) / $this->tooLoose, max(-1.0, (self::WIDER[1] - $pair['scale'] / $this->usual) / (self::WIDER[1] - self::WIDER[0])));
    }

    /** @param  Pair  $pair */
    private static function loose(array $pair): float
    {
        return $pair['near'] === 0 ? 0.0 : max(0, $pair['near'] - $pair['tight'] - self::CHANCE) / $pair['near'];
    }
}
