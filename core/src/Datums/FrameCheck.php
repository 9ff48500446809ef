<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Operation\Datum;

/** What the datums measure in the frame that is set: angles to its axes, places, diameters, each with what its fit leaves open. */
final class FrameCheck
{
    private const AXES = ['X', 'Y', 'Z'];

    /**
     * @param  list<Datum>  $datums
     * @return list<array{datum: string, kind: string, what: string, value: float, unit: string, plusMinus: float|null}> mm and degrees; an angle is that to the
     *                                                                                                  nearest axis, which `what` names
     */
    public static function of(array $datums): array
    {
        $rows = [];
        foreach ($datums as $datum) {
            $row = fn (string $what, float $value, string $unit, ?float $plusMinus): array => ['datum' => $datum->name, 'kind' => $datum->kind, 'what' => $what, 'value' => $value, 'unit' => $unit, 'plusMinus' => $plusMinus];
            $open = Uncertainty::of($datum);
            $k = null;
            if ($datum->hasDirection()) {
                [$k, $off] = self::nearestAxis($datum->direction);
                $rows[] = $row(($datum->kind === 'plane' ? 'normal to ' : 'axis to ').self::AXES[$k], $off, 'deg', $open->angleDeg);
            }
            foreach (self::AXES as $axis => $name) {
                // A plane has one place, along its normal; an axis two, across it; all others three.
                if ($k === null || ($datum->kind === 'plane') === ($axis === $k)) {
                    $rows[] = $row($name, $datum->origin[$axis], 'mm', $open->placeMm);
                }
            }
            if ($datum->radius > 0.0) {
                $rows[] = $row('diameter', 2.0 * $datum->radius, 'mm', $open->diameterMm);
            }
        }

        return $rows;
    }

    /**
     * What the datums that locked a frame leave open of it.
     *
     * @param  array<string, string|null>  $locks  see Frame
     * @param  list<Datum>  $datums
     * @return array<string, float|null> a lock: degrees of a turn, mm of a shift; null where it is free or no fit tells
     */
    public static function ofLocks(array $locks, array $datums): array
    {
        $by = array_column(array_map(fn (Datum $datum) => ['name' => $datum->name, 'open' => Uncertainty::of($datum)], $datums), 'open', 'name');
        $out = [];
        foreach ($locks as $lock => $name) {
            $open = $name === null ? null : ($by[$name] ?? null);
            $out[$lock] = str_starts_with($lock, 'turn') ? $open?->angleDeg : $open?->placeMm;
        }

        return $out;
    }

    /**
     * @param  array{float, float, float}  $direction
     * @return array{int, float} number of the axis, degrees to it
     */
    private static function nearestAxis(array $direction): array
    {
        $k = 0;
        foreach ([1, 2] as $axis) {
            $k = abs($direction[$axis]) > abs($direction[$k]) ? $axis : $k;
        }
        // The sine of a small angle keeps the digits that its cosine loses.
        $sine = sqrt($direction[($k + 1) % 3] ** 2 + $direction[($k + 2) % 3] ** 2);

        return [$k, rad2deg(atan2($sine, abs($direction[$k])))];
    }
}
