<?php

declare(strict_types=1);

namespace Emberstone\Core\Rigs;

use Emberstone\Core\Foundation\InvalidParameter;

/** The demo parts and rigs by name. */
final class Catalogue
{
    public const PARTS = [
        'pedestal' => 'Bearing pedestal of the cider press, 120 x 70 x 79 mm',
        'pedestal-with-bar' => 'The pedestal, and before it a gauge bar with two balls 100 mm apart',
        'cap' => 'Cap strapped over the pedestal, 112 x 36 x 45 mm',
        'bush' => 'Flanged bush in the pedestal\'s bore, 40 x 67 x 40 mm',
        'assembly' => 'Pedestal, cap and bush where they belong',
        'ratchet-wheel' => 'Ratchet wheel with a broken tooth, 120 mm across',
        'finial' => 'Pine-cone finial, 129 mm high; nothing on it is flat',
        'target' => 'Calibration target with six balls and three wedges, 240 x 180 x 77 mm',
        'press-hall' => 'Press hall, a room of 8 x 6 x 3.6 m; for the tripod',
    ];

    public const RIGS = [
        'handheld' => 'Handheld range camera: 8 passes, noise 0.05 mm, drifting poses, the table in view',
        'handheld-bare' => 'The same without a table: the part hangs free',
        'handheld-steady' => 'Handheld, the scanner\'s own place held exactly while it captures: noise alone',
        'handheld-off-scale' => 'Handheld, the part left lying: 4 passes, all lengths 0.8 % too long',
        'turntable' => 'Camera on a stand and a turntable: 12 stops, noise 0.04 mm, its axis known roughly',
        'ring' => 'Four fixed heads around a stand: noise 0.03 mm, where they stand to each other is not known',
        'tripod' => 'Long-range scanner on a tripod: 4 stations in a room, noise 1.5 mm, floating points at edges and glass',
    ];

    /** @return array<string, string> name => what it is */
    public static function parts(): array
    {
        return self::PARTS;
    }

    /** @return array<string, string> */
    public static function rigs(): array
    {
        return self::RIGS;
    }

    /**
     * A part of the demo world, exact.
     *
     * @throws InvalidParameter when there is none of that name
     */
    public static function part(string $name): Part
    {
        return match ($name) {
            'pedestal' => new BearingPedestal,
            'pedestal-with-bar' => new Assembly('pedestal-with-bar', new BearingPedestal, new GaugeBar),
            'cap' => new BearingCap,
            'bush' => new BearingBush,
            'assembly' => new Assembly('assembly', new BearingPedestal, new BearingCap, new BearingBush),
            'ratchet-wheel' => new RatchetWheel,
            'finial' => new PineConeFinial,
            'target' => new CalibrationTarget,
            'press-hall' => new PressHall,
            default => throw InvalidParameter::of('part', "\"$name\" is not known; there is ".implode(', ', array_keys(self::PARTS))),
        };
    }

    /**
     * @param  array{width: int, height: int}|null  $pixels  of its camera, see pixels(); its own when null
     *
     * @throws InvalidParameter when there is no such rig, or it has no camera
     */
    public static function rig(string $name, Surface $surface = Surface::Matt, ?MarkerDots $dots = null, ?array $pixels = null): Rig
    {
        if ($name === 'tripod' && $pixels !== null) {
            throw InvalidParameter::of('density', 'is that of a camera; the tripod turns, and its points lie closer the nearer the wall');
        }
        $pixels ??= [];

        return match ($name) {
            'handheld' => new HandheldRig(...$pixels, surface: $surface, dots: $dots),
            'handheld-bare' => new HandheldRig(...$pixels, table: false, surface: $surface, dots: $dots),
            'handheld-steady' => new HandheldRig(...$pixels, frameDriftMm: 0.0, surface: $surface, dots: $dots),
            'handheld-off-scale' => new HandheldRig(...$pixels, passes: 4, turnsOver: false, scale: 1.008, surface: $surface, dots: $dots),
            'turntable' => new TurntableRig(...$pixels, surface: $surface, dots: $dots),
            'ring' => new RingRig(...$pixels, surface: $surface, dots: $dots),
            'tripod' => new TripodRig,
            default => throw InvalidParameter::of('rig', "\"$name\" is not known; there is ".implode(', ', array_keys(self::RIGS))),
        };
    }

    /**
     * The pixels with which a camera that sees all of a part takes points of a density where it looks straight on, at the distance of the part's middle.
     *
     * @param  float  $density  points a mm2
     * @return array{width: int, height: int}
     *
     * @throws InvalidParameter when they would be too many to hold
     */
    public static function pixels(Part $part, float $density): array
    {
        $width = (int) round(RangeCamera::FIELD * Extent::of($part)->reach * sqrt($density));
        if ($width < 16 || $width > self::MOST_PIXELS) {
            throw InvalidParameter::of('density', sprintf('of %g points a mm2 makes a camera of %d pixels across; it must have 16 to %d', $density, $width, self::MOST_PIXELS));
        }

        return ['width' => $width, 'height' => (int) round(0.75 * $width)];
    }

    /** Across a camera: 100 million pixels are as many as fit in 8 GB with their depths and points. */
    private const MOST_PIXELS = 11_500;

    /** Edge of the cells with which the exact surface of a part is meshed: 0.6 mm, coarser for what is far larger. */
    public static function voxel(Part $part): float
    {
        [$min, $max] = $part->bounds();

        return max(0.6, sqrt(($max[0] - $min[0]) ** 2 + ($max[1] - $min[1]) ** 2 + ($max[2] - $min[2]) ** 2) / 300.0);
    }
}
