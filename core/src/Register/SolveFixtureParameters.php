<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Places;
use Emberstone\Core\Rigs\CalibrationTarget;

final readonly class SolveFixtureParameters
{
    /** @param  array<int, array{float, float, float}>  $balls  centres, mm, in the coordinates of the target */
    public function __construct(
        #[Param('Diameter of the balls', 'As measured on the target.', unit: 'mm', positive: true, max: 1000.0)]
        public float $diameter = 2.0 * CalibrationTarget::BALL_RADIUS,
        #[Param('Balls', 'Where their centres lie on the target; the demo target unless given.', picks: 'target')]
        public array $balls = CalibrationTarget::BALLS,
    ) {
        if (count($balls) < 3) {
            throw InvalidParameter::of('balls', 'are '.count($balls).'; a pose needs three or more, not in a line');
        }
        Places::checked('balls', $balls);
    }
}
