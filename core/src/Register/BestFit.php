<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Linear\Dense;
use Emberstone\Core\Operation\Progress;
use Emberstone\Core\Parallel\Cores;
use Emberstone\Core\Parallel\Crew;
use Emberstone\Core\Parallel\Packed;
use Emberstone\Core\Register\Kernel\Partners;
use Emberstone\Core\Register\Kernel\Tighten;

/**
 * Brings placed passes together: pair by pair along the strongest overlaps, then all of them at once.
 *
 * All at once is one least squares over the six freedoms of every pass but those that stay: error does not pile up around a loop
 * (Pulli 1999; here solved jointly over point pairs, renewed each round).
 */
final class BestFit
{
    /** Partners are remembered for so many samples in all, some 80 bytes each; further pairs are searched anew in every round. */
    private const REMEMBERED = 3_000_000;

    /** With fewer samples in all, other processes take longer to start than they save. */
    private const ALONE = 20_000;

    /** Of more passes than this, every two are looked at with few samples, and the equations are solved as the sparse ones that they are. */
    private const MANY = 16;

    /** Samples with which two of many passes are looked at. */
    private const GLANCE = 150;

    /** Many passes have settled when no step is longer than this share of the finest reach, and fit no better when the residual changes by less than that share, so many rounds on end. */
    private const SETTLED = 0.02;

    private const NO_BETTER = 1e-3;

    private const STALE = 3;

    /** Turns count as far as they move what is so far from the origin of the project, mm. */
    private const ARM = 100.0;

    /** A step that is more than this share of the one before, and nearly the same way (cosine), is one of sliding; it is made so many times as long at most. */
    private const SLIDES = 0.5;

    private const SAME_WAY = 0.8;

    private const FARTHEST = 6.0;

    /** @var array<string, array{every: int, samples: int, partners: Partners}> by pair of passes */
    private array $remembered = [];

    /**
     * @param  list<PreparedPass>  $passes
     * @param  float  $least  finest distance between partners in the last rounds, mm
     */
    public function __construct(
        private readonly array $passes,
        private readonly float $maxDistance,
        private readonly float $least,
    ) {
    }

