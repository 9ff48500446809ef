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
     * @param  array<int, array{target: string, ranges: list<array{int, int}>}>|null  $region  faces of a mesh
     * @param  array<int, array<int, float|int>>|null  $also  places on further areas; only with a seed
     * @param  array{how: string, of: array<int, string>, by?: float|int}|null  $construct  see Construct
     */
    public function __construct(
        #[Param('Name', 'Name of the datum.')]
        public string $name,
        #[Param('Kind', 'What the datum is.', choices: ['plane', 'cylinder', 'cone', 'sphere', 'line', 'point'])]
        public string $kind = 'plane',
        #[Param('Place', 'Click a place: the area spreads from there.', picks: 'points')]
        public ?array $seed = null,
        #[Param('Spread', 'The area stops where the surface turns by more than this.', unit: 'deg', min: 1.0, max: 60.0)]
        public float $angle = 12.0,
        #[Param('Points', 'Three or more places on the plane, two on a line, four on a sphere, or the one point.', picks: 'points')]
        public ?array $points = null,
        #[Param('Region', 'Faces brushed or outlined: the shape is fitted to them.', picks: 'region')]
        public ?array $region = null,
        #[Param('Constructed', 'From other datums, such as half-way between two planes.', picks: 'construct')]
        public ?array $construct = null,
        #[Param('Further places', 'On other areas of the same shape, such as the far end of a bore: they are fitted as one.', picks: 'points')]
        public ?array $also = null,
    ) {
        if (trim($name) === '') {
            throw InvalidParameter::of('name', 'is empty; name the datum');
        }
        $given = array_keys(array_filter(['seed' => $seed, 'points' => $points, 'region' => $region, 'construct' => $construct], fn ($way) => $way !== null));
        if (count($given) !== 1) {
            throw InvalidParameter::of('seed', $given === [] ? 'or points, region or construct is required: click a place on the part' : 'points, region and construct exclude each other; give one, not '.implode(' and ', $given));
        }
        if ($construct !== null) {
            Construct::check($construct);
        }
        foreach ($region ?? [] as $part) {
            if (! is_array($part) || ! is_string($part['target'] ?? null) || ! is_array($part['ranges'] ?? null)) {
                throw InvalidParameter::of('region', 'needs a target and a list of ranges for each body');
            }
        }
        if ($also !== null && $seed === null) {
            throw InvalidParameter::of('also', 'goes with seed: the place of the first area');
        }
        foreach ($seed !== null ? [$seed, ...$also ?? []] : $points ?? [] as $point) {
            if (! is_array($point) || count($point) !== 3 || array_filter($point, fn ($v) => ! is_int($v) && ! is_float($v) || ! is_finite((float) $v)) !== []) {
                throw InvalidParameter::of($seed !== null ? 'seed' : 'points', 'needs three finite numbers a point');
            }
        }
    }
}
