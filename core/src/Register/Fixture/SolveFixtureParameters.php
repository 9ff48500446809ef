<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Fixture;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Places;
use Emberstone\Core\Rigs\CalibrationTarget;

/** What `solve-fixture` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class SolveFixtureParameters
{
    /**
     * @param  array<int, array{float, float, float}>  $balls  centres, mm, in the coordinates of the target
     * @param  array<int, array{float, float, float, float, float, float}>|null  $planes  a place on each flat face, mm, and its outward normal
     */
    public function __construct(
        #[Param('Diameter of the balls', 'As measured on the target.', unit: 'mm', positive: true, max: 1000.0)]
        public float $diameter = 2.0 * CalibrationTarget::BALL_RADIUS,
        #[Param('Balls', 'Where their centres lie on the target; the demo target unless given.', picks: 'target')]
        public array $balls = CalibrationTarget::BALLS,
        #[Param('Flat faces', 'A place on each and its outward normal; those of the demo target unless other balls are given.', picks: 'target')]
        public ?array $planes = null,
    ) {
        Places::checked('balls', $balls);
        foreach ($this->faces() as $k => $plane) {
            if (Vector3::length(array_slice($plane, 3)) < 1e-9) {
                throw InvalidParameter::of('planes', 'entry '.($k + 1).' has no normal: its last three numbers are zero');
            }
        }
        if (count($balls) + count($this->faces()) < 3) {
            throw InvalidParameter::of('balls', 'and planes are '.count($balls).' and '.count($this->faces()).'; a pose needs three or more in all, balls not in a line, planes not parallel');
        }
    }

    public function target(): FixtureTarget
    {
        return new FixtureTarget(0.5 * $this->diameter, Places::checked('balls', $this->balls), array_map(fn (array $plane) => ['at' => [$plane[0], $plane[1], $plane[2]], 'normal' => Vector3::unit(array_slice($plane, 3))], $this->faces()));
    }

    /** @return list<array{float, float, float, float, float, float}> */
    private function faces(): array
    {
        return Places::oriented('planes', $this->planes ?? (Places::checked('balls', $this->balls) === CalibrationTarget::BALLS ? CalibrationTarget::PLANES : []));
    }
}
