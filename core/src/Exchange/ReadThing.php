<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;

/** What is known of a thing that was read into a blob, without the blob. */
final readonly class ReadThing
{
    /**
     * @param  string  $blob  path of the file with the blob
     * @param  float  $size  longest side of its box, in its own unit
     * @param  list<string>  $notes
     * @param  int  $quads  four-sided cells, of its faces two each
     */
    public function __construct(
        public string $blob,
        public string $kind,
        public string $name,
        public int $points,
        public int $faces,
        public ?Unit $unit,
        public RigidTransform $pose,
        public float $size,
        public array $notes,
        public int $quads = 0,
    ) {
    }

    /** @return array<string, mixed> the same for another process, the blob named within its folder */
    public static function described(Loaded $loaded, string $blob): array
    {
        $geometry = $loaded->geometry;
        $isMesh = $geometry instanceof TriangleMesh;

        return (new self($blob, $isMesh ? 'mesh' : 'cloud', $loaded->name, intdiv(count($geometry->positions), 3), $isMesh ? $geometry->faceCount() : 0, $loaded->unit, $loaded->pose, BoundingBox::of($geometry->positions)->longestSide(), $loaded->notes, $isMesh ? count($geometry->quads) : 0))->toArray($blob);
    }

    /** @return array<string, mixed> */
    public function toArray(string $blob): array
    {
        return [
            'blob' => $blob, 'kind' => $this->kind, 'name' => $this->name, 'points' => $this->points, 'faces' => $this->faces, 'quads' => $this->quads,
            'unit' => $this->unit?->value, 'pose' => $this->pose->matrix, 'size' => $this->size, 'notes' => $this->notes,
        ];
    }
}