    /**
     * The share of each pass' samples that lie within reach of each other pass as they stand.
     *
     * @return array<int, array<int, float>>
     */
    public function overlaps(float $reach): array
    {
        $overlap = [];
        $isMany = count($this->passes) > self::MANY;
        foreach ($this->passes as $i => $a) {
            $every = $isMany ? max(3, intdiv($a->sampleCount(), self::GLANCE)) : 3;
            foreach ($this->passes as $j => $b) {
                if ($i === $j) {
                    continue;
                }
                $pair = $this->equations($i, $j, $reach, $every, 0.2 * $reach, ! $isMany);
                $overlap[$i][$j] = $pair['pairs'] / max(1, intdiv($a->sampleCount() + $every - 1, $every));
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
        $pair = $this->equations($pass, $on, $reach, $every, 0.0);

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
                        $pair = $this->equations($one, $other, $reach, $every, 0.2 * $reach);
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
                $step = self::solve(self::damped($a, $weight), $b);
                foreach ($moving as $one) {
                    $pass = $this->passes[$one];
                    $pass->transform = $pass->transform->then(self::motion($step));
                }
                $residual = sqrt($squares / max(1e-300, $weight));
                $rounds++;
                if (self::size($step) < 0.02 * $reach) {
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
     * A little resistance to every motion (Levenberg 1944): shapes that can slide on each other are not sent far along.
     *
     * @param  list<float>  $a  upper triangle
     * @return list<float>
     */
    private static function damped(array $a, float $weight): array
    {
        $turn = $a[0] + $a[Tighten::upper(1, 1)] + $a[Tighten::upper(2, 2)];
        for ($k = 0; $k < 6; $k++) {
            $a[Tighten::upper($k, $k)] += 0.005 * ($k < 3 ? $turn / 3.0 : $weight / 3.0);
        }

        return $a;
    }

    /**
     * All passes at once.
     *
     * @param  list<array{int, int}>  $pairs  (moving, still) in both directions where they overlap
     * @param  list<int>  $still  passes that do not move
     * @return array{rounds: int, pairs: list<array{residual: float, overlap: float}>, converged: bool}
     */
    public function together(array $pairs, array $still, Progress $progress, int $maxRounds = 32): array
    {
        $n = count($this->passes);
        $converged = false;
        $reach = max($this->least, $this->maxDistance);
        $report = [];
        $settled = false;
        $before = INF;
        $stale = 0;
        $last = [];
        // As many samples as can be remembered.
        $all = array_sum(array_map(fn (array $pair) => $this->passes[$pair[0]]->sampleCount(), $pairs));
        $least = intdiv($all, self::REMEMBERED) + 1;
        $crew = Crew::of($all < self::ALONE ? 1 : min(Cores::count(), count($pairs)), fn (string $question, int $number, int $of): string => $this->share($question, $pairs, $number, $of));
        for ($round = 0; $round < $maxRounds && ! $converged; $round++) {
            $equations = new PoseEquations($n);
            $report = [];
            // While passes still slide on each other, a narrow cut would keep what already fits and drop what pulls.
            $natural = $reach <= $this->least && ($round >= 12 || $settled);
            $every = $natural ? $least : max(3, $least);
            $breathe = fn () => $progress->advance('all together', ($round + 0.5) / $maxRounds);
            foreach ($this->shares($crew, count($pairs), $reach, $every, $natural ? 0.0 : 0.2 * $reach, $breathe) as $k => $pair) {
                [$i, $j] = $pairs[$k];
                $equations->add($i, $j, $pair['a'], $pair['b']);
                $used = intdiv($this->passes[$i]->sampleCount() + $every - 1, $every);
                $report[] = ['residual' => sqrt($pair['squares'] / max(1e-300, $pair['weight'])), 'overlap' => $pair['pairs'] / max(1, $used)];
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
                $largest = max($largest, self::size($step));
                // One that was sent farther is left alone for a round: its next step tells nothing of how it comes nearer.
                $further = $reach <= $this->least && isset($last[$i]) ? self::further($step, $last[$i]) : 1.0;
                $last[$i] = $further > 1.0 ? null : $step;
                $pass->transform = $pass->transform->then(self::motion(array_map(fn (float $v) => $further * $v, $step)));
            }
            // Partners change from round to round; below this the steps are their chatter.
            $converged = $natural && $largest < 3e-3 * $this->least;
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
     * @return list<array{a: list<float>, b: list<float>, pairs: int, weight: float, squares: float}>
     */
    private function shares(Crew $crew, int $count, float $reach, int $every, float $leastScale, callable $breathe): array
    {
        $question = pack('Pe2', $every, $reach, $leastScale).Packed::doubles(array_merge(...array_map(fn (PreparedPass $pass) => $pass->transform->matrix, $this->passes)));
        $answers = array_map(Packed::toDoubles(...), $crew->ask($question, $breathe));
        $shares = [];
        for ($k = 0, $of = count($answers); $k < $count; $k++) {
            $numbers = array_slice($answers[$k % $of], 30 * intdiv($k, $of), 30);
            $shares[] = ['a' => array_slice($numbers, 0, 21), 'b' => array_slice($numbers, 21, 6), 'pairs' => (int) $numbers[27], 'weight' => $numbers[28], 'squares' => $numbers[29]];
        }

        return $shares;
    }

    /**
     * One worker's answer to that question: thirty numbers for each so manieth pair.
     *
     * @param  list<array{int, int}>  $pairs
     */
    private function share(string $question, array $pairs, int $number, int $of): string
    {
        /** @var array{every: int, reach: float, scale: float} $how */
        $how = unpack('Pevery/ereach/escale', $question);
        foreach (array_chunk(Packed::toDoubles(substr($question, 24)), 16) as $k => $matrix) {
            $pass = $this->passes[$k];
            $pass->transform = Transform::fromMatrix($matrix);
        }
        $numbers = [];
        for ($k = $number; $k < count($pairs); $k += $of) {
            $pair = $this->equations($pairs[$k][0], $pairs[$k][1], $how['reach'], $how['every'], $how['scale']);
            array_push($numbers, ...$pair['a'], ...$pair['b'], ...[(float) $pair['pairs'], $pair['weight'], $pair['squares']]);
        }

        return Packed::doubles($numbers);
    }

    /** @return array{a: list<float>, b: list<float>, pairs: int, near: int, weight: float, squares: float, scale: float} */
    private function equations(int $moving, int $still, float $reach, int $every, float $leastScale, bool $remember = true): array
    {
        $a = $this->passes[$moving];
        $b = $this->passes[$still];
        [$p, $n, $q] = [$a->samples, $a->sampleNormals, $a->quality];
        if ($every > 1) {
            $p = $n = $q = [];
            for ($i = 0, $m = $a->sampleCount(); $i < $m; $i += $every) {
                $o = 3 * $i;
                $p[] = $a->samples[$o];
                $p[] = $a->samples[$o + 1];
                $p[] = $a->samples[$o + 2];
                $n[] = $a->sampleNormals[$o];
                $n[] = $a->sampleNormals[$o + 1];
                $n[] = $a->sampleNormals[$o + 2];
                $q[] = $a->quality[$i];
            }
        }

        $pair = Tighten::pair($p, $n, $q, $a->transform->matrix, $remember ? $this->partners($moving, $still, $every, count($q)) : new Partners($b->tree), $b->treeNormals, $b->transform->matrix, $b->transform->inverse()->matrix, $reach, max($leastScale, 0.02 * $b->spacing));
        // Both ends are noisy: their variances add up.
        $trust = 2.0 / (1.0 / $a->trust + 1.0 / $b->trust);
        foreach (['a', 'b'] as $part) {
            $pair[$part] = array_map(fn (float $v) => $trust * $v, $pair[$part]);
        }

        return ['weight' => $trust * $pair['weight'], 'squares' => $trust * $pair['squares']] + $pair;
    }

    private function partners(int $moving, int $still, int $every, int $samples): Partners
    {
        $pair = "$moving-$still";
        if (($this->remembered[$pair]['every'] ?? $every) !== $every) {
            unset($this->remembered[$pair]);
        }
        $partners = $this->remembered[$pair]['partners'] ?? new Partners($this->passes[$still]->tree);
        if (array_sum(array_column($this->remembered, 'samples')) + $samples <= self::REMEMBERED) {
            $this->remembered[$pair] = ['every' => $every, 'samples' => $samples, 'partners' => $partners];
        }

        return $partners;
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
                $h[] = $a[Tighten::upper($r, $c)];
            }
        }

        return Dense::solve($h, array_map(fn (float $v) => -$v, $b), 6);
    }

    /** @param  list<float>  $step turn (rad) and shift */
    private static function motion(array $step): Transform
    {
        $angle = sqrt($step[0] ** 2 + $step[1] ** 2 + $step[2] ** 2);

        return Transform::turn(array_slice($step, 0, 3), $angle)->then(Transform::shift($step[3], $step[4], $step[5]));
    }

    /**
     * How much farther to go than a step: what slides comes nearer by the same share in every round, and where that leads is known (Aitken 1926).
     *
     * @param  list<float>  $step
     * @param  list<float>  $before  the step of the round before
     */
    private static function further(array $step, array $before): float
    {
        $along = $length = 0.0;
        foreach ($step as $k => $v) {
            $w = $k < 3 ? self::ARM * self::ARM : 1.0;
            $along += $w * $v * $before[$k];
            $length += $w * $before[$k] * $before[$k];
        }
        $share = $length > 0.0 ? $along / $length : 0.0;

        return $share > self::SLIDES && $share < 1.0 && $along > self::SAME_WAY * sqrt($length) * self::size($step) ? min(self::FARTHEST, 1.0 / (1.0 - $share)) : 1.0;
    }

    /**
     * How far a step moves things, in mm on an object of 100 mm around the origin of the project.
     *
     * @param  list<float>  $step
     */
    private static function size(array $step): float
    {
        return sqrt($step[3] ** 2 + $step[4] ** 2 + $step[5] ** 2) + self::ARM * sqrt($step[0] ** 2 + $step[1] ** 2 + $step[2] ** 2);
    }
}
