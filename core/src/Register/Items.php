<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;

/** Passes and bodies by name, and moving them. */
final class Items
{
    /**
     * The pass or body of that name or id.
     *
     * @throws UnsuitableInput when there is nothing at all
     * @throws InvalidParameter when there is none of that name
     */
    public static function named(Workpiece $workpiece, string $parameter, string $name): Pass|Body
    {
        $workpiece->refuseEmpty();
        $all = [...$workpiece->passes, ...$workpiece->bodies];
        foreach ($all as $one) {
            if ($one->id === $name || $one->name === $name) {
                return $one;
            }
        }
        throw InvalidParameter::of($parameter, "names \"$name\", but there are ".implode(', ', array_map(fn (Pass|Body $one) => $one->name, $all)));
    }

    /**
     * Moves some of them together; datums go along with their body.
     *
     * @param  list<string>  $ids
     */
    public static function moved(Workpiece $workpiece, array $ids, Transform $by): Workpiece
    {
        return new Workpiece(
            array_map(fn (Pass $pass) => in_array($pass->id, $ids, true) ? $pass->moved($pass->transform->then($by), $pass->residual, $pass->overlap) : $pass, $workpiece->passes),
            array_map(fn (Body $body) => in_array($body->id, $ids, true) ? $body->moved($by) : $body, $workpiece->bodies),
            array_map(fn (Datum $datum) => $datum->bodyId !== null && in_array($datum->bodyId, $ids, true) ? $datum->moved($by) : $datum, $workpiece->datums),
        );
    }
}
