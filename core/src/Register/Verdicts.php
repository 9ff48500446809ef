<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Parallel\Cores;
use Emberstone\Core\Parallel\Fork;

/**
 * How two passes lie on each other in a place, found once and remembered: puzzles of many passes ask for the same places again and again.
 *
 * @internal
 *
 * @phpstan-import-type Pair from Standing
 */
final class Verdicts
{
    /** Places are rough; surface is looked for within so many spacings before it is tightened. */
    private const REACH = 5.0;

    /** So many looks, of some 15 ms, to a child. */
    private const EACH = 20;

    /** Looks at a way before it is asked again whether it is contradicted: most wrong ways are by the first. */
    private const AT_A_TIME = 2;

    /** @var array<string, list<array{place: Transform, pairs: list<Pair>|null}>> by pair of passes; null until they are looked at */
    private array $known = [];

    /**
     * @param  list<PreparedPass>  $passes
     * @param  float  $alike  places that bring nothing farther apart than this are the same, mm
     */
    public function __construct(
        private readonly BestFit $fit,
        private readonly array $passes,
        private readonly Standing $standing,
        private readonly float $spacing,
        public readonly float $alike,
    ) {
    }

    /**
     * Finds what is not known yet of ways to place passes on others, a few looks a way at a time, spread over the cores. A way that is contradicted is not looked at any further.
     *
     * @param  array<int, list<array{int, int, Transform}>>  $ways  of each: pass, on which other, where in that one's coordinates
     * @param  Progress  $progress  told while it works, to be stopped
     */
    public function find(array $ways, Progress $progress): void
    {
        while ($ways !== []) {
            $tasks = $new = [];
            foreach ($ways as $way => $asked) {
                $open = 0;
                foreach ($asked as $k => [$i, $j, $place]) {
                    $entry = $this->entry($i, $j, $place);
                    if ($entry !== null && $entry['pairs'] !== null) {
                        if ($this->standing->isContradicted($entry['pairs'])) {
                            unset($ways[$way]);

                            continue 2;
                        }
                        unset($ways[$way][$k]);

                        continue;
                    }
                    if ($entry === null) {
                        // Known of from now on, so that it is looked at once.
                        $this->known["$i-$j"][] = ['place' => $place, 'pairs' => null];
                        $new[] = ["$i-$j", count($this->known["$i-$j"]) - 1];
                        $tasks[] = fn (): string => serialize($this->look($i, $j, $place));
                    }
                    if (++$open === self::AT_A_TIME) {
                        break;
                    }
                }
                if ($open === 0) {
                    unset($ways[$way]);
                }
            }
            foreach (Fork::map($tasks, Cores::count(), $progress, 'putting together', self::EACH) as $k => $bytes) {
                [$name, $at] = $new[$k];
                /** @var list<Pair> $pairs */
                $pairs = unserialize($bytes, ['allowed_classes' => false]);
                $this->known[$name][$at]['pairs'] = $pairs;
            }
        }
    }

    /** @return list<Pair> one, or none where the passes have nothing to do with each other, or were not looked at, as others contradicted the way */
    public function of(int $i, int $j, Transform $place): array
    {
        return $this->entry($i, $j, $place)['pairs'] ?? [];
    }

    /** @return array{place: Transform, pairs: list<Pair>|null}|null */
    private function entry(int $i, int $j, Transform $place): ?array
    {
        foreach ($this->known["$i-$j"] ?? [] as $entry) {
            if (Motions::apart($entry['place'], $place, $this->passes[$i]->corners()) < $this->alike) {
                return $entry;
            }
        }

        return null;
    }

    /** @return list<Pair> */
    private function look(int $i, int $j, Transform $place): array
    {
        [$moving, $on] = [$this->passes[$i], $this->passes[$j]];
        $were = [$moving->transform, $on->transform];
        $moving->transform = $place;
        $on->transform = Transform::identity();
        $pairs = $this->judged($i, $j, $place);
        [$moving->transform, $on->transform] = $were;

        return $pairs;
    }

    /**
     * What speaks for and against two passes where they stand, once they are tightened.
     *
     * @return list<Pair>
     */
    private function judged(int $i, int $j, Transform $place): array
    {
        $moving = $this->passes[$i];
        if ($this->fit->lies($i, $j, self::REACH * $this->spacing, 9)['near'] < Overlaps::LEAST * $moving->sampleCount() / 9) {
            // Hardly any surface in common: only what was seen through tells anything, and only as far as the place is exact.
            return $this->standing->against($i, $j, 0.5 * $this->alike);
        }
        // Two passes with little in common can slide on each other when they are tightened alone, before what the other saw.
        $against = $this->standing->seenThrough($i, $j);
        $this->fit->onto([$i], [$j], 9, self::REACH * $this->spacing);
        if (Motions::apart($moving->transform, $place, $moving->corners()) > $this->alike) {
            $moving->transform = $place;
        }

        return array_map(fn (array $pair) => ['against' => min($against, $pair['against'])] + $pair, $this->standing->of([$i], [$j]));
    }
}
