<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\PlaneChoice;

/** What `split` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class SplitParameters
{
    /** @param  string|array<string, mixed>|null  $plane  XY, YZ or ZX, the name of a datum, or {"point", "normal"} in mm */
    public function __construct(
        #[Param('By', 'Pieces: each connected piece becomes a body of its own, and no plane is needed.', choices: ['plane', 'pieces'])]
        public string $by = 'plane',
        #[Param('Plane', 'Of the frame, or a datum that is a plane.', picks: 'plane', with: ['by' => 'plane'])]
        public string|array|null $plane = null,
        #[Param('Shift', 'How far from the plane it is cut, the way the plane faces; less than 0 is behind it.', unit: 'mm', with: ['by' => 'plane'])]
        public float $shift = 0.0,
        #[Param('Keep', 'Both parts, or the one on the side that the plane faces (positive), or the one behind it (negative).', choices: ['both', 'positive', 'negative'], with: ['by' => 'plane'])]
        public string $keep = 'both',
        #[Param('Close the cut', 'Each part gets a flat face where it was cut, marked as made.', with: ['by' => 'plane'])]
        public bool $cap = false,
    ) {
        if ($by === 'plane') {
            $plane === null && throw InvalidParameter::of('plane', 'is required: a plane of the frame (XY, YZ, ZX), a datum, or "point" and "normal"; or split by pieces');
            PlaneChoice::check('plane', $plane);
        } elseif ($plane !== null) {
            throw InvalidParameter::of('plane', 'has no use when a body is split by pieces; leave it out');
        }
    }
}
