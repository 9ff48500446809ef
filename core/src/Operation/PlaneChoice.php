<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\Vector3;

/** A plane as a parameter names it: a plane of the frame, a datum, or a point and a normal. */
final readonly class PlaneChoice
{
    /** The planes of the frame, by the axes that lie in them. */
    public const OF_FRAME = ['XY' => [0.0, 0.0, 1.0], 'YZ' => [1.0, 0.0, 0.0], 'ZX' => [0.0, 1.0, 0.0]];

    /**
     * @param  array{float, float, float}  $point  mm, in project coordinates
     * @param  array{float, float, float}  $normal  of length 1
     */
    private function __construct(public array $point, public array $normal, public string $name)
    {
    }

    /**
     * Whether a value may name a plane, as far as that can be said without the datums.
     *
     * @param  string|array<mixed>  $value
     *
     * @throws InvalidParameter
     */
    public static function check(string $parameter, string|array $value): void
    {
        is_string($value) || Triples::check($parameter, $value, ['point', 'normal'], 'name a plane of the frame (XY, YZ, ZX) or a datum');
    }

    /**
     * @param  string|array<mixed>  $value
     * @param  list<Datum>  $datums
     *
     * @throws InvalidParameter when no datum has that name, or it is no plane
     */
    public static function of(string $parameter, string|array $value, array $datums): self
    {
        self::check($parameter, $value);
        if (is_array($value)) {
            [$px, $py, $pz] = Triples::of($value, 'point');

            return new self([$px, $py, $pz], Vector3::unit(Triples::of($value, 'normal')), sprintf('the plane through %g, %g, %g', $px, $py, $pz));
        }
        if (isset(self::OF_FRAME[$value])) {
            return new self([0.0, 0.0, 0.0], self::OF_FRAME[$value], $value);
        }
        $datum = Datum::among($datums, $parameter, $value);
        if ($datum->kind !== 'plane') {
            throw InvalidParameter::of($parameter, "names \"$datum->name\", which is a $datum->kind; name a plane");
        }

        return new self($datum->origin, $datum->direction, $datum->name);
    }

    /**
     * A plane that an axis lies in, turned about it.
     *
     * @param  array{float, float, float}  $across  of length 1, square to the axis: where the plane lies at 0 degrees
     */
    public static function through(AxisChoice $axis, array $across, float $degrees): self
    {
        [$c, $s] = [cos(deg2rad($degrees)), sin(deg2rad($degrees))];
        $beside = Vector3::cross($axis->direction, $across);
        $normal = Vector3::minus(Vector3::scaled($beside, $c), Vector3::scaled($across, $s));

        return new self($axis->point, Vector3::unit($normal), sprintf('%s at %g°', $axis->name, $degrees));
    }

    /** The plane at a distance from it, mm, the way that it faces. */
    public function shifted(float $by): self
    {
        return $by === 0.0 ? $this : new self(Vector3::minus($this->point, Vector3::scaled($this->normal, -$by)), $this->normal, sprintf('%s, %s %s', $this->name, Format::mm(abs($by)), $by > 0.0 ? 'in front of it' : 'behind it'));
    }

    /**
     * A point on the other side, as far from the plane.
     *
     * @param  array{float, float, float}  $p
     * @return array{float, float, float}
     */
    public function mirrored(array $p): array
    {
        [$nx, $ny, $nz] = $this->normal;
        $twice = 2.0 * (($p[0] - $this->point[0]) * $nx + ($p[1] - $this->point[1]) * $ny + ($p[2] - $this->point[2]) * $nz);

        return [$p[0] - $twice * $nx, $p[1] - $twice * $ny, $p[2] - $twice * $nz];
    }
}
