<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * A mesh or cloud being worked on, and where it stands. Moving it never resamples it.
 *
 * `leftOpen` holds the middles of the rims that somebody wants open, in the coordinates of the geometry: see Mend\Rims.
 */
final readonly class Body
{
    /** @param  list<array{float, float, float}>  $leftOpen */
    public function __construct(
        public string $id,
        public string $name,
        public TriangleMesh|PointCloud $geometry,
        public Transform $transform,
        public array $leftOpen = [],
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
        return new self($this->id, $this->name, $geometry, Transform::identity(), $this->openPlaces());
    }

    /**
     * The middles of the rims left open, in project coordinates.
     *
     * @return list<array{float, float, float}>
     */
    public function openPlaces(): array
    {
        return array_map(fn (array $at) => $this->transform->point($at), $this->leftOpen);
    }

    /** @param  list<array{float, float, float}>  $places  in project coordinates */
    public function leavingOpen(array $places): self
    {
        $back = $this->transform->inverse();

        return new self($this->id, $this->name, $this->geometry, $this->transform, array_map(fn (array $at) => $back->point($at), $places));
    }

    /** The same body in the same place with part of its geometry. */
    public function pared(TriangleMesh|PointCloud $geometry): self
    {
        return new self($this->id, $this->name, $geometry, $this->transform, $this->leftOpen);
    }

    public function moved(Transform $by): self
    {
        return new self($this->id, $this->name, $this->geometry, $this->transform->then($by), $this->leftOpen);
    }
}
