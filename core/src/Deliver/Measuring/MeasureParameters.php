<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Measuring;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Param;

/** What `measure` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class MeasureParameters
{
    /** How many things each kind is measured of, at least and at most. */
    public const COUNTS = [
        'distance' => [2, 2], 'angle' => [2, 2], 'step' => [2, 2], 'position' => [2, 2], 'diameter' => [1, 1], 'radius' => [1, 1], 'opening' => [1, 1], 'flatness' => [1, 1], 'roundness' => [1, 1],
        'cylindricity' => [1, 1], 'wall' => [0, 1], 'area' => [0, 1], 'volume' => [0, 1], 'box' => [0, 1], 'length' => [2, 2],
    ];

    /** Kinds that say how much a surface strays from what it should be. */
    public const FORMS = ['flatness', 'roundness', 'cylindricity'];

    /** Kinds that are of a body; wall, of a place on it or all of it. */
    public const OF_BODIES = ['area', 'volume', 'box'];

    /** What may be fitted around a place: see Datums\SurfaceSeed; a rim is the round one next to it (RimGauge), a point the place itself. */
    public const FITS = ['plane', 'cylinder', 'cone', 'sphere', 'rim', 'point'];

    /**
     * @param  array<int, string|array<int, float|int>|array{at: array<int, float|int>, fit: string}>  $of  names of datums, ids of found shapes, places {x, y, z} in mm, or places of the surface with what is fitted to the area around
     *                                                                                             them (FITS); of a body for area, volume, box and wall
     * @param  bool  $alike  the same of every found shape that is like the one it is measured of: see Alike
     * @param  string|array<string, mixed>|null  $along  X, Y, Z, the name of a datum, or {"point", "direction"}
     */
    public function __construct(
        #[Param('Kind', 'What is measured. A step is how far one plane stands out over another; a position, how wide the round zone about a true axis or place must be to hold an axis.', choices: ['distance', 'angle', 'step', 'position', 'diameter', 'radius', 'opening', 'flatness', 'roundness', 'cylindricity', 'wall', 'area', 'volume', 'box', 'length'])]
        public string $kind = 'distance',
        #[Param('Of', 'Datums, found shapes by their ids, or places; a body for its area or volume.', picks: 'measured')]
        public array $of = [],
        #[Param('All like it', 'The same on every shape found on the body that is as large and faces the same way, such as all bolt holes.', with: ['kind' => 'diameter'])]
        public bool $alike = false,
        #[Param('Along', 'Only the part of a distance along this axis counts.', picks: 'axis', with: ['kind' => 'distance'])]
        public string|array|null $along = null,
        #[Param('By', 'A ray goes straight in until it comes out; a ball is the largest that fits between the two sides there.', choices: ['ray', 'ball'], with: ['kind' => 'wall'])]
        public string $by = 'ray',
        #[Param('Nominal', 'What it should be.', unit: 'measured', empty: 'none')]
        public ?float $nominal = null,
        #[Param('Plus', 'As much more is allowed.', unit: 'measured', min: 0.0, empty: 'none')]
        public ?float $plus = null,
        #[Param('Minus', 'As much less is allowed.', unit: 'measured', min: 0.0, empty: 'none')]
        public ?float $minus = null,
        #[Param('Name', 'Of the measurement.', empty: 'by what is measured')]
        public ?string $name = null,
    ) {
        [$least, $most] = self::COUNTS[$kind];
        if (count($of) < $least || count($of) > $most) {
            throw InvalidParameter::of('of', sprintf('names %d; %s is measured of %s', count($of), $kind, $least === 2 ? 'two: datums or places' : ($least === 1 ? 'one datum' : 'one thing at most; leave it out for the body')));
        }
        foreach ($of as $one) {
            $place = is_array($one) ? $one['at'] ?? $one : null;
            if (! is_string($one) && (! is_array($place) || count($place) !== 3 || array_filter($place, fn (mixed $x) => ! is_int($x) && ! is_float($x) || ! is_finite((float) $x)) !== [])) {
                throw InvalidParameter::of('of', 'must hold names of datums or bodies, places of three numbers, or {"at": a place on the surface, "fit": what is fitted there}');
            }
            if (isset($one['at']) && is_array($one) && (! in_array($one['fit'] ?? 'point', self::FITS, true) || array_diff(array_keys($one), ['at', 'fit']) !== [])) {
                throw InvalidParameter::of('of', 'fits one of '.implode(', ', self::FITS).' at a place');
            }
        }
        if ($alike && $kind !== 'diameter') {
            throw InvalidParameter::of('alike', 'is for diameters: leave it out');
        }
        if ($along !== null) {
            AxisChoice::check('along', $along);
        }
        if ($nominal === null && ($plus !== null || $minus !== null)) {
            throw InvalidParameter::of('nominal', 'is missing: say what it should be, or leave out what is allowed');
        }
    }
}
