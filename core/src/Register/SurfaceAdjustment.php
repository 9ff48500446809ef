<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Icp\SurfacePatches;
use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Linear\SparseCholesky;
use Emberstone\Core\Algorithms\Linear\SymmetricEigen;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Parallel\WorkerPool;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * The last stage of registering: adjusts the poses of all passes at once so that the passes agree on the surface they saw in common, and tells how well the points know each pose.
 *
 * Best fit pairs points with nearest points and takes normals that blend across edges; both pull the poses (pedestal, ten passes: 0.06 mm along the direction in which little but edges ties the turned-over
 * passes to the others, also when begun from the true poses). Here no points are paired: see SurfacePatches.
 *
 * Source    Gauss-Newton over shared patches (Liu & Zhang 2021); directions that are held by no more than the noise of the patches' slopes are not moved along (Zhang, Kaess & Singh 2016, "On Degeneracy
 *           of Optimization-based State Estimation Problems").
 * Input     passes within about a spacing of their places.
 * Cost      a round about 1 us a point and process; 4 to 8 rounds.
 *
 * @internal
 *
 * @phpstan-import-type Equations from SurfacePatches
 *
 * @phpstan-type PoseError array{shiftMm: float, turnDeg: float, direction: array{float, float, float}, isHeld: bool}
 */
final class SurfaceAdjustment
{
    /**
     * Edge of the smallest cells in median spacings of the points. Worst errors of ten to twelve passes begun 0.1 mm off, for 4 and 5: pedestal of 27 k points 0.015 and 0.019 mm, of 75 k 0.009 and 0.007, cap 0.015,
     * finial 0.013 and 0.012; with 3 a pedestal pass stayed 0.036 mm off.
     */
    private const CELL = 5.0;

    /** Rounds before the averaging begins, at most. */
    private const ROUNDS = 8;

    /** The averaging begins when no pass moves farther than this multiple of the points' spread about the patches. */
    private const SETTLED = 0.5;

    /** Places of the cells over which the solutions are averaged: chance decides which patches hold a bit of an edge. */
    private const AVERAGED = 4;

    /** The cells of round k stand aside by the fractional part of k times this (the golden ratio less one: no two places are near each other). */
    private const ASIDE = 0.6180339887498949;

    /**
     * A direction counts as held from this multiple on of what the noise of slopes feigns, which would be 1 where nothing holds it. Measured: the turned-over passes of the ratchet wheel along its axis, which
     * no surface that both saw holds, 0.8 to 2.0; those of the pedestal along its bore 30 to 47.
     */
    private const ABOVE_NOISE = 2.5;

    /**
     * And when its standard error is no more than one and a half times the spread of the points (held, less what is feigned, is the inverse of its square): best fit leaves less than that. Without this
     * pedestal passes of 6 k points went 0.46 mm along their bore.
     */
    private const KNOWN = 0.44;

    /** Of more unknowns than this no eigenvectors are found; what feigned information holds is damped instead. */
    private const DENSE = 100;

    /** Damping of the sparse solution, as a multiple of what the noise of slopes feigns. */
    private const DAMPING = 10.0;

    /** Points in all that take part; more are thinned evenly. Twelve pedestal passes of 75 k points end within 0.008 mm with 400 k of them, in a third of the time of all. */
    private const POINTS = 400_000;

    /** The points of a capture part into this many stretches, one after the other as they came: longer than what drifts together (a frame or two of twenty). */
    private const STRETCHES = 12;

    /** Groups of stretches, one of which is left out at a time to see by how much the poses depend on it: eight tell a standard error to a quarter. */
    private const GROUPS = 8;

    /** Which group the next pass begins with: the passes of one group are left out at different places. */
    private const GROUPS_ASIDE = 3;

    /** @var list<array<int, float>> flat xyz a pass, in its own coordinates */
    private readonly array $points;

    /** @var list<list<int>> the group of stretches that each of these points belongs to */
    private readonly array $groups;

    /** @var list<array<int, float>> */
    private readonly array $normals;

    private readonly float $cell;

    /** Half the size of a usual pass, mm: turns count by how far they move its rim. */
    private readonly float $arm;

    /** @param  list<PreparedPass>  $passes */
    public function __construct(private readonly array $passes)
    {
        $all = array_sum(array_map(fn (PreparedPass $pass) => count($pass->tree->order), $passes));
        $every = max(1, (int) ceil($all / self::POINTS));
        $points = $normals = $groups = [];
        foreach ($passes as $k => $pass) {
            $points[] = self::thinned($pass->tree->sorted, $every);
            $normals[] = self::thinned($pass->treeNormals, $every);
            $groups[] = self::groupsOf($pass->tree->order, $every, self::GROUPS_ASIDE * $k);
        }
        [$this->points, $this->normals, $this->groups] = [$points, $normals, $groups];
        $this->cell = self::CELL * sqrt($every) * Median::of(array_map(fn (PreparedPass $pass) => $pass->spacing, $passes));
        $this->arm = Median::of(array_map(fn (PreparedPass $pass) => $pass->size(), $passes));
    }

