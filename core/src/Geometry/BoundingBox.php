<?php

declare(strict_types=1);

namespace Emberstone\Core\Geometry;

/** An axis-aligned box; of no points at all it is the origin. */
final readonly class BoundingBox
{
    /**
     * @param  array{float, float, float}  $min
     * @param  array{float, float, float}  $max
     */
    private function __construct(public array $min, public array $max)
    {
    }

    /** @param  array<int, float>  $p flat xyz */
    public static function of(array $p): self
    {
        $x0 = $y0 = $z0 = INF;
        $x1 = $y1 = $z1 = -INF;
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $x = $p[$o];
            $y = $p[$o + 1];
            $z = $p[$o + 2];
            if ($x < $x0) {
                $x0 = $x;
            }
            if ($x > $x1) {
                $x1 = $x;
            }
            if ($y < $y0) {
                $y0 = $y;
            }
            if ($y > $y1) {
                $y1 = $y;
            }
            if ($z < $z0) {
                $z0 = $z;
            }
            if ($z > $z1) {
                $z1 = $z;
            }
        }

        return $x0 > $x1 ? new self([0.0, 0.0, 0.0], [0.0, 0.0, 0.0]) : new self([$x0, $y0, $z0], [$x1, $y1, $z1]);
    }

    /** Does all of the other box lie in this one? */
    public function contains(self $other): bool
    {
        for ($k = 0; $k < 3; $k++) {
            if ($other->min[$k] < $this->min[$k] || $other->max[$k] > $this->max[$k]) {
                return false;
            }
        }

        return true;
    }

    public function diagonal(): float
    {
        $x = $this->max[0] - $this->min[0];
        $y = $this->max[1] - $this->min[1];
        $z = $this->max[2] - $this->min[2];

        return sqrt($x * $x + $y * $y + $z * $z);
    }

    public function longestSide(): float
    {
        return max($this->max[0] - $this->min[0], $this->max[1] - $this->min[1], $this->max[2] - $this->min[2]);
    }

    /** @return array{float, float, float} */
    public function centre(): array
    {
        return [
            0.5 * ($this->min[0] + $this->max[0]),
            0.5 * ($this->min[1] + $this->max[1]),
            0.5 * ($this->min[2] + $this->max[2]),
        ];
    }
}
