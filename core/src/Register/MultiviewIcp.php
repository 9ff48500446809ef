<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Parallel\WorkerPool;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * Tightens all passes at once: one least squares over the six freedoms of every pass but those that stay, over point pairs that are renewed each round. Error does not pile up around a
 * loop (Pulli 1999; here solved jointly over the points).
 *
 * @internal
 *
 * @phpstan-type Joint array{rounds: int, pairs: list<array{residual: float, overlap: float, a: list<float>, weight: float, tilt: float}>, converged: bool}
 *
 * The pairs as in the last round, in the order they were given; a and tilt: see IcpEquations.
 */
final class MultiviewIcp
{
    /** With fewer samples in all, other processes take longer to start than they save. */
    private const ALONE = 20_000;

    /** To motions of two passes against each other (PairEquations::damped()): as much as noise of normals makes; a tenth and less of what holds passes least. */
    private const RESISTANCE = 1e-4;

    /** Of more passes than this the equations are solved as the sparse ones that they are. */
    private const MANY = 16;

    /** Length of a step, as a share of the finest reach, below which many passes have settled. */
    private const SETTLED = 0.02;

    /** Change of the residual, as a share of it, below which a round has not bettered it. */
    private const NO_BETTER = 1e-3;

    /** Passes have converged when no step is longer than this share of the finest reach; partners change from round to round, and below this the steps are their chatter. */
    private const CONVERGED = 3e-3;

    /** The same where SurfaceAdjustment follows and takes out what is left: with the smaller share it ends in the same poses, after twice as long. */
    private const CONVERGED_FIRST = 0.02;

    /** Rounds on end without a better residual, after which many passes have converged. */
    private const STALE = 3;

    /**
     * @param  list<PreparedPass>  $passes
     * @param  float  $least  finest distance between partners in the last rounds, mm
     */
    public function __construct(
        private readonly array $passes,
        private readonly PairEquations $pairs,
        private readonly float $maxDistance,
        private readonly float $least,
    ) {
    }

    /**
     * All passes at once.
     *
     * @param  list<array{int, int}>  $pairs  (moving, still) in both directions where they overlap
     * @param  list<int>  $still  passes that do not move
     * @param  bool  $settled  they have settled before: all samples at once, and cuts by their spread alone
     * @param  bool  $isFirst  SurfaceAdjustment follows
     * @return Joint
     */
    public function together(array $pairs, array $still, Progress $progress, int $maxRounds = 32, bool $settled = false, bool $isFirst = false): array
    {
        $n = count($this->passes);
        $converged = false;
        $reach = max($this->least, $this->maxDistance);
        $report = [];
        $before = INF;
        $stale = 0;
        $last = [];
        // As many samples as can be remembered.
        $all = array_sum(array_map(fn (array $pair) => $this->passes[$pair[0]]->sampleCount(), $pairs));
        $least = intdiv($all, PairEquations::REMEMBERED) + 1;
        $crew = WorkerPool::of($all < self::ALONE ? 1 : min(Cores::count(), count($pairs)), fn (string $question, int $number, int $of): string => $this->share($question, $pairs, $number, $of));
        for ($round = 0; $round < $maxRounds && ! $converged; $round++) {
            $equations = new PoseEquations($n);
            $report = [];
            // While passes still slide on each other, a narrow cut would keep what already fits and drop what pulls.
            $natural = $reach <= $this->least && ($round >= 12 || $settled);
            $every = $natural ? $least : max(3, $least);
            $breathe = fn () => $progress->advance('all together', ($round + 0.5) / $maxRounds);
            foreach ($this->shares($crew, count($pairs), $reach, $every, $natural ? 0.0 : 0.2 * $reach, $breathe) as $k => $pair) {
                [$i, $j] = $pairs[$k];
                $equations->add($i, $j, PairEquations::damped($pair['a'], $pair['weight'], self::RESISTANCE), $pair['b']);
                $used = intdiv($this->passes[$i]->sampleCount() + $every - 1, $every);
                $report[] = ['residual' => sqrt($pair['squares'] / max(1e-300, $pair['weight'])), 'overlap' => $pair['pairs'] / max(1, $used), 'a' => $pair['a'], 'weight' => $pair['weight'], 'tilt' => $pair['tilt']];
            }
            $x = $n > self::MANY
                ? $equations->solveSparse($still, array_map(fn (PreparedPass $pass) => $pass->looksFrom(), $this->passes), $breathe)
                : $equations->solve($still);
            $progress->advance('all together', ($round + 1) / $maxRounds);
            $largest = 0.0;
            foreach ($this->passes as $i => $pass) {
                if (in_array($i, $still, true)) {
                    continue;
                }
                $step = array_slice($x, 6 * $i, 6);
                $largest = max($largest, PoseStep::size($step));
                // One that was sent farther is left alone for a round: its next step tells nothing of how it comes nearer.
                $further = $reach <= $this->least && isset($last[$i]) ? PoseStep::further($step, $last[$i]) : 1.0;
                $last[$i] = $further > 1.0 ? null : $step;
                $pass->transform = $pass->transform->then(PoseStep::motion(array_map(fn (float $v) => $further * $v, $step)));
            }
            $converged = $natural && $largest < ($isFirst && $n <= self::MANY ? self::CONVERGED_FIRST : self::CONVERGED) * $this->least;
            if ($n > self::MANY) {
                // Among many there is always one that chatters: what counts is whether all of them fit any better.
                $residual = sqrt(array_sum(array_map(fn (array $pair) => $pair['residual'] ** 2, $report)) / max(1, count($report)));
                $stale = $natural && abs($before - $residual) < self::NO_BETTER * $residual ? $stale + 1 : 0;
                $converged = $converged || $stale === self::STALE;
                $before = $natural ? $residual : INF;
                $settled = $settled || $largest < self::SETTLED * $this->least;
            }
            $reach = max($this->least, 0.75 * $reach);
        }

        return ['rounds' => $round, 'pairs' => $report, 'converged' => $converged];
    }

