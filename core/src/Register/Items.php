<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\UnsuitableInput;
use Emberstone\Core\Operation\Workpiece;

/** Passes and bodies by name. */
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
}
