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

    /** @var array<string, list<array{place: Transform, pairs: list<Pair>}>> by pair of passes */
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
     * Finds what is not known yet, spread over the cores.
     *
     * @param  list<array{int, int, Transform}>  $asked  pass, on which other, where in that one's coordinates
     * @param  Progress  $progress  told while it works, to be stopped
     */
    public function find(array $asked, Progress $progress): void
    {
        $tasks = $new = [];
        foreach ($asked as [$i, $j, $place]) {
            if ($this->entry($i, $j, $place) !== null) {
                continue;
            }
            // Known from now on, so that it is found once.
            $this->known["$i-$j"][] = ['place' => $place, 'pairs' => []];
            $new[] = ["$i-$j", count($this->known["$i-$j"]) - 1];
            $tasks[] = fn (): string => serialize($this->look($i, $j, $place));
        }
        foreach (Fork::map($tasks, Cores::count(), $progress, 'putting together', self::EACH) as $k => $bytes) {
            [$name, $at] = $new[$k];
            /** @var list<Pair> $pairs */
            $pairs = unserialize($bytes, ['allowed_classes' => false]);
            $this->known[$name][$at]['pairs'] = $pairs;
        }
    }

    /** @return list<Pair> one, or none where the passes have nothing to do with each other; it must have been found before */
    public function of(int $i, int $j, Transform $place): array
    {
        return $this->entry($i, $j, $place)['pairs'] ?? [];
    }

    /** @return array{place: Transform, pairs: list<Pair>}|null */
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
        $moving->transform = $place;
        $on->transform = Transform::identity();
        if ($this->fit->lies($i, $j, self::REACH * $this->spacing, 9)['near'] < Overlaps::LEAST * $moving->sampleCount() / 9) {
            // Hardly any surface in common: only what was seen through tells anything, and only as far as the place is exact.
            return $this->standing->against($i, $j, 0.5 * $this->alike);
        }
        // Two passes with little in common can slide on each other when they are tightened alone, before what the other saw.
        $against = $this->standing->of([$i], [$j])[0]['against'] ?? 0;
        $this->fit->onto([$i], [$j], 9, self::REACH * $this->spacing);
        if (Motions::apart($moving->transform, $place, $moving->corners()) > $this->alike) {
            $moving->transform = $place;
        }

        return array_map(fn (array $pair) => ['against' => min($against, $pair['against'])] + $pair, $this->standing->of([$i], [$j]));
    }
}
