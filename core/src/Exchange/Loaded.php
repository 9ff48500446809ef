<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Unit;

/** What a file held. */
final readonly class Loaded
{
    /** @param  Unit|null  $unit null when the format does not say */
    public function __construct(
        public string $format,
        public TriangleMesh|PointCloud $geometry,
        public ?Unit $unit = null,
    ) {
    }
}
