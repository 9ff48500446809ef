<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Fitting;

use Emberstone\Core\Geometry\Vector3;

/**
 * What a fit keeps to: a direction that makes an angle with another, a point it goes through, a radius.
 *
 * @internal
 */
final readonly class FitConstraints
{
    /**
     * @param  array{float, float, float}|null  $reference  unit direction that the shape's own makes an angle with
     * @param  float  $cosine  of that angle, not below 0: either sense is as good
     * @param  array{float, float, float}|null  $through  mm
     * @param  float|null  $radius  mm
     */
    public function __construct(public ?array $reference, public float $cosine, public ?array $through, public ?float $radius)
    {
    }

    /**
     * The direction nearest to one that keeps to the angle.
     *
     * @param  array{float, float, float}  $d  unit
     * @return array{float, float, float} unit
     */
    public function turned(array $d): array
    {
        if ($this->reference === null) {
            return $d;
        }
        $r = $this->reference;
        $along = Vector3::dot($d, $r);
        $aside = [$d[0] - $along * $r[0], $d[1] - $along * $r[1], $d[2] - $along * $r[2]];
        $aside = Vector3::length($aside) > 1e-9 ? Vector3::unit($aside) : Vector3::square($r)[0];
        $c = $along < 0.0 ? -$this->cosine : $this->cosine;
        $s = sqrt(max(0.0, 1.0 - $c * $c));

        return Vector3::unit([$c * $r[0] + $s * $aside[0], $c * $r[1] + $s * $aside[1], $c * $r[2] + $s * $aside[2]]);
    }

    /** Whether the direction is fixed altogether. */
    public function isFixed(): bool
    {
        return $this->reference !== null && $this->cosine > 1.0 - 1e-12;
    }

    /**
     * Two unit vectors square to a direction that keeps to the angle; along the first it may turn, along the second only where nothing is held.
     *
     * @param  array{float, float, float}  $d
     * @return array{array{float, float, float}, array{float, float, float}}
     */
    public function ways(array $d): array
    {
        if ($this->reference === null || $this->isFixed()) {
            return Vector3::square($d);
        }
        $around = Vector3::unit(Vector3::cross($this->reference, $d));

        return [$around, Vector3::unit(Vector3::cross($d, $around))];
    }
}
