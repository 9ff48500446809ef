<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Mesh\TriangleMesh;

/** A mesh or cloud being worked on, and where it stands. Moving it never resamples it. */
final readonly class Body
{
    public function __construct(
        public string $id,
        public string $name,
        public TriangleMesh|PointCloud $geometry,
        public Transform $transform,
    ) {
    }

    public static function of(string $name, TriangleMesh|PointCloud $geometry): self
    {
        return new self($name, $name, $geometry, Transform::identity());
    }

    /** The geometry in project coordinates. */
    public function placed(): TriangleMesh|PointCloud
    {
        return $this->geometry->transformed($this->transform);
    }

    /** The same body with new geometry, given in project coordinates. */
    public function reshaped(TriangleMesh|PointCloud $geometry): self
    {
        return new self($this->id, $this->name, $geometry, Transform::identity());
    }

    public function moved(Transform $by): self
    {
        return new self($this->id, $this->name, $this->geometry, $this->transform->then($by));
    }
}
