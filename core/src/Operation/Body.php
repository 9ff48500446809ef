<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * A mesh or cloud being worked on, and where it stands. Moving it never resamples it.
 *
 * `geometry` holds the numbers of its file; `scale` says how many millimetres one of them is, 1 for what was made here. Whoever computes takes own(), in the body's own coordinates, or placed(), in the
 * project's: both in mm. `leftOpen` holds the middles of the rims that somebody wants open, each with how wide it is (older ones without), in the numbers of the geometry: see
 * Measure\BoundaryLoops.
 */
final readonly class Body
{
    /** @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $leftOpen */
    public function __construct(
        public string $id,
        public string $name,
        public TriangleMesh|PointCloud $geometry,
        public RigidTransform $transform,
        public array $leftOpen = [],
        public float $scale = 1.0,
    ) {
    }

    public static function of(string $name, TriangleMesh|PointCloud $geometry): self
    {
        return new self($name, $name, $geometry, RigidTransform::identity());
    }

    /** Under another name, which is its id as well. */
    public function named(string $name): self
    {
        return new self($name, $name, $this->geometry, $this->transform, $this->leftOpen, $this->scale);
    }

    public function isMesh(): bool
    {
        return $this->geometry instanceof TriangleMesh;
    }

    /** The geometry in project coordinates. */
    public function placed(): TriangleMesh|PointCloud
    {
        return $this->own()->transformed($this->transform);
    }

    /** The mesh in project coordinates, of a body that is one (isMesh). */
    public function placedMesh(): TriangleMesh
    {
        $mesh = $this->placed();
        assert($mesh instanceof TriangleMesh);

        return $mesh;
    }

    /** The geometry in the body's own coordinates, mm. */
    public function own(): TriangleMesh|PointCloud
    {
        return $this->geometry->scaled($this->scale);
    }

    /** The geometry in project coordinates, in another unit; to the last bit as its file had it where it has not moved and the unit is that of the file. */
    public function in(Unit $unit): TriangleMesh|PointCloud
    {
        $mm = $unit->inMillimetres();

        return $this->transform->isIdentity() ? $this->geometry->scaled($this->scale / $mm) : $this->placed()->scaled(1.0 / $mm);
    }

    public function placement(): Placement
    {
        return Placement::of($this->scale, $this->transform);
    }

    /** The same body with new geometry, given in project coordinates. */
    public function reshaped(TriangleMesh|PointCloud $geometry): self
    {
        return new self($this->id, $this->name, $geometry, RigidTransform::identity(), $this->openPlaces());
    }

    /**
     * The middles and widths of the rims left open, in project coordinates, mm.
     *
     * @return list<array{0: float, 1: float, 2: float, 3?: float}>
     */
    public function openPlaces(): array
    {
        return self::placesOpen($this->leftOpen, $this->placement());
    }

    /**
     * Rims left open where a body stands.
     *
     * @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $leftOpen  in the numbers of its geometry
     * @return list<array{0: float, 1: float, 2: float, 3?: float}>
     */
    public static function placesOpen(array $leftOpen, Placement $placement): array
    {
        return array_map(fn (array $one) => isset($one[3]) ? [...$placement->point($one), $placement->scale * $one[3]] : $placement->point($one), $leftOpen);
    }

    /** @param  list<array{0: float, 1: float, 2: float, 3?: float}>  $places  in project coordinates, with widths in mm */
    public function leavingOpen(array $places): self
    {
        $placement = $this->placement();

        return new self($this->id, $this->name, $this->geometry, $this->transform, array_map(fn (array $one) => isset($one[3]) ? [...$placement->back($one), $one[3] / $placement->scale] : $placement->back($one), $places), $this->scale);
    }

    /** The same body in the same place with part of its geometry, in the same numbers. */
    public function pared(TriangleMesh|PointCloud $geometry): self
    {
        return new self($this->id, $this->name, $geometry, $this->transform, $this->leftOpen, $this->scale);
    }

    public function moved(RigidTransform $by): self
    {
        return new self($this->id, $this->name, $this->geometry, $this->transform->then($by), $this->leftOpen, $this->scale);
    }

    /** Larger or smaller, then moved. */
    public function along(Placement $by): self
    {
        return ($by->scale === 1.0 ? $this : $this->scaled($by->scale))->moved($by->pose);
    }

    /** Larger or smaller about the origin of the project. */
    public function scaled(float $factor): self
    {
        return new self($this->id, $this->name, $this->geometry, $this->transform->withShiftTimes($factor), $this->leftOpen, $this->scale * $factor);
    }
}
