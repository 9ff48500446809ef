<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Operation\Param;

final readonly class TurnParameters
{
    public function __construct(
        #[Param('Axis', 'The line through the place that stays, about which everything turns.', choices: ['x', 'y', 'z'])]
        public string $axis = 'x',
        #[Param('Angle', 'Counter-clockwise, seen against the axis.', unit: 'deg', min: -360.0, max: 360.0)]
        public float $angle = 0.0,
        #[Param('About', 'What stays where it is: the origin of the frame, or the middle of everything.', choices: ['origin', 'middle'])]
        public string $about = 'origin',
    ) {
    }
}