    /**
     * @param  list<int>  $still  passes that do not move
     * @param  bool  $settlesAgain  where a pass is not held in some direction the caller goes on and settles anew: standard errors of this time are not wanted then, and are those of independent points
     * @return array{rounds: int, converged: bool, spreadMm: float|null, errors: list<PoseError|null>} spread of the points about the surface; the standard error of each pose that moved: of the middle of the pass in the worst
     *                                                                                             direction, and of its turn; null for those that stay and where nothing is shared
     */
    public function settle(array $still, Progress $progress, bool $settlesAgain = false): array
    {
        $free = array_values(array_diff(array_keys($this->passes), $still));
        if ($free === []) {
            return ['rounds' => 0, 'converged' => true, 'spreadMm' => null, 'errors' => array_fill(0, count($this->passes), null)];
        }
        $crew = WorkerPool::of(min(Cores::count(), SurfacePatches::SLICES), fn (string $question, int $number, int $of): string => $this->share($question, $number, $of));
        $averaged = 0;
        $most = self::ROUNDS + self::AVERAGED;
        for ($round = 0; $round < $most && $averaged < self::AVERAGED; $round++) {
            $equations = $this->equations($crew, $this->cell * fmod(self::ASIDE * $round, 1.0), fn () => $progress->advance('surface', ($round + 0.5) / $most));
            if ($equations['freedoms'] < 6 * count($free)) {
                return ['rounds' => $round, 'converged' => false, 'spreadMm' => null, 'errors' => array_fill(0, count($this->passes), null)];
            }
            $spread = sqrt($equations['squares'] / $equations['freedoms']);
            $solution = $this->solved($equations, $free, $spread);
            $largest = 0.0;
            foreach ($free as $k => $pass) {
                $largest = max($largest, $this->size(array_slice($solution['step'], 6 * $k, 6)));
            }
            // The k-th solution with weight 1 / k: the poses become the mean of all of them (Robbins & Monro 1951).
            $averaged = $averaged > 0 || $largest < self::SETTLED * $spread ? $averaged + 1 : 0;
            foreach ($free as $k => $pass) {
                $moving = $this->passes[$pass];
                $moving->transform = $moving->transform->then(PoseStep::motion(array_map(fn (float $v) => $v / max(1, $averaged), array_slice($solution['step'], 6 * $k, 6))));
            }
            $progress->advance('surface', ($round + 1) / $most);
        }
        $isLoose = array_filter($free, fn (int $pass, int $k) => ! ($this->poseError($solution, [], $k, $this->passes[$pass])['isHeld'] ?? true), ARRAY_FILTER_USE_BOTH) !== [];
        $without = [];
        for ($group = 0; $group < self::GROUPS && $solution['values'] !== [] && ! ($settlesAgain && $isLoose); $group++) {
            $equations = $this->equations($crew, $this->cell * fmod(self::ASIDE * $group, 1.0), fn () => null, $group);
            $without[] = $equations['freedoms'] < 6 * count($free) ? null : $this->solved($equations, $free, $spread)['step'];
        }
        $progress->advance('surface', 1.0);
        $errors = array_fill(0, count($this->passes), null);
        foreach ($free as $k => $pass) {
            $errors[$pass] = $this->poseError($solution, $without, $k, $this->passes[$pass]);
        }

        return ['rounds' => $round, 'converged' => $averaged === self::AVERAGED, 'spreadMm' => $spread, 'errors' => $errors];
    }

    /**
     * How far a step moves the rim of a pass in the middle of them all, mm.
     *
     * @param  list<float>  $step  turn (rad) and shift (mm)
     */
    private function size(array $step): float
    {
        return sqrt($step[3] ** 2 + $step[4] ** 2 + $step[5] ** 2) + $this->arm * sqrt($step[0] ** 2 + $step[1] ** 2 + $step[2] ** 2);
    }

    /**
     * @param  array<int, float>  $values  flat xyz
     * @return list<float>
     */
    private static function thinned(array $values, int $every): array
    {
        if ($every === 1) {
            return array_values($values);
        }
        $some = [];
        for ($o = 0, $e = count($values); $o < $e; $o += 3 * $every) {
            $some[] = $values[$o];
            $some[] = $values[$o + 1];
            $some[] = $values[$o + 2];
        }

        return $some;
    }