    /**
     * The equations of all pairs as the passes stand, each found by one of the crew.
     *
     * @param  int  $count  of pairs
     * @param  callable(): void  $breathe
     * @return list<array{a: list<float>, b: list<float>, pairs: int, weight: float, squares: float, tilt: float}>
     */
    private function shares(WorkerPool $crew, int $count, float $reach, int $every, float $leastScale, callable $breathe): array
    {
        $question = pack('Pe2', $every, $reach, $leastScale).Packed::doubles(array_merge(...array_map(fn (PreparedPass $pass) => $pass->transform->matrix, $this->passes)));
        $answers = array_map(Packed::toDoubles(...), $crew->ask($question, $breathe));
        $shares = [];
        for ($k = 0, $of = count($answers); $k < $count; $k++) {
            $numbers = array_slice($answers[$k % $of], 31 * intdiv($k, $of), 31);
            $shares[] = ['a' => array_slice($numbers, 0, 21), 'b' => array_slice($numbers, 21, 6), 'pairs' => (int) $numbers[27], 'weight' => $numbers[28], 'squares' => $numbers[29], 'tilt' => $numbers[30]];
        }

        return $shares;
    }

    /**
     * One worker's answer to that question: 31 numbers for each pair of its share.
     *
     * @param  list<array{int, int}>  $pairs
     */
    private function share(string $question, array $pairs, int $number, int $of): string
    {
        /** @var array{every: int, reach: float, scale: float} $how */
        $how = unpack('Pevery/ereach/escale', $question);
        foreach (array_chunk(Packed::toDoubles(substr($question, 24)), 16) as $k => $matrix) {
            $pass = $this->passes[$k];
            $pass->transform = RigidTransform::fromMatrix($matrix);
        }
        $numbers = [];
        for ($k = $number; $k < count($pairs); $k += $of) {
            $pair = $this->pairs->of($pairs[$k][0], $pairs[$k][1], $how['reach'], $how['every'], $how['scale']);
            array_push($numbers, ...$pair['a'], ...$pair['b'], ...[(float) $pair['pairs'], $pair['weight'], $pair['squares'], $pair['tilt']]);
        }

        return Packed::doubles($numbers);
    }
}
