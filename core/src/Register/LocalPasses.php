<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Pass;

/**
 * Passes told about places in their own middle: points of each about the middle of the pass, poses about the middle of the reference, in mm. Turns, damping and step lengths then mean the same wherever a project
 * lies, and no digits are lost far from its origin.
 *
 * @internal
 */
final readonly class LocalPasses
{
    /** @var list<Pass> with clouds in mm */
    public array $passes;

    /** @var list<array{float, float, float}> the middle of each pass in its own coordinates, mm */
    private array $own;

    /**
     * @param  list<Pass>  $given
     * @param  array{float, float, float}  $centre  the origin of their common coordinates, in the project's, mm
     */
    private function __construct(private array $given, public array $centre)
    {
        $passes = $own = [];
        foreach ($given as $pass) {
            $cloud = $pass->keptCloud();
            [$x, $y, $z] = $cloud->count() === 0 ? [0.0, 0.0, 0.0] : BoundingBox::of($cloud->positions)->centre();
            $own[] = [$x, $y, $z];
            $passes[] = new Pass($pass->id, $pass->name, $pass->source->changed(fn (PointCloud $own) => $own->scaled($pass->scale)->transformed(RigidTransform::shift(-$x, -$y, -$z))), RigidTransform::shift($x, $y, $z)->then($pass->transform)->then(RigidTransform::shift(-$centre[0], -$centre[1], -$centre[2])), $pass->mask, $pass->residual, $pass->overlap);
        }
        $this->passes = $passes;
        $this->own = $own;
    }

    /**
     * @param  list<Pass>  $passes
     * @param  int  $reference  whose middle becomes the origin: passes thrown anywhere come to it
     */
    public static function of(array $passes, int $reference = 0): self
    {
        $cloud = $passes[$reference]->keptCloud();

        return new self($passes, $cloud->count() === 0 ? [0.0, 0.0, 0.0] : $passes[$reference]->transform->point(BoundingBox::of($cloud->positions)->centre()));
    }

    /** The pose in the project of a pass that stands there among the local ones; to the last bit what it was where nothing moved it. */
    public function pose(int $index, RigidTransform $local): RigidTransform
    {
        if ($local->matrix === $this->passes[$index]->transform->matrix) {
            return $this->given[$index]->transform;
        }
        [$x, $y, $z] = $this->own[$index];

        return RigidTransform::shift(-$x, -$y, -$z)->then($local)->then(RigidTransform::shift(...$this->centre));
    }

    /**
     * @param  array<int, float>  $local
     * @return array{float, float, float} in the project's coordinates
     */
    public function place(array $local): array
    {
        return [$local[0] + $this->centre[0], $local[1] + $this->centre[1], $local[2] + $this->centre[2]];
    }
}
