<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\PlaneChoice;

/** What `mirror` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class MirrorParameters
{
    /** @param  string|array<string, mixed>  $plane  XY, YZ or ZX, the name of a datum, or {"point", "normal"} in mm */
    public function __construct(
        #[Param('Plane', 'Of the frame, or a datum that is a plane.', picks: 'plane')]
        public string|array $plane,
    ) {
        PlaneChoice::check('plane', $plane);
    }
}
