<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;

/** One thing that a file held: a pass, a mesh, or a part of an assembly. */
final readonly class Loaded
{
    public RigidTransform $pose;

    /**
     * @param  Unit|null  $unit  null when the format does not say
     * @param  string  $name  as the file calls it; empty when it does not
     * @param  RigidTransform|null  $pose  from its own coordinates to those that all things of the file share
     * @param  list<string>  $notes  what a technician should know of the reading
     */
    public function __construct(
        public string $format,
        public TriangleMesh|PointCloud $geometry,
        public ?Unit $unit = null,
        public string $name = '',
        ?RigidTransform $pose = null,
        public array $notes = [],
    ) {
        $this->pose = $pose ?? RigidTransform::identity();
    }

    public function placed(): TriangleMesh|PointCloud
    {
        return $this->geometry->transformed($this->pose);
    }

    public function named(string $name): self
    {
        return new self($this->format, $this->geometry, $this->unit, $name, $this->pose, $this->notes);
    }

    public function noting(string ...$notes): self
    {
        return new self($this->format, $this->geometry, $this->unit, $this->name, $this->pose, [...$this->notes, ...array_values($notes)]);
    }
}
