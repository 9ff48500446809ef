<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Register\Kernel\Sight;
use Emberstone\Core\Spatial\KdTree;

/** A pass made ready for best fit: a tree over its points, normals, and an even sample of them. */
final class PreparedPass
{
    /**
     * @param  array<int, float>  $treeNormals  in the tree's leaf order
     * @param  array<int, float>  $samples  flat xyz, evenly spread
     * @param  array<int, float>  $sampleNormals
     * @param  array<int, float>  $quality  weight a sample, less at grazing angles
     * @param  Sight|null  $sight  what the pass saw; null where its sensor's place is not known
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
        public readonly ?Sight $sight = null,
    ) {
    }

    /** @return array<int, float> every so manieth sample, flat xyz, in the coordinates of a pass placed by $other */
    public function samplesIn(Transform $other, int $every): array
    {
        $some = [];
        for ($o = 0, $n = count($this->samples); $o < $n; $o += 3 * $every) {
            array_push($some, $this->samples[$o], $this->samples[$o + 1], $this->samples[$o + 2]);
        }

        return PointCloud::fromFlat($some)->transformed($this->transform->then($other->inverse()))->positions;
    }

    /** Half the diagonal of the box around the samples, mm. */
    public function size(): float
    {
        $box = BoundingBox::of($this->samples);

        return 0.5 * $box->diagonal();
    }

    public function sampleCount(): int
    {
        return count($this->quality);
    }
}
