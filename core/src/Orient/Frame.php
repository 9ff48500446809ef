<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Linear\Dense;
use Emberstone\Core\Linear\Vector3;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\UnsuitableInput;

/**
 * The transform that a choice of datums asks for, and what became of the six freedoms.
 *
 * Datums come in order; each takes only what is still open. Turns: a direction that becomes an axis takes two, the next one the third. Shifts: a plane
 * takes the one along its normal, a line the two across, a point all; what lies on an axis or in a plane of the frame takes what that says.
 */
final readonly class Frame
{
    /** Directions closer than this (sine) count as parallel. */
    private const PARALLEL = 0.02;

    /** @param  array<string, string|null>  $locks shiftX ... turnZ => name of the datum that locked it, null while open */
    private function __construct(public Transform $transform, public array $locks)
    {
    }

    /**
     * @param  list<FrameChoice>  $choices  one to three, in order
     *
     * @throws UnsuitableInput when a datum cannot take what it is asked for
     */
    public static function of(array $choices): self
    {
        $locks = array_fill_keys(['shiftX', 'shiftY', 'shiftZ', 'turnX', 'turnY', 'turnZ'], null);
        $rotation = self::rotation($choices, $locks);
        $shift = self::shift($choices, Transform::of($rotation, [0.0, 0.0, 0.0]), $locks);

        return new self(Transform::of($rotation, $shift), $locks);
    }

    /** One that was kept as a datum. */
    public static function kept(Datum $frame): self
    {
        return new self($frame->intoFrame(), array_fill_keys(['shiftX', 'shiftY', 'shiftZ', 'turnX', 'turnY', 'turnZ'], $frame->name));
    }

    /**
     * @param  list<FrameChoice>  $choices
     * @param  array<string, string|null>  $locks  (changed)
     * @return list<float>
     */
    private static function rotation(array $choices, array &$locks): array
    {
        /** @var array{int, array{float, float, float}, Datum}|null $first axis, direction that becomes it, whose it is */
        $first = null;
        /** @var array{int, array{float, float, float}}|null $second */
        $second = null;
        foreach ($choices as $place => $choice) {
            $direction = self::directionOf($choice, array_slice($choices, 0, $place));
            if ($direction === null || $second !== null) {
                continue;
            }
            $axis = $choice->axis($first[0] ?? null);
            if ($axis === null) {
                throw UnsuitableInput::because("\"{$choice->datum->name}\" in a plane of the frame leaves too much open to begin with: give it an axis, or set a plane or an axis before it.");
            }
            if ($first === null) {
                $first = [$axis, $direction, $choice->datum];
                foreach ([0, 1, 2] as $k) {
                    if ($k !== $axis) {
                        $locks['turn'.'XYZ'[$k]] = $choice->datum->name;
                    }
                }

                continue;
            }
            $u = $first[1];
            $dot = $direction[0] * $u[0] + $direction[1] * $u[1] + $direction[2] * $u[2];
            $d = [$direction[0] - $dot * $u[0], $direction[1] - $dot * $u[1], $direction[2] - $dot * $u[2]];
            $l = sqrt($d[0] ** 2 + $d[1] ** 2 + $d[2] ** 2);
            if ($l < self::PARALLEL) {
                if (! $choice->isAsked()) {
                    continue;
                }
                throw UnsuitableInput::because("\"{$choice->datum->name}\" is parallel to \"{$first[2]->name}\": it cannot lock the turn that is left. Choose one that runs across.");
            }
            if ($axis === $first[0]) {
                if ($choice->isAsked()) {
                    throw UnsuitableInput::because("\"{$choice->datum->name}\" is asked for the axis ".'XYZ'[$axis].", which \"{$first[2]->name}\" has taken. Choose another axis for it.");
                }
                $axis = ($axis + 1) % 3;
            }
            $second = [$axis, [$d[0] / $l, $d[1] / $l, $d[2] / $l]];
            $locks['turn'.'XYZ'[$first[0]]] = $choice->datum->name;
        }
        if ($first === null) {
            return [1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0];
        }
        [$i, $u] = $first;
        [$j, $v] = $second ?? [($i + 1) % 3, self::leastTurned($u, ($i + 1) % 3)];
        $w = [$u[1] * $v[2] - $u[2] * $v[1], $u[2] * $v[0] - $u[0] * $v[2], $u[0] * $v[1] - $u[1] * $v[0]];
        // e_i cross e_j is e_k when (i, j, k) is cyclic, else -e_k.
        $sign = ($i + 1) % 3 === $j ? 1.0 : -1.0;
        $rows = [$i => $u, $j => $v, 3 - $i - $j => [$sign * $w[0], $sign * $w[1], $sign * $w[2]]];

        return [...$rows[0], ...$rows[1], ...$rows[2]];
    }

    /**
     * Where an axis goes that nothing has asked for: as near to where it was as the first one lets it.
     *
     * @param  array{float, float, float}  $u
     * @return array{float, float, float}
     */
    private static function leastTurned(array $u, int $axis): array
    {
        $e = [0.0, 0.0, 0.0];
        $e[$axis] = 1.0;
        $v = self::across($e, $u);
        $l = sqrt($v[0] ** 2 + $v[1] ** 2 + $v[2] ** 2);

        return $l < 0.1 ? Vector3::square($u)[0] : [$v[0] / $l, $v[1] / $l, $v[2] / $l];
    }

    /**
     * The direction a datum brings, with the sign it is asked to have; for a point, the way to it from the point that is the origin. Null for none.
     *
     * @param  list<FrameChoice>  $before
     * @return array{float, float, float}|null
     */
    private static function directionOf(FrameChoice $choice, array $before): ?array
    {
        if ($choice->to === 'origin') {
            return null;
        }
        $datum = $choice->datum;
        if ($datum->hasDirection()) {
            return [$choice->sign * $datum->direction[0], $choice->sign * $datum->direction[1], $choice->sign * $datum->direction[2]];
        }
        if ($choice->to === null) {
            return null;
        }
        foreach ($before as $other) {
            if ($other->isOrigin()) {
                $d = [$datum->origin[0] - $other->datum->origin[0], $datum->origin[1] - $other->datum->origin[1], $datum->origin[2] - $other->datum->origin[2]];
                $l = sqrt($d[0] ** 2 + $d[1] ** 2 + $d[2] ** 2);
                if ($l < 1e-9) {
                    throw UnsuitableInput::because("\"{$datum->name}\" lies in the same place as \"{$other->datum->name}\"; choose a point elsewhere.");
                }

                return [$choice->sign * $d[0] / $l, $choice->sign * $d[1] / $l, $choice->sign * $d[2] / $l];
            }
        }

        return null;
    }

    /**
     * @param  list<FrameChoice>  $choices
     * @param  array<string, string|null>  $locks  (changed)
     * @return list<float>
     */
    private static function shift(array $choices, Transform $turn, array &$locks): array
    {
        $rows = $values = $basis = [];
        foreach ($choices as $choice) {
            $datum = $choice->datum;
            $at = $turn->point($datum->origin);
            foreach (self::wanted($choice, $turn->direction($datum->direction)) as $c) {
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
     * Directions along which a datum says where the origin lies.
     *
     * @param  array{float, float, float}  $d  its own direction in the new frame
     * @return list<array{float, float, float}>
     */
    private static function wanted(FrameChoice $choice, array $d): array
    {
        $axes = [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]];
        if ($choice->datum->kind === 'plane') {
            return [$d];
        }
        if ($choice->datum->hasDirection()) {
            // A line in a plane of the frame says no more than that.
            return $choice->normal() === null ? array_map(fn (array $e) => self::across($e, $d), $axes) : [$axes[$choice->normal()]];
        }

        // A point: on an axis, in a plane, or in the origin.
        return match (true) {
            $choice->normal() !== null => [$axes[$choice->normal()]],
            $choice->named() !== null => array_values(array_diff_key($axes, [$choice->named() => 1])),
            default => $axes,
        };
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
}
