<?php

declare(strict_types=1);

namespace Emberstone\Core\Geometry;

use Emberstone\Core\Foundation\InvalidParameter;

/**
 * Where the numbers of a file stand in the project: how many millimetres one of them is, and the pose of what they tell.
 *
 * The only place where a scale and a pose are held together: geometry is multiplied by the scale first, and everything after that is in millimetres.
 */
final readonly class Placement
{
    /** A scale this near to 1 is 1: what is left are roundings of a matrix. */
    private const ONE = 1e-12;

    private function __construct(public float $scale, public RigidTransform $pose)
    {
    }

    /** @throws InvalidParameter when the scale is not a finite number above zero */
    public static function of(float $scale, RigidTransform $pose): self
    {
        return is_finite($scale) && $scale > 0.0 ? new self($scale, $pose) : throw InvalidParameter::of('scale', "is $scale; it must be a finite number above 0");
    }

    /**
     * Of a 4x4 row-major matrix that turns, scales evenly and shifts.
     *
     * @param  array<mixed>  $matrix
     *
     * @throws InvalidParameter when it is anything else
     */
    public static function fromMatrix(array $matrix): self
    {
        $numbers = array_map(fn (mixed $v) => is_int($v) || is_float($v) ? (float) $v : NAN, array_values($matrix));
        if (count($numbers) !== 16) {
            throw InvalidParameter::of('transform', 'is not a 4x4 row-major matrix ending in 0 0 0 1');
        }
        $scale = sqrt($numbers[0] ** 2 + $numbers[4] ** 2 + $numbers[8] ** 2);
        if (abs($scale - 1.0) < self::ONE) {
            return new self(1.0, RigidTransform::fromMatrix($numbers));
        }
        foreach ([0, 1, 2, 4, 5, 6, 8, 9, 10] as $k) {
            $numbers[$k] /= $scale;
        }

        return self::of($scale, RigidTransform::fromMatrix($numbers));
    }

    /**
     * The same where the numbers count from an origin of their own, as those of a blob do.
     *
     * @param  array<int, float>  $origin  in the numbers of the file
     */
    public function from(array $origin): self
    {
        return new self($this->scale, RigidTransform::shift($this->scale * $origin[0], $this->scale * $origin[1], $this->scale * $origin[2])->then($this->pose));
    }

    /** This first, $next after it. */
    public function then(self $next): self
    {
        return new self($this->scale * $next->scale, $this->pose->withShiftTimes($next->scale)->then($next->pose));
    }

    /** @return list<float> from the numbers of the file to the project's millimetres: 4x4, row-major */
    public function matrix(): array
    {
        return array_map(fn (float $v, int $k) => $k < 12 && $k % 4 < 3 ? $v * $this->scale : $v, $this->pose->matrix, array_keys($this->pose->matrix));
    }

    /**
     * @param  array<int, float>  $numbers  of the file, three
     * @return array{float, float, float} in the project, mm
     */
    public function point(array $numbers): array
    {
        return $this->pose->point([$this->scale * $numbers[0], $this->scale * $numbers[1], $this->scale * $numbers[2]]);
    }

    /**
     * @param  array<int, float>  $numbers  of the file, flat xyz
     * @return list<float> in the project, flat xyz, mm
     */
    public function points(array $numbers): array
    {
        return $this->pose->points($this->scale === 1.0 ? $numbers : array_map(fn (float $v) => $this->scale * $v, $numbers));
    }

    /**
     * @param  array<int, float>  $direction
     * @return array{float, float, float}
     */
    public function direction(array $direction): array
    {
        return $this->pose->direction($direction);
    }

    /**
     * @param  array<int, float>  $at  in the project, mm
     * @return array{float, float, float} in the numbers of the file
     */
    public function back(array $at): array
    {
        [$x, $y, $z] = $this->pose->inverse()->point($at);

        return [$x / $this->scale, $y / $this->scale, $z / $this->scale];
    }
}