    /**
     * @param  array<int, int>  $order  the points of a pass as they came, in the order of its tree
     * @return list<int> of one point in $every, as thinned() takes them
     */
    private static function groupsOf(array $order, int $every, int $aside): array
    {
        $groups = [];
        $many = count($order);
        for ($k = 0; $k < $many; $k += $every) {
            $groups[] = (intdiv(self::STRETCHES * $order[$k], $many) + $aside) % self::GROUPS;
        }

        return $groups;
    }

    /**
     * @param  callable(): void  $breathe
     * @param  int  $without  the group of stretches that is left out
     * @return Equations
     */
    private function equations(WorkerPool $crew, float $aside, callable $breathe, int $without = -1): array
    {
        $question = pack('ee', $aside, $without).Packed::doubles(array_merge(...array_map(fn (PreparedPass $pass) => $pass->transform->matrix, $this->passes)));
        $answers = array_map(Packed::toDoubles(...), $crew->ask($question, $breathe));
        $sum = ['blocks' => [], 'noise' => [], 'right' => [], 'squares' => 0.0, 'freedoms' => 0, 'patches' => 0];
        $at = array_fill(0, count($answers), 0);
        // In the order of the slices, whoever found them.
        for ($slice = 0; $slice < SurfacePatches::SLICES; $slice++) {
            $who = $slice % count($answers);
            $numbers = $answers[$who];
            [$squares, $freedoms, $patches, $blocks, $rights] = array_slice($numbers, $at[$who], 5);
            $o = $at[$who] + 5;
            $sum['squares'] += $squares;
            $sum['freedoms'] += (int) $freedoms;
            $sum['patches'] += (int) $patches;
            for ($k = 0; $k < $blocks; $k++, $o += 73) {
                $key = (int) $numbers[$o];
                self::accumulate($sum['blocks'], $key, array_slice($numbers, $o + 1, 36));
                self::accumulate($sum['noise'], $key, array_slice($numbers, $o + 37, 36));
            }
            for ($k = 0; $k < $rights; $k++, $o += 7) {
                self::accumulate($sum['right'], (int) $numbers[$o], array_slice($numbers, $o + 1, 6));
            }
            $at[$who] = $o;
        }

        return $sum;
    }

    /**
     * @param  array<int, list<float>>  $rows  (changed)
     * @param  list<float>  $values
     */
    private static function accumulate(array &$rows, int $key, array $values): void
    {
        if (! isset($rows[$key])) {
            $rows[$key] = $values;

            return;
        }
        foreach ($values as $k => $v) {
            $rows[$key][$k] += $v;
        }
    }

    /** One worker's answer: for each of its slices the sums, the number of blocks and right sides, and these with their keys. */
    private function share(string $question, int $number, int $of): string
    {
        $p = $n = $pass = [];
        $numbers = Packed::toDoubles($question);
        $aside = array_shift($numbers) ?? 0.0;
        $without = (int) array_shift($numbers);
        foreach (array_chunk($numbers, 16) as $k => $matrix) {
            $transform = RigidTransform::fromMatrix($matrix);
            foreach ($transform->points($this->points[$k]) as $v) {
                $p[] = $v;
            }
            foreach ($transform->directions($this->normals[$k]) as $v) {
                $n[] = $v;
            }
            foreach ($this->groups[$k] as $group) {
                if ($group === $without) {
                    // A point without a normal takes no part.
                    $n[3 * count($pass)] = $n[3 * count($pass) + 1] = $n[3 * count($pass) + 2] = 0.0;
                }
                $pass[] = $k;
            }
        }
        $weights = array_map(fn (PreparedPass $one) => $one->trust, $this->passes);
        $numbers = [];
        for ($slice = $number; $slice < SurfacePatches::SLICES; $slice += $of) {
            $found = SurfacePatches::equations($p, $n, $pass, $weights, $this->cell, $aside, $slice);
            array_push($numbers, $found['squares'], (float) $found['freedoms'], (float) $found['patches'], (float) count($found['blocks']), (float) count($found['right']));
            foreach ($found['blocks'] as $key => $block) {
                array_push($numbers, (float) $key, ...$block, ...$found['noise'][$key]);
            }
            foreach ($found['right'] as $key => $right) {
                array_push($numbers, (float) $key, ...$right);
            }
        }

        return Packed::doubles($numbers);
    }

