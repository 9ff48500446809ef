<?php

declare(strict_types=1);

namespace Emberstone\Core\Geometry;

use Emberstone\Core\Foundation\InvalidParameter;

/**
 * A motion of space: turn and shift, nothing else. Sixteen doubles, row-major; maps column vectors (x, y, z, 1); shifts in mm.
 *
 * Lengths stay what they are: what a number of a file means in millimetres is no part of a pose (Placement).
 */
final readonly class RigidTransform
{
    /** How far the columns of a turn may be from unit length and from square to each other: files print poses with six digits or so. */
    private const RIGID = 1e-5;

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
     * @throws InvalidParameter when there are not sixteen finite numbers, the last row is not 0 0 0 1, or it scales, shears or mirrors
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
        $turn = [$numbers[0], $numbers[4], $numbers[8], $numbers[1], $numbers[5], $numbers[9], $numbers[2], $numbers[6], $numbers[10]];
        for ($i = 0; $i < 3; $i++) {
            for ($j = $i; $j < 3; $j++) {
                $product = $turn[3 * $i] * $turn[3 * $j] + $turn[3 * $i + 1] * $turn[3 * $j + 1] + $turn[3 * $i + 2] * $turn[3 * $j + 2];
                if (! (abs($product - ($i === $j ? 1.0 : 0.0)) < self::RIGID)) {
                    throw InvalidParameter::of('transform', $i === $j ? 'scales by '.round(sqrt($product), 6).'; a pose is a turn and a shift' : 'shears; a pose is a turn and a shift');
                }
            }
        }
        if ($turn[0] * ($turn[4] * $turn[8] - $turn[5] * $turn[7]) - $turn[1] * ($turn[3] * $turn[8] - $turn[5] * $turn[6]) + $turn[2] * ($turn[3] * $turn[7] - $turn[4] * $turn[6]) < 0.0) {
            throw InvalidParameter::of('transform', 'mirrors; a pose is a turn and a shift');
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

    /** The motion back: the transposed turn, and the shift turned by it. */
    public function inverse(): self
    {
        $m = $this->matrix;
        $r = [$m[0], $m[4], $m[8], $m[1], $m[5], $m[9], $m[2], $m[6], $m[10]];

        return self::of($r, [
            -($r[0] * $m[3] + $r[1] * $m[7] + $r[2] * $m[11]),
            -($r[3] * $m[3] + $r[4] * $m[7] + $r[5] * $m[11]),
            -($r[6] * $m[3] + $r[7] * $m[7] + $r[8] * $m[11]),
        ]);
    }

    /** The same turn with the shift multiplied by a factor: what a pose becomes when everything is scaled about the origin. */
    public function withShiftTimes(float $factor): self
    {
        $m = $this->matrix;

        return self::of([$m[0], $m[1], $m[2], $m[4], $m[5], $m[6], $m[8], $m[9], $m[10]], [$factor * $m[3], $factor * $m[7], $factor * $m[11]]);
    }

    public function isIdentity(): bool
    {
        return $this->matrix === self::identity()->matrix;
    }

    /** How far it turns, in degrees; 0 to 180. */
    public function angleDeg(): float
    {
        $m = $this->matrix;
        // By the sine where the angle is small: a cosine near one has lost the digits that tell.
        $sine = 0.5 * sqrt(($m[9] - $m[6]) ** 2 + ($m[2] - $m[8]) ** 2 + ($m[4] - $m[1]) ** 2);

        return rad2deg(atan2($sine, 0.5 * ($m[0] + $m[5] + $m[10] - 1.0)));
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

        return [
            $m[0] * $direction[0] + $m[1] * $direction[1] + $m[2] * $direction[2],
            $m[4] * $direction[0] + $m[5] * $direction[1] + $m[6] * $direction[2],
            $m[8] * $direction[0] + $m[9] * $direction[1] + $m[10] * $direction[2],
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
        $m = $this->matrix;
        $turn = self::of([$m[0], $m[1], $m[2], $m[4], $m[5], $m[6], $m[8], $m[9], $m[10]], [0.0, 0.0, 0.0]);

        return $turn->points($directions);
    }
}
