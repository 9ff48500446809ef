<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;

/** A reference feature in project coordinates. */
final readonly class Datum
{
    /**
     * @param  string  $kind  `point`, `line`, `plane`, `cylinder`, `cone`, `sphere` or `frame`
     * @param  array{float, float, float}  $origin  a point of it (a plane's middle, an axis' middle)
     * @param  array{float, float, float}  $direction  unit normal of a plane, unit axis of a line, cylinder or cone (towards its wide end), Z of a frame; 0 0 0 for a point or sphere
     * @param  float  $radius  of a cylinder or sphere, of a cone at its origin; 0 otherwise
     * @param  float  $size  half the extent to draw, mm
     * @param  float  $halfAngleDeg  between the axis and the side of a cone; 0 otherwise
     * @param  list<string>  $parents  names of the datums it was constructed from
     * @param  array{float, float, float}  $across  X of a frame; 0 0 0 otherwise
     * @param  array{placeMm: float, angleDeg: float, diameterMm: float}|null  $error  one standard deviation of what was picked on a surface or made of others, as far as it is known; null for what is fitted (see Datums\Uncertainty)
     */
    public function __construct(
        public string $id,
        public string $name,
        public string $kind,
        public array $origin,
        public array $direction = [0.0, 0.0, 0.0],
        public float $radius = 0.0,
        public float $size = 10.0,
        public float $rms = 0.0,
        public float $max = 0.0,
        public int $points = 0,
        public string $made = 'typed',
        public ?string $bodyId = null,
        public float $halfAngleDeg = 0.0,
        public array $parents = [],
        public array $across = [0.0, 0.0, 0.0],
        public ?array $error = null,
    ) {
    }

    /**
     * The datum of that name or id.
     *
     * @param  list<self>  $datums
     *
     * @throws InvalidParameter with those that are there
     */
    public static function among(array $datums, string $parameter, string $name): self
    {
        foreach ($datums as $datum) {
            if ($datum->name === $name || $datum->id === $name) {
                return $datum;
            }
        }
        throw InvalidParameter::of($parameter, "cannot find \"$name\": ".($datums === [] ? 'there are no datums yet; add one first' : 'the datums are '.implode(', ', array_map(fn (self $datum) => $datum->name, $datums))));
    }

    public function moved(RigidTransform $by): self
    {
        return new self(
            $this->id, $this->name, $this->kind, $by->point($this->origin), $by->direction($this->direction),
            $this->radius, $this->size, $this->rms, $this->max, $this->points, $this->made, $this->bodyId, $this->halfAngleDeg, $this->parents, $by->direction($this->across), $this->error,
        );
    }

    /** Larger or smaller about the origin of the project. */
    public function scaled(float $k): self
    {
        return new self(
            $this->id, $this->name, $this->kind, [$this->origin[0] * $k, $this->origin[1] * $k, $this->origin[2] * $k], $this->direction,
            $this->radius * $k, $this->size * $k, $this->rms * $k, $this->max * $k, $this->points, $this->made, $this->bodyId, $this->halfAngleDeg, $this->parents, $this->across, $this->error === null ? null : ['placeMm' => $k * $this->error['placeMm'], 'angleDeg' => $this->error['angleDeg'], 'diameterMm' => $k * $this->error['diameterMm']],
        );
    }

    /** The same, going where a body goes. */
    public function ofBody(?string $id): self
    {
        return self::fromArray(['bodyId' => $id] + $this->toArray());
    }

    /**
     * The same, with what is known of where it is.
     *
     * @param  array{placeMm: float, angleDeg: float, diameterMm: float}|null  $error
     */
    public function withError(?array $error, ?string $made = null): self
    {
        return self::fromArray(['error' => $error, 'made' => $made ?? $this->made] + $this->toArray());
    }

    /** The same plane facing the other way, or the same line or axis pointing the other way. */
    public function turnedRound(): self
    {
        return self::fromArray(['direction' => Vector3::scaled($this->direction, -1.0)] + $this->toArray());
    }

    public function hasDirection(): bool
    {
        return ! in_array($this->kind, ['point', 'sphere', 'frame'], true);
    }

    /**
     * The place of the endless shape that is nearest to a point.
     *
     * @param  array{float, float, float}  $at
     * @return array{float, float, float}
     */
    public function nearest(array $at): array
    {
        if ($this->kind === 'frame') {
            return $this->origin;
        }
        $d = Vector3::minus($at, $this->origin);
        $h = Vector3::dot($d, $this->direction);
        if ($this->kind === 'plane') {
            return [$at[0] - $h * $this->direction[0], $at[1] - $h * $this->direction[1], $at[2] - $h * $this->direction[2]];
        }
        // Height along the axis and way out from it; of a sphere and a point the whole way is out.
        $out = [$d[0] - $h * $this->direction[0], $d[1] - $h * $this->direction[1], $d[2] - $h * $this->direction[2]];
        $r = Vector3::length($out);
        // On the axis every way out is as near.
        $unit = $r > 0.0 ? Vector3::unit($out) : ($this->hasDirection() ? Vector3::square($this->direction)[0] : [1.0, 0.0, 0.0]);
        $tilt = deg2rad($this->halfAngleDeg);
        $along = $h * cos($tilt) + ($r - $this->radius) * sin($tilt);
        [$h, $r] = $this->kind === 'cone' ? [$along * cos($tilt), $this->radius + $along * sin($tilt)] : [$h, $this->radius];

        return [
            $this->origin[0] + $h * $this->direction[0] + $r * $unit[0],
            $this->origin[1] + $h * $this->direction[1] + $r * $unit[1],
            $this->origin[2] + $h * $this->direction[2] + $r * $unit[2],
        ];
    }

    /**
     * How far a point lies outside the endless shape: along the normal of a plane, away from the axis of a round one; below 0 inside.
     *
     * @param  array{float, float, float}  $at
     */
    public function outside(array $at): float
    {
        $d = Vector3::minus($at, $this->origin);
        $h = Vector3::dot($d, $this->direction);
        if ($this->kind === 'plane') {
            return $h;
        }
        $r = sqrt(max(0.0, Vector3::dot($d, $d) - $h * $h)) - $this->radius;
        $tilt = deg2rad($this->halfAngleDeg);

        return $this->kind === 'cone' ? $r * cos($tilt) - $h * sin($tilt) : $r;
    }

    /** From the project's coordinates into those of a frame. */
    public function intoFrame(): RigidTransform
    {
        assert($this->kind === 'frame');
        [$x, $z] = [$this->across, $this->direction];
        $turn = RigidTransform::of([...$x, ...Vector3::cross($z, $x), ...$z], [0.0, 0.0, 0.0]);
        [$a, $b, $c] = $turn->point($this->origin);

        return $turn->then(RigidTransform::shift(-$a, -$b, -$c));
    }

    /** Whether it has an axis: all that is round but a sphere, and a line. */
    public function isAxial(): bool
    {
        return in_array($this->kind, ['line', 'cylinder', 'cone'], true);
    }

    /** @return array{name: string, kind: string, parameters: array<string, mixed>, fit: array{rms: float, max: float, points: int}|null} as a report lists it, mm and degrees */
    public function report(): array
    {
        $parameters = match ($this->kind) {
            'plane' => ['point' => $this->origin, 'normal' => $this->direction],
            'line' => ['point' => $this->origin, 'axis' => $this->direction],
            'cylinder' => ['point' => $this->origin, 'axis' => $this->direction, 'diameter' => 2.0 * $this->radius],
            'cone' => ['point' => $this->origin, 'axis' => $this->direction, 'diameter' => 2.0 * $this->radius, 'halfAngle' => $this->halfAngleDeg],
            'frame' => ['point' => $this->origin, 'x' => $this->across, 'z' => $this->direction],
            'sphere' => ['centre' => $this->origin, 'diameter' => 2.0 * $this->radius],
            default => ['point' => $this->origin],
        };

        return ['name' => $this->name, 'kind' => $this->kind, 'parameters' => $parameters, 'fit' => $this->points > 1 ? ['rms' => $this->rms, 'max' => $this->max, 'points' => $this->points] : null];
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return get_object_vars($this);
    }

    /** @param  array<string, mixed>  $data as toArray() gave it */
    public static function fromArray(array $data): self
    {
        return new self(...$data);
    }
}
