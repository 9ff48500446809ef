<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

/**
 * What a mesh is made of: planes, cylinders, cones, spheres, tori, areas that are turned about an axis, and free form between them.
 *
 * Source    ShapeGrowing finds the shapes, ShapeBorders gives every face to one; then each is fitted once more (AreaFit). Free form whose normals meet an axis is revolved.
 * Departs   scales and beads, balls that free form and other balls bound, stay free form: a list of them tells nobody anything.
 * Cost      see core/bench/shapes.php
 *
 * @internal
 */
final class ShapeSearch
{
    /** Times the least area: what an area has at least to be revolved. A scrap of free form meets some axis by chance. */
    private const MORE = 5.0;

    /** @var list<FoundShape> */
    public readonly array $shapes;

    /** @var list<int> of each face its shape, in the order of size */
    public readonly array $labels;

    /** mm that a vertex may have lain off its shape */
    public readonly float $tolerance;

    /**
     * @param  list<float>  $p  flat xyz, mm
     * @param  list<int>  $f  flat faces
     * @param  array<int, int>  $counts  1 for a face that shapes are told from, 0 for one that only goes along; empty when all are
     * @param  list<string>|null  $kinds  what is looked for: of TurnedFit::KINDS and `revolved`; null: all, and scales and beads stay free form
     * @param  float|null  $tolerance  mm that a vertex may lie off its shape; null: told from the noise of the mesh
     * @param  float  $share  of the area that a shape must have
     * @param  callable(float): void  $breathe  told how much is done; may stop the work by an exception
     */
    public function __construct(array $p, array $f, array $counts, ?array $kinds, ?float $tolerance, float $share, callable $breathe)
    {
        $field = FaceField::of($p, $f);
        $breathe(0.1);
        $grown = ShapeGrowing::over($field, $counts, array_values(array_intersect(TurnedFit::KINDS, $kinds ?? TurnedFit::KINDS)), $tolerance, $share, fn (float $done) => $breathe(0.1 + 0.7 * $done));
        $settled = ShapeBorders::settled($field, $grown, $share * array_sum($field->areas), $kinds !== null);
        $breathe(0.9);
        $of = array_fill(0, count($settled['shapes']), []);
        foreach ($settled['labels'] as $t => $label) {
            $of[$label][] = $t;
        }
        $axes = [];
        foreach ($settled['shapes'] as $shape) {
            if ($shape !== null && in_array($shape->kind, ['cylinder', 'cone', 'torus'], true)) {
                $axes[] = $shape;
            }
        }
        $least = self::MORE * $share * array_sum($field->areas);
        $shapes = [];
        foreach ($of as $label => $faces) {
            $shape = $settled['shapes'][$label];
            // What was made up tells nothing.
            $told = $field->area($counts === [] ? $faces : array_values(array_filter($faces, fn (int $t) => $counts[$t] === 1)));
            $canRevolve = $told >= max($least, 0.5 * $field->area($faces)) && ($kinds === null || in_array(FoundShape::REVOLVED, $kinds, true));
            $shapes[] = $shape !== null ? AreaFit::again($field, $faces, $shape) : AreaFit::withoutShape($field, $faces, $canRevolve ? $axes : null);
        }
        $this->shapes = $shapes;
        $this->labels = $settled['labels'];
        $this->tolerance = $grown['tolerance'];
    }
}
