<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Param;

final readonly class AddDatumParameters
{
    /**
     * @param  array<int, float|int>|null  $seed  a place on the surface
     * @param  array<int, array<int, float|int>>|null  $points
     */
    public function __construct(
        #[Param('Name', 'Name of the datum.')]
        public string $name,
        #[Param('Kind', 'What the datum is.', choices: ['plane', 'cylinder', 'point'])]
        public string $kind,
        #[Param('Place', 'Click a place: the area spreads from there.', picks: 'points')]
        public ?array $seed = null,
        #[Param('Spread', 'The area stops where the surface turns by more than this.', unit: 'deg', min: 1.0, max: 60.0)]
        public float $angle = 12.0,
        #[Param('Points', 'Three or more places on the plane, or the one point.', picks: 'points')]
        public ?array $points = null,
    ) {
        if (trim($name) === '') {
            throw InvalidParameter::of('name', 'is empty; name the datum');
        }
        if (($seed === null) === ($points === null)) {
            throw InvalidParameter::of('seed', $seed === null ? 'or points is required: click a place on the part' : 'and points exclude each other; give one');
        }
        foreach ($seed !== null ? [$seed] : $points ?? [] as $point) {
            if (! is_array($point) || count($point) !== 3 || array_filter($point, fn ($v) => ! is_int($v) && ! is_float($v) || ! is_finite((float) $v)) !== []) {
                throw InvalidParameter::of($seed !== null ? 'seed' : 'points', 'needs three finite numbers a point');
            }
        }
    }
}
