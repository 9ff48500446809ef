<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Datums\Construct;
use Emberstone\Core\Datums\FitConstraint;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `add-datum` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class AddDatumParameters
{
    /**
     * @param  array<int, float|int>|null  $seed  a place on the surface
     * @param  array<int, array<int, float|int>>|null  $points
     * @param  array<int, array{target: string, ranges: list<array{int, int}>}>|null  $region  faces of a mesh
     * @param  array<int, array<int, float|int>>|null  $also  places on further areas; only with a seed
     * @param  array{how: string, of: array<int, string>, by?: float|int, shift?: array<int, float|int>}|null  $construct  see Construct
     * @param  array{how?: string, to?: string, angle?: float|int, through?: string, diameter?: float|int}|null  $hold  see FitConstraint
     * @param  array{find: string, nth?: int, body?: string, id?: string}|null  $shape  `mirror` (a plane) or `axis` (a line), of several mirrors the nth, the best first; or `found`, a shape that find-shapes has found, by its id
     * @param  array{origin: array<int, float|int>, direction?: array<int, float|int>, diameter?: float|int, halfAngle?: float|int, size?: float|int}|null  $typed  mm and degrees
     */
    public function __construct(
        #[Param('Name', 'Name of the datum.')]
        public string $name,
        #[Param('Kind', 'What the datum is.', choices: ['plane', 'cylinder', 'cone', 'sphere', 'line', 'point', 'frame'])]
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
        #[Param('Held', 'What a fitted shape keeps to: parallel, square or at an angle to a datum, through a point, of a diameter.', picks: 'hold')]
        public ?array $hold = null,
        #[Param('Typed', 'The datum in numbers.', picks: 'typed')]
        public ?array $typed = null,
        #[Param('Shape', 'Found from the whole shape: the plane that mirrors it, or the axis it is turned about; or a shape that was found on it.', picks: 'shape')]
        public ?array $shape = null,
        #[Param('Frame of', 'A frame is kept as it is set now, or as a body had it in its own file.', picks: 'body')]
        public ?string $frameOf = null,
        #[Param('The other way round', 'A plane then faces the other way, a line or an axis points the other way.', picks: 'flip')]
        public bool $flip = false,
    ) {
        if (trim($name) === '') {
            throw InvalidParameter::of('name', 'is empty; name the datum');
        }
        $given = array_keys(array_filter(['seed' => $seed, 'points' => $points, 'region' => $region, 'construct' => $construct, 'typed' => $typed, 'shape' => $shape], fn ($way) => $way !== null));
        if ($frameOf !== null && $kind !== 'frame') {
            throw InvalidParameter::of('frameOf', "says whose frame to keep, but the kind is $kind; make it frame");
        }
        if ($kind === 'frame') {
            if ($given !== []) {
                throw InvalidParameter::of($given[0], 'makes no frame: a frame is kept as it is set now, or as the body that frameOf names had it');
            }

            return;
        }
        if (count($given) !== 1) {
            throw InvalidParameter::of('seed', $given === [] ? 'or points, region, construct, typed or shape is required: click a place on the part' : 'points, region, construct, typed and shape exclude each other; give one, not '.implode(' and ', $given));
        }
        if ($construct !== null) {
            Construct::check($construct);
        }
        foreach ($region ?? [] as $part) {
            if (! is_array($part) || ! is_string($part['target'] ?? null) || ! is_array($part['ranges'] ?? null)) {
                throw InvalidParameter::of('region', 'needs a target and a list of ranges for each body');
            }
        }
        if ($hold !== null) {
            FitConstraint::check($hold);
            if ($seed === null && $region === null || in_array($kind, ['line', 'point'], true)) {
                throw InvalidParameter::of('hold', 'goes with a shape that is fitted to surface: a plane, cylinder, cone or sphere from seed or region');
            }
        }
        if ($typed !== null) {
            self::checkTyped($kind, $typed);
        }
        if ($shape !== null) {
            self::checkShape($kind, $shape);
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

    /**
     * @param  array<mixed>  $typed
     *
     * @throws InvalidParameter
     */
    private static function checkTyped(string $kind, array $typed): void
    {
        $needs = ['origin' => true, 'direction' => ! in_array($kind, ['point', 'sphere'], true), 'diameter' => in_array($kind, ['cylinder', 'sphere', 'cone'], true), 'halfAngle' => $kind === 'cone'];
        foreach ($needs as $key => $isNeeded) {
            if (isset($typed[$key]) !== $isNeeded) {
                throw InvalidParameter::of('typed', $isNeeded ? "needs $key for a $kind" : "has a $key, which a $kind has not");
            }
        }
        $unknown = array_values(array_diff(array_keys($typed), ['size', ...array_keys($needs)]));
        if ($unknown !== []) {
            throw InvalidParameter::of('typed', 'has '.json_encode($unknown[0]).'; it knows origin, direction, diameter, halfAngle and size');
        }
        $isNumber = fn (mixed $v): bool => (is_int($v) || is_float($v)) && is_finite((float) $v);
        foreach (array_intersect_key($typed, ['origin' => 0, 'direction' => 0]) as $key => $v) {
            if (! is_array($v) || ! array_is_list($v) || count($v) !== 3 || count(array_filter($v, $isNumber)) !== 3) {
                throw InvalidParameter::of('typed', "needs three finite numbers for $key");
            }
        }
        if (isset($typed['direction']) && array_sum(array_map(fn ($v) => $v * $v, $typed['direction'])) < 1e-18) {
            throw InvalidParameter::of('typed', 'has a direction without length');
        }
        foreach (['diameter' => INF, 'halfAngle' => 89.9, 'size' => INF] as $key => $most) {
            if (isset($typed[$key]) && (! $isNumber($typed[$key]) || $typed[$key] <= 0 || $typed[$key] > $most)) {
                throw InvalidParameter::of('typed', "has a $key that is not a number above 0".($key === 'halfAngle' ? ' and below 90 degrees' : ''));
            }
        }
    }

    /**
     * @param  array<mixed>  $shape
     *
     * @throws InvalidParameter
     */
    private static function checkShape(string $kind, array $shape): void
    {
        if (array_diff(array_keys($shape), ['find', 'nth', 'body', 'id']) !== [] || ! in_array($shape['find'] ?? null, ['mirror', 'axis', 'found'], true)) {
            throw InvalidParameter::of('shape', 'needs "find": mirror, axis or found, and may have nth, body and id');
        }
        if (($shape['find'] === 'found') !== is_string($shape['id'] ?? null)) {
            throw InvalidParameter::of('shape', 'needs an "id" with "find": found, and with no other: that of the shape');
        }
        // A shape that was found has its own kind.
        if ($shape['find'] !== 'found' && $kind !== ($shape['find'] === 'mirror' ? 'plane' : 'line')) {
            throw InvalidParameter::of('shape', 'finds a plane as mirror and a line as axis; say so with kind');
        }
        if (isset($shape['nth']) && (! is_int($shape['nth']) || $shape['nth'] < 1)) {
            throw InvalidParameter::of('shape', 'has an "nth" that is not 1, 2 and so on');
        }
        if (isset($shape['body']) && ! is_string($shape['body'])) {
            throw InvalidParameter::of('shape', 'has a "body" that is not the name of one');
        }
    }
}
