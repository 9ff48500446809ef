<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Icp\IcpEquations;
use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Progress;

/**
 * Brings placed passes together: one piece onto others, or all of them at once (MultiviewIcp); and tells how they lie on each other.
 *
 * @phpstan-import-type Joint from MultiviewIcp
 */
final class Icp
{
    /** Of more passes than this, every two are looked at with few samples. */
    private const MANY = 16;

    /** Samples with which two of many passes are looked at. */
    private const GLANCE = 150;

    /** So many of them, each looked at with all others, to a child. */
    private const EACH = 10;

    /** To every motion; see PairEquations::damped(). */
    private const RESISTANCE = 0.005;

    private readonly PairEquations $pairs;

    /**
     * @param  list<PreparedPass>  $passes
     * @param  float  $least  finest distance between partners in the last rounds, mm
     */
    public function __construct(
        private readonly array $passes,
        private readonly float $maxDistance,
        private readonly float $least,
    ) {
        $this->pairs = new PairEquations($passes);
    }

    /**
     * The share of each pass' samples that lie within reach of each other pass as they stand.
     *
     * @return array<int, array<int, float>>
     */
    public function overlaps(float $reach): array
    {
        if (count($this->passes) <= self::MANY) {
            return array_map(fn (int $i) => $this->overlapsOf($i, $reach, 3, true), array_keys($this->passes));
        }
        $tasks = array_map(fn (PreparedPass $pass, int $i) => fn (): string => Packed::doubles($this->overlapsOf($i, $reach, max(3, intdiv($pass->sampleCount(), self::GLANCE)), false)), $this->passes, array_keys($this->passes));
        $overlap = [];
        foreach (Fork::map($tasks, Cores::count(), each: self::EACH) as $i => $bytes) {
            $overlap[$i] = array_combine(array_values(array_diff(array_keys($this->passes), [$i])), Packed::toDoubles($bytes));
        }

        return $overlap;
    }

    /** @return array<int, float> by the other pass: the share of the samples of this one, every `every`-th, that lies on it */
    private function overlapsOf(int $i, float $reach, int $every, bool $remember): array
    {
        $used = max(1, intdiv($this->passes[$i]->sampleCount() + $every - 1, $every));
        $overlap = [];
        foreach (array_keys($this->passes) as $j) {
            if ($i !== $j) {
                $overlap[$j] = $this->pairs->of($i, $j, $reach, $every, 0.2 * $reach, $remember)['pairs'] / $used;
            }
        }

        return $overlap;
    }

    /**
     * How the samples of one pass stand to what another saw: in the space it looked through nothing can be.
     *
     * @return array{agree: int, before: int} nothing at all where the other's sensor is not known
     */
    public function judged(int $pass, int $by, float $tolerance, int $every = 3): array
    {
        $sight = $this->passes[$by]->sight;

        return $sight === null ? ['agree' => 0, 'before' => 0] : $sight->judge($this->passes[$pass]->samplesIn($this->passes[$by]->transform, $every), $tolerance);
    }

    /**
     * How samples of one pass lie on another: near it and facing the same way, and of those the ones that fit as well as most do.
     *
     * @return array{near: int, tight: int, scale: float} scale: robust spread of their distances, mm
     */
    public function lies(int $pass, int $on, float $reach, int $every = 3): array
    {
        $pair = $this->pairs->of($pass, $on, $reach, $every, 0.0);

        return ['near' => $pair['near'], 'tight' => $pair['pairs'], 'scale' => $pair['scale']];
    }

    /**
     * Places passes, as one piece, onto others that stay, coarse to fine.
     *
     * @param  list<int>  $moving
     * @param  list<int>  $still
     * @param  float|null  $from  the reach to begin with; that of the whole fit unless given
     * @return array{residual: float, rounds: int}
     */
    public function onto(array $moving, array $still, int $every = 3, ?float $from = null): array
    {
        $residual = 0.0;
        $rounds = 0;
        for ($reach = max($this->least, $from ?? $this->maxDistance); ; $reach = max($this->least, 0.5 * $reach)) {
            for ($k = 0; $k < 10; $k++) {
                $a = array_fill(0, 21, 0.0);
                $b = array_fill(0, 6, 0.0);
                $pairs = 0;
                $weight = $squares = 0.0;
                foreach ($moving as $one) {
                    foreach ($still as $other) {
                        $pair = $this->pairs->of($one, $other, $reach, $every, 0.2 * $reach);
                        foreach ($pair['a'] as $i => $v) {
                            $a[$i] += $v;
                        }
                        foreach ($pair['b'] as $i => $v) {
                            $b[$i] += $v;
                        }
                        $pairs += $pair['pairs'];
                        $weight += $pair['weight'];
                        $squares += $pair['squares'];
                    }
                }
                if ($pairs < 12) {
                    break;
                }
                $step = self::solve(PairEquations::damped($a, $weight, self::RESISTANCE), $b);
                foreach ($moving as $one) {
                    $pass = $this->passes[$one];
                    $pass->transform = $pass->transform->then(PoseStep::motion($step));
                }
                $residual = sqrt($squares / max(1e-300, $weight));
                $rounds++;
                if (PoseStep::size($step) < 0.02 * $reach) {
                    break;
                }
            }
            if ($reach <= $this->least) {
                break;
            }
        }

        return ['residual' => $residual, 'rounds' => $rounds];
    }

    /**
     * What was found of pairs, as their passes stand now; nothing moves.
     *
     * @param  list<array{int, int}>  $pairs
     * @param  Joint  $joint
     * @return Joint
     */
    public function as(array $pairs, array $joint): array
    {
        $now = (new MultiviewIcp($this->passes, $this->pairs, $this->least, $this->least))->together($pairs, array_keys($this->passes), new NoProgress, 1, true);

        return ['pairs' => $now['pairs']] + $joint;
    }

    /**
     * All passes at once.
     *
     * @param  list<array{int, int}>  $pairs  (moving, still) in both directions where they overlap
     * @param  list<int>  $still  passes that do not move
     * @param  bool  $isFirst  SurfaceAdjustment follows
     * @return Joint
     */
    public function together(array $pairs, array $still, Progress $progress, int $maxRounds = 32, bool $isFirst = false): array
    {
        return (new MultiviewIcp($this->passes, $this->pairs, $this->maxDistance, $this->least))->together($pairs, $still, $progress, $maxRounds, isFirst: $isFirst);
    }

    /**
     * @param  list<float>  $a  upper triangle
     * @param  list<float>  $b
     * @return list<float>
     */
    private static function solve(array $a, array $b): array
    {
        $h = [];
        for ($r = 0; $r < 6; $r++) {
            for ($c = 0; $c < 6; $c++) {
                $h[] = $a[IcpEquations::upper($r, $c)];
            }
        }

        return Dense::step($h, array_map(fn (float $v) => -$v, $b), 6);
    }
}
