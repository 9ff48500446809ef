<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Spatial\KdTree;

/** A pass made ready for best fit: a tree over its points, normals, and an even sample of them. */
final class PreparedPass
{
    /**
     * @param  array<int, float>  $treeNormals  in the tree's leaf order
     * @param  array<int, float>  $samples  flat xyz, evenly spread
     * @param  array<int, float>  $sampleNormals
     * @param  array<int, float>  $quality  weight a sample, less at grazing angles
     */
    public function __construct(
        public readonly string $name,
        public readonly KdTree $tree,
        public readonly array $treeNormals,
        public readonly array $samples,
        public readonly array $sampleNormals,
        public readonly array $quality,
        public readonly float $spacing,
        public Transform $transform,
    ) {
    }

    public function sampleCount(): int
    {
        return count($this->quality);
    }
}
