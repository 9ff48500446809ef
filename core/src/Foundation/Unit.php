<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/** Units of lengths in files and projects. */
enum Unit: string
{
    case Millimetre = 'mm';
    case Centimetre = 'cm';
    case Metre = 'm';
    case Inch = 'in';
    case Foot = 'ft';

    /**
     * The likeliest unit of a file that does not say: parts are some millimetres to some metres long.
     *
     * @param  float  $size  longest side, as the numbers in the file have it
     */
    public static function guess(float $size): self
    {
        // Under three of anything but metres would be a crumb; over three the numbers of scanners are millimetres.
        return $size > 0.0 && $size < 3.0 ? self::Metre : self::Millimetre;
    }

    /** How many millimetres one of it is. */
    public function inMillimetres(): float
    {
        return match ($this) {
            self::Millimetre => 1.0,
            self::Centimetre => 10.0,
            self::Metre => 1000.0,
            self::Inch => 25.4,
            self::Foot => 304.8,
        };
    }
}
