<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `turn` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class TurnParameters
{
    /** @param  array<int, array<int, float|int>>|null  $level  project coordinates, mm */
    public function __construct(
        #[Param('Axis', 'The line through the place that stays, about which everything turns.', choices: ['x', 'y', 'z'])]
        public string $axis = 'x',
        #[Param('Angle', 'Counter-clockwise, seen against the axis.', unit: 'deg', min: -360.0, max: 360.0)]
        public float $angle = 0.0,
        #[Param('About', 'What stays where it is: the origin of the frame, or the middle of everything.', choices: ['origin', 'middle'])]
        public string $about = 'origin',
        #[Param('Level by', 'In place of axis and angle: a place on the face that shall point up, or two places on a line that shall lie along the nearest axis.', picks: 'points')]
        public ?array $level = null,
    ) {
        if ($level === null) {
            return;
        }
        if ($angle !== 0.0) {
            throw InvalidParameter::of('level', 'says how to turn already; leave out angle');
        }
        if (count($level) < 1 || count($level) > 2) {
            throw InvalidParameter::of('level', 'needs one place, on the face that shall point up, or two, on a line');
        }
        foreach ($level as $point) {
            if (! is_array($point) || count($point) !== 3 || array_filter($point, fn ($v) => ! is_int($v) && ! is_float($v) || ! is_finite((float) $v)) !== []) {
                throw InvalidParameter::of('level', 'needs three finite numbers a place');
            }
        }
    }
}
