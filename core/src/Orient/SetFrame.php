<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Datums\Frame;
use Emberstone\Core\Datums\FrameChoice;
use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Moves everything into the frame of up to three datums. Nothing is resampled; datums go along.
 *
 * @implements Operation<SetFrameParameters>
 */
final class SetFrame implements Operation
{
    public static function about(): About
    {
        return new About('set-frame', Stage::Orient, 'Set frame', 'Sets origin and axes by a first, second and third datum.', 'places', SetFrameParameters::class, together: true, readsArtefacts: true, avoid: 'Not from datums on filled or reshaped surface: they are made up.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $frame = self::frame(ShapeMap::references($workpiece), $parameters);
        $by = self::withOffset($frame, $parameters);
        $open = array_keys(array_filter($frame->locks, fn (?string $by) => $by === null));
        $notes = $open === [] ? [] : [...$frame->idle, 'Still free: '.implode(', ', array_map(fn (string $lock) => strtolower(substr($lock, 0, -1)).' '.substr($lock, -1), $open)).'.'];

        return new Result(
            $workpiece->moved($by),
            $open === [] ? 'all six locked' : (6 - count($open)).' of 6 locked',
            [], ['locks' => $frame->locks, 'transform' => $by->matrix], $notes, everything: Placement::of(1.0, $by),
        );
    }

    public static function withOffset(Frame $frame, SetFrameParameters $parameters): RigidTransform
    {
        return $frame->transform->then(RigidTransform::shift(...array_map(floatval(...), array_values($parameters->offset))));
    }

    /**
     * @param  list<Datum>  $datums
     *
     * @throws InvalidParameter when a datum is not there or chosen twice
     */
    public static function frame(array $datums, SetFrameParameters $parameters): Frame
    {
        $choices = [];
        $used = [];
        foreach (['first' => $parameters->firstAs, 'second' => $parameters->secondAs, 'third' => null] as $place => $as) {
            $asked = $parameters->{$place};
            if ($asked === null) {
                continue;
            }
            $datum = Datum::among($datums, $place, is_array($asked) ? $asked['datum'] : $asked);
            if (isset($used[$datum->id])) {
                throw InvalidParameter::of($place, "names \"{$datum->name}\" a second time; choose another datum");
            }
            $used[$datum->id] = true;
            if ($datum->kind === 'frame') {
                if ($place !== 'first' || $parameters->second !== null || $parameters->third !== null) {
                    throw InvalidParameter::of($place, "is the frame \"{$datum->name}\", which locks all six by itself; choose it as the first and only one");
                }

                return Frame::kept($datum);
            }
            $choices[] = is_array($asked) ? FrameChoice::of($datum, $asked['to'] ?? null, $asked['flip'] ?? false) : FrameChoice::pointing($datum, $datum->hasDirection() ? $as : null);
        }

        return Frame::of($choices);
    }
}
