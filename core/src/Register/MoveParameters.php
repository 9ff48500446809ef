<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `move` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class MoveParameters
{
    /** @param  array{float, float, float}|null  $about  project coordinates, mm */
    public function __construct(
        #[Param('Moving', 'The pass or body that moves.', picks: 'names')]
        public string $moving,
        #[Param('Shift X', '', unit: 'mm', min: -1e6, max: 1e6)]
        public float $shiftX = 0.0,
        #[Param('Shift Y', '', unit: 'mm', min: -1e6, max: 1e6)]
        public float $shiftY = 0.0,
        #[Param('Shift Z', '', unit: 'mm', min: -1e6, max: 1e6)]
        public float $shiftZ = 0.0,
        #[Param('Turn X', 'About a line along X; turns are made in the order X, Y, Z, before the shift.', unit: 'deg', min: -360.0, max: 360.0)]
        public float $turnX = 0.0,
        #[Param('Turn Y', '', unit: 'deg', min: -360.0, max: 360.0)]
        public float $turnY = 0.0,
        #[Param('Turn Z', '', unit: 'deg', min: -360.0, max: 360.0)]
        public float $turnZ = 0.0,
        #[Param('About', 'The place that turns leave where it is; the middle of what moves unless given.', picks: 'points')]
        public ?array $about = null,
    ) {
        if ($about !== null && (count($about) !== 3 || array_filter($about, fn ($v) => ! is_int($v) && ! is_float($v) || ! is_finite((float) $v)) !== [])) {
            throw InvalidParameter::of('about', 'must be three numbers');
        }
    }
}
