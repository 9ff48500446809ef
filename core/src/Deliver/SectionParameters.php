<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\PlaneChoice;

/** What `section` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class SectionParameters
{
    /** Planes of one step: more than anybody looks through, and still a file that opens. */
    private const MOST = 1000;

    /** Half-sections of a mean, all around, where nothing is said: one every four degrees; and the fewest that tell how they differ. */
    public const AROUND = 90;

    private const LEAST_AROUND = 8;

    /**
     * @param  string|array<string, mixed>|null  $plane  XY, YZ or ZX, the name of a datum, or {"point", "normal"} in mm
     * @param  string|array<string, mixed>|null  $around  X, Y or Z, the name of a datum, or {"point", "direction"} in mm
     */
    public function __construct(
        #[Param('Plane', 'Of the frame, or a datum that is a plane.', picks: 'plane', with: ['around' => null])]
        public string|array|null $plane = null,
        #[Param('Shift', 'How far from the plane the first section lies, the way the plane faces; less than 0 is behind it.', unit: 'mm', with: ['around' => null])]
        public float $shift = 0.0,
        #[Param('Around', 'Planes that this axis lies in, instead of planes side by side.', picks: 'axis')]
        public string|array|null $around = null,
        #[Param('Count', 'How many sections.', min: 1.0, max: self::MOST)]
        public int $count = 1,
        #[Param('Spacing', 'From one to the next, the way the plane faces; empty to spread them over the body. Around an axis they share half a turn.', unit: 'mm', positive: true, with: ['around' => null], empty: 'even')]
        public ?float $spacing = null,
        #[Param('Mean all around', 'One half-section: the mean of as many around the axis as are counted, with how they differ. For parts that are turned; what is not the same all around is left out.')]
        public bool $mean = false,
        #[Param('Lines and arcs', 'Curves become as few straight lines and arcs as pass no point farther than this; empty leaves every point.', unit: 'mm', positive: true, empty: 'off')]
        public ?float $fit = null,
        #[Param('Dimensions', 'Width and height, and of lines and arcs their lengths, radii and diameters, are drawn beside the curves.')]
        public bool $dimensions = false,
    ) {
        if (($plane === null) === ($around === null)) {
            throw InvalidParameter::of('plane', $plane === null ? 'or around is required: one of the two' : 'is given together with around; give one of the two');
        }
        if ($mean && $around === null) {
            throw InvalidParameter::of('mean', 'is of planes around an axis: say around which');
        }
        if ($mean && $count > 1 && $count < self::LEAST_AROUND) {
            throw InvalidParameter::of('count', sprintf('must be %d or more for a mean all around; leave it out for %d', self::LEAST_AROUND, self::AROUND));
        }
        $plane === null || PlaneChoice::check('plane', $plane);
        $around === null || AxisChoice::check('around', $around);
    }
}
