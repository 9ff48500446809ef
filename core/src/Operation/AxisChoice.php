<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\Vector3;

/** An axis as a parameter names it: an axis of the frame, a datum with a direction, or a point and a direction. */
final readonly class AxisChoice
{
    public const OF_FRAME = ['X' => [1.0, 0.0, 0.0], 'Y' => [0.0, 1.0, 0.0], 'Z' => [0.0, 0.0, 1.0]];

    /**
     * @param  array{float, float, float}  $point  mm, in project coordinates
     * @param  array{float, float, float}  $direction  of length 1
     */
    public function __construct(public array $point, public array $direction, public string $name)
    {
    }

    /**
     * Whether a value may name an axis, as far as that can be said without the datums.
     *
     * @param  string|array<mixed>  $value
     *
     * @throws InvalidParameter
     */
    public static function check(string $parameter, string|array $value): void
    {
        is_string($value) || Triples::check($parameter, $value, ['point', 'direction'], 'name an axis of the frame (X, Y, Z) or a datum');
    }

    /**
     * @param  string|array<mixed>  $value
     * @param  list<Datum>  $datums
     *
     * @throws InvalidParameter when no datum has that name, or it has no axis
     */
    public static function of(string $parameter, string|array $value, array $datums): self
    {
        self::check($parameter, $value);
        if (is_array($value)) {
            [$px, $py, $pz] = Triples::of($value, 'point');

            return new self([$px, $py, $pz], Vector3::unit(Triples::of($value, 'direction')), sprintf('the axis through %g, %g, %g', $px, $py, $pz));
        }
        if (isset(self::OF_FRAME[$value])) {
            return new self([0.0, 0.0, 0.0], self::OF_FRAME[$value], $value);
        }
        $datum = Datum::among($datums, $parameter, $value);
        if (! in_array($datum->kind, ['line', 'cylinder', 'cone'], true)) {
            throw InvalidParameter::of($parameter, "names \"$datum->name\", which is a $datum->kind; name a line, a cylinder or a cone");
        }

        return new self($datum->origin, $datum->direction, $datum->name);
    }

    /**
     * What is at its right hand: X of the frame, as far as it is square to the axis; Y for an axis along X itself.
     *
     * @return array{float, float, float} of length 1
     */
    public function across(): array
    {
        $x = abs($this->direction[0]) < 0.9 ? [1.0, 0.0, 0.0] : [0.0, 1.0, 0.0];

        return Vector3::unit(Vector3::minus($x, Vector3::scaled($this->direction, Vector3::dot($x, $this->direction))));
    }
}
