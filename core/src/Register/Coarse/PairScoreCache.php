<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Coarse;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\WorkerPool;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\PoseDistance;
use Emberstone\Core\Register\PreparedPass;

/**
 * How two passes lie on each other in a place, found once and remembered: puzzles of many passes ask for the same places again and again.
 *
 * @internal
 *
 * @phpstan-import-type Pair from AssemblyScore
 */
final class PairScoreCache
{
    /** Looks at a way before it is asked again whether it is contradicted: most wrong ways are by the first. */
    private const AT_A_TIME = 2;

    /** Samples of one pass, standing where another looked through, that rule out a way to put pieces of several passes together, whatever the others say. */
    private const RULED_OUT = 4;

    /** @var array<string, list<array{place: RigidTransform, pairs: list<Pair>|null}>> by pair of passes; null until they are looked at */
    private array $known = [];

    private ?WorkerPool $crew = null;

    private readonly PairScore $look;

    /**
     * @param  list<PreparedPass>  $passes
     * @param  float  $alike  places that bring nothing farther apart than this are the same, mm
     * @param  bool  $asAWhole  ways of pieces that hold together firmly in themselves, judged by all of it
     */
    public function __construct(
        Icp $fit,
        private readonly array $passes,
        private readonly AssemblyScore $standing,
        float $spacing,
        public readonly float $alike,
        public readonly bool $asAWhole = false,
    ) {
        $this->look = new PairScore($fit, $passes, $standing, $spacing, $alike);
    }

    /**
     * Finds what is not known yet of ways to place passes on others, a few looks a way at a time, spread over the cores. A way that is contradicted is not looked at any further.
     *
     * @param  array<int, list<array{int, int, RigidTransform}>>  $ways  of each: pass, on which other, where in that one's coordinates
     * @param  Progress  $progress  told while it works, to be stopped
     */
    public function find(array $ways, Progress $progress): void
    {
        while ($ways !== []) {
            $asks = $new = [];
            foreach ($ways as $way => $asked) {
                $open = 0;
                foreach ($asked as $k => [$i, $j, $place]) {
                    $entry = $this->entry($i, $j, $place);
                    if ($entry !== null && $entry['pairs'] !== null) {
                        if ($this->asAWhole ? array_sum(array_column($entry['pairs'], 'against')) > self::RULED_OUT : $this->standing->isContradicted($entry['pairs'])) {
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
                        $asks[] = [$i, $j, $place->matrix];
                    }
                    if (++$open === self::AT_A_TIME) {
                        break;
                    }
                }
                if ($open === 0) {
                    unset($ways[$way]);
                }
            }
            foreach ($this->looked($asks, $progress) as $k => $pairs) {
                [$name, $at] = $new[$k];
                $this->known[$name][$at]['pairs'] = $pairs;
            }
        }
    }

    /**
     * Looks, some by each of a crew.
     *
     * @param  list<array{int, int, array<int, float>}>  $asks
     * @return array<int, list<Pair>>
     */
    private function looked(array $asks, Progress $progress): array
    {
        if ($asks === []) {
            return [];
        }
        // Not $this: the crew would be held by what it holds, and never be dismissed.
        $look = $this->look;
        $this->crew ??= WorkerPool::of(Cores::count(), static function (string $question, int $number, int $of) use ($look): string {
            /** @var list<array{int, int, array<int, float>}> $asks */
            $asks = unserialize($question, ['allowed_classes' => false]);
            $looked = [];
            for ($k = $number; $k < count($asks); $k += $of) {
                $looked[$k] = $look->of($asks[$k][0], $asks[$k][1], RigidTransform::fromMatrix($asks[$k][2]));
            }

            return serialize($looked);
        });
        $all = [];
        foreach ($this->crew->ask(serialize($asks), fn () => $progress->advance('putting together', 0.0)) as $bytes) {
            /** @var array<int, list<Pair>> $looked */
            $looked = unserialize($bytes, ['allowed_classes' => false]);
            $all += $looked;
        }

        return $all;
    }

    /** @return list<Pair> one, or none where the passes have nothing to do with each other, or were not looked at, as others contradicted the way */
    public function of(int $i, int $j, RigidTransform $place): array
    {
        return $this->entry($i, $j, $place)['pairs'] ?? [];
    }

    /** @return array{place: RigidTransform, pairs: list<Pair>|null}|null */
    private function entry(int $i, int $j, RigidTransform $place): ?array
    {
        foreach ($this->known["$i-$j"] ?? [] as $entry) {
            if (PoseDistance::apart($entry['place'], $place, $this->passes[$i]->corners()) < $this->alike) {
                return $entry;
            }
        }

        return null;
    }
}
