<?php

declare(strict_types=1);

namespace Emberstone\Core\Datums;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Datum;

/**
 * Where a thing stands when its datums lie on those of another: both sides set a frame by the same rules (Datums\Frame), and one goes into the other.
 *
 * The first pair decides most, as with a frame. Along what the pairs leave open their middles come to lie on each other: of the same places they are the same.
 */
final readonly class DatumPairs
{
    private const MOST = 3;

    /** What a datum can be laid on. */
    private const SORTS = ['plane' => 'plane', 'line' => 'axis', 'cylinder' => 'axis', 'cone' => 'axis', 'point' => 'point', 'sphere' => 'point', 'frame' => 'frame'];

    /**
     * @param  int  $free  freedoms of six that the pairs leave open
     * @param  list<array{from: string, to: string, off: float, angle: float}>  $figures  how far each pair lies apart once placed: mm, and degrees between directions
     */
    private function __construct(public RigidTransform $by, public int $free, public array $figures)
    {
    }

    /**
     * @param  list<array{from: string, to: string, flip?: bool}>  $pairs  one to three; flip: the outsides face each other, or the axes run against each other
     * @param  list<Datum>  $datums
     * @param  string  $moving  id of what is placed
     *
     * @throws InvalidParameter for datums that are not there or cannot lie on each other
     * @throws UnsuitableInput where the datums of one side set what those of the other do not
     */
    public static function solve(array $pairs, array $datums, string $moving, string $movingName): self
    {
        $sides = ['from' => [], 'to' => []];
        $found = [];
        foreach ($pairs as $pair) {
            [$from, $to] = [Datum::among($datums, 'datums', $pair['from']), Datum::among($datums, 'datums', $pair['to'])];
            if (self::SORTS[$from->kind] !== self::SORTS[$to->kind]) {
                throw InvalidParameter::of('datums', "lays the {$from->kind} \"{$from->name}\" on the {$to->kind} \"{$to->name}\"; choose two of a kind: planes, axes or points");
            }
            if ($from->bodyId !== null && $from->bodyId !== $moving) {
                throw InvalidParameter::of('datums', "takes \"{$from->name}\", which is no datum of $movingName and would stay behind; choose one that was made on it");
            }
            if ($to->bodyId === $moving) {
                throw InvalidParameter::of('datums', "lays $movingName on its own datum \"{$to->name}\"; choose one of what it is placed on");
            }
            if ($from->kind === 'frame' && count($pairs) > 1) {
                throw InvalidParameter::of('datums', "has the frame \"{$from->name}\", which sets all six by itself; choose it alone");
            }
            $sides['from'][] = [$from, $pair['flip'] ?? false];
            $sides['to'][] = [$to, false];
            $found[] = [$from, $to, $pair['flip'] ?? false];
        }
        $frames = array_map(fn (array $side): Frame => $side[0][0]->kind === 'frame' ? Frame::kept($side[0][0]) : Frame::of(array_map(fn (array $one) => FrameChoice::of($one[0], null, $one[1]), $side)), $sides);
        $set = array_map(fn (Frame $frame) => array_keys(array_filter($frame->locks)), $frames);
        if ($set['from'] !== $set['to']) {
            throw UnsuitableInput::because('The datums of the one lie to each other as those of the other do not, such as parallel here and across there; choose others.');
        }
        $between = self::alongOpen($frames, $found);
        $by = $frames['from']->transform->then($between)->then($frames['to']->transform->inverse());

        return new self($by, 6 - count($set['from']), array_map(fn (array $pair) => ['from' => $pair[0]->name, 'to' => $pair[1]->name] + self::apart($pair[0]->moved($by), $pair[1], $pair[2]), $found));
    }

    /**
     * Are they what solve() takes?
     *
     * @param  array<int, mixed>  $pairs
     *
     * @throws InvalidParameter
     */
    public static function check(array $pairs): void
    {
        if (count($pairs) > self::MOST) {
            throw InvalidParameter::of('datums', 'has '.count($pairs).' pairs; three at most set all there is to set');
        }
        foreach (array_values($pairs) as $k => $pair) {
            if (! is_array($pair) || ! is_string($pair['from'] ?? null) || ! is_string($pair['to'] ?? null) || ! is_bool($pair['flip'] ?? false) || array_diff(array_keys($pair), ['from', 'to', 'flip']) !== []) {
                throw InvalidParameter::of('datums', 'entry '.($k + 1).' must be {"from": NAME, "to": NAME}, and may have "flip": true or false');
            }
        }
        foreach (['from', 'to'] as $side) {
            $names = array_column($pairs, $side);
            if (count(array_unique($names)) < count($names)) {
                throw InvalidParameter::of('datums', 'names one datum twice; choose another');
            }
        }
    }

    /**
     * The shift, in the frame that both sides set, along axes that it leaves open.
     *
     * @param  array{from: Frame, to: Frame}  $frames
     * @param  list<array{Datum, Datum, bool}>  $pairs
     */
    private static function alongOpen(array $frames, array $pairs): RigidTransform
    {
        $shift = [0.0, 0.0, 0.0];
        foreach (['X', 'Y', 'Z'] as $k => $axis) {
            foreach ($frames['to']->locks["shift$axis"] === null ? $pairs : [] as [$from, $to]) {
                $shift[$k] += ($frames['to']->transform->point($to->origin)[$k] - $frames['from']->transform->point($from->origin)[$k]) / count($pairs);
            }
        }
        $along = RigidTransform::shift(...$shift);
        // Planes that stand askew can hold part of an axis that counts as open.
        foreach ($pairs as [$from, $to, $flip]) {
            [$placed, $on] = [$from->moved($frames['from']->transform), $to->moved($frames['to']->transform)];
            if (self::apart($placed->moved($along), $on, $flip)['off'] > self::apart($placed, $on, $flip)['off'] + 1e-3) {
                return RigidTransform::identity();
            }
        }

        return $along;
    }

    /** @return array{off: float, angle: float} mm and degrees */
    private static function apart(Datum $placed, Datum $to, bool $flip): array
    {
        $d = Vector3::minus($placed->origin, $to->origin);
        if (! $to->hasDirection()) {
            return ['off' => round(Vector3::length($d), 4), 'angle' => 0.0];
        }
        $along = Vector3::dot($d, $to->direction);
        $off = $to->kind === 'plane' ? abs($along) : Vector3::length(Vector3::minus($d, Vector3::scaled($to->direction, $along)));
        $cos = ($flip ? -1.0 : 1.0) * Vector3::dot($placed->direction, $to->direction);

        return ['off' => round($off, 4), 'angle' => round(rad2deg(acos(max(-1.0, min(1.0, $cos)))), 4)];
    }
}
