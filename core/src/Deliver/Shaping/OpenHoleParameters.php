<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Param;

/** What `open-hole` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class OpenHoleParameters
{
    /**
     * @param  string|array<string, mixed>  $axis  X, Y, Z, the name of a datum, or {"point", "direction"} in mm
     * @param  string|null  $body  id or name of the one body that is changed; a short way to say `on`
     * @param  array<int, string>|null  $on  ids or names of the bodies that are changed; all meshes when both are null
     */
    public function __construct(
        #[Param('Axis', 'The middle of the hole, and which way it goes in.', picks: 'axis')]
        public string|array $axis,
        #[Param('Diameter', 'An opening there that is smaller becomes this wide, and true.', unit: 'mm', positive: true)]
        public float $diameter,
        #[Param('Depth', 'From where the axis first comes to the body.', unit: 'mm', positive: true, empty: 'through')]
        public ?float $depth = null,
        #[Param('From the other side', 'The hole goes in against the direction of the axis.')]
        public bool $reverse = false,
        #[Param('Countersink', 'The diameter of a cone of 90° at its mouth.', unit: 'mm', positive: true, empty: 'none')]
        public ?float $countersink = null,
        #[Param('Slot', 'From the middle of one round end to that of the other.', unit: 'mm', positive: true, empty: 'round')]
        public ?float $slot = null,
        #[Param('Slot turned', 'About the axis, from X of the frame (from Y about X itself).', unit: 'deg')]
        public float $slotTurned = 0.0,
        #[Param('Body', 'The body that is changed.', picks: 'recipe')]
        public ?string $body = null,
        #[Param('On', 'Bodies that are changed.', picks: 'works')]
        public ?array $on = null,
    ) {
        AxisChoice::check('axis', $axis);
        Choice::check($body, $on);
        if ($countersink !== null && $countersink <= $diameter) {
            throw InvalidParameter::of('countersink', sprintf('is %g mm, no wider than the hole of %g mm; make it more, or leave it out', $countersink, $diameter));
        }
    }
}
