<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;

/** What a step gives besides geometry, as a thing of its own: the curves of a section, the shapes of a body. It stands where its body stands, and is named, shown, discarded and delivered by itself. */
final readonly class Artefact
{
    /** Of what `data` holds; raised when that changes, so that what an earlier version stored can be told. */
    public const VERSION = 1;

    /**
     * @param  string  $kind  `section` (see Deliver\SectionDrawing) or `shapes` (see Datums\ShapeMap)
     * @param  array<string, mixed>  $data  what it holds, by its kind: values that JSON takes
     * @param  Placement  $placement  from the numbers of `data` to the project's mm
     * @param  string|null  $bodyId  of the body that it goes with
     */
    public function __construct(
        public string $id,
        public string $name,
        public string $kind,
        public array $data,
        public Placement $placement,
        public ?string $bodyId = null,
        public int $version = self::VERSION,
    ) {
    }

    public function named(string $name): self
    {
        return new self($name, $name, $this->kind, $this->data, $this->placement, $this->bodyId, $this->version);
    }

    /** The same, going where another body goes. */
    public function ofBody(?string $id): self
    {
        return new self($this->id, $this->name, $this->kind, $this->data, $this->placement, $id, $this->version);
    }

    public function moved(RigidTransform $by): self
    {
        return $this->placed(Placement::of($this->placement->scale, $this->placement->pose->then($by)));
    }

    /** Larger or smaller about the origin of the project. */
    public function scaled(float $factor): self
    {
        return $this->placed(Placement::of($this->placement->scale * $factor, $this->placement->pose->withShiftTimes($factor)));
    }

    private function placed(Placement $placement): self
    {
        return new self($this->id, $this->name, $this->kind, $this->data, $placement, $this->bodyId, $this->version);
    }
}
