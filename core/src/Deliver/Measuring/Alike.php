<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Datum;

/** Found shapes that are like a round thing: of its kind, about as wide, and facing the same way, such as all bolt holes of a flange. */
final class Alike
{
    /** Share of a diameter, and mm, by which one that is alike may differ: more than a bad hole is off, and less than the next size of drill. */
    private const WIDE = 0.04;

    private const WIDE_MM = 0.2;

    /** Degrees between axes. */
    private const TURNED = 3.0;

    /**
     * @param  list<Datum>  $known  all references, found shapes by their ids among them
     * @param  list<Artefact>  $artefacts
     * @return list<Datum> without the thing itself
     *
     * @throws UnsuitableInput when no shapes were found
     */
    public static function to(Datum $thing, array $known, array $artefacts): array
    {
        if (array_filter($artefacts, fn (Artefact $one) => $one->kind === ShapeMap::KIND) === []) {
            throw UnsuitableInput::because('Which places are like it is told by the shapes of the part: find its shapes first.');
        }
        $alike = [];
        foreach ($known as $one) {
            $differs = 2.0 * abs($one->radius - $thing->radius);
            $isTurned = $thing->hasDirection() && Vector3::length(Vector3::cross($one->direction, $thing->direction)) > sin(deg2rad(self::TURNED));
            if (! str_starts_with($one->id, 'shape-') || $one->kind !== $thing->kind || $differs > max(2.0 * self::WIDE * $thing->radius, self::WIDE_MM) || $isTurned) {
                continue;
            }
            // The same one, found again: it lies about the same middle.
            $way = Vector3::minus($one->origin, $thing->origin);
            $beside = $thing->hasDirection() ? Vector3::length(Vector3::minus($way, Vector3::scaled($thing->direction, Vector3::dot($way, $thing->direction)))) : Vector3::length($way);
            if ($one->id !== $thing->id && $beside > 0.5 * $thing->radius) {
                $alike[] = $one;
            }
        }

        return $alike;
    }
}