    /**
     * The step of the free passes, and what tells their errors.
     *
     * @param  Equations  $equations
     * @param  list<int>  $free
     * @return array{step: list<float>, spread: float, values: list<float>, vectors: list<list<float>>, loose: list<list<float>>} values and vectors: of what is held, turns in units of 1 / arm; loose: directions that nothing holds; both empty where the passes are many
     */
    private function solved(array $equations, array $free, float $spread): array
    {
        $size = 6 * count($free);
        $noiseFactor = $equations['squares'] / $equations['freedoms'];
        $place = array_flip($free);
        $many = count($this->passes);
        // Turns in units of 1 / arm, so that all unknowns are lengths.
        $unit = array_map(fn (int $k) => $k % 6 < 3 ? 1.0 / $this->arm : 1.0, range(0, $size - 1));
        $rows = $feigned = array_fill(0, $size, []);
        foreach ($equations['blocks'] as $key => $block) {
            [$i, $j] = [$place[intdiv($key, $many)] ?? null, $place[$key % $many] ?? null];
            if ($i === null || $j === null) {
                continue;
            }
            foreach ($block as $e => $v) {
                [$r, $c] = [6 * $i + intdiv($e, 6), 6 * $j + $e % 6];
                $rows[$r][$c] = $rows[$c][$r] = $v * $unit[$r] * $unit[$c];
                $feigned[$r][$c] = $feigned[$c][$r] = $noiseFactor * $equations['noise'][$key][$e] * $unit[$r] * $unit[$c];
            }
        }
        $right = array_fill(0, $size, 0.0);
        foreach ($equations['right'] as $pass => $six) {
            foreach (isset($place[$pass]) ? $six : [] as $e => $v) {
                $right[6 * $place[$pass] + $e] = -$v * $unit[6 * $place[$pass] + $e];
            }
        }
        $solution = $size > self::DENSE ? $this->damped($rows, $feigned, $right, $free) : self::truncated($rows, $feigned, $right);

        return ['step' => array_map(fn (float $v, float $w) => $v * $w, $solution['step'], $unit), 'spread' => $spread] + $solution;
    }

    /**
     * @param  list<array<int, float>>  $rows
     * @param  list<array<int, float>>  $feigned
     * @param  list<float>  $right
     * @return array{step: list<float>, values: list<float>, vectors: list<list<float>>, loose: list<list<float>>}
     */
    private static function truncated(array $rows, array $feigned, array $right): array
    {
        $size = count($rows);
        $dense = array_fill(0, $size * $size, 0.0);
        foreach ($rows as $r => $row) {
            foreach ($row as $c => $v) {
                $dense[$r * $size + $c] = $v;
            }
        }
        $found = SymmetricEigen::of($dense, $size);
        $step = array_fill(0, $size, 0.0);
        $values = $vectors = $loose = [];
        $least = 1e-9 * max(1e-300, end($found['values']));
        foreach ($found['vectors'] as $k => $vector) {
            $noise = 0.0;
            foreach ($feigned as $r => $row) {
                $sum = 0.0;
                foreach ($row as $c => $v) {
                    $sum += $v * $vector[$c];
                }
                $noise += $vector[$r] * $sum;
            }
            $held = $found['values'][$k];
            if ($held <= $least || $held < self::ABOVE_NOISE * $noise || $held - $noise < self::KNOWN) {
                $loose[] = $vector;

                continue;
            }
            $along = 0.0;
            foreach ($vector as $r => $v) {
                $along += $v * $right[$r];
            }
            foreach ($vector as $r => $v) {
                $step[$r] += $v * $along / $held;
            }
            // What is feigned tells nothing of the place.
            $values[] = $held - $noise;
            $vectors[] = $vector;
        }

        return ['step' => $step, 'values' => $values, 'vectors' => $vectors, 'loose' => $loose];
    }

    /**
     * @param  list<array<int, float>>  $rows
     * @param  list<array<int, float>>  $feigned
     * @param  list<float>  $right
     * @param  list<int>  $free
     * @return array{step: list<float>, values: list<float>, vectors: list<list<float>>, loose: list<list<float>>}
     */
    private function damped(array $rows, array $feigned, array $right, array $free): array
    {
        $most = max(1e-300, ...array_map(fn (int $r) => $rows[$r][$r] ?? 0.0, array_keys($rows)));
        foreach ($feigned as $r => $row) {
            foreach ($row as $c => $v) {
                $rows[$r][$c] += self::DAMPING * $v;
            }
            $rows[$r][$r] = ($rows[$r][$r] ?? 0.0) + 1e-9 * $most;
        }
        $places = array_merge(...array_map(fn (int $pass) => array_fill(0, 6, $this->passes[$pass]->looksFrom()), $free));

        return ['step' => SparseCholesky::solve($rows, $right, 1, $places, fn () => null) ?? array_fill(0, count($rows), 0.0), 'values' => [], 'vectors' => [], 'loose' => []];
    }

