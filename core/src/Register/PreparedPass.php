<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Search\KdTree;
use Emberstone\Core\Algorithms\Search\Visibility;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;

/** A pass made ready for best fit: a tree over its points, normals, and an even sample of them. */
final class PreparedPass
{
    private ?BoundingBox $box = null;

    /** @var array<int, list<float>> by the step: one sample in that many, flat xyz; they are asked for again and again */
    private array $some = [];

    /**
     * @param  array<int, float>  $treeNormals  in the tree's leaf order
     * @param  array<int, float>  $samples  flat xyz, evenly spread
     * @param  array<int, float>  $sampleNormals
     * @param  array<int, float>  $quality  weight a sample, less at grazing angles
     * @param  float  $trust  weight among the passes: by the inverse of its variance, 1 for a usual one
     * @param  float  $noise  across the surface, as in OrientedCloud::each()
     * @param  Visibility|null  $sight  what the pass saw; null where its sensor's place is not known
     */
    public function __construct(
        public readonly string $name,
        public readonly KdTree $tree,
        public readonly array $treeNormals,
        public readonly array $samples,
        public readonly array $sampleNormals,
        public readonly array $quality,
        public readonly float $spacing,
        public RigidTransform $transform,
        public readonly ?Visibility $sight = null,
        public readonly float $trust = 1.0,
        public readonly float $noise = 0.0,
    ) {
    }

    /** @return array<int, float> one sample in `every`, flat xyz, in the coordinates of a pass placed by $other */
    public function samplesIn(RigidTransform $other, int $every): array
    {
        if (! isset($this->some[$every])) {
            $some = [];
            for ($o = 0, $n = count($this->samples); $o < $n; $o += 3 * $every) {
                array_push($some, $this->samples[$o], $this->samples[$o + 1], $this->samples[$o + 2]);
            }
            $this->some[$every] = $some;
        }

        return $this->transform->then($other->inverse())->points($this->some[$every]);
    }

    /** @return array{float, float, float} a place that tells passes apart: one and a half times as far from the middle as what was seen, on its side */
    public function looksFrom(): array
    {
        $box = $this->box();
        $normal = [0.0, 0.0, 0.0];
        for ($o = 0, $n = count($this->sampleNormals); $o < $n; $o++) {
            $normal[$o % 3] += $this->sampleNormals[$o];
        }
        $l = sqrt($normal[0] ** 2 + $normal[1] ** 2 + $normal[2] ** 2) ?: 1.0;
        $k = 1.5 * $this->size() / $l;

        return $this->transform->point(array_map(fn (float $low, float $high, float $v) => 0.5 * ($low + $high) + $k * $v, $box->min, $box->max, $normal));
    }

    /** @return list<float> corners of the box around the samples, in the pass' own coordinates, flat xyz */
    public function corners(): array
    {
        $box = $this->box();
        $corners = [];
        for ($k = 0; $k < 8; $k++) {
            array_push($corners, ($k & 1 ? $box->max : $box->min)[0], ($k & 2 ? $box->max : $box->min)[1], ($k & 4 ? $box->max : $box->min)[2]);
        }

        return $corners;
    }

    /** @return array{float, float, float} the middle of the box around the samples, in the pass' own coordinates */
    public function middle(): array
    {
        $box = $this->box();

        return [0.5 * ($box->min[0] + $box->max[0]), 0.5 * ($box->min[1] + $box->max[1]), 0.5 * ($box->min[2] + $box->max[2])];
    }

    /** Half the diagonal of the box around the samples, mm. */
    public function size(): float
    {
        return 0.5 * $this->box()->diagonal();
    }

    /** Around the samples; asked for again and again where places are compared. */
    private function box(): BoundingBox
    {
        return $this->box ??= BoundingBox::of($this->samples);
    }

    public function sampleCount(): int
    {
        return count($this->quality);
    }
}
