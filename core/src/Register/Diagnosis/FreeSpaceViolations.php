<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Diagnosis;

use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Register\Icp;
use Emberstone\Core\Register\PreparedPass;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/**
 * Finds passes that stand where others looked through, and tries other places for them.
 *
 * A best fit can settle in a wrong place with a small residual: what does not fit is cut off as if it did not overlap. What the
 * sensors saw tells: right passes put no sample before each other once strays are left out, a pass 5 mm off some 2 %.
 */
final class FreeSpaceViolations
{
    /** Share of a pair's overlap in space that the other looked through, above which it is no accident. */
    private const MOST = 0.004;

    /** Number of samples from which it is no accident either. */
    private const FEWEST = 4;

    /** So many tries for one pass. */
    private const STARTS = 16;

    /** @param  list<PreparedPass>  $passes */
    public function __construct(
        private readonly Icp $fit,
        private readonly array $passes,
        private readonly float $spacing,
    ) {
    }

    /**
     * The pass that contradicts the others most, and the one it contradicts most; null when all is in order.
     *
     * @param  list<int>  $still  passes that do not move
     * @return array{pass: int, with: int, share: float}|null
     */
    public function worst(array $still): ?array
    {
        $n = count($this->passes);
        $before = $seen = array_fill(0, $n, array_fill(0, $n, 0));
        // Of many passes each is looked at by many.
        $every = 3 * max(1, intdiv($n, 12));
        for ($i = 0; $i < $n; $i++) {
            for ($j = 0; $j < $n; $j++) {
                if ($i === $j) {
                    continue;
                }
                $verdict = $this->fit->judged($i, $j, 2.0 * $this->spacing, $every);
                foreach ([[$i, $j], [$j, $i]] as [$a, $b]) {
                    $before[$a][$b] += $verdict['before'];
                    $seen[$a][$b] += $verdict['before'] + $verdict['agree'];
                }
            }
        }
        $worst = null;
        $most = 0.0;
        for ($k = 0; $k < $n; $k++) {
            $share = array_map(fn (int $of, int $all) => $of >= self::FEWEST ? $of / $all : 0.0, $before[$k], $seen[$k]);
            // Both passes of a pair look bad; the one that more others speak against is the one.
            $against = array_sum($before[$k]) / max(1, array_sum($seen[$k]));
            if (! in_array($k, $still, true) && max($share) > self::MOST && $against > $most) {
                $most = $against;
                $worst = ['pass' => $k, 'with' => (int) array_search(max($share), $share, true), 'share' => max($share)];
            }
        }

        return $worst;
    }

    /** Tries a pass from many starts around where the scanner put it and leaves it at the best place found. */
    public function retry(int $pass, RigidTransform $captured, float $maxDistance): void
    {
        $moving = $this->passes[$pass];
        $others = array_values(array_diff(array_keys($this->passes), [$pass]));
        $centre = $moving->transform->point(array_slice($moving->samples, 0, 3));
        $size = $moving->size();
        $random = new Randomizer(new Xoshiro256StarStar($pass + 1));
        $even = fn (float $most): float => $most * ($random->getInt(-1000, 1000) / 1000.0);
        $best = $moving->transform;
        $bestScore = $this->score($pass, $others);
        for ($k = 0; $k < self::STARTS; $k++) {
            $moving->transform = $captured;
            if ($k > 0) {
                $turn = [$even(1.0), $even(1.0), $even(1.0)];
                $angle = $maxDistance / $size * sqrt($turn[0] ** 2 + $turn[1] ** 2 + $turn[2] ** 2);
                $moving->transform = $captured
                    ->then(RigidTransform::shift(-$centre[0], -$centre[1], -$centre[2]))
                    ->then(RigidTransform::turn($turn, $angle))
                    ->then(RigidTransform::shift($centre[0] + $even(0.7 * $maxDistance), $centre[1] + $even(0.7 * $maxDistance), $centre[2] + $even(0.7 * $maxDistance)));
            }
            $this->fit->onto([$pass], $others, 9);
            $score = $this->score($pass, $others);
            if ($score > $bestScore) {
                $bestScore = $score;
                $best = $moving->transform;
            }
        }
        $moving->transform = $best;
    }

    /** @param  list<int>  $others */
    private function score(int $pass, array $others): int
    {
        $score = 0;
        foreach ($others as $other) {
            $there = $this->fit->judged($pass, $other, $this->spacing);
            $back = $this->fit->judged($other, $pass, $this->spacing);
            $score += $there['agree'] + $back['agree'] - 10 * ($there['before'] + $back['before']);
        }

        return $score;
    }
}
