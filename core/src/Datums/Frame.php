<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Algorithms\Linear\Dense;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Datum;

/**
 * The transform that a choice of datums asks for, and what became of the six freedoms.
 *
 * Datums come in order; each takes only what is still open. Turns: a direction that becomes an axis takes two, the next one the third. Shifts: a plane
 * takes the one along its normal, a line the two across, a point all; what lies on an axis or in a plane of the frame takes what that says. A point that
 * nothing is asked of becomes the origin, or where that is set already the direction of an axis, seen from the origin.
 */
final readonly class Frame
{
    /** Directions closer than this (sine) count as parallel. */
    private const PARALLEL = 0.02;

    private const LOCKS = ['shiftX', 'shiftY', 'shiftZ', 'turnX', 'turnY', 'turnZ'];

    /**
     * @param  array<string, string|null>  $locks  shiftX ... turnZ => name of the datum that locked it, null while open
     * @param  list<string>  $idle  a sentence for each datum that locked nothing, while something is open
     */
    private function __construct(public RigidTransform $transform, public array $locks, public array $idle = [])
    {
    }

    /**
     * @param  list<FrameChoice>  $choices  one to three, in order
     *
     * @throws UnsuitableInput when a datum cannot take what it is asked for
     */
    public static function of(array $choices): self
    {
        $choices = self::withOrigin($choices);
        $locks = array_fill_keys(self::LOCKS, null);
        $rotation = self::rotation($choices, $locks);
        $shift = self::shift($choices, RigidTransform::of($rotation, [0.0, 0.0, 0.0]), $locks);

        return new self(RigidTransform::of($rotation, $shift), $locks, in_array(null, $locks, true) ? self::idle($choices, $locks) : []);
    }

    /** One that was kept as a datum. */
    public static function kept(Datum $frame): self
    {
        return new self($frame->intoFrame(), array_fill_keys(self::LOCKS, $frame->name));
    }

    /**
     * A point that nothing is asked of is the origin, unless those before it have set one.
     *
     * @param  list<FrameChoice>  $choices
     * @return list<FrameChoice>
     */
    private static function withOrigin(array $choices): array
    {
        $out = [];
        foreach ($choices as $choice) {
            $out[] = ! $choice->isAsked() && ! $choice->datum->hasDirection() && self::meeting($out) === null ? $choice->asOrigin() : $choice;
        }

        return $out;
    }

    /**
     * Where choices meet that say by themselves where the origin lies: planes, lines and the point that is it.
     *
     * @param  list<FrameChoice>  $choices
     * @return array{float, float, float}|null null while a shift is open
     */
    private static function meeting(array $choices): ?array
    {
        $locks = array_fill_keys(['shiftX', 'shiftY', 'shiftZ'], null);
        $there = array_values(array_filter($choices, fn (FrameChoice $choice) => $choice->to === 'origin' || ($choice->datum->hasDirection() && ($choice->datum->kind === 'plane' || $choice->normal() === null))));
        $shift = self::shift($there, RigidTransform::identity(), $locks);

        return in_array(null, $locks, true) ? null : [-$shift[0], -$shift[1], -$shift[2]];
    }

    /**
     * @param  list<FrameChoice>  $choices
     * @param  array<string, string|null>  $locks
     * @return list<string>
     */
    private static function idle(array $choices, array $locks): array
    {
        $sentences = [];
        foreach ($choices as $place => $choice) {
            $datum = $choice->datum;
            if (in_array($datum->name, $locks, true)) {
                continue;
            }
            $parallel = array_filter(array_slice($choices, 0, $place), fn (FrameChoice $other) => $datum->hasDirection() && $other->datum->hasDirection()
                && Vector3::length(Vector3::cross($datum->direction, $other->datum->direction)) < self::PARALLEL);
            $sentences[] = "\"{$datum->name}\" locks nothing more: ".($parallel === [] ? 'what it sets is set already by those before it.' : 'it is parallel to "'.reset($parallel)->datum->name.'". Choose one that runs across.');
        }

        return $sentences;
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
            $d = self::across($direction, $u);
            $l = Vector3::length($d);
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
            $second = [$axis, Vector3::scaled($d, 1.0 / $l)];
            $locks['turn'.'XYZ'[$first[0]]] = $choice->datum->name;
        }
        if ($first === null) {
            return [1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0];
        }
        [$i, $u] = $first;
        [$j, $v] = $second ?? [($i + 1) % 3, self::leastTurned($u, ($i + 1) % 3)];
        // e_i cross e_j is e_k when (i, j, k) is cyclic, else -e_k.
        $sign = ($i + 1) % 3 === $j ? 1.0 : -1.0;
        $rows = [$i => $u, $j => $v, 3 - $i - $j => Vector3::scaled(Vector3::cross($u, $v), $sign)];

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
        $e = [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]][$axis];
        $v = self::across($e, $u);

        return Vector3::length($v) < 0.1 ? Vector3::square($u)[0] : Vector3::unit($v);
    }

    /**
     * The direction a datum brings, with the sign it is asked to have; for a point, the way to it from the origin. Null for none.
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
            return Vector3::scaled($datum->direction, $choice->sign);
        }
        $origin = self::meeting($before);
        if ($origin === null) {
            return null;
        }
        $d = Vector3::minus($datum->origin, $origin);
        $l = Vector3::length($d);
        if ($l < 1e-9) {
            throw UnsuitableInput::because("\"{$datum->name}\" lies in the same place as the origin, which those before it have set; choose a point elsewhere.");
        }

        return Vector3::scaled($d, $choice->sign / $l);
    }

    /**
     * @param  list<FrameChoice>  $choices
     * @param  array<string, string|null>  $locks  (changed)
     * @return list<float>
     */
    private static function shift(array $choices, RigidTransform $turn, array &$locks): array
    {
        $rows = $values = $basis = [];
        foreach ($choices as $choice) {
            $datum = $choice->datum;
            $at = $turn->point($datum->origin);
            foreach (self::wanted($choice, $turn->direction($datum->direction)) as $c) {
                $new = $c;
                foreach ($basis as $b) {
                    $new = self::across($new, $b);
                }
                if (Vector3::length($new) < 10 * self::PARALLEL) {
                    continue;
                }
                $basis[] = Vector3::unit($new);
                $rows[] = $c;
                $values[] = -Vector3::dot($c, $at);
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
                $g[] = Vector3::dot($a, $b);
            }
        }
        $y = Dense::solve($g, $values, $n) ?? throw UnsuitableInput::because('These datums do not say where the frame lies: what they ask for does not fit together. Choose one of them anew.');
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
            $choice->to === 'origin' => $axes,
            // It came after an origin.
            default => [],
        };
    }

    /**
     * @param  array{float, float, float}  $e
     * @param  array{float, float, float}  $d
     * @return array{float, float, float}
     */
    private static function across(array $e, array $d): array
    {
        return Vector3::minus($e, Vector3::scaled($d, Vector3::dot($e, $d)));
    }
}
