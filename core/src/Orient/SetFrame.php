<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Progress;
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
        return new About('set-frame', Stage::Orient, 'Set frame', 'Sets origin and axes by a first, second and third datum.', 'any', SetFrameParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $frame = self::frame($workpiece->datums, $parameters);
        $open = array_keys(array_filter($frame->locks, fn (?string $by) => $by === null));
        $notes = $open === [] ? [] : ['Still free: '.implode(', ', array_map(fn (string $lock) => strtolower(substr($lock, 0, -1)).' '.substr($lock, -1), $open)).'.'];

        return new Result(
            $workpiece->moved($frame->transform),
            $open === [] ? 'all six locked' : (6 - count($open)).' of 6 locked',
            [], ['locks' => $frame->locks, 'transform' => $frame->transform->matrix], $notes,
        );
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
            $name = $parameters->{$place};
            if ($name === null) {
                continue;
            }
            $found = array_values(array_filter($datums, fn (Datum $datum) => $datum->name === $name || $datum->id === $name));
            if ($found === []) {
                throw InvalidParameter::of($place, "names \"$name\", but ".($datums === [] ? 'there are no datums yet; add one first' : 'the datums are '.implode(', ', array_map(fn (Datum $datum) => $datum->name, $datums))));
            }
            if (isset($used[$found[0]->id])) {
                throw InvalidParameter::of($place, "names \"{$found[0]->name}\" a second time; choose another datum");
            }
            $used[$found[0]->id] = true;
            $choices[] = ['datum' => $found[0], 'as' => $as];
        }

        return Frame::of($choices);
    }
}
