<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Linear\Horn;
use Emberstone\Core\Algorithms\Linear\Symmetric3;
use Emberstone\Core\Algorithms\Linear\SymmetricEigen;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Moves a pass so that picked places fall on their partners: least squares over three pairs or more.
 *
 * Source    Horn 1987. Picks nearly in a line are refused: they leave the turn about that line open.
 *
 * @implements Operation<PairPointsParameters>
 */
final class PairPoints implements Operation
{
    /** Picks whose spread across their own line is below this share of their length leave a turn open. */
    private const LEAST_SPREAD = 0.06;

    /** Below this share the turn is held, but loosely. */
    private const LOOSE_SPREAD = 0.15;

    /** Picks that span less than this share of what moves are crowded. */
    private const CROWDED = 0.3;

    /** Places of a pass that are looked at to see how far it reaches. */
    private const SOME = 2000;

    /** One more pick is asked for beyond this share of a pass' places: farther out lie its strays. */
    private const FAR = 0.85;

    public static function about(): About
    {
        return new About('pair-points', Stage::Register, 'Pair points', 'Brings a pass near the others by picking the same places on both.', 'passes', PairPointsParameters::class, avoid: 'Not where Match or Register finds the place alone.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        ['by' => $by, 'residuals' => $residuals] = self::solve($parameters->pairs);
        $count = count($residuals);
        $moving = self::pass($workpiece, 'moving', $parameters->moving);
        $group = [$moving->id, ...array_map(fn (string $name) => self::pass($workpiece, 'with', $name)->id, $parameters->with)];
        if ($parameters->with !== [] && count(array_intersect(array_column($workpiece->passes, 'id'), $group)) === count($workpiece->passes)) {
            throw InvalidParameter::of('with', 'holds all other passes: none would stay to be brought to');
        }
        $notes = array_filter([self::caution($parameters->pairs, self::some($moving))]);
        $passes = array_map(fn (Pass $pass) => in_array($pass->id, $group, true) ? $pass->moved($pass->transform->then($by)) : $pass, $workpiece->passes);
        $rms = sqrt(array_sum(array_map(fn (float $r) => $r * $r, $residuals)) / $count);

        return new Result($workpiece->withPasses($passes), "$count pairs, residual ".Format::mm($rms), [], ['pairs' => array_map(fn (float $r) => round($r, 4), $residuals), 'residual' => round($rms, 4)], array_values($notes));
    }

    private static function pass(Workpiece $workpiece, string $parameter, string $name): Pass
    {
        foreach ($workpiece->passes as $pass) {
            if ($pass->id === $name || $pass->name === $name) {
                return $pass;
            }
        }
        throw InvalidParameter::of($parameter, "names \"$name\", but the passes are ".implode(', ', array_map(fn (Pass $pass) => $pass->name, $workpiece->passes)));
    }

    /** @return list<array{float, float, float}> places of a pass, evenly chosen from its list */
    private static function some(Pass $pass): array
    {
        $p = $pass->keptCloud()->positions;
        $places = [];
        for ($o = 0, $e = count($p), $step = 3 * (intdiv($e, 3 * self::SOME) + 1); $o < $e; $o += $step) {
            $places[] = $pass->transform->point([$p[$o], $p[$o + 1], $p[$o + 2]]);
        }

        return $places;
    }

    /**
     * What is to be feared of picks that are good enough to be solved: that they hold something loosely.
     *
     * @param  array<int, array{from: array{float, float, float}, to: array{float, float, float}}>  $pairs
     * @param  list<array{float, float, float}>  $places  on what moves, in project coordinates
     * @return string|null null when they hold it well
     */
    public static function caution(array $pairs, array $places): ?string
    {
        $from = array_map(fn (array $pair) => array_map(floatval(...), $pair['from']), array_values($pairs));
        $span = 0.0;
        foreach ($from as $a) {
            foreach ($from as $b) {
                $span = max($span, sqrt(($a[0] - $b[0]) ** 2 + ($a[1] - $b[1]) ** 2 + ($a[2] - $b[2]) ** 2));
            }
        }
        $width = self::width($places);
        if ($span < self::CROWDED * $width) {
            return sprintf('The picks are crowded in one corner: they span %s of about %s. What lies far from them may be several times as far off as they are; spread them.', Format::mm($span), Format::mm($width));
        }
        $values = Symmetric3::ofPoints(array_merge(...$from))['values'];

        return sqrt(max(0.0, $values[1]) / $values[2]) < self::LOOSE_SPREAD ? 'The picks lie nearly in a line: the turn about it is held loosely. One more, well off the line, would help.' : null;
    }

    /**
     * How wide what moves is, its strays aside.
     *
     * @param  list<array{float, float, float}>  $places
     */
    private static function width(array $places): float
    {
        if ($places === []) {
            return 0.0;
        }
        $middle = array_map(fn (int $c) => array_sum(array_column($places, $c)) / count($places), [0, 1, 2]);
        $away = array_map(fn (array $at) => sqrt(($at[0] - $middle[0]) ** 2 + ($at[1] - $middle[1]) ** 2 + ($at[2] - $middle[2]) ** 2), $places);
        sort($away);

        return 2.0 * $away[(int) (self::FAR * (count($away) - 1))];
    }

    /**
     * @param  array<int, array{from: array{float, float, float}, to: array{float, float, float}}>  $pairs
     * @return array{by: RigidTransform, residuals: non-empty-list<float>} of each pair, mm
     *
     * @throws UnsuitableInput for fewer than three, or picks that leave a turn open
     */
    public static function solve(array $pairs): array
    {
        $from = $to = [];
        foreach ($pairs as $pair) {
            array_push($from, ...array_map(floatval(...), $pair['from']));
            array_push($to, ...array_map(floatval(...), $pair['to']));
        }
        if (count($pairs) < 3) {
            throw UnsuitableInput::because('Three pairs are needed; pick '.(3 - count($pairs)).' more.');
        }
        self::refuseLine($from);
        self::refuseLine($to);
        $by = Horn::fit($from, $to);

        return ['by' => $by, 'residuals' => self::residuals($by, $from, $to)];
    }

    /**
     * The place, of those given, where one more pick would help most: where the motion that the picks so far hold least moves things most, strays aside.
     *
     * Source    the least eigenvector of the normal equations of the picks (their information about turn and shift).
     *
     * @param  array<int, array{from: array{float, float, float}, to: array{float, float, float}}>  $pairs
     * @param  non-empty-list<array{float, float, float}>  $places  on what moves, in project coordinates
     * @return array{float, float, float}
     */
    public static function hint(array $pairs, array $places): array
    {
        $centre = array_map(fn (int $c) => array_sum(array_map(fn (array $pair) => (float) $pair['from'][$c], $pairs)) / max(1, count($pairs)), [0, 1, 2]);
        $reach = max(1e-9, 0.5 * BoundingBox::of(array_merge(...$places))->diagonal());
        $rows = function (array $at) use ($centre, $reach): array {
            [$x, $y, $z] = [($at[0] - $centre[0]) / $reach, ($at[1] - $centre[1]) / $reach, ($at[2] - $centre[2]) / $reach];

            return [[0.0, $z, -$y, 1.0, 0.0, 0.0], [-$z, 0.0, $x, 0.0, 1.0, 0.0], [$y, -$x, 0.0, 0.0, 0.0, 1.0]];
        };
        $sum = array_fill(0, 36, 0.0);
        foreach ($pairs as $pair) {
            foreach ($rows($pair['from']) as $row) {
                for ($r = 0; $r < 6; $r++) {
                    for ($c = 0; $c < 6; $c++) {
                        $sum[6 * $r + $c] += $row[$r] * $row[$c];
                    }
                }
            }
        }
        $weakest = SymmetricEigen::of($sum, 6)['vectors'][0];
        $moves = array_map(fn (array $at) => array_sum(array_map(fn (array $row) => array_sum(array_map(fn (float $a, float $b) => $a * $b, $row, $weakest)) ** 2, $rows($at))), $places);
        asort($moves);

        return $places[array_keys($moves)[(int) (self::FAR * (count($moves) - 1))]];
    }

    /** @param  list<float>  $points */
    private static function refuseLine(array $points): void
    {
        $values = Symmetric3::ofPoints($points)['values'];
        if ($values[2] <= 0.0 || sqrt(max(0.0, $values[1]) / $values[2]) < self::LEAST_SPREAD) {
            throw UnsuitableInput::because('The picks lie nearly in a line, which leaves the turn about that line open. Pick one more, well off the line.', $points);
        }
    }

    /**
     * @param  list<float>  $from
     * @param  list<float>  $to
     * @return list<float>
     */
    private static function residuals(RigidTransform $by, array $from, array $to): array
    {
        $moved = $by->points($from);
        $residuals = [];
        for ($o = 0, $n = count($to); $o < $n; $o += 3) {
            $residuals[] = sqrt(($moved[$o] - $to[$o]) ** 2 + ($moved[$o + 1] - $to[$o + 1]) ** 2 + ($moved[$o + 2] - $to[$o + 2]) ** 2);
        }

        return $residuals;
    }
}
