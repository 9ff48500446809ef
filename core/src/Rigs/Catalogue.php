<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Operation\InvalidParameter;

/** The demo parts and rigs by name. */
final class Catalogue
{
    /** @return array<string, string> name => what it is */
    public static function parts(): array
    {
        return ['pedestal' => 'Bearing pedestal of the cider press, 120 x 70 x 79 mm'];
    }

    /** @return array<string, string> */
    public static function rigs(): array
    {
        return [
            'handheld' => 'Handheld range camera: 8 passes, noise 0.05 mm, drifting poses, the table in view',
            'handheld-bare' => 'The same without a table: the part hangs free',
        ];
    }

    public static function part(string $name): Part
    {
        return match ($name) {
            'pedestal' => new BearingPedestal,
            default => throw InvalidParameter::of('part', "\"$name\" is not known; there is ".implode(', ', array_keys(self::parts()))),
        };
    }

    public static function rig(string $name): HandheldRig
    {
        return match ($name) {
            'handheld' => new HandheldRig,
            'handheld-bare' => new HandheldRig(table: false),
            default => throw InvalidParameter::of('rig', "\"$name\" is not known; there is ".implode(', ', array_keys(self::rigs()))),
        };
    }
}
