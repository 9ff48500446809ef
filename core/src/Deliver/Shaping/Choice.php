<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Workpiece;

/** Which bodies a change of shape works on: `body`, or those of `on`, or all meshes but the one that it is done with. */
final class Choice
{
    /**
     * @param  array<mixed>|null  $on
     *
     * @throws InvalidParameter
     */
    public static function check(?string $body, ?array $on): void
    {
        if ($body !== null && $on !== null) {
            throw InvalidParameter::of('body', 'and "on" say the same; leave one out');
        }
        if ($on === [] || ($on !== null && array_filter($on, fn (mixed $name) => ! is_string($name)) !== [])) {
            throw InvalidParameter::of('on', 'must be a list of one name or more; leave it out for all bodies');
        }
    }

    /**
     * @param  array<int, string>|null  $on
     * @param  Body|null  $with  what it is done with, which is none of them
     * @return non-empty-array<string, Body> by id
     *
     * @throws InvalidParameter|UnsuitableInput
     */
    public static function of(Workpiece $workpiece, ?string $body, ?array $on, ?Body $with = null): array
    {
        $named = $body === null ? $on : [$body];
        $bodies = [];
        foreach ($named === null ? $workpiece->meshes() : array_merge(...array_map(fn (string $name) => $workpiece->called($name), $named)) as $one) {
            if (! $one instanceof Body || ! $one->isMesh()) {
                throw InvalidParameter::of($body === null ? 'on' : 'body', "names \"$one->name\", which is no mesh");
            }
            if ($one->id !== $with?->id) {
                $bodies[$one->id] = $one;
            } elseif ($named !== null && count($named) === 1) {
                throw InvalidParameter::of('with', "names \"$one->name\", the body itself; name another");
            }
        }

        return $bodies !== [] ? $bodies : throw UnsuitableInput::because($with === null ? 'There is no mesh to change: fuse the passes first, or bring in a mesh.' : "There is no body besides $with->name; bring in or make another.");
    }

    /**
     * The mesh that something is done with.
     *
     * @throws InvalidParameter|UnsuitableInput
     */
    public static function mesh(Workpiece $workpiece, string $parameter, string $name): Body
    {
        $body = $workpiece->named($parameter, $name);

        return $body instanceof Body && $body->isMesh() ? $body : throw InvalidParameter::of($parameter, "names \"$body->name\", which is no mesh; name a mesh");
    }
}