    /**
     * The larger of two standard errors: that of independent points, and that of a jackknife which leaves out a group of stretches of the captures at a time. Points of a hand-held pass are not independent: a frame
     * that drifts by a fifth of the noise puts the poses several times as far off as independent points would (core/bench/coverage.php).
     *
     * Source    Tukey 1958, "Bias and confidence in not quite large samples"; groups of dependent observations: Kunsch 1989, "The Jackknife and the Bootstrap for General Stationary Observations".
     *
     * @param  array{step: list<float>, spread: float, values: list<float>, vectors: list<list<float>>, loose: list<list<float>>}  $solution
     * @param  list<list<float>|null>  $without  the step that all points but a group's ask for: turns (rad) and shifts (mm); null where these tell no poses
     * @return PoseError|null
     */
    private function poseError(array $solution, array $without, int $place, PreparedPass $pass): ?array
    {
        if ($solution['values'] === [] && $solution['loose'] === []) {
            return null;
        }
        $middle = $pass->transform->point($pass->middle());
        $shift = $turn = $shiftWithout = $turnWithout = $free = array_fill(0, 9, 0.0);
        foreach ($solution['vectors'] as $k => $vector) {
            $this->addSquares($shift, $turn, $solution['spread'] ** 2 / $solution['values'][$k], array_slice($vector, 6 * $place, 6), $middle);
        }
        $steps = array_values(array_filter($without));
        $many = max(1, count($steps));
        $mean = array_map(fn (int $r) => array_sum(array_column($steps, 6 * $place + $r)) / $many, range(0, 5));
        foreach ($steps as $step) {
            $six = array_map(fn (int $r) => ($step[6 * $place + $r] - $mean[$r]) * ($r < 3 ? $this->arm : 1.0), range(0, 5));
            $this->addSquares($shiftWithout, $turnWithout, ($many - 1.0) / $many, $six, $middle);
        }
        $loosest = 0.0;
        foreach ($solution['loose'] as $vector) {
            [$a, $b] = $this->atMiddle(array_slice($vector, 6 * $place, 6), $middle);
            for ($e = 0; $e < 9; $e++) {
                $free[$e] += $b[intdiv($e, 3)] * $b[$e % 3] + $this->arm ** 2 * $a[intdiv($e, 3)] * $a[$e % 3];
            }
            $loosest = max($loosest, $b[0] ** 2 + $b[1] ** 2 + $b[2] ** 2 + $this->arm ** 2 * ($a[0] ** 2 + $a[1] ** 2 + $a[2] ** 2));
        }
        $isHeld = $loosest < 0.01;
        $worst = SymmetricEigen::of($isHeld ? $shift : $free, 3);
        [$x, $y, $z] = $worst['vectors'][2];

        $most = fn (array $one, array $other): float => sqrt(max(0.0, ...SymmetricEigen::of($one, 3)['values'], ...SymmetricEigen::of($other, 3)['values']));

        return ['shiftMm' => $most($shift, $shiftWithout), 'turnDeg' => rad2deg($most($turn, $turnWithout)), 'direction' => [$x, $y, $z], 'isHeld' => $isHeld];
    }

    /**
     * @param  array<int, float>  $shift  3 x 3, of the middle (changed)
     * @param  array<int, float>  $turn  3 x 3 (changed)
     * @param  list<float>  $six  turn in units of 1 / arm, shift of the origin
     * @param  array{float, float, float}  $middle
     */
    private function addSquares(array &$shift, array &$turn, float $weight, array $six, array $middle): void
    {
        [$a, $b] = $this->atMiddle($six, $middle);
        for ($e = 0; $e < 9; $e++) {
            $turn[$e] += $weight * $a[intdiv($e, 3)] * $a[$e % 3];
            $shift[$e] += $weight * $b[intdiv($e, 3)] * $b[$e % 3];
        }
    }

    /**
     * @param  list<float>  $six  turn in units of 1 / arm, shift of the origin
     * @param  array{float, float, float}  $middle
     * @return array{array{float, float, float}, array{float, float, float}} turn in rad, shift of the middle
     */
    private function atMiddle(array $six, array $middle): array
    {
        [$x, $y, $z] = array_map(fn (float $v) => $v / $this->arm, array_slice($six, 0, 3));

        return [[$x, $y, $z], [$six[3] + $y * $middle[2] - $z * $middle[1], $six[4] + $z * $middle[0] - $x * $middle[2], $six[5] + $x * $middle[1] - $y * $middle[0]]];
    }
}
