<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `frame-from-points` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class FrameFromPointsParameters
{
    /** @param  array<int, array{float, float, float}>  $points  mm */
    public function __construct(
        #[Param('Points', 'Three places: the origin, one on the X axis, one on the Y side of it.', picks: 'points')]
        public array $points,
    ) {
        if (count($points) !== 3) {
            throw InvalidParameter::of('points', 'are '.count($points).'; three are needed: the origin, one on X, one towards Y');
        }
        foreach ($points as $point) {
            if (! is_array($point) || count($point) !== 3 || array_filter($point, fn ($v) => ! is_int($v) && ! is_float($v) || ! is_finite((float) $v)) !== []) {
                throw InvalidParameter::of('points', 'needs three finite numbers a point');
            }
        }
    }
}
