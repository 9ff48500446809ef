<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Operation\Workpiece;

/** The box around everything: bodies where there are any, else passes. */
final class Extent
{
    /** The box around the bodies, or around the passes where there is no body; project coordinates, mm. */
    public static function of(Workpiece $workpiece): BoundingBox
    {
        $corners = [];
        foreach ($workpiece->bodies !== [] ? $workpiece->bodies : $workpiece->passes as $one) {
            $box = BoundingBox::of($one->placed()->positions);
            array_push($corners, ...$box->min, ...$box->max);
        }

        return BoundingBox::of($corners);
    }
}
