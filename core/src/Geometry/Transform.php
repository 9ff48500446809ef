<?php

declare(strict_types=1);

namespace Emberstone\Core\Geometry;

use Emberstone\Core\Operation\InvalidParameter;

/**
 * A similarity of space: turn, uniform scale, shift. Sixteen doubles, row-major; maps column vectors (x, y, z, 1).
 */
final readonly class Transform
{
    /** @param  list<float>  $matrix sixteen numbers, row-major */
    private function __construct(public array $matrix)
    {
    }

    public static function identity(): self
    {
        return new self([1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0]);
    }

    /**
     * @param  array<mixed>  $matrix
     *
     * @throws InvalidParameter when there are not sixteen finite numbers, or the last row is not 0 0 0 1
     */
    public static function fromMatrix(array $matrix): self
    {
        $numbers = [];
        foreach ($matrix as $value) {
            if (! is_int($value) && ! is_float($value) || ! is_finite((float) $value)) {
                throw InvalidParameter::of('transform', 'is not sixteen finite numbers');
            }
            $numbers[] = (float) $value;
        }
        if (count($numbers) !== 16 || $numbers[12] !== 0.0 || $numbers[13] !== 0.0 || $numbers[14] !== 0.0 || $numbers[15] !== 1.0) {
            throw InvalidParameter::of('transform', 'is not a 4x4 row-major matrix ending in 0 0 0 1');
        }

        return new self($numbers);
    }

    /**
     * @param  array<int, float>  $rotation  nine numbers, row-major
     * @param  array<int, float>  $shift  three numbers
     */
    public static function of(array $rotation, array $shift): self
    {
        return new self([
            $rotation[0], $rotation[1], $rotation[2], $shift[0],
            $rotation[3], $rotation[4], $rotation[5], $shift[1],
            $rotation[6], $rotation[7], $rotation[8], $shift[2],
            0.0, 0.0, 0.0, 1.0,
        ]);
    }

    public static function shift(float $x, float $y, float $z): self
    {
        return self::of([1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0], [$x, $y, $z]);
    }

    public static function scale(float $factor): self
    {
        return self::of([$factor, 0.0, 0.0, 0.0, $factor, 0.0, 0.0, 0.0, $factor], [0.0, 0.0, 0.0]);
    }

    /**
     * Turn about an axis through the origin (Rodrigues' formula).
     *
     * @param  array<int, float>  $axis  any length but zero
     */
    public static function turn(array $axis, float $angleRad): self
    {
        $length = sqrt($axis[0] * $axis[0] + $axis[1] * $axis[1] + $axis[2] * $axis[2]);
        if ($length === 0.0 || $angleRad === 0.0) {
            return self::identity();
        }
        $x = $axis[0] / $length;
        $y = $axis[1] / $length;
        $z = $axis[2] / $length;
        $c = cos($angleRad);
        $s = sin($angleRad);
        $k = 1.0 - $c;

        return self::of([
            $c + $x * $x * $k, $x * $y * $k - $z * $s, $x * $z * $k + $y * $s,
            $y * $x * $k + $z * $s, $c + $y * $y * $k, $y * $z * $k - $x * $s,
            $z * $x * $k - $y * $s, $z * $y * $k + $x * $s, $c + $z * $z * $k,
        ], [0.0, 0.0, 0.0]);
    }

    /** The transform that does $this first and $next after it. */
    public function then(self $next): self
    {
        $a = $next->matrix;
        $b = $this->matrix;
        $m = [];
        for ($row = 0; $row < 12; $row += 4) {
            for ($column = 0; $column < 4; $column++) {
                $m[] = $a[$row] * $b[$column] + $a[$row + 1] * $b[4 + $column] + $a[$row + 2] * $b[8 + $column]
                    + ($column === 3 ? $a[$row + 3] : 0.0);
            }
        }

        return new self([...$m, 0.0, 0.0, 0.0, 1.0]);
    }

    public function inverse(): self
    {
        $m = $this->matrix;
        $scaleSq = $m[0] * $m[0] + $m[4] * $m[4] + $m[8] * $m[8];
        $w = 1.0 / $scaleSq;
        $r = [$m[0] * $w, $m[4] * $w, $m[8] * $w, $m[1] * $w, $m[5] * $w, $m[9] * $w, $m[2] * $w, $m[6] * $w, $m[10] * $w];

        return self::of($r, [
            -($r[0] * $m[3] + $r[1] * $m[7] + $r[2] * $m[11]),
            -($r[3] * $m[3] + $r[4] * $m[7] + $r[5] * $m[11]),
            -($r[6] * $m[3] + $r[7] * $m[7] + $r[8] * $m[11]),
        ]);
    }

    public function isIdentity(): bool
    {
        return $this->matrix === self::identity()->matrix;
    }

    /** How far it turns, in degrees; 0 to 180. */
    public function angleDeg(): float
    {
        $m = $this->matrix;
        $k = $this->scaleFactor();
        // By the sine where the angle is small: a cosine near one has lost the digits that tell.
        $sine = 0.5 * sqrt(($m[9] - $m[6]) ** 2 + ($m[2] - $m[8]) ** 2 + ($m[4] - $m[1]) ** 2) / $k;

        return rad2deg(atan2($sine, 0.5 * (($m[0] + $m[5] + $m[10]) / $k - 1.0)));
    }

    /** Lengths are multiplied by this. */
    public function scaleFactor(): float
    {
        $m = $this->matrix;

        return sqrt($m[0] * $m[0] + $m[4] * $m[4] + $m[8] * $m[8]);
    }

    /**
     * @param  array<int, float>  $point
     * @return array{float, float, float}
     */
    public function point(array $point): array
    {
        $m = $this->matrix;

        return [
            $m[0] * $point[0] + $m[1] * $point[1] + $m[2] * $point[2] + $m[3],
            $m[4] * $point[0] + $m[5] * $point[1] + $m[6] * $point[2] + $m[7],
            $m[8] * $point[0] + $m[9] * $point[1] + $m[10] * $point[2] + $m[11],
        ];
    }

    /**
     * Turns a direction; the result has unit length when the input has.
     *
     * @param  array<int, float>  $direction
     * @return array{float, float, float}
     */
    public function direction(array $direction): array
    {
        $m = $this->matrix;
        $w = 1.0 / $this->scaleFactor();

        return [
            $w * ($m[0] * $direction[0] + $m[1] * $direction[1] + $m[2] * $direction[2]),
            $w * ($m[4] * $direction[0] + $m[5] * $direction[1] + $m[6] * $direction[2]),
            $w * ($m[8] * $direction[0] + $m[9] * $direction[1] + $m[10] * $direction[2]),
        ];
    }

    /**
     * @param  array<int, float>  $positions  flat xyz
     * @return list<float> flat xyz
     */
    public function points(array $positions): array
    {
        if ($this->isIdentity()) {
            return array_values($positions);
        }
        [$a, $b, $c, $d, $e, $f, $g, $h, $i, $j, $k, $l] = $this->matrix;
        for ($o = 0, $n = count($positions); $o < $n; $o += 3) {
            $x = $positions[$o];
            $y = $positions[$o + 1];
            $z = $positions[$o + 2];
            $positions[$o] = $a * $x + $b * $y + $c * $z + $d;
            $positions[$o + 1] = $e * $x + $f * $y + $g * $z + $h;
            $positions[$o + 2] = $i * $x + $j * $y + $k * $z + $l;
        }

        return array_values($positions);
    }

    /**
     * @param  array<int, float>  $directions  flat unit vectors
     * @return list<float>
     */
    public function directions(array $directions): array
    {
        $w = 1.0 / $this->scaleFactor();
        $m = $this->matrix;
        $turn = self::of([$m[0] * $w, $m[1] * $w, $m[2] * $w, $m[4] * $w, $m[5] * $w, $m[6] * $w, $m[8] * $w, $m[9] * $w, $m[10] * $w], [0.0, 0.0, 0.0]);

        return $turn->points($directions);
    }
}
