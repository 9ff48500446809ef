<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Geometry\Transform;

/** A reference feature in project coordinates. */
final readonly class Datum
{
    /**
     * @param  string  $kind  `point`, `line`, `plane` or `cylinder`
     * @param  array{float, float, float}  $origin  a point of it (a plane's middle, an axis' middle)
     * @param  array{float, float, float}  $direction  unit normal of a plane, unit axis of a line or cylinder; 0 0 0 for a point
     * @param  float  $radius  of a cylinder; 0 otherwise
     * @param  float  $size  half the extent to draw, mm
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
    ) {
    }

    public function moved(Transform $by): self
    {
        $k = $by->scaleFactor();

        return new self(
            $this->id, $this->name, $this->kind, $by->point($this->origin), $by->direction($this->direction),
            $this->radius * $k, $this->size * $k, $this->rms * $k, $this->max * $k, $this->points, $this->made, $this->bodyId,
        );
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
