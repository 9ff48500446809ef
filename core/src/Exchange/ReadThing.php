<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Unit;

/** What is known of a thing that was read into a blob, without the blob. */
final readonly class ReadThing
{
    /**
     * @param  string  $blob  path of the file with the blob
     * @param  float  $size  longest side of its box, in its own unit
     * @param  list<string>  $notes
     */
    public function __construct(
        public string $blob,
        public string $kind,
        public string $name,
        public int $points,
        public int $faces,
        public ?Unit $unit,
        public Transform $pose,
        public float $size,
        public array $notes,
    ) {
    }

    /** @return array<string, mixed> the same for another process, the blob named within its folder */
    public static function described(Loaded $loaded, string $blob): array
    {
        $geometry = $loaded->geometry;
        $isMesh = $geometry instanceof TriangleMesh;

        return [
            'blob' => $blob, 'kind' => $isMesh ? 'mesh' : 'cloud', 'name' => $loaded->name, 'points' => intdiv(count($geometry->positions), 3), 'faces' => $isMesh ? $geometry->faceCount() : 0,
            'unit' => $loaded->unit?->value, 'pose' => $loaded->pose->matrix, 'size' => BoundingBox::of($geometry->positions)->longestSide(), 'notes' => $loaded->notes,
        ];
    }
}
