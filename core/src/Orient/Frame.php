<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Linear\Dense;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Orient\Kernel\ShapeFit;

/** The transform that a choice of datums asks for, and what became of the six freedoms. */
final readonly class Frame
{
    /** Directions closer than this (sine) count as parallel. */
    private const PARALLEL = 0.02;

    /** @param  array<string, string|null>  $locks shiftX ... turnZ => name of the datum that locked it, null while open */
    private function __construct(public Transform $transform, public array $locks)
    {
    }

    /**
     * The first datum's direction takes two turns, the second's the third; shifts go to whoever comes first: a plane locks the
     * one along its normal, an axis the two across, a point all.
     *
     * @param  list<array{datum: Datum, as: string|null}>  $choices  one to three, in order
     *
     * @throws UnsuitableInput when the first datum has no direction, or the second repeats it
     */
    public static function of(array $choices): self
    {
        $locks = array_fill_keys(['shiftX', 'shiftY', 'shiftZ', 'turnX', 'turnY', 'turnZ'], null);
        $rotation = self::rotation($choices, $locks);
        $turn = Transform::of($rotation, [0.0, 0.0, 0.0]);
        $shift = self::shift($choices, $turn, $locks);

        return new self(Transform::of($rotation, $shift), $locks);
    }

    /**
     * @param  list<array{datum: Datum, as: string|null}>  $choices
     * @param  array<string, string|null>  $locks  (changed)
     * @return list<float>
     */
    private static function rotation(array $choices, array &$locks): array
    {
        $first = $choices[0]['datum'];
        if (! self::hasDirection($first)) {
            throw UnsuitableInput::because("\"{$first->name}\" is a point and has no direction; begin with a plane or an axis.");
        }
        [$i, $u] = self::aim($first, $choices[0]['as'] ?? '-z');
        foreach ([0, 1, 2] as $k) {
            if ($k !== $i) {
                $locks['turn'.'XYZ'[$k]] = $first->name;
            }
        }
        $j = null;
        $v = null;
        foreach (array_slice($choices, 1) as $choice) {
            if (! self::hasDirection($choice['datum']) || $v !== null) {
                continue;
            }
            [$axis, $d] = self::aim($choice['datum'], $choice['as'] ?? 'xyz'[($i + 1) % 3]);
            $dot = $d[0] * $u[0] + $d[1] * $u[1] + $d[2] * $u[2];
            $d = [$d[0] - $dot * $u[0], $d[1] - $dot * $u[1], $d[2] - $dot * $u[2]];
            $l = sqrt($d[0] ** 2 + $d[1] ** 2 + $d[2] ** 2);
            if ($l < self::PARALLEL) {
                if ($choice['as'] === null) {
                    continue;
                }
                throw UnsuitableInput::because("\"{$choice['datum']->name}\" is parallel to \"{$first->name}\": it cannot lock the turn that is left. Choose one that runs across.");
            }
            $j = $axis === $i ? ($i + 1) % 3 : $axis;
            $v = [$d[0] / $l, $d[1] / $l, $d[2] / $l];
            $locks['turn'.'XYZ'[$i]] = $choice['datum']->name;
        }
        if ($v === null || $j === null) {
            // Still free: the axis that needs the least turning.
            $j = ($i + 1) % 3;
            $e = [0.0, 0.0, 0.0];
            $e[$j] = 1.0;
            $dot = $u[$j];
            $v = [$e[0] - $dot * $u[0], $e[1] - $dot * $u[1], $e[2] - $dot * $u[2]];
            $l = sqrt($v[0] ** 2 + $v[1] ** 2 + $v[2] ** 2);
            $v = $l < 0.1 ? ShapeFit::square($u)[0] : [$v[0] / $l, $v[1] / $l, $v[2] / $l];
        }
        $w = [$u[1] * $v[2] - $u[2] * $v[1], $u[2] * $v[0] - $u[0] * $v[2], $u[0] * $v[1] - $u[1] * $v[0]];
        // e_i cross e_j is e_k when (i, j, k) is cyclic, else -e_k.
        $k = 3 - $i - $j;
        $sign = ($i + 1) % 3 === $j ? 1.0 : -1.0;
        $rows = [$i => $u, $j => $v, $k => [$sign * $w[0], $sign * $w[1], $sign * $w[2]]];

        return [...$rows[0], ...$rows[1], ...$rows[2]];
    }

    /**
     * @param  list<array{datum: Datum, as: string|null}>  $choices
     * @param  array<string, string|null>  $locks  (changed)
     * @return list<float>
     */
    private static function shift(array $choices, Transform $turn, array &$locks): array
    {
        $rows = $values = $basis = [];
        foreach ($choices as $choice) {
            $datum = $choice['datum'];
            $at = $turn->point($datum->origin);
            $d = $turn->direction($datum->direction);
            $wanted = match ($datum->kind) {
                'plane' => [$d],
                'point' => [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]],
                default => array_map(fn (array $e) => self::across($e, $d), [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]]),
            };
            foreach ($wanted as $c) {
                $new = $c;
                foreach ($basis as $b) {
                    $dot = $new[0] * $b[0] + $new[1] * $b[1] + $new[2] * $b[2];
                    $new = [$new[0] - $dot * $b[0], $new[1] - $dot * $b[1], $new[2] - $dot * $b[2]];
                }
                $l = sqrt($new[0] ** 2 + $new[1] ** 2 + $new[2] ** 2);
                if ($l < 10 * self::PARALLEL) {
                    continue;
                }
                $basis[] = [$new[0] / $l, $new[1] / $l, $new[2] / $l];
                $rows[] = $c;
                $values[] = -($c[0] * $at[0] + $c[1] * $at[1] + $c[2] * $at[2]);
            }
            foreach (['X', 'Y', 'Z'] as $k => $axis) {
                $covered = array_sum(array_map(fn (array $b) => $b[$k] * $b[$k], $basis));
                if ($locks["shift$axis"] === null && $covered > 0.99) {
                    $locks["shift$axis"] = $datum->name;
                }
            }
        }
        // Least shift that meets the rows: t = R^T (R R^T)^-1 v.
        $n = count($rows);
        $g = [];
        foreach ($rows as $a) {
            foreach ($rows as $b) {
                $g[] = $a[0] * $b[0] + $a[1] * $b[1] + $a[2] * $b[2];
            }
        }
        $y = Dense::solve($g, $values, $n);
        $t = [0.0, 0.0, 0.0];
        foreach ($rows as $r => $row) {
            for ($k = 0; $k < 3; $k++) {
                $t[$k] += $y[$r] * $row[$k];
            }
        }

        return $t;
    }

    /**
     * @param  array{float, float, float}  $e
     * @param  array{float, float, float}  $d
     * @return array{float, float, float}
     */
    private static function across(array $e, array $d): array
    {
        $dot = $e[0] * $d[0] + $e[1] * $d[1] + $e[2] * $d[2];

        return [$e[0] - $dot * $d[0], $e[1] - $dot * $d[1], $e[2] - $dot * $d[2]];
    }

    private static function hasDirection(Datum $datum): bool
    {
        return $datum->kind !== 'point';
    }

    /** @return array{int, array{float, float, float}} axis number and the direction that shall become it */
    private static function aim(Datum $datum, string $as): array
    {
        $sign = $as[0] === '-' ? -1.0 : 1.0;

        return [(int) strpos('xyz', $as[strlen($as) - 1]), [$sign * $datum->direction[0], $sign * $datum->direction[1], $sign * $datum->direction[2]]];
    }
}
