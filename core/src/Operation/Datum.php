<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Geometry\Transform;

/** A reference feature in project coordinates. */
final readonly class Datum
{
    /**
     * @param  string  $kind  `point`, `line`, `plane`, `cylinder`, `cone` or `sphere`
     * @param  array{float, float, float}  $origin  a point of it (a plane's middle, an axis' middle)
     * @param  array{float, float, float}  $direction  unit normal of a plane, unit axis of a line, cylinder or cone (towards its wide end); 0 0 0 for a point or sphere
     * @param  float  $radius  of a cylinder or sphere, of a cone at its origin; 0 otherwise
     * @param  float  $size  half the extent to draw, mm
     * @param  float  $halfAngleDeg  between the axis and the side of a cone; 0 otherwise
     * @param  list<string>  $parents  names of the datums it was constructed from
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
    ) {
    }

    public function moved(Transform $by): self
    {
        $k = $by->scaleFactor();

        return new self(
            $this->id, $this->name, $this->kind, $by->point($this->origin), $by->direction($this->direction),
            $this->radius * $k, $this->size * $k, $this->rms * $k, $this->max * $k, $this->points, $this->made, $this->bodyId, $this->halfAngleDeg, $this->parents,
        );
    }

    public function hasDirection(): bool
    {
        return $this->kind !== 'point' && $this->kind !== 'sphere';
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
